"""The mailroom: one owner's store, engine, sums and events, held together."""

from __future__ import annotations

import contextlib
import logging
import sqlite3
import threading
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime, tzinfo
from pathlib import Path
from typing import Any

from hieranome.app.room.events import Events
from hieranome.app.room.vectors import Vectors
from hieranome.app.room.zones import local_zone, zone_of
from hieranome.core.buckets import UNDECIDED, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.groups import Context
from hieranome.core.owing import Awaiting
from hieranome.core.relations import Relations, Sums
from hieranome.core.routing import WINDOW, Asking, between
from hieranome.core.rules import Read
from hieranome.core.vouched import Vouched
from hieranome.mail.organisations import SHARED
from hieranome.store import (
    Database,
    addresses,
    lessons,
    messages,
    places,
    renewed,
    scores,
    settings,
    silences,
    topics,
    vouched,
)

_NAMING = frozenset({"rules", "places"})
"""Events after which the lines of rules may mean something else."""
Clock = Callable[[], int]
_LOG = logging.getLogger(__name__)


UNDO_AT_ONCE = 50
"""Lessons that may have come after one that is taken out of the model at once."""


def wall_clock() -> int:
    """Unix seconds now."""
    return int(time.time())


class Mailroom:
    """Everything a use case needs. All changes are made by :meth:`change`.

    ``bindings`` tells whether anything was said for sure beyond single messages; ``confirmed`` are the
    authserv-ids whose results are believed, ``shared`` the domains many unrelated people write from;
    ``rules`` are those for arriving mail as their lines are understood on a day, once they were asked for;
    ``topics`` are those that tag what arrives, once they were asked for;
    ``awaiting`` is what was learned of which mail awaits an answer, by side, and of what it was;
    ``whole`` says that all mail has vectors of today's features;
    ``behind`` says that a lesson was undone which the model still holds; ``kin_follow`` that kin follow a lesson
    unasked. ``zone`` is the time zone of the owner's clock.
    ``revision`` grows whenever scores of standing messages change; page cursors are told about it.
    """

    def __init__(self, folder: Path, clock: Clock = wall_clock) -> None:
        self.clock = clock
        self.zone: tzinfo = zone_of(local_zone())
        self.store = Database(folder)
        self.events = Events()
        self.changing = threading.RLock()
        self.costs = Costs()
        self.revision = 1
        self.owner = Owner()
        self.relations = Relations()
        self.asking = Asking()
        self.engine = Engine()
        self.bindings = False
        self.awaiting: dict[str, tuple[object, Awaiting]] = {}
        self.rules: tuple[str, list[Read]] | None = None
        self.topics: list[topics.Kept] | None = None
        self.vouched: list[Vouched] = []
        self.confirmed: frozenset[str] = frozenset()
        self.shared = SHARED
        self.kin_follow = False
        self.behind = False
        self.whole = True
        self.vectors = Vectors()
        self._within: sqlite3.Connection | None = None
        self._changer = 0
        self._touched = False
        self._steady = False
        self._untold: list[Callable[[], None]] = []
        self.load()

    def now(self) -> datetime:
        """What the owner's clock shows."""
        return datetime.fromtimestamp(self.clock(), self.zone)

    @contextmanager
    def change(self) -> Iterator[sqlite3.Connection]:
        """The one way to change anything: the lock, and within it one transaction on the writer.

        Changes within a change join it. What is in memory is a cache of the store: whoever changes it within a change
        says so by :meth:`touch`, and when the transaction fails, at whatever statement or at its commit, memory is
        built anew from what the store holds then. Events told within go out after the commit, in their order, or never.
        """
        with self.changing:
            if self._within is not None:
                yield self._within
                return
            self._be_steady()
            self._touched, self._untold = False, []
            try:
                with self.store.atomic() as db:
                    self._within, self._changer = db, threading.get_ident()
                    yield db
            except BaseException:
                self._within, self._changer = None, 0
                self.rules = self.topics = None  # they may have been read from what is taken back now
                if self._touched:
                    self._steady = False
                    with contextlib.suppress(Exception):  # then the next change begins with it
                        self._be_steady()
                raise
            self._within, self._changer = None, 0
            untold, self._untold = self._untold, []
        for tell in untold:
            self._told(tell)

    @contextmanager
    def part(self, db: sqlite3.Connection) -> Iterator[None]:
        """Within a change, a part of it that is taken back by itself when it raises."""
        with self.store.part(db):
            yield

    @contextmanager
    def steady(self) -> Iterator[sqlite3.Connection]:
        """The lock, and a reader of the store that agrees with what is in memory."""
        with self.changing:
            self._be_steady()
            yield self.reader()

    def _be_steady(self) -> None:
        if not self._steady:
            self.load()

    def touch(self) -> None:
        """Say, within a change, that memory is changed before the commit."""
        self._touched = True

    def tell(self, kind: str, **data: Any) -> None:
        """Publish an event: at once, or after the commit of the change it is told in."""
        if kind in _NAMING:
            self.rules = None
        self._after(lambda: self.events.publish(kind, **data))

    def _after(self, tell: Callable[[], None]) -> None:
        if self._changer == threading.get_ident():
            self._untold.append(tell)
        else:
            self._told(tell)

    @staticmethod
    def _told(tell: Callable[[], None]) -> None:
        """Tell; what is made is made, whether or not telling of it succeeds."""
        try:
            tell()
        except Exception:
            _LOG.exception("an event could not be published")

    def load(self) -> None:
        """Bring engine, sums and memory of questions to what the store says."""
        with self.changing, self.store.atomic() as db:
            self._steady = False
            self.rules = self.topics = None
            self.vectors.clear()
            self.whole = renewed.begin(db)
            self.owner = settings.owner(db)
            self.relations = settings.relations(db)
            self.asking = Asking(scores.recent_questions(db, WINDOW))
            drained = settings.value(db, settings.DRAINED_COST, Costs().drained_good)
            self.costs = replace(self.costs, drained_good=float(drained))
            engine = Engine(places.buckets(db), addresses.purposes(db))
            engine.learn_all(silences.given(db))
            self.engine = engine
            self.behind = False
            self.load_sure(db)
            self.revision += 1
            self._steady = True

    def close(self) -> None:
        """Close the store."""
        self.store.close()

    def reader(self) -> sqlite3.Connection:
        """A read-only connection for this thread; within a change, the writer, which sees what the change did."""
        if self._within is not None and self._changer == threading.get_ident():
            return self._within
        return self.store.reader()

    def set_owner(self, addresses: Iterable[str]) -> None:
        """Set the addresses the owner receives mail at."""
        with self.change() as db:
            self.touch()
            settings.set_owner(db, addresses)
            self.owner = settings.owner(db)

    def forget(self, lesson_ids: Sequence[int], silence_ids: Sequence[int] = ()) -> bool:
        """Within a change, take lessons and silences out of the model: at once, or where too much came after them, from
        the background (:class:`hieranome.app.room.rebuilding.Rebuilder`). False when it follows behind."""
        self.touch()
        if self.engine.effort(lesson_ids, silence_ids) <= UNDO_AT_ONCE:
            self.engine.forget_all(lesson_ids, silence_ids)
            return True
        self.behind = True
        self.tell("rebuild", done=0, of=len(self.engine))
        return False

    def load_sure(self, db: sqlite3.Connection) -> None:
        """Bring what is known for sure, and the settings about it, to what the store says."""
        self.touch()
        self.vouched = vouched.every(db)
        self.confirmed = settings.names(db, settings.CONFIRMED)
        self.shared = SHARED | settings.names(db, settings.SHARED)
        self.kin_follow = bool(settings.value(db, settings.KIN_FOLLOW, False))
        self.bindings = bool(self.vouched) or lessons.any_binding(db)

    def having_vectors(self, db: sqlite3.Connection, numbers: list[int]) -> list[int]:
        """Those of some messages that are weighed whose vectors are there: all of them, unless they are made anew."""
        return numbers if self.whole else scores.weighed(db, numbers)

    def context(self, thread_has_mine: bool, *, forged: bool = False, alike: bool = False) -> Context:
        """What features of a message may look at besides its facts."""
        return Context(self.owner, self.relations, thread_has_mine, forged, alike)

    def asked_between(self, db: sqlite3.Connection, rows: Sequence[messages.Message]) -> dict[int, list[str]]:
        """Of those of some messages that are asked about and weighed, the two places the question is between."""
        numbers = scores.weighed(db, [row.id for row in rows if row.place == UNDECIDED])
        if not numbers:
            return {}
        with self.steady():
            judged = self.engine.judge_all(self.vectors.of(db, numbers))
            return {number: list(between(one, self.costs)) for number, one in zip(numbers, judged, strict=True)}

    def count(self, db: sqlite3.Connection, added: Iterable[tuple[str, Sums]], sign: int = 1) -> None:
        """Add observations to the sums, in memory and in the store."""
        self.touch()
        together: dict[str, Sums] = {}
        for key, seen in added:
            self.relations.add(key, seen, sign)
            together.setdefault(key, Sums()).add(seen, sign)
        settings.add_sums(db, together.items())

    def tell_moved(self, step: int, moved: Sequence[int]) -> None:
        """Publish that a step (0 where no journal line stands for it) moved or marked messages, and the counts after
        it."""
        several = list(moved)[:100]
        self._after(lambda: self.events.publish("moved", step=step, messages=several, revision=self.revision))
        self.tell_counts()

    def tell_counts(self) -> None:
        """Publish the counts of all places, as they are once the change is made."""
        self._after(self._publish_counts)

    def _publish_counts(self) -> None:
        counts = {p.name: [p.total, p.unread] for p in places.every(self.store.reader())}
        self.events.publish("counts", counts=counts, revision=self.revision)
