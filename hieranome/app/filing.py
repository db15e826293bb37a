"""Filing: mail put away, put back, marked. Moves and marks in the journal, never lessons."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_filed
from hieranome.core.buckets import ARCHIVE, DESK, DRAFTS, JUNK, PARKED, SENT, TRASH
from hieranome.core.deciders import NEVER_TAUGHT, Decider
from hieranome.core.errors import CallerError
from hieranome.core.steps import StepKind
from hieranome.store import journal, messages, places
from hieranome.store.messages import Message


def file_away(room: Mailroom, numbers: Sequence[int], place: str) -> Filed:
    """Put messages into Archive, Trash or a folder of the owner's. What is there already stays.

    Raises :class:`CallerError` when mail cannot be filed there, :class:`NotFound` for what does not exist;
    nothing is changed then.
    """
    with room.change() as db:
        target = places.get(db, place)
        if target.band >= 0:
            raise CallerError(f"{target.title} is a bucket: putting mail there is a verdict, which the model learns.")
        if target.name == PARKED:
            raise CallerError("Mail is parked until a time, or until somebody answers. Say until when.")
        if not (target.own or target.name in (ARCHIVE, JUNK, TRASH)):
            raise CallerError(f"Mail cannot be filed in {target.title}: only what you write comes to stand there.")
        rows = [row for row in rows_of(db, numbers) if row.place != place]
        if not rows:
            return Filed(0, [])
        step = journal.begin(db, room.clock(), StepKind.FILED, f"{named(rows)} to {target.title}")
        move_rows(db, step, rows, place)
        return tell_filed(room, step, rows)


def move_rows(db: sqlite3.Connection, step: int, rows: Sequence[Message], place: str) -> None:
    """File messages that stand elsewhere as part of a step."""
    move_as(db, step, rows, place, Decider.FILED)


def move_as(db: sqlite3.Connection, step: int, rows: Sequence[Message], place: str, decided_by: Decider) -> None:
    """Move messages as part of a step; what is neither weighed nor taught goes on standing by what it is."""
    for row in rows:
        _move(db, step, row, place, row.decided_by if row.decided_by in NEVER_TAUGHT else decided_by)


def put_back(room: Mailroom, numbers: Sequence[int]) -> Filed:
    """Put filed mail back to where it stood before; to the Desk, or Sent, where that is not known."""
    with room.change() as db:
        quiet = {place.name for place in places.every(db) if place.band < 0}
        rows = [row for row in rows_of(db, numbers) if row.place in quiet - {SENT, DRAFTS}]
        if not rows:
            raise CallerError("None of these messages is filed away, so there is nothing to put back.")
        step = journal.begin(db, room.clock(), StepKind.BACK, f"{named(rows)} put back")
        for row in rows:
            way = journal.way_back(db, row.id, row.place)
            origin, decided_by = (way.origin, way.origin_decided_by) if way else _first_place(row)
            _move(db, step, row, origin, decided_by)
        return tell_filed(room, step, rows)


def _first_place(row: Message) -> tuple[str, Decider]:
    if row.decided_by == Decider.EDITION:
        return DESK, Decider.EDITION
    return (SENT, Decider.OWN) if row.decided_by == Decider.OWN else (DESK, Decider.FILED)


def _move(db: sqlite3.Connection, step: int, row: Message, place: str, decided_by: Decider) -> None:
    journal.add_move(db, step, journal.Move(row.id, row.place, row.decided_by, place))
    messages.move(db, row.id, place, decided_by)
