"""Vectors of another feature version: taken out when a folder is opened, and which are to be made anew."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from hieranome.core.features import FEATURE_VERSION, Vector, pack
from hieranome.store import settings

FEATURES = "features"
"""The setting that says of which version all vectors are, and whether all are there."""


def begin(db: sqlite3.Connection) -> bool:
    """Whether all vectors are there, of today's version. Those of another are taken out: nothing can read them."""
    known = settings.value(db, FEATURES, None)
    if known is None or known["version"] != FEATURE_VERSION:
        taken = db.execute("DELETE FROM vectors WHERE version <> ?", (FEATURE_VERSION,)).rowcount
        known = {"version": FEATURE_VERSION, "whole": taken == 0 and not lessons_left(db, 1)}
        settings.put(db, FEATURES, known)
    return bool(known["whole"])


def end(db: sqlite3.Connection) -> None:
    """Note that all vectors are there."""
    settings.put(db, FEATURES, {"version": FEATURE_VERSION, "whole": True})


def lessons_left(db: sqlite3.Connection, limit: int) -> list[tuple[int, int]]:
    """Lessons whose vectors are of another version, and the messages they are about, as far as those are kept."""
    rows = db.execute(
        "SELECT id, message FROM lessons WHERE feature_version <> ?"
        " AND EXISTS (SELECT 1 FROM raw WHERE raw.message = lessons.message) ORDER BY id DESC LIMIT ?",
        (FEATURE_VERSION, limit),
    )
    return [(row[0], row[1]) for row in rows]


def put_lessons(db: sqlite3.Connection, made: Iterable[tuple[int, Vector]]) -> None:
    """Store other vectors of lessons."""
    db.executemany(
        "UPDATE lessons SET feature_version = ?, features = ? WHERE id = ?",
        [(FEATURE_VERSION, pack(vector), number) for number, vector in made],
    )


_WITHOUT = """
    FROM messages AS m WHERE m.id < ? AND m.decided_by <> 'edition'
    AND NOT EXISTS (SELECT 1 FROM vectors WHERE vectors.message = m.id)
    AND EXISTS (SELECT 1 FROM raw WHERE raw.message = m.id)
"""


def how_many_left(db: sqlite3.Connection) -> int:
    """How many messages have no vector yet."""
    return int(db.execute(f"SELECT count(*) {_WITHOUT}", (2**62,)).fetchone()[0])


def messages_left(db: sqlite3.Connection, below: int, limit: int) -> list[int]:
    """Messages with smaller ids than ``below`` that have no vector yet, the newest first."""
    return [row[0] for row in db.execute(f"SELECT m.id {_WITHOUT} ORDER BY m.id DESC LIMIT ?", (below, limit))]


def put_vectors(db: sqlite3.Connection, made: Iterable[tuple[int, Vector]]) -> None:
    """Store the vectors of messages that have none."""
    db.executemany(
        "INSERT OR IGNORE INTO vectors VALUES (?, ?, ?)",
        [(number, FEATURE_VERSION, pack(vector)) for number, vector in made],
    )
