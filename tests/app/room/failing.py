"""Changes that fail at each of their statements in turn, and what must hold after each."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import Any

import numpy as np

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.vectors import Vectors
from hieranome.app.rules import keeping
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.topics.learning import active
from hieranome.core.engine import Engine
from hieranome.core.errors import HieranomeError
from hieranome.core.gaussian import Rows
from hieranome.core.sure import Reach
from hieranome.store import addresses as said
from hieranome.store import messages, places, scores, settings, silences
from tests.support import NOON, QUICK, RoomCase, letter, offer

PROGRESS = ("running",)
"""What tells how far a change under way is, before it is made."""
MOST = 400
"""Statements of one change, at the most."""


class Failing:
    """A connection whose n-th statement fails, the commit counted as one."""

    def __init__(self, real: sqlite3.Connection, fails_at: int) -> None:
        self._real, self._left = real, fails_at
        self.failed = False

    def _count(self, statement: str) -> None:
        if statement.startswith(("ROLLBACK", "SAVEPOINT", "RELEASE")):
            return
        self._left -= 1
        if self._left == 0:
            self.failed = True
            raise sqlite3.OperationalError("disk I/O error")

    def execute(self, statement: str, *values: Any) -> sqlite3.Cursor:
        self._count(statement)
        return self._real.execute(statement, *values)

    def executemany(self, statement: str, values: Any) -> sqlite3.Cursor:
        self._count(statement)
        return self._real.executemany(statement, values)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._real, name)


class FailingCase(RoomCase):
    """A room with lessons, bindings, kin and a question, to which changes are made that fail."""

    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(n)) for n in range(8)]
        self.letters = [self.take(letter(f"Letter {n}", at=NOON + n)) for n in range(5)]
        correct(self.room, [self.offers[0]], "digest")
        correct(self.room, [self.letters[0]], "desk", Reach.ADDRESS)
        vouching.vouch(self.room, "address", "ilse@hall.example")

    def memory(self, room: Mailroom) -> dict[str, Any]:
        """What a room holds in memory, as values."""
        probes = Rows.stacked([messages.vectors(room.store.reader(), [n])[n] for n in (*self.offers, *self.letters)])
        found = room.engine.weigh(probes)
        return {
            "lessons": room.engine.lesson_ids,
            "silences": room.engine.silence_ids,
            "buckets": room.engine.buckets,
            "importance": np.round(found.importance, 9).tolist(),
            "sums": sorted((key, str(sums)) for key, sums in room.relations.items()),
            "asking": room.asking.past,
            "owner": room.owner,
            "vouched": room.vouched,
            "bindings": room.bindings,
            "follow": room.kin_follow,
            "costs": room.costs,
            "rules": [one.rule for one in keeping.reads(room)],
            "topics": [(one.kept, np.round(one.topic.score_all(probes), 9).tolist()) for one in active(room)],
        }

    def told_by_the_store(self) -> dict[str, Any]:
        """What memory would be, were it built from the store now."""
        real, room = self.room, Mailroom.__new__(Mailroom)
        room.__dict__.update(real.__dict__)
        room.rules, room.topics, room.vectors = None, None, Vectors()
        room.engine = Engine(places.buckets(real.store.reader()), said.purposes(real.store.reader()))
        db = real.store.reader()
        room.engine.learn_all(silences.given(db))
        room.relations = settings.relations(db)
        room.asking = type(real.asking)(scores.recent_questions(db, 200))
        room.owner = settings.owner(db)
        room.load_sure(db)
        return self.memory(room)

    def dump(self) -> list[str]:
        """All that is stored."""
        return [line for line in self.room.store.reader().iterdump() if "words_index" not in line]

    def let_fail(self, change: Callable[[], object], fails_at: int) -> Failing:
        """Let a change fail at one of its statements; the connection, which knows whether it came to that."""
        real = self.room.store._writer
        failing = Failing(real, fails_at)
        self.room.store._writer = failing  # type: ignore[assignment]
        try:
            change()
        except (sqlite3.Error, HieranomeError):
            pass
        finally:
            self.room.store._writer = real
        return failing

    def try_every_failure(self, change: Callable[[], object], *, spans: bool = False) -> None:
        """Let a change fail at each of its statements in turn, until none is left to fail. With ``spans`` it is made in
        several transactions, of which each is whole."""
        before, stored = self.memory(self.room), self.dump()
        self.assertEqual(before, self.told_by_the_store())
        for fails_at in range(1, MOST, 4 if QUICK else 1):
            last = self.room.events.latest
            failing = self.let_fail(change, fails_at)
            with self.subTest(statement=fails_at):
                if failing.failed and not spans:
                    # Both as they were, when they agreed: so they agree.
                    with self.room.steady():
                        self.assertEqual(self.memory(self.room), before)
                    self.assertEqual(self.dump(), stored)
                    told = [one.kind for one in self.room.events.since(last) or []]
                    self.assertEqual([kind for kind in told if kind not in PROGRESS], [])
                else:
                    with self.room.steady():
                        self.assertEqual(self.memory(self.room), self.told_by_the_store())
            if not failing.failed:
                self.assertNotEqual(self.dump(), stored, "the change changed nothing")
                self.assertTrue(fails_at > 2)
                return
        self.fail(f"a change of more than {MOST} statements")
