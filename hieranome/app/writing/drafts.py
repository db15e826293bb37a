"""What the owner writes: begun, changed, put into the outbox, taken back."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Literal

from hieranome.app.arrival.processes import guarded, reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import DRAFTS
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.mail import opening
from hieranome.mail.reading import read_as_source
from hieranome.mail.writing import (
    Written,
    forwarded,
    invitation_answer,
    message_of,
    quoted,
    recipients,
    reply_mentions,
    reply_people,
    reply_subject,
    typed,
)
from hieranome.store import drafts, messages, settings
from hieranome.store.drafts import Draft, Identity

Kind = Literal["new", "reply", "reply_all", "forward"]
Answer = Literal["accepted", "tentative", "declined"]
WAY_BACK = 10
"""Seconds a message waits in the outbox, in which it can be taken back."""
MAX_ATTACHED = 25_000_000
"""Bytes of all files of one message."""
_ANSWERED = {"accepted": "Accepted", "tentative": "Maybe", "declined": "Declined"}


@dataclass(frozen=True, slots=True)
class Changed:
    """What the owner wrote of a draft; all of it, each time it is kept."""

    sender: str
    recipients: str
    cc: str
    bcc: str
    subject: str
    body: str


def begin(room: Mailroom, kind: Kind, number: int | None = None) -> Draft:
    """Begin a draft: an empty one, or a reply to or forward of a message. Raises :class:`CallerError` when there is
    nobody to write as."""
    who = identities(room)
    if kind == "new" or number is None:
        return _keep(room, kind="new", sender=who[0].address, body=_signed("", who[0]))
    raw = messages.raw(room.reader(), number)
    row = messages.get(room.reader(), number)
    reading = reading_of(raw) if row.readable else read_as_source(raw)
    facts = reading.facts
    me = _written_to(who, facts)
    when = datetime.fromtimestamp(facts.sent_at, UTC).astimezone().strftime("%-d %B %Y at %H:%M")
    if kind == "forward":
        draft = _keep(
            room,
            kind=kind,
            sender=me.address,
            subject=reply_subject(facts.subject, "Fwd"),
            body=_signed("", me) + "\n\n" + forwarded(facts, reading.text, when),
            answers=number,
        )
        return _with_files_of(room, draft, raw)
    to, cc = reply_people(facts, room.owner, mine=row.decided_by == "own", everybody=kind == "reply_all")
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


def identities(room: Mailroom) -> list[Identity]:
    """Whom the owner may write as. Raises :class:`CallerError` when there is no mailbox to hand mail in at."""
    found = drafts.identities(room.reader())
    if not found:
        raise CallerError("No mailbox is connected, so nothing can be sent. Connect one under Mailboxes.")
    return found


def answer_invitation(room: Mailroom, number: int, answer: Answer) -> Draft:
    """Answer an invitation; the answer is in the outbox then."""
    raw = messages.raw(room.reader(), number)
    asked = guarded(opening.calendar_of, raw)
    facts = reading_of(raw).facts
    me = _written_to(identities(room), facts)
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


def _written_to(who: list[Identity], facts: MessageFacts) -> Identity:
    """The identity a message was sent to or by, or the first."""
    named = [one.address for one in (*facts.to, *facts.cc, facts.sender)]
    return next((one for one in who if one.address in named), who[0])


def _signed(text: str, me: Identity) -> str:
    return f"{text}\n\n-- \n{me.signature.strip()}" if me.signature.strip() else text


def _keep(room: Mailroom, **values: str | int | None) -> Draft:
    with room.change() as db:
        number = drafts.add(db, changed_at=room.clock(), **values)
    room.tell("drafts")
    return drafts.get(room.reader(), number)


def _with_files_of(room: Mailroom, draft: Draft, raw: bytes) -> Draft:
    """A forward carries the files of what it passes on."""
    files = guarded(opening.attached_files, raw)
    with room.change() as db:
        for one in files:
            drafts.attach(db, draft.id, one.name, one.media_type, one.content)
    return drafts.get(room.reader(), draft.id)


def change(room: Mailroom, number: int, wanted: Changed) -> Draft:
    """Keep what the owner wrote. Raises :class:`Conflict` for what is in the outbox."""
    with room.change() as db:
        _check_draft(drafts.get(db, number))
        if wanted.sender not in {one.address for one in drafts.identities(db)}:
            raise CallerError(f"{wanted.sender} is none of the addresses you write as.")
        drafts.update(
            db,
            number,
            sender=wanted.sender,
            recipients=wanted.recipients,
            cc=wanted.cc,
            bcc=wanted.bcc,
            subject=wanted.subject,
            body=wanted.body,
            changed_at=room.clock(),
        )
    return drafts.get(room.reader(), number)


def _check_draft(draft: Draft) -> None:
    if draft.state != "draft":
        raise Conflict("This message is in the outbox or gone. Take it back before you change it.")


def attach(room: Mailroom, number: int, name: str, media_type: str, content: bytes) -> Draft:
    """Add a file to a draft. Raises :class:`CallerError` when all its files were too large."""
    with room.change() as db:
        _check_draft(drafts.get(db, number))
        size = sum(one.size for one in drafts.attachments(db, number)) + len(content)
        if size > MAX_ATTACHED:
            raise CallerError(
                f"With “{name}” the files of this message would be {size / 1e6:.0f} MB; {MAX_ATTACHED / 1e6:.0f} MB is "
                "the most that servers take. It was not added."
            )
        drafts.attach(db, number, " ".join(name.split())[:200] or "file", media_type, content)
    return drafts.get(room.reader(), number)


def take_out(room: Mailroom, number: int, attachment: int) -> Draft:
    """Take a file out of a draft."""
    with room.change() as db:
        _check_draft(drafts.get(db, number))
        drafts.take_out(db, number, attachment)
    return drafts.get(room.reader(), number)


def throw_away(room: Mailroom, number: int) -> None:
    """Discard a draft, or a message that is unsure. Raises :class:`Conflict` for one on its way."""
    with room.change() as db:
        draft = drafts.get(db, number)
        if draft.state not in ("draft", "unsure"):
            raise Conflict("This message is on its way. Take it back first.")
        drafts.remove(db, number)
    room.tell("drafts")


def send(room: Mailroom, number: int) -> Draft:
    """Put a draft into the outbox, from where it goes after :data:`WAY_BACK` seconds. Raises :class:`CallerError` when
    it cannot be a message; it stays a draft then."""
    with room.change() as db:
        draft = drafts.get(db, number)
        if draft.state == "unsure":
            raise Conflict("This message may have gone. Make it a draft again first, if you are sure that it did not.")
        _check_draft(draft)
        written = written_of(room, draft)
        if not written.recipients:
            raise CallerError("The message goes to nobody yet. Name at least one recipient.")
        domain = draft.sender.rpartition("@")[2]
        message_id = f"<{secrets.token_hex(12)}@{domain}>"
        at = datetime.fromtimestamp(room.clock(), UTC).astimezone()
        raw = message_of(written, message_id, at, with_bcc=True)
        due = room.clock() + WAY_BACK
        drafts.update(
            db,
            number,
            state="waiting",
            due_at=due,
            tries=0,
            error="",
            message_id=message_id,
            raw=raw,
            envelope=" ".join(written.recipients),
            filed=0,
        )
    room.tell("drafts")
    return drafts.get(room.reader(), number)


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
    reading = reading_of(raw) if row.readable else read_as_source(raw)
    facts = reading.facts
    draft = _keep(
        room,
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
    return _with_files_of(room, draft, raw)


def keep_on_server(room: Mailroom, on: bool) -> None:
    """Let drafts stand in the Drafts of their mailboxes too, or no longer."""
    with room.change() as db:
        settings.put(db, settings.DRAFTS_ON_SERVER, on)
        room.tell("drafts")


def written_so_far(room: Mailroom, draft: Draft) -> Written:
    """A draft as far as it can be a message: a line of recipients that cannot be read yet is left out."""
    readable = replace(draft, recipients=_readable(draft.recipients), cc=_readable(draft.cc), bcc=_readable(draft.bcc))
    return written_of(room, readable)


def _readable(line: str) -> str:
    try:
        recipients(line)
    except CallerError:
        return ""
    return line


def written_of(room: Mailroom, draft: Draft) -> Written:
    """A draft with its recipients read. Raises :class:`CallerError` naming what is no address."""
    who = {one.address: one for one in drafts.identities(room.reader())}
    me = who.get(draft.sender)
    if me is None:
        raise NotFound(f"{draft.sender} is none of the addresses you write as. Choose another sender.")
    return Written(
        Correspondent(me.address, me.name),
        recipients(draft.recipients),
        recipients(draft.cc),
        recipients(draft.bcc),
        draft.subject,
        draft.body,
        draft.in_reply_to,
        tuple(draft.mentions.split()),
        tuple(drafts.attached(room.reader(), draft.id)),
        draft.calendar,
    )


def take_back(room: Mailroom, number: int) -> Draft:
    """Take a message out of the outbox, or make one that is unsure a draft again. Raises :class:`Conflict` for one that
    is on its way already."""
    with room.change() as db:
        draft = drafts.get(db, number)
        if draft.state not in ("waiting", "unsure"):
            raise Conflict(
                "It is too late to take this message back: it has gone."
                if draft.state != "draft"
                else "It is a draft already."
            )
        drafts.update(db, number, state="draft", due_at=0, error="", raw=None, envelope="", message_id="")
    room.tell("drafts")
    return drafts.get(room.reader(), number)


def without_bcc(raw: bytes) -> bytes:
    """A message's bytes without its hidden recipients, otherwise the same."""
    head, blank, body = raw.partition(b"\r\n\r\n")
    kept, skipping = [], False
    for line in head.split(b"\r\n"):
        folded = line[:1] in (b" ", b"\t")
        skipping = skipping if folded else line.lower().startswith(b"bcc:")
        if not skipping:
            kept.append(line)
    return b"\r\n".join(kept) + blank + body


def envelope_of(room: Mailroom, draft: Draft) -> list[str]:
    """Every address a message of the outbox goes to: as it was settled when it went there, never read out of its
    headers."""
    return drafts.envelope(room.reader(), draft.id) or written_of(room, draft).recipients
