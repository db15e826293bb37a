"""Parking: mail out of sight until a time, until somebody answers, or whichever comes first."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app.filing import move_as
from hieranome.app.following.due import morning, tell_followed, time_of, told
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_following
from hieranome.core.actors import Actor
from hieranome.core.buckets import DESK, DRAFTS, PARKED, SENT
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.core.when import Moment, next_working_morning
from hieranome.store import following, journal, messages, settings
from hieranome.store.following import State
from hieranome.store.messages import Message


def answer_returns(db: sqlite3.Connection) -> bool:
    """Whether an answer brings back what was parked until a time, where nothing else was said."""
    return bool(settings.value(db, settings.ANSWER_RETURNS, True))


def parked(room: Mailroom) -> list[following.Followed]:
    """What stands parked, what comes back first first."""
    db = room.reader()
    there = {number for number, _ in messages.standing_in(db, PARKED)}
    return [one for one in following.every(db, "parked") if one.message in there]


def say_when(room: Mailroom, *, day_begins: int, returns: bool) -> None:
    """Say at which hour a day begins, and whether an answer brings back what is parked."""
    with room.change() as db:
        settings.put(db, settings.MORNING, day_begins)
        settings.put(db, settings.ANSWER_RETURNS, returns)


def park(room: Mailroom, numbers: Sequence[int], said: str = "", answer: bool | None = None) -> Filed:
    """Park messages until a time that was typed, until somebody answers in their thread (``answer``; None: as the owner
    usually has it), or whichever comes first. What is parked already waits for this instead.

    Raises :class:`CallerError` for what is no time to come, or for nothing to wait for.
    """
    with room.change() as db:
        until = time_of(room, db, said)
        waits = answer if answer is not None else (not until or answer_returns(db))
        if not until and not waits:
            raise CallerError("Say until when it is parked, or that an answer brings it back.")
        rows = rows_of(db, numbers)
        if any(row.place == DRAFTS for row in rows):
            raise CallerError("A draft cannot be parked. Send it, or leave it where it is.")
        title = f"{named(rows)} parked {until_told(room, until, waits)}"
        step = journal.begin(db, room.clock(), StepKind.PARKED, title)
        park_in(room, db, step, rows, until, waits)
        if said.strip():
            following.note_said(db, said, room.clock())
        return tell_followed(room, step, rows)


def park_in(
    room: Mailroom, db: sqlite3.Connection, step: int, rows: Sequence[Message], until: int, waits: bool
) -> None:
    """As part of a step, park messages until a time (0: by no time), with ``waits`` also until somebody answers."""
    move_as(db, step, [row for row in rows if row.place != PARKED], PARKED, Decider.PARKED)
    for row in rows:
        before = following.get(db, "parked", row.id) if row.place == PARKED else None
        since = before.since if before else room.clock()
        following.change(db, step, "parked", row.id, State(until, since, answer=waits))


def until_told(room: Mailroom, until: int, answer: bool) -> str:
    """What parked mail waits for, in words."""
    if not until:
        return "until somebody answers"
    return f"until {told(room, Moment(until))}" + (" or an answer" if answer else "")


def parked_elsewhere(room: Mailroom, db: sqlite3.Connection, number: int) -> None:
    """Within a change: something else than the owner here put a message among the parked; it waits until the next
    working morning."""
    until = next_working_morning(room.now(), morning(db))
    following.set_state(db, "parked", number, State(until, room.clock(), answer=answer_returns(db)))
    tell_following(room, [number])


def bring_back(room: Mailroom, db: sqlite3.Connection, number: int, *, answer: bool = False) -> None:
    """Within a change: a parked message comes back to the head of the Desk, as a line of the journal; what the owner
    wrote stands in Sent again."""
    row = messages.get(db, number)
    if row.place != PARKED:
        return
    state = following.get(db, "parked", number)
    since = state.since if state else room.clock()
    why = "somebody answered" if answer else f"it was parked {away(room.clock() - since)}"
    step = journal.begin(db, room.clock(), StepKind.RETURNED, f"{named([row])} is back: {why}", Actor.MODEL)
    move_as(db, step, [row], SENT if row.decided_by == Decider.OWN else DESK, Decider.PARKED)
    following.change(db, step, "parked", number, None)
    following.change(db, step, "back", number, State(room.clock(), since, answer=answer))
    tell_following(room, [number], step)
    room.tell_moved(step, [number])


def away(seconds: int) -> str:
    """How long something was away, in words."""
    for size, name in ((DAY, "day"), (3_600, "hour"), (60, "minute")):
        if seconds >= size:
            count = round(seconds / size)
            return f"for {count} {name}{'s' if count != 1 else ''}"
    return "for a moment"
