"""Routines kept, and what they would do to a message."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import assert_never

from hieranome.app.following.due import noted_of, time_of, told
from hieranome.app.following.parking import answer_returns, until_told
from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.keeping import Here
from hieranome.app.writing import phrasing
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.routines import BY_VERB, MAX_ROUTINES, Action, Routine, check, refusal
from hieranome.core.when import read_moment
from hieranome.store import messages, phrases, places, routines, tags
from hieranome.store.messages import Message


@dataclass(frozen=True, slots=True)
class Kept:
    """A routine as it stands, and why it cannot be done (empty: it can)."""

    routine: Routine
    broken: str


@dataclass(frozen=True, slots=True)
class Told:
    """What one thing of a routine would do to a message: in words, and the text it would write (empty: none)."""

    words: str
    text: str


def every(room: Mailroom) -> list[Kept]:
    """All routines, by name."""
    here = Here.of(room)
    return [_kept(room, here, one) for one in routines.every(room.reader())]


def _kept(room: Mailroom, here: Here, one: Routine) -> Kept:
    try:
        check_whole(room, here, one)
    except CallerError as exc:
        return Kept(one, str(exc))
    return Kept(one, "")


def keep(room: Mailroom, routine: Routine) -> Kept:
    """Keep a routine (id 0: a new one). Raises :class:`CallerError` for one that cannot be done, :class:`Conflict` for
    a name or a key that is taken."""
    clean = replace(routine, name=" ".join(routine.name.split()), key=routine.key.strip())
    title = f"Routine “{clean.name}” {'changed' if clean.id else 'added'}"
    with arranging(room, Thing.ROUTINE, title, [clean.id]) as it:
        db = it.db
        check_whole(room, Here.of(room), clean)
        there = routines.every(db)
        if clean.id:
            routines.get(db, clean.id)
        elif len(there) >= MAX_ROUTINES:
            raise CallerError(f"There are {MAX_ROUTINES} routines, which is the most. Take some out.")
        for one in there:
            if one.id != clean.id and one.name.casefold() == clean.name.casefold():
                raise Conflict(f"There is a routine “{one.name}” already. Choose another name, or change that one.")
            if one.id != clean.id and clean.key and one.key == clean.key:
                raise Conflict(f"The key {clean.key} does “{one.name}” already. Choose another.")
        number = routines.put(db, clean, room.clock())
        it.made += [] if clean.id else [number]
    return _kept(room, Here.of(room), routines.get(room.reader(), number))


def remove(room: Mailroom, number: int) -> None:
    """Take a routine out; what it did stands."""
    name = routines.get(room.reader(), number).name
    with arranging(room, Thing.ROUTINE, f"Routine “{name}” removed", [number]) as it:
        routines.get(it.db, number)
        routines.remove(it.db, number)


def check_whole(room: Mailroom, here: Here, routine: Routine) -> None:
    """Raises :class:`CallerError` for a routine that cannot be done: by itself, or for what it needs and is not
    there."""
    check(routine)
    for one in routine.actions:
        here.check(BY_VERB[one.verb].takes, one.target, "routine")
        if BY_VERB[one.verb].takes == "time":
            read_moment(one.target, room.now())


def refused(actions: Sequence[Action], rows: Sequence[Message]) -> dict[int, str]:
    """The messages a routine cannot be done to, each with why."""
    found = {row.id: refusal(actions, row.place, row.decided_by) for row in rows}
    return {number: why for number, why in found.items() if why}


def tried(room: Mailroom, actions: Sequence[Action], message: int) -> tuple[list[Told], str]:
    """What a routine that is not kept yet would do to a message, thing by thing, and why it cannot be done to it
    (empty: it can). Nothing is done. Raises :class:`CallerError` for what is no routine yet."""
    check_whole(room, Here.of(room), Routine(0, "tried", "", tuple(actions)))
    row = messages.get(room.reader(), message)
    with room.steady() as db:
        lines = [_told(room, db, one, row) for one in actions]
    return lines, refused(actions, [row]).get(message, "")


def _told(room: Mailroom, db: sqlite3.Connection, one: Action, row: Message) -> Told:
    title = BY_VERB[one.verb].title
    match one.verb:
        case "bucket" | "folder" | "archive" | "trash":
            return Told(_moved(db, one, row), "")
        case "park" | "park-answer":
            until = time_of(room, db, one.target)
            return Told(f"Parked {until_told(room, until, not until or answer_returns(db))}.", "")
        case "tag" | "untag":
            return Told(_tagged(db, one, row), "")
        case "due":
            return Told(f"Due {told(room, read_moment(one.target, room.now()))}, and flagged.", "")
        case "reply" | "reply-all" | "forward":
            said = phrasing.shown_for(room, row.id, int(one.target))
            short = phrases.get(db, int(one.target)).short
            return Told(f"{title} “{short}”, as a draft to be looked at:", said)
        case "flag" | "unflag" | "read" | "unread":
            same = {"flag": row.flagged, "unflag": not row.flagged, "read": row.seen, "unread": not row.seen}
            return Told(f"{title}: nothing changes." if same[one.verb] else f"{title}.", "")
        case "done":
            return Told(f"{title}." if noted_of(db, [row.id]) else f"{title}: nothing changes.", "")
        case "next":
            return Told(f"{title}.", "")
        case _:
            assert_never(one.verb)


def _moved(db: sqlite3.Connection, one: Action, row: Message) -> str:
    there = {place.name: place.title for place in places.every(db)}
    target = BY_VERB[one.verb].place or one.target
    if row.place == target:
        return f"It stands in {there[target]} already."
    how = ", as a lesson" if one.verb == "bucket" else ""
    return f"From {there[row.place]} to {there[target]}{how}."


def _tagged(db: sqlite3.Connection, one: Action, row: Message) -> str:
    carries = int(one.target) in tags.of(db, [row.id]).get(row.id, [])
    name, wanted = tags.get(db, int(one.target)).name, one.verb == "tag"
    if carries == wanted:
        return f"It {'carries' if carries else 'does not carry'} “{name}” as it is."
    return f"“{name}” is {'put on' if wanted else 'taken off'}."
