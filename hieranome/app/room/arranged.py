"""What the owner arranges, as steps of the journal: each change of a rule, a search or the trays is one."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import TypeVar

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.waiting import stop_where_off
from hieranome.app.room.zones import zone_of
from hieranome.core.arranged import THINGS, Thing
from hieranome.core.away import check as check_away
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.phrases import check_name
from hieranome.core.queues import check as check_queue
from hieranome.core.routines import check as check_routine
from hieranome.core.rules import check as check_rule
from hieranome.core.steps import StepKind
from hieranome.core.trays import Tray
from hieranome.core.trays import check as check_trays
from hieranome.store import (
    arranged,
    away,
    journal,
    phrases,
    plans,
    queues,
    routines,
    rules,
    searches,
    settings,
)

T = TypeVar("T")


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
    """Within a change, bring what a step arranged back. Raises
    :class:`hieranome.core.errors.Conflict` where it was changed again since, and for what cannot be read as such a
    thing."""
    things = arranged.take_back(db, step)
    for thing in things:
        try:
            CHECKS[thing](db)
        except (KeyError, ValueError, TypeError, AttributeError, CallerError) as exc:
            raise Conflict(f"What {THINGS[thing].called} was before cannot be read any more ({exc}).") from exc
    for event in sorted({THINGS[thing].event for thing in things}):
        room.tell(event)
    if Thing.AWAY in things:
        stop_where_off(room, db)


def _check_trays(db: sqlite3.Connection) -> None:
    check_trays([Tray(**one) for one in settings.value(db, settings.TRAYS, None) or ()])


def _check_plans(db: sqlite3.Connection) -> None:
    for kept in plans.every(db, removed=True):
        kept.plan.check()
        zone_of(kept.plan.zone)


def _check_away(db: sqlite3.Connection) -> None:
    notice = away.get(db)
    if notice.circles:
        check_away(notice)


def _check_said(key: str) -> Callable[[sqlite3.Connection], None]:
    """Of what a page says of itself nothing is known but that it is an object."""

    def check(db: sqlite3.Connection) -> None:
        dict(settings.value(db, key, None) or {})

    return check


def _each(every: Callable[[sqlite3.Connection], Iterable[T]], check: Callable[[T], object]) -> Callable[..., None]:
    def check_each(db: sqlite3.Connection) -> None:
        for one in every(db):
            check(one)

    return check_each


CHECKS: dict[Thing, Callable[[sqlite3.Connection], None]] = {
    Thing.TRAYS: _check_trays,
    Thing.SEARCH: _each(searches.every, lambda one: one.line.strip()),
    Thing.PHRASE: _each(phrases.every, lambda one: check_name(one.short)),
    Thing.ROUTINE: _each(routines.every, check_routine),
    Thing.QUEUE: _each(queues.every, check_queue),
    Thing.PLAN: _check_plans,
    Thing.RULE: _each(rules.every, check_rule),
    Thing.APPEARANCE: _check_said(settings.APPEARANCE),
    Thing.KEYS: _check_said(settings.KEYS),
    Thing.AWAY: _check_away,
}
"""How all things of a kind are read as they are read later: each raises what they hold that cannot be."""
