"""Queues worked through: what stands in each state, and on to the next."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app import trays
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_filed
from hieranome.app.searching import understand
from hieranome.app.tagging import TAGGED, tag_in
from hieranome.core.buckets import DESK
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.queues import Queue, State, parted, state_of
from hieranome.core.tags import with_children
from hieranome.store import desk, journal, messages, places, queues, search, tags
from hieranome.store.messages import Message

SCOPE = 2_000
"""The newest messages a queue looks at."""
ROWS = 200
"""Messages of one state that are shown, those that stand in it longest first."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A message in a queue, and since when it stands in its state (Unix seconds)."""

    message: Message
    since: int


@dataclass(frozen=True, slots=True)
class Column:
    """A state, how many messages stand in it, and those that are shown."""

    state: State
    total: int
    rows: list[Standing]


def counts(room: Mailroom) -> list[tuple[Queue, list[int]]]:
    """All queues, each with how many messages stand in each state."""
    db = room.reader()
    found = []
    for one in queues.every(db):
        parts = parted(one.states, members(room, db, one), _carried(db, one))
        found.append((one, [len(part) for part in parts]))
    return found


@dataclass(frozen=True, slots=True)
class Shown:
    """A queue with what stands in each of its states, and why nothing can (empty: it can)."""

    queue: Queue
    columns: list[Column]
    problem: str


def show(room: Mailroom, number: int) -> Shown:
    """What stands in each state of a queue. Raises :class:`NotFound`."""
    db = room.reader()
    queue = queues.get(db, number)
    try:
        mail, problem = _found(room, db, queue), ""
    except HieranomeError as exc:
        mail, problem = [], str(exc)
    parts = parted(queue.states, mail, _carried(db, queue))
    since = queues.since(db, mail, _looked_at(queue), queue.target if queue.of == "bucket" else "")
    shown = [sorted(part, key=lambda one: (since[one], one))[:ROWS] for part in parts]
    rows = {row.id: row for row in messages.get_many(db, [one for part in shown for one in part])}
    columns = [
        Column(state, len(part), [Standing(rows[one], since[one]) for one in those])
        for state, part, those in zip(queue.states, parts, shown, strict=True)
    ]
    return Shown(queue, columns, problem)


def _looked_at(queue: Queue) -> list[int]:
    """The tags by which it is told since when a message stands in its state."""
    own = [int(queue.target)] if queue.of == "tag" else []
    return own + [one.tag for one in queue.states if one.tag]


def members(room: Mailroom, db: sqlite3.Connection, queue: Queue) -> list[int]:
    """The newest of what passes through a queue; nothing where what it is about is gone, which :func:`show` tells."""
    with contextlib.suppress(HieranomeError):
        return _found(room, db, queue)
    return []


def _found(room: Mailroom, db: sqlite3.Connection, queue: Queue) -> list[int]:
    """The newest of what passes through a queue. Raises :class:`CallerError` where what it is about is gone."""
    if queue.of == "tag":
        states = {one.tag for one in queue.states}
        below = with_children(tags.every(db)).get(int(queue.target))
        if below is None:
            raise CallerError("The tag this queue is about is not there any more. Choose another.")
        return queues.newest_with(db, sorted(below - states), SCOPE)
    if queue.of == "bucket":
        if not any(one.name == queue.target for one in places.buckets(db)):
            raise CallerError("The bucket this queue is about is not used any more. Choose another.")
        return [row[0] for row in desk.newest(db, queue.target, SCOPE)]
    line = next((one.line for one in trays.every(db) if one.kind == "line" and one.name == queue.target), "")
    if not line:
        raise CallerError(f"The tray “{queue.target}” is not there any more. Choose another.")
    return search.among(db, understand(room, line).node, [row[0] for row in desk.newest(db, DESK, SCOPE)])


def _carried(db: sqlite3.Connection, queue: Queue) -> dict[int, list[int]]:
    """The tags of the queue's states, by message."""
    found: dict[int, list[int]] = {}
    for one in queue.states:
        for number in tags.carrying(db, one.tag) if one.tag else ():
            found.setdefault(number, []).append(one.tag)
    return found


def queue_of(room: Mailroom, db: sqlite3.Connection, number: int) -> Queue | None:
    """The first queue a message passes through, or None."""
    return next((one for one in queues.every(db) if number in members(room, db, one)), None)


def bring(room: Mailroom, number: int, numbers: Sequence[int], state: int) -> Filed:
    """Bring messages of a queue to one of its states (counted from 0), as one step. Raises :class:`CallerError` for a
    state it does not have, and for mail that does not pass through it."""
    with room.change() as db:
        queue = queues.get(db, number)
        if not 0 <= state < len(queue.states):
            raise CallerError(f"“{queue.name}” has no state {state + 1}. Load the page again.")
        rows = rows_of(db, numbers)
        here = set(members(room, db, queue))
        strange = [row for row in rows if row.id not in here]
        if strange:
            raise CallerError(f"{named(strange)}: not in “{queue.name}” any more. Load the page again.")
        return _bring(room, db, queue, {row.id: state for row in rows}, rows)


def step_on(room: Mailroom, numbers: Sequence[int], by: int) -> tuple[Filed, str]:
    """Bring messages to the next state of the queue each passes through (``by`` 1), or to the one before (-1), as one
    step; with the state the first came to. What stands at the end stays. Raises :class:`CallerError` where none of them
    passes through a queue."""
    with room.change() as db:
        rows = rows_of(db, numbers)
        queue = queue_of(room, db, rows[0].id)
        if queue is None:
            raise CallerError("This message passes through no queue. Make one under Queues, of its bucket or tag.")
        here = set(members(room, db, queue))
        rows = [row for row in rows if row.id in here]
        carried = tags.of(db, [row.id for row in rows])
        last = len(queue.states) - 1
        wanted = {row.id: min(last, max(0, state_of(queue.states, carried.get(row.id, ())) + by)) for row in rows}
        return _bring(room, db, queue, wanted, rows), queue.states[wanted[rows[0].id]].name


def _bring(
    room: Mailroom, db: sqlite3.Connection, queue: Queue, wanted: dict[int, int], rows: Sequence[Message]
) -> Filed:
    """Bring each message to its state: all other states' tags off, that one's on."""
    carried = tags.of(db, list(wanted))
    known = {one.tag for one in queue.states if one.tag}

    def right(row: Message) -> bool:
        return known.intersection(carried.get(row.id, ())) == {queue.states[wanted[row.id]].tag} - {0}

    moving = [row for row in rows if not right(row)]
    if not moving:
        return Filed(0, [])
    to = {queue.states[wanted[row.id]].name for row in moving}
    what = f"to “{to.pop()}”" if len(to) == 1 else "to their next states"
    step = journal.begin(db, room.clock(), TAGGED, f"{named(moving)} {what} ({queue.name})")
    for at, state in enumerate(queue.states):
        if not state.tag:
            continue
        off = [row.id for row in moving if wanted[row.id] != at and state.tag in carried.get(row.id, ())]
        on = [row.id for row in moving if wanted[row.id] == at and state.tag not in carried.get(row.id, ())]
        if off:
            tag_in(room, db, step, off, state.tag, False)
        if on:
            tag_in(room, db, step, on, state.tag, True)
    room.tell("queues")
    return tell_filed(room, step, moving)
