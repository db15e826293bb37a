"""What the away notice does: who would have got one last week, and which invitations fall into the time."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.away.keeping import Reader
from hieranome.app.reading.placement import examine, reaches_its_writer
from hieranome.app.reading.processes import guarded, reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.searching import understand
from hieranome.core.away import Answer, Away, answer, check
from hieranome.core.conditions import Node
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError
from hieranome.core.times import DAY
from hieranome.mail.answering import asked
from hieranome.mail.invitation import Invitation, read_invitation
from hieranome.mail.opening import calendar_of
from hieranome.store import away as kept
from hieranome.store import drafts, messages, search
from hieranome.store.messages import Message

LAST = 7 * DAY
"""Seconds a dry run looks back."""
MOST = 2_000
"""Messages a dry run looks at: the newest."""
MOST_INVITATIONS = 400
AGAIN = "its sender had one already"


@dataclass(frozen=True, slots=True)
class Would:
    """A message that would have got a notice, and which."""

    message: Message
    answer: Answer


@dataclass(frozen=True, slots=True)
class DryRun:
    """Of how many messages who would have got a notice, and why the others would not: how many for each reason, with
    one of them."""

    looked_at: int
    would: list[Would]
    others: list[tuple[str, int, int]]


@dataclass(frozen=True, slots=True)
class Invited:
    """An invitation into the time away; ``answer`` is what the owner answered (empty: nothing yet)."""

    message: Message
    invitation: Invitation
    answer: str


def dry_run(room: Mailroom, away: Away) -> DryRun:
    """Who of those who wrote last week would have got a notice, had it held then. Nothing is sent. Raises
    :class:`CallerError` for a notice that could not be sent."""
    check(away)
    with room.steady() as db:
        numbers = kept.received_since(db, room.clock() - LAST, MOST)
        reader = Reader.of(room, away.circles)
        held: dict[Node, set[int]] = {
            node: set(search.among(db, node, sorted(numbers))) for node in reader.nodes if node is not None
        }
        would: list[Would] = []
        others: Counter[str] = Counter()
        one_of: dict[str, int] = {}
        last: dict[str, int] = {}
        for row in sorted(messages.get_many(db, numbers), key=lambda one: (one.time, one.id)):
            found, why = _tried(room, db, row, away, reader, held, last)
            if found is not None:
                would.append(found)
            else:
                others[why] += 1
                one_of[why] = row.id
        return DryRun(len(numbers), would[::-1], [(why, count, one_of[why]) for why, count in others.most_common()])


def _tried(
    room: Mailroom,
    db: sqlite3.Connection,
    row: Message,
    away: Away,
    reader: Reader,
    held: dict[Node, set[int]],
    last: dict[str, int],
) -> tuple[Would | None, str]:
    """The notice for one message, or why there is none; ``last`` is when each person got one."""
    if not row.readable:
        return None, "it cannot be read"
    raw = messages.raw(db, row.id)
    ask, reading = guarded(asked, raw), reading_of(raw)
    forged = examine(room, db, reading.facts, row.id).forged
    said = answer(
        ask, reading.facts, room.owner, row.place, reading.text,
        lambda: reader.circle_of(reading.facts.sender.address, lambda node: row.id in held[node]),
        forged=forged, leads_back=reaches_its_writer(room, reading.facts),
    )  # fmt: skip
    if not isinstance(said, Answer):
        return None, said
    if said.person in last and row.time - last[said.person] < away.days * DAY:
        return None, AGAIN
    last[said.person] = row.time
    return Would(row, said), ""


def invitations(room: Mailroom, begins: int, ends: int) -> list[Invited]:
    """The invitations that fall into a time, by when they begin, and what was answered."""
    if ends <= begins:
        raise CallerError("The time away ends before it begins. Say a later time for its end.")
    found = search.first(room.reader(), understand(room, "file:calendar").node, "time")[:MOST_INVITATIONS]
    rows = [row for row in messages.get_many(room.reader(), found) if row.readable and row.decided_by != Decider.OWN]
    answers = drafts.invitation_answers(room.reader(), [row.id for row in rows])
    events = [(row, _event(room, row)) for row in rows]
    within = [
        Invited(row, event, answers.get(row.id, ""))
        for row, event in events
        if event is not None and event.kind == "Invitation" and event.start < ends and _end(event) > begins
    ]
    return _latest(sorted(within, key=lambda one: (one.invitation.start, one.message.id)))


def _latest(found: Sequence[Invited]) -> list[Invited]:
    """Each event once, by its newest message."""
    newest = {(one.invitation.title, one.invitation.organiser, one.invitation.start): one for one in found}
    return list(newest.values())


def _end(event: Invitation) -> int:
    return max(event.end, event.start + (DAY if event.all_day else 1))


def _event(room: Mailroom, row: Message) -> Invitation | None:
    try:
        return read_invitation(guarded(calendar_of, messages.raw(room.reader(), row.id)))
    except CallerError:
        return None
