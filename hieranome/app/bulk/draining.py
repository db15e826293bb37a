"""The Drain keeps its mail for some days and then lets it go to the Trash: in the journal, with a way back."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move_as_step
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.core.actors import Actor
from hieranome.core.buckets import TRASH
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.routing import bounds
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.store import draining, journal, settings
from hieranome.store.messages import Message

MOST_DAYS = 3_650
DOUBTFUL = 0.5
"""Mail whose importance may be as much as this share of where asking begins is doubtful in the Drain."""
MOST_DOUBTED = 200
TICK = 300.0
"""Seconds between two looks at what has to leave."""


@dataclass(frozen=True, slots=True)
class Drain:
    """How the Drain is: for how many days it keeps mail (0: for good), how much stands there and how large, of how much
    it is doubtful that it belongs there, how much leaves within a week, and the newest message by its id."""

    days: int
    total: int
    size: int
    doubtful: int
    leaving: int
    newest: int


def drainage(room: Mailroom, schedule: Schedule) -> Regular:
    """What lets mail go when its days are over."""

    def work() -> None:
        let_go(room)

    return Regular(room, schedule, "drain", "letting go what the Drain kept long enough", TICK, work)


def keep_for(room: Mailroom, days: int) -> None:
    """Say for how many days mail stays in the Drain; 0 for good. Raises :class:`CallerError`."""
    if not 0 <= days <= MOST_DAYS:
        raise CallerError(f"Mail stays in the Drain for 1 to {MOST_DAYS} days, or for good (0).")
    with room.change() as db:
        settings.put(db, settings.DRAIN_DAYS, days)
        room.tell("drain")


def let_go(room: Mailroom) -> int:
    """Date what came into the Drain since the last look, and let go to the Trash what stood there long enough, in one
    step of the journal; how many messages went."""
    now, db = room.clock(), room.reader()
    if not draining.undated(db) and not _how_many_due(db, now):
        return 0
    with room.change() as db:
        draining.date(db, now)
        days = draining.kept_days(db)
        numbers = draining.due(db, now - days * DAY) if days else []
        if numbers:
            title = f"{_count(len(numbers))} left the Drain after {days} days"
            move_as_step(room, db, StepKind.LET_GO, title, numbers, TRASH, Decider.LET_GO, Actor.MODEL)
        return len(numbers)


def _how_many_due(db: sqlite3.Connection, at: int) -> int:
    """How much mail leaves the Drain up to a time."""
    days = draining.kept_days(db)
    return draining.how_many_due(db, at - days * DAY) if days else 0


def _count(number: int) -> str:
    return "One message" if number == 1 else f"{number} messages"


def look(room: Mailroom) -> Drain:
    """How the Drain is now."""
    db = room.reader()
    days = draining.kept_days(db)
    total, size, doubtful, newest = draining.weight(db, _edge(room))
    return Drain(days, total, size, doubtful, leaving_within_a_week(db, room.clock()), newest)


def doubted(room: Mailroom) -> list[Message]:
    """The mail in the Drain of which it is doubtful that it belongs there, by sender, so that names can be gone
    over."""
    return draining.doubted(room.reader(), _edge(room), MOST_DOUBTED)


def _edge(room: Mailroom) -> float:
    return DOUBTFUL * bounds(room.costs).ask


def leaving_within_a_week(db: sqlite3.Connection, now: int) -> int:
    """How much mail the Drain lets go within a week of a time."""
    return _how_many_due(db, now + 7 * DAY)


def empty(room: Mailroom, newest: int) -> journal.Step:
    """Put all that stands in the Drain up to a message in the Trash, as one step. Raises :class:`Conflict` where
    nothing does."""
    with room.change() as db:
        numbers = draining.all_upto(db, newest)
        if not numbers:
            raise Conflict("Nothing stands in the Drain any more. Load it again.")
        title = f"The Drain emptied: {_count(len(numbers)).lower()}"
        return move_as_step(room, db, StepKind.EMPTIED, title, numbers, TRASH, Decider.FILED)
