"""Due dates: set, taken off, offered."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from hieranome.app.reading.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, set_marks, tell_filed, tell_following
from hieranome.core.actors import Actor
from hieranome.core.buckets import TRASH
from hieranome.core.errors import CallerError
from hieranome.core.steps import StepKind
from hieranome.core.when import MOST_YEARS, Moment, at_hour, is_no_time, moments_in, read_moment
from hieranome.store import following, journal, messages, settings
from hieranome.store.following import Followed as Followed
from hieranome.store.following import State
from hieranome.store.messages import Message

DUE = StepKind.DUE
"""The kind of steps that set due dates and take them off."""
MORNING = 8
"""The hour at which a day begins, until the owner says otherwise."""
OFFERED = 3
"""Of what the owner typed most often, so many are offered."""
MOST_DATES = 5
"""Dates of a message's text that are offered."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A time that is offered: what would be typed for it, when that is, and the words of the message that say it
    (empty where the owner's habit does)."""

    said: str
    moment: Moment
    words: str


def set_due(room: Mailroom, numbers: Sequence[int], said: str) -> Filed:
    """Let messages be due at a time that was typed; they are flagged then; *no date* takes it off. Raises
    :class:`CallerError` for what is no time to come."""
    if said.strip() and is_no_time(said):
        return clear_due(room, numbers)
    moment = read_moment(said, room.now())
    with room.change() as db:
        rows = rows_of(db, numbers)
        step = journal.begin(db, room.clock(), DUE, f"{named(rows)} due {told(room, moment)}")
        for row in rows:
            following.change(db, step, "due", row.id, State(moment.at, room.clock(), day=moment.day))
        _flag(room, db, step, [row.id for row in rows], True)
        following.note_said(db, said, room.clock())
        return tell_followed(room, step, rows)


def note_due(room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int], said: str, step: int = 0) -> None:
    """Within a change, let messages be due as a rule says it; as part of a step where there is one."""
    moment = read_moment(said, room.now())
    state = State(moment.at, room.clock(), day=moment.day)
    if step:
        for number in numbers:
            following.change(db, step, "due", number, state)
        _flag(room, db, step, numbers, True)
    else:
        set_marks(room, db, numbers, "flagged", True, Actor.RULE)
        for number in numbers:
            following.set_state(db, "due", number, state)
    tell_following(room, numbers, step)


def check_relative(said: str) -> None:
    """Raises :class:`CallerError` for a time that a rule cannot say: one that is not told from when mail arrives."""
    for at in _PROBES:
        read_moment(said, at)


_PROBES = [
    *(datetime(2026, month, 15, tzinfo=UTC) for month in (1, 7, 12)),
    datetime(2026, 7, 15, 23, 59, 59, tzinfo=UTC),
    datetime(2026 + 2 * MOST_YEARS, 7, 15, tzinfo=UTC),
]
"""Moments at which a rule's time must lie ahead: in each part of a year and of a day, and when every date of the
calendar that could be said has passed."""


def clear_due(room: Mailroom, numbers: Sequence[int]) -> Filed:
    """Take the due date, and the flag that came with it, off messages; of what came back or was told to have no answer,
    take it off the head of the Desk."""
    with room.change() as db:
        rows = rows_of(db, numbers)
        noted = noted_of(db, numbers)
        if not noted:
            return Filed(0, [])
        done = {one.message for one in noted}
        rows = [row for row in rows if row.id in done]
        step = journal.begin(db, room.clock(), DUE, f"{named(rows)} done")
        clear_in(room, db, step, noted)
        return tell_followed(room, step, rows)


def clear_in(room: Mailroom, db: sqlite3.Connection, step: int, noted: Sequence[Followed]) -> None:
    """As part of a step, take off what is noted of messages, with the flags of what is due."""
    _flag(room, db, step, [one.message for one in noted if one.kind == "due"], False)
    for one in noted:
        following.change(db, step, one.kind, one.message, None)


def noted_of(db: sqlite3.Connection, numbers: Sequence[int]) -> list[Followed]:
    """Why messages head the Desk: what :func:`clear_due` takes off."""
    return [one for one in following.of(db, numbers) if one.kind in ("due", "back", "unanswered")]


def _flag(room: Mailroom, db: sqlite3.Connection, step: int, numbers: Sequence[int], wanted: bool) -> None:
    due = {one.message: one.state for one in following.of(db, numbers) if one.kind == "due"}
    changed = set_marks(room, db, numbers, "flagged", wanted, journal.actor_of(db, step))
    journal.add_marks(db, step, changed, "flagged", wanted)
    # Taking the flag off ends the due date by itself; what is noted of the step begins with how it was.
    for number, state in due.items():
        following.set_state(db, "due", number, state)


def tell_followed(room: Mailroom, step: int, rows: Sequence[Message]) -> Filed:
    """Publish what a step changed of what is followed through."""
    tell_following(room, [row.id for row in rows], step)
    return tell_filed(room, step, rows)


def morning(db: sqlite3.Connection) -> int:
    """The hour of the clock at which the owner's day begins."""
    return int(settings.value(db, settings.MORNING, MORNING))


def time_of(room: Mailroom, db: sqlite3.Connection, said: str) -> int:
    """The time that was typed (Unix seconds), a whole day taken at the morning; 0 for nothing. Raises
    :class:`CallerError` for what is no time to come."""
    now = room.now()
    return at_hour(read_moment(said, now), morning(db), now) if not is_no_time(said) else 0


def told(room: Mailroom, moment: Moment) -> str:
    """A moment as the journal says it."""
    when = datetime.fromtimestamp(moment.at, room.zone)
    year = f" {when:%Y}" if when.year != room.now().year else ""
    return f"{when:%a} {when.day} {when:%b}{year}" + ("" if moment.day else f" {when:%H:%M}")


def offers(room: Mailroom, number: int | None) -> list[Offer]:
    """Times that are offered: the dates of a message's own text, then what the owner typed most often."""
    now = room.now()
    found = _of_text(room, number, now) if number is not None else []
    taken = {one.moment for one in found}
    habits: list[Offer] = []
    for said in [*following.offered(room.reader(), 20), *USUAL]:
        try:
            moment = read_moment(said, now)
        except CallerError:
            continue  # it named a day that has passed
        if moment not in taken and len(habits) < OFFERED:
            taken.add(moment)
            habits.append(Offer(said, moment, ""))
    return [*found, *habits]


USUAL = ("tomorrow", "friday", "next week")
"""What is offered until the owner has habits."""


def _of_text(room: Mailroom, number: int, now: datetime) -> list[Offer]:
    db = room.reader()
    row = messages.get(db, number)
    if not row.readable:
        return []
    reading = reading_of(messages.raw(db, number))
    sent = datetime.fromtimestamp(row.time, room.zone)
    said = moments_in(f"{row.subject}\n{reading.facts.text}", sent, now)
    return [Offer(typed(one.moment, room), one.moment, one.words) for one in said[:MOST_DATES]]


def typed(moment: Moment, room: Mailroom) -> str:
    """How a moment would be typed so that it means just that."""
    when = datetime.fromtimestamp(moment.at, room.zone)
    return f"{when:%Y-%m-%d}" if moment.day else f"{when:%Y-%m-%d %H:%M}"


def every_due(room: Mailroom) -> list[Followed]:
    """All that is due, the earliest first."""
    return following.due(room.reader())


def due_by_now(room: Mailroom) -> list[Followed]:
    """What is overdue or due today, the earliest first."""
    tomorrow = room.now().replace(hour=0, minute=0, second=0, microsecond=0) + timedelta(days=1)
    return following.due(room.reader(), int(tomorrow.timestamp()), parked=False)


def heads(room: Mailroom) -> list[int]:
    """What heads the Desk: what is overdue or due today, what came back from being parked, what nobody answered in
    time; by the time of each."""
    db = room.reader()
    found = due_by_now(room)
    found += following.every(db, "back") + following.every(db, "unanswered")
    found.sort(key=lambda one: (one.state.at, one.message))
    places = {row.id: row.place for row in messages.get_many(db, [one.message for one in found])}
    return [number for number in dict.fromkeys(one.message for one in found) if places.get(number, TRASH) != TRASH]
