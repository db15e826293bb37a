"""Marks of messages, read and flagged, and what they count for."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.actors import Actor
from hieranome.core.errors import CallerError
from hieranome.core.relations import Sums
from hieranome.core.steps import StepKind
from hieranome.store import counted, desk, following, journal, marked, messages
from hieranome.store.messages import Message

Mark = Literal["read", "unread", "flagged", "unflagged"]


MAX_FILED = 10_000
"""Messages one step may file or mark."""


MARKS: dict[Mark, tuple[str, bool]] = {
    "read": ("seen", True),
    "unread": ("seen", False),
    "flagged": ("flagged", True),
    "unflagged": ("flagged", False),
}
"""The column each mark is, and whether it is set."""


@dataclass(frozen=True, slots=True)
class Filed:
    """What one step did: its number (0 when nothing had to change) and the messages it changed."""

    step: int
    messages: list[int]


def mark(room: Mailroom, numbers: Sequence[int], wanted: Mark) -> Filed:
    """Mark messages, as a step of the journal; what is read counts for its sender's sums."""
    name, value = MARKS[wanted]
    with room.change() as db:
        rows = [row for row in rows_of(db, numbers) if getattr(row, name) != value]
        if not rows:
            return Filed(0, [])
        step = journal.begin(db, room.clock(), StepKind.MARKED, f"{named(rows)} marked {wanted}")
        mark_in(room, db, step, [row.id for row in rows], wanted)
        return tell_filed(room, step, rows)


def mark_in(room: Mailroom, db: sqlite3.Connection, step: int, numbers: Sequence[int], wanted: Mark) -> None:
    """As part of a step, mark messages; whoever takes the flag off has done what was due."""
    name, value = MARKS[wanted]
    for one in following.of(db, numbers) if wanted == "unflagged" else ():
        if one.kind == "due":
            following.change(db, step, "due", one.message, None)
            tell_following(room, [one.message], step)
    changed = set_marks(room, db, numbers, name, value, journal.actor_of(db, step))
    journal.add_marks(db, step, changed, name, value)


def mark_opened(room: Mailroom, number: int) -> Message:
    """Mark a message read because it was opened: no step of the journal."""
    with room.change() as db:
        messages.get(db, number)
        changed = set_marks(room, db, [number], "seen", True, Actor.OWNER)
        if desk.no_longer_raised(db, [number]):
            room.tell("trays")
    if changed:
        room.tell("seen", message=number, seen=True)
        room.tell_counts()
    return messages.get(room.reader(), number)


def set_marks(
    room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int], name: str, wanted: bool, actor: Actor | None
) -> list[int]:
    """Set or clear a mark within the caller's transaction; returns the messages that changed. What is read counts for
    its sender's sums where the owner did it; without an ``actor`` the mark is set anew for whoever had set it."""
    changed = marked.mark(db, numbers, name, wanted, actor)
    if name == "seen":
        sums = []
        for number in marked.read_as_habit(db, changed):
            before = counted.set_counted(db, number) if wanted else True
            one = Sums(received=int(not before), read=1 if wanted else -1)
            sums += [(key, one) for key in counted.keys_for_sums(db, number)]
        room.count(db, sums)
    return changed


def rows_of(db: sqlite3.Connection, numbers: Sequence[int]) -> list[Message]:
    """The messages a step is for. Raises :class:`CallerError` for none or too many, :class:`NotFound`."""
    wanted = list(dict.fromkeys(numbers))
    if not wanted or len(wanted) > MAX_FILED:
        raise CallerError(f"One step covers 1 to {MAX_FILED} messages; {len(wanted)} were given.")
    rows = messages.get_many(db, wanted)
    if len(rows) < len(wanted):
        messages.get(db, next(number for number in wanted if number not in {row.id for row in rows}))
    return rows


def named(rows: Sequence[Message]) -> str:
    """How the journal names messages: by the subject of the one, or by how many they are."""
    return f"“{rows[0].subject[:80] or '(no subject)'}”" if len(rows) == 1 else f"{len(rows)} messages"


def tell_filed(room: Mailroom, step: int, rows: Sequence[Message]) -> Filed:
    """Publish what a step changed."""
    numbers = [row.id for row in rows]
    room.tell_moved(step, numbers)
    return Filed(step, numbers)


def tell_following(room: Mailroom, numbers: Sequence[int], step: int = 0) -> None:
    """Publish that what is followed through of messages is another now."""
    room.tell("following", step=step, messages=list(numbers)[:100])
