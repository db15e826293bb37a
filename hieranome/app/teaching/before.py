"""What was so before a lesson, to be compared with what follows from it."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.reading.placement import examine
from hieranome.app.reading.processes import reading_of
from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.contrary import Contrary, contrary_to
from hieranome.app.teaching.kin import MAX_COMPARED, Like
from hieranome.core.evidence import Line, explain, shifted
from hieranome.core.features import Vector
from hieranome.core.sure import TEACHES, Reach
from hieranome.store import lessons, messages, threads
from hieranome.store.lessons import LessonRecord
from hieranome.store.messages import Message

MAX_CHANGES = 4
"""Lines of evidence told that a lesson changed."""


@dataclass(frozen=True, slots=True)
class Effect:
    """What a verdict did to one message: its importance in [0, 1] before and after."""

    message: int
    before: float
    after: float


@dataclass(frozen=True, slots=True)
class Change:
    """A line of evidence a lesson changed: what it says now, what it contributed before, the lesson it is about."""

    line: Line
    before: float
    lesson: LessonRecord | None


class _Evidence:
    """The evidence of one message before a lesson, to be compared with what it is afterwards."""

    def __init__(self, room: Mailroom, db: sqlite3.Connection, row: Message) -> None:
        self._room = room
        self._vector = vector_of(room, db, row.id)
        self._facts = reading_of(messages.raw(db, row.id)).facts
        self._context = examine(room, db, self._facts, row.id).context(room, threads.has_mine(db, row.thread))
        self._before = self._lines()

    def _lines(self) -> list[Line]:
        every = len(self._room.engine)
        return explain(self._room.engine, self._vector, self._facts, self._context, named=every)

    def changes(self, db: sqlite3.Connection) -> list[Change]:
        """What changed most since."""
        found = shifted(self._before, self._lines())[:MAX_CHANGES]
        return [Change(line, was, lessons.record(db, line.lesson) if line.lesson else None) for line, was in found]


@dataclass(frozen=True, slots=True)
class Before:
    """What was so before a lesson, to be compared with what follows from it."""

    vectors: dict[int, Vector]
    importance: dict[int, float]
    like: Like | None
    weighed: _Evidence | None
    contrary: list[Contrary]

    @classmethod
    def of(cls, room: Mailroom, db: sqlite3.Connection, rows: list[Message], belongs: str, reach: Reach) -> Before:
        """Look at the messages of a lesson; at what it teaches only where it does."""
        vectors = {row.id: vector_of(room, db, row.id) for row in rows}
        teaches = reach in TEACHES
        return cls(
            vectors,
            {number: room.engine.judge(vector).importance for number, vector in vectors.items()},
            Like(room, db, list(vectors.values())[:MAX_COMPARED]) if teaches else None,
            _Evidence(room, db, rows[0]) if teaches and len(rows) == 1 else None,
            contrary_to(room, db, vectors, belongs) if teaches else [],
        )

    def effects(self, now: Sequence[float]) -> list[Effect]:
        """What the lesson did to each message, given the importances now."""
        return [Effect(n, self.importance[n], after) for n, after in zip(self.vectors, now, strict=True)]
