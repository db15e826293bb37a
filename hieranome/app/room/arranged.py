"""What the owner arranges, as steps of the journal: each change of a rule, a search or the trays is one."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.arranged import THINGS, Thing
from hieranome.core.steps import StepKind
from hieranome.store import arranged, journal


@dataclass(slots=True)
class Arranging:
    """A change of things under way: what it is made with, its step, and the keys of what it made."""

    db: sqlite3.Connection
    step: int
    made: list[int] = field(default_factory=list)


@contextmanager
def arranging(room: Mailroom, thing: Thing, title: str, keys: Iterable[int | str] = ()) -> Iterator[Arranging]:
    """A change of things of one kind, which becomes a step called ``title`` where anything came of it. ``keys`` name
    the things that are there before; 0 names none."""
    with room.change() as db:
        before = {str(key): arranged.state(db, thing, str(key)) for key in keys if key}
        one = Arranging(db, journal.begin(db, room.clock(), StepKind.ARRANGED, title))
        yield one
        those = before | {str(key): None for key in one.made}
        changed = [key for key, was in those.items() if arranged.note(db, one.step, thing, key, was)]
        if not changed:
            journal.forget(db, one.step)
            return
        room.tell(THINGS[thing].event)
        room.tell("arranged", step=one.step, title=title)


@contextmanager
def noting(db: sqlite3.Connection, step: int, *things: Thing) -> Iterator[None]:
    """Within a change, note in its step what becomes of everything there is of some kinds, so that undo brings it
    back."""
    before = {(thing, key): arranged.state(db, thing, key) for thing in things for key in arranged.keys(db, thing)}
    yield
    for (thing, key), was in before.items():
        arranged.note(db, step, thing, key, was)


def take_back(room: Mailroom, db: sqlite3.Connection, step: int) -> None:
    """Within a change, bring what a step arranged back. Raises :class:`hieranome.core.errors.Conflict` where it was
    changed again since."""
    for event in sorted({THINGS[thing].event for thing in arranged.take_back(db, step)}):
        room.tell(event)
