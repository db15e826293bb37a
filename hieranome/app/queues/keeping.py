"""Queues kept: their states made, renamed and ordered."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from hieranome.app import shaping_tags, trays
from hieranome.app.room.arranged import Arranging, arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.queues import MAX_QUEUES, Queue, State, check, tag_name
from hieranome.store import places, queues, tags


def keep(room: Mailroom, wanted: Queue) -> Queue:
    """Keep a queue (id 0: a new one): a state without a tag that is not the first gets one, one that is called
    otherwise is renamed, and the first has none.

    Raises :class:`CallerError` for a queue that cannot be, and for a state left out in which mail stands;
    :class:`Conflict` for a name that is taken.
    """
    clean = replace(
        wanted,
        name=" ".join(wanted.name.split()),
        states=tuple(State(" ".join(one.name.split()), one.tag) for one in wanted.states),
    )
    title = f"Queue “{clean.name}” {'changed' if clean.id else 'added'}"
    with arranging(room, Thing.QUEUE, title, [clean.id]) as it:
        db = it.db
        check(clean)
        _check_target(db, clean)
        there = queues.every(db)
        if any(one.id != clean.id and one.name.casefold() == clean.name.casefold() for one in there):
            raise Conflict(f"There is a queue “{clean.name}” already. Choose another name, or change that one.")
        before = queues.get(db, clean.id) if clean.id else None
        if before is None and len(there) >= MAX_QUEUES:
            raise CallerError(f"There are {MAX_QUEUES} queues, which is the most. Take some out.")
        _check_left(db, before, clean)
        known = {one.tag for one in before.states} - {0} if before else set()
        states = [State(clean.states[0].name, 0)]
        for one in clean.states[1:]:
            states.append(State(one.name, _tagged(room, it, clean, one, known)))
        number = queues.put(db, replace(clean, states=tuple(states)))
        it.made += [] if clean.id else [number]
        room.tell("tags")
    return queues.get(room.reader(), number)


def _check_target(db: sqlite3.Connection, queue: Queue) -> None:
    if queue.of == "bucket":
        place = next((one for one in places.every(db) if one.name == queue.target), None)
        if place is None or place.band < 0:
            raise CallerError("The bucket the queue is about is not there. Choose another.")
    elif queue.of == "tag":
        tags.get(db, int(queue.target) if queue.target.isdecimal() and len(queue.target) < 19 else 0)
    elif not any(one.kind == "line" and one.name == queue.target for one in trays.every(db)):
        raise CallerError("The tray the queue is about is not there, or finds no mail by a line. Choose another.")


def _check_left(db: sqlite3.Connection, before: Queue | None, wanted: Queue) -> None:
    """Raises :class:`CallerError` for a state that is left out, or made the first, while mail stands in it."""
    kept = {one.tag for one in wanted.states[1:]}
    for one in before.states if before else ():
        count = len(tags.carrying(db, one.tag)) if one.tag and one.tag not in kept else 0
        if count:
            what = "1 message stands" if count == 1 else f"{count} messages stand"
            raise CallerError(f"{what} in “{one.name}”. Bring them to another state first.")


def _tagged(room: Mailroom, it: Arranging, queue: Queue, state: State, known: set[int]) -> int:
    """The tag of a state: the one it has, renamed where it is called otherwise, or a new one."""
    name = tag_name(queue.name, state.name)
    there = {one.id: one for one in tags.every(it.db)}
    if state.tag in known and state.tag in there:
        if there[state.tag].name != name:
            shaping_tags.rename_in(room, it.db, it.step, state.tag, name)
        return state.tag
    return shaping_tags.make_in(room, it.db, it.step, name, int(queue.target) if queue.of == "tag" else 0)


def remove(room: Mailroom, number: int) -> None:
    """Take a queue out; its states go on as tags."""
    name = queues.get(room.reader(), number).name
    with arranging(room, Thing.QUEUE, f"Queue “{name}” removed", [number]) as it:
        queues.get(it.db, number)
        queues.remove(it.db, number)
