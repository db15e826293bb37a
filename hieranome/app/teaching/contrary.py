"""Earlier lessons about mail like a corrected message that say otherwise."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.kin import MAX_COMPARED
from hieranome.core.features import Vector
from hieranome.store import lessons

CONTRARY_LIKENESS = 0.6
"""How like an earlier lesson's message must be for a verdict to contradict it."""


@dataclass(frozen=True, slots=True)
class Contrary:
    """Earlier lessons about mail like this that say otherwise: the bucket, how many, the latest's time."""

    belongs: str
    count: int
    latest: int


def contrary_to(room: Mailroom, db: sqlite3.Connection, own: dict[int, Vector], belongs: str) -> list[Contrary]:
    """What earlier lessons about such mail say, where it is something else."""
    found = {
        lesson.id
        for vector in list(own.values())[:MAX_COMPARED]
        for lesson in room.engine.like_lessons(vector, CONTRARY_LIKENESS)
        if lesson.belongs != belongs
    }
    said = lessons.latest_of(db, sorted(found)) if found else {}
    return [Contrary(bucket, count, latest) for bucket, (count, latest) in said.items()]
