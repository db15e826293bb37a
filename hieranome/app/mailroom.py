"""The mailroom: one owner's store, engine, sums and events, held together."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict
from pathlib import Path

import numpy as np

from hieranome.app.events import Events
from hieranome.app.vectors import Vectors
from hieranome.core.buckets import Costs
from hieranome.core.engine import Engine, Judgement, Weighed
from hieranome.core.facts import Owner
from hieranome.core.gaussian import Rows
from hieranome.core.groups import Context
from hieranome.core.relations import Relations, Sums
from hieranome.core.routing import WINDOW, Asking
from hieranome.core.sure import SHARED_DOMAINS
from hieranome.core.vouched import Vouched
from hieranome.store import Database, lessons, messages, places, settings, vouched

Clock = Callable[[], int]
SCORE_STEP = 0.001
CERTAINTY_STEP = 0.01
"""Changes of importance and certainty smaller than these are not written to standing rows."""


def wall_clock() -> int:
    """Unix seconds now."""
    return int(time.time())


class Mailroom:
    """Everything a use case needs. All changes are made while holding ``changing``.

    ``bindings`` tells whether anything was said for sure beyond single messages; ``confirmed`` are the
    authserv-ids whose results are believed, ``shared`` the domains many unrelated people write from;
    ``behind`` says that a lesson was undone which the model still holds; ``kin_follow`` that kin follow a lesson
    unasked.
    ``revision`` grows whenever scores of standing messages change; page cursors are told about it.
    """

    def __init__(self, folder: Path, clock: Clock = wall_clock) -> None:
        self.clock = clock
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
        self.vouched: list[Vouched] = []
        self.confirmed: frozenset[str] = frozenset()
        self.shared = SHARED_DOMAINS
        self.kin_follow = False
        self.behind = False
        self.vectors = Vectors()
        self.load()

    def load(self) -> None:
        """Bring engine, sums and memory of questions to what the store says."""
        with self.changing, self.store.atomic() as db:
            self.vectors.clear()
            self.owner = settings.owner(db)
            self.relations = settings.relations(db)
            self.asking = Asking(messages.recent_questions(db, WINDOW))
            self.engine = Engine(places.buckets(db))
            self.engine.learn_all(lessons.teaching(db))
            self.behind = False
            self.load_sure(db)

    def close(self) -> None:
        """Close the store."""
        self.store.close()

    def reader(self) -> sqlite3.Connection:
        """A read-only connection for this thread."""
        return self.store.reader()

    def set_owner(self, addresses: Iterable[str]) -> None:
        """Set the addresses the owner receives mail at."""
        with self.changing, self.store.atomic() as db:
            settings.set_owner(db, addresses)
            self.owner = settings.owner(db)

    def load_sure(self, db: sqlite3.Connection) -> None:
        """Bring what is known for sure, and the settings about it, to what the store says."""
        self.vouched = vouched.every(db)
        self.confirmed = settings.names(db, settings.CONFIRMED)
        self.shared = SHARED_DOMAINS | settings.names(db, settings.SHARED)
        self.kin_follow = bool(settings.value(db, settings.KIN_FOLLOW, False))
        self.bindings = bool(self.vouched) or lessons.any_binding(db)

    def context(self, thread_has_mine: bool, *, forged: bool = False, alike: bool = False) -> Context:
        """What features of a message may look at besides its facts."""
        return Context(self.owner, self.relations, thread_has_mine, forged, alike)

    def count(self, db: sqlite3.Connection, added: Iterable[tuple[str, Sums]], sign: int = 1) -> None:
        """Add observations to the sums, in memory and in the store."""
        together: dict[str, Sums] = {}
        for key, seen in added:
            self.relations.add(key, seen, sign)
            together.setdefault(key, Sums()).add(seen, sign)
        settings.add_sums(db, together.items())

    def tell_arrived(self, row: messages.Message) -> None:
        """Publish that a message arrived."""
        self.events.publish("arrived", message=asdict(row))

    def tell_moved(self, step: int, moved: Sequence[int]) -> None:
        """Publish that a step moved or marked messages, and the counts after it."""
        self.events.publish("moved", step=step, messages=list(moved)[:100], revision=self.revision)
        self.tell_counts()

    def tell_counts(self) -> None:
        """Publish the counts of all places."""
        counts = {p.name: [p.total, p.unread] for p in places.every(self.reader())}
        self.events.publish("counts", counts=counts, revision=self.revision)


def score_of(number: int, judgement: Judgement) -> messages.Score:
    """The stored numbers of a judgement."""
    low, high = judgement.band
    return messages.Score(number, judgement.importance, low, high, judgement.certainty, judgement.likely)


def rescore_rows(db: sqlite3.Connection, engine: Engine, numbers: Sequence[int], rows: Rows) -> Weighed:
    """Judge messages, at least one, and write the numbers that changed visibly; returns what was found."""
    found = engine.weigh(rows)
    likely, (low, high) = found.likely, found.edges
    stored = messages.scores(db, numbers)
    score, certainty = np.array([(one[0], one[1]) for one in stored]).T
    moved = (np.abs(score - found.importance) > SCORE_STEP) | (np.abs(certainty - found.certainty) > CERTAINTY_STEP)
    relabelled = np.array([was[2] != now for was, now in zip(stored, likely, strict=True)])
    changed = np.flatnonzero(moved | relabelled)
    at = changed.tolist()
    columns = (column[changed].tolist() for column in (found.importance, low, high, found.certainty))
    messages.rescore(db, map(messages.Score, [numbers[i] for i in at], *columns, [likely[i] for i in at]))
    return found


def rescore_in_sight(room: Mailroom, db: sqlite3.Connection) -> None:
    """Bring the scores of what the owner sees first up to the model; the others follow behind
    (:class:`hieranome.app.background.Rescorer`)."""
    numbers = messages.in_sight(db)
    if numbers:
        rescore_rows(db, room.engine, numbers, Rows.stacked(room.vectors.of(db, numbers)))
