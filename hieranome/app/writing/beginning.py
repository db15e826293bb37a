"""What the owner begins to write: a message, a reply, a forward, an answer to an invitation, or what goes on from a
draft of another program."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Literal

from hieranome.app.reading.processes import guarded, reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing import people
from hieranome.app.writing.drafts import reached_as, send
from hieranome.core.buckets import DRAFTS
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.mail import opening
from hieranome.mail.opening import FilePart
from hieranome.mail.reading import Reading, read_as_source
from hieranome.mail.writing import (
    forwarded,
    invitation_answer,
    quoted,
    reply_mentions,
    reply_people,
    reply_subject,
    typed,
)
from hieranome.store import drafts, messages
from hieranome.store.drafts import Draft, Identity

Kind = Literal["new", "reply", "reply_all", "forward"]
Answer = Literal["accepted", "tentative", "declined"]
_ANSWERED = {"accepted": "Accepted", "tentative": "Maybe", "declined": "Declined"}


def read_whole(room: Mailroom, number: int) -> Reading:
    """A message read, to be answered or passed on; as its source where it cannot be read. Raises :class:`NotFound`."""
    raw = messages.raw(room.reader(), number)
    return reading_of(raw) if messages.get(room.reader(), number).readable else read_as_source(raw)


def begin(room: Mailroom, kind: Kind, number: int | None = None, reading: Reading | None = None) -> Draft:
    """Begin a draft: an empty one, or a reply to or forward of a message (``reading`` is it, where it was read).
    Raises :class:`CallerError` when there is nobody to write as."""
    who = identities(room)
    if kind == "new" or number is None:
        return _keep(room, kind="new", sender=who[0].address, body=_signed("", who[0]))
    row = messages.get(room.reader(), number)
    reading = reading or read_whole(room, number)
    facts = reading.facts
    me = reached_as(who, _named(facts))
    when = datetime.fromtimestamp(facts.sent_at, UTC).astimezone().strftime("%-d %B %Y at %H:%M")
    if kind == "forward":
        return _keep(
            room,
            guarded(opening.attached_files, messages.raw(room.reader(), number)),
            kind=kind,
            sender=me.address,
            subject=reply_subject(facts.subject, "Fwd"),
            body=_signed("", me) + "\n\n" + forwarded(facts, reading.text, when),
            answers=number,
        )
    to, cc = reply_people(facts, room.owner, mine=row.decided_by == Decider.OWN, everybody=kind == "reply_all")
    return _keep(
        room,
        kind=kind,
        sender=me.address,
        recipients=typed(to),
        cc=typed(cc),
        subject=reply_subject(facts.subject, "Re"),
        body=_signed("", me) + "\n\n" + quoted(facts, reading.text, when),
        answers=number,
        in_reply_to=facts.message_id,
        mentions=" ".join(reply_mentions(facts)),
    )


def ask_again(room: Mailroom, number: int, question: str) -> Draft:
    """Begin a reply to a message of the owner's own, to whom it went, that quotes its open question alone (all of it
    where there is none). Raises :class:`CallerError` for what somebody else wrote."""
    row = messages.get(room.reader(), number)
    if row.decided_by != Decider.OWN:
        raise CallerError("Only what you wrote yourself can be asked again. Reply to it instead.")
    draft = begin(room, "reply", number)
    if not question:
        return draft
    me = next(one for one in identities(room) if one.address == draft.sender)
    when = datetime.fromtimestamp(row.time, room.zone).strftime("%-d %B %Y at %H:%M")
    with room.change() as db:
        drafts.update(db, draft.id, body=f"{_signed('', me)}\n\nOn {when} I wrote:\n> {question}\n")
    return drafts.get(room.reader(), draft.id)


def go_on(room: Mailroom, number: int) -> Draft:
    """Go on with a draft that another program keeps: what it holds becomes a draft here, or the one it became before is
    taken up again. Once ours is sent the other goes to the Trash. Raises :class:`CallerError` for what is no draft."""
    row = messages.get(room.reader(), number)
    if row.place != DRAFTS:
        raise CallerError("This message is no draft, so there is nothing to go on with. Reply to it, or pass it on.")
    begun = drafts.continuing(room.reader(), number)
    if begun is not None:
        return begun
    who = identities(room)
    raw = messages.raw(room.reader(), number)
    reading = read_whole(room, number)
    facts = reading.facts
    return _keep(
        room,
        guarded(opening.attached_files, raw),
        kind="new",
        sender=next((one.address for one in who if one.address == facts.sender.address), who[0].address),
        recipients=typed(facts.to),
        cc=typed(facts.cc),
        bcc=typed(guarded(opening.hidden_recipients, raw)),
        subject=facts.subject,
        body=reading.text.replace("\r\n", "\n").rstrip("\n"),
        in_reply_to=facts.in_reply_to,
        mentions=" ".join(facts.references),
        continues=number,
    )


def identities(room: Mailroom) -> list[Identity]:
    """Whom the owner may write as. Raises :class:`CallerError` when there is no mailbox to hand mail in at."""
    found = people.identities(room)
    if not found:
        raise CallerError("No mailbox is connected, so nothing can be sent. Connect one under Mailboxes.")
    return found


def answer_invitation(room: Mailroom, number: int, answer: Answer) -> Draft:
    """Answer an invitation; the answer is in the outbox then."""
    raw = messages.raw(room.reader(), number)
    asked = guarded(opening.calendar_of, raw)
    facts = reading_of(raw).facts
    me = reached_as(identities(room), _named(facts))
    now = datetime.fromtimestamp(room.clock(), UTC)
    calendar, organiser, title = guarded(invitation_answer, asked, Correspondent(me.address, me.name), answer, now)
    draft = _keep(
        room,
        kind="answer",
        sender=me.address,
        recipients=organiser,
        subject=f"{_ANSWERED[answer]}: {title}",
        body=f"{_ANSWERED[answer]}: {title}\n",
        answers=number,
        in_reply_to=facts.message_id,
        mentions=" ".join(reply_mentions(facts)),
        calendar=calendar,
    )
    return send(room, draft.id)


def _named(facts: MessageFacts) -> list[str]:
    """The addresses a message was sent to or by."""
    return [one.address for one in (*facts.to, *facts.cc, facts.sender)]


def _signed(text: str, me: Identity) -> str:
    return f"{text}\n\n-- \n{me.signature.strip()}" if me.signature.strip() else text


def _keep(room: Mailroom, files: Sequence[FilePart] = (), **values: str | int | None) -> Draft:
    """Store a draft with its files."""
    with room.change() as db:
        number = drafts.add(db, changed_at=room.clock(), **values)
        for one in files:
            drafts.attach(db, number, one.name, one.media_type, one.content)
        room.tell("drafts")
    return drafts.get(room.reader(), number)
