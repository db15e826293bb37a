"""What the owner writes: begun, changed, put into the outbox, taken back."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from hieranome.app.following.due import time_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.addresses import untagged
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.facts import Correspondent
from hieranome.core.phrases import holes
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.mail.writing import (
    Written,
    message_of,
    new_id,
    recipients,
)
from hieranome.store import drafts, journal, settings
from hieranome.store.drafts import Draft as Draft
from hieranome.store.drafts import DraftAttachment, Identity

WAY_BACK = 10
"""Seconds a message waits in the outbox, in which it can be taken back."""
KEPT = 30 * DAY
"""Seconds for which a discarded draft can be brought back."""


@dataclass(frozen=True, slots=True)
class Changed:
    """What the owner wrote of a draft; all of it, each time it is kept."""

    sender: str
    recipients: str
    cc: str
    bcc: str
    subject: str
    body: str


def unsent(room: Mailroom) -> list[Draft]:
    """All that is not sent, or not surely: drafts and the outbox."""
    return drafts.unsent(room.reader())


def get(room: Mailroom, number: int) -> Draft:
    """One draft. Raises :class:`NotFound`."""
    return drafts.get(room.reader(), number)


def change(room: Mailroom, number: int, wanted: Changed) -> Draft:
    """Keep what the owner wrote. Raises :class:`Conflict` for what is in the outbox."""
    with room.change() as db:
        check_draft(drafts.get(db, number))
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


def check_draft(draft: Draft) -> None:
    """Raises :class:`Conflict` for what is no draft any more."""
    if draft.state != "draft":
        raise Conflict("This message is in the outbox or gone. Take it back before you change it.")


def discard(room: Mailroom, number: int) -> journal.Step | None:
    """Discard a draft, as a step that can be undone for :data:`KEPT` seconds. One in which nothing was written, and a
    message of which it is unsure whether it went, are removed, and there is no step. Raises :class:`Conflict` for one
    on its way."""
    with room.change() as db:
        draft = drafts.get(db, number)
        if draft.state not in ("draft", "unsure"):
            raise Conflict("This message is on its way. Take it back first.")
        room.tell("drafts")
        now = room.clock()
        drafts.forget_discarded(db, now - KEPT)
        if draft.state == "unsure" or _is_empty(draft, drafts.attachments(db, number)):
            drafts.remove(db, number)
            return None
        step = journal.begin(
            db, now, StepKind.DISCARDED, f"Discarded the draft “{draft.subject.strip() or '(no subject)'}”"
        )
        drafts.discard(db, number, step)
        return journal.get(db, step)


def _is_empty(draft: Draft, files: Sequence[DraftAttachment]) -> bool:
    written = (draft.recipients, draft.cc, draft.bcc, draft.subject, draft.body, draft.calendar)
    return not files and not any(one.strip() for one in written)


def send(room: Mailroom, number: int, at: str = "", awaited: str = "") -> Draft:
    """Put a draft into the outbox, from where it goes after :data:`WAY_BACK` seconds, or at a time that was typed.
    Where no answer has come by ``awaited``, that is told. What is in the outbox until its time is made anew
    for another.

    Raises :class:`CallerError` when it cannot be a message, or for what is no time to come; it stays as it was then.
    """
    with room.change() as db:
        draft = drafts.get(db, number)
        if draft.state == "unsure":
            raise Conflict("This message may have gone. Make it a draft again first, if you are sure that it did not.")
        if not (draft.state == "waiting" and draft.timed):
            check_draft(draft)
        timed = time_of(room, db, at)
        still = draft.awaited if draft.awaited > room.clock() else 0
        until = time_of(room, db, awaited) or still
        if until and until <= max(timed, room.clock()):
            raise CallerError(
                "An answer cannot be missed before the message has gone. Name a later time for the answer: stop the "
                "message first where it is in the outbox."
            )
        _check_holes(draft)
        written = written_of(room, draft)
        if not written.recipients:
            raise CallerError("The message goes to nobody yet. Name at least one recipient.")
        message_id = new_id(draft.sender)
        written_at = datetime.fromtimestamp(timed or room.clock(), UTC).astimezone(room.zone)
        raw = message_of(written, message_id, written_at, with_bcc=True)
        due = timed or room.clock() + WAY_BACK
        drafts.update(
            db,
            number,
            state="waiting",
            due_at=due,
            timed=timed,
            awaited=until,
            tries=0,
            error="",
            message_id=message_id,
            raw=raw,
            envelope=" ".join(written.recipients),
            filed=0,
        )
    room.tell("drafts")
    return drafts.get(room.reader(), number)


def _check_holes(draft: Draft) -> None:
    """Raises :class:`CallerError` for a draft into which a phrase was put and that has a placeholder left in it. What
    is quoted is somebody else's text."""
    own = "\n".join(line for line in draft.body.split("\n") if not line.startswith(">"))
    subject = draft.subject if draft.kind == "new" else ""  # of an answer, it is theirs
    left = holes(f"{subject}\n{own}") if draft.phrased else ()
    if left:
        raise CallerError(f"It still says {', '.join(left[:5])}. Write what belongs there, or remove it; then send it.")


def hand_over(
    room: Mailroom,
    db: sqlite3.Connection,
    written: Written,
    message_id: str,
    raw: bytes,
    *,
    kind: str,
    answers: int,
    automatic: bool = False,
) -> None:
    """Within a change, put a message into the outbox that the owner did not write by hand: it goes at once, to its one
    recipient. ``automatic`` says that a machine speaks in it: no copy of it stays."""
    (to,) = written.recipients
    now = room.clock()
    draft = drafts.add(
        db, kind=kind, sender=written.sender.address, recipients=to, subject=written.subject, body=written.body,
        answers=answers, changed_at=now,
    )  # fmt: skip
    drafts.update(
        db, draft, state="waiting", due_at=now, message_id=message_id, raw=raw, envelope=to, automatic=automatic,
        filed=automatic,
    )  # fmt: skip
    room.tell("drafts")


def reached_as(who: Sequence[Identity], addresses: Iterable[str]) -> Identity:
    """As whom of those the owner writes as (at least one) a message to some addresses is answered: the first it was
    written to, or else the first."""
    named = {untagged(one) for one in addresses}
    return next((one for one in who if one.address in named), who[0])


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
        if draft.automatic:
            raise Conflict("This is an away notice, which nobody wrote. Turn it off on the page Away instead.")
        if draft.state not in ("waiting", "unsure"):
            raise Conflict(
                "It is too late to take this message back: it has gone."
                if draft.state != "draft"
                else "It is a draft already."
            )
        drafts.update(
            db, number, state="draft", due_at=0, timed=0, awaited=0, error="", raw=None, envelope="", message_id=""
        )
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
