"""Marks of messages: seen, answered, flagged."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hieranome.core.actors import HABITS, Actor


def mark(db: sqlite3.Connection, numbers: Iterable[int], name: str, wanted: bool, by: Actor | None = None) -> list[int]:
    """Set or clear ``seen``, ``answered`` or ``flagged``; returns the messages that changed. ``by`` is who marks them
    read; left out, whoever did so last."""
    _check(name)
    whose = ", seen_by = ?4" if name == "seen" and wanted and by else ""
    changed = db.execute(
        f"UPDATE messages SET {name} = ?1{whose} WHERE {name} <> ?2 AND id IN (SELECT value FROM json_each(?3))"
        " RETURNING id",
        (wanted, wanted, json.dumps(list(numbers)), *([by] if whose and by else [])),
    )
    return [row[0] for row in changed.fetchall()]


def read_as_habit(db: sqlite3.Connection, numbers: Iterable[int]) -> list[int]:
    """Those of some messages of which the owner's own doing, here or elsewhere, was the last that marked them read."""
    rows = db.execute(
        "SELECT id FROM messages WHERE id IN (SELECT value FROM json_each(?1))"
        " AND seen_by IN (SELECT value FROM json_each(?2))",
        (json.dumps(list(numbers)), json.dumps(sorted(HABITS))),
    )
    return [row[0] for row in rows]


def unmarked(db: sqlite3.Connection, numbers: Sequence[int], name: str) -> list[int]:
    """Those of some messages that do not bear a mark."""
    _check(name)
    rows = db.execute(
        f"SELECT id FROM messages WHERE id IN (SELECT value FROM json_each(?)) AND {name} = 0 ORDER BY id",
        (json.dumps(list(numbers)),),
    )
    return [row[0] for row in rows]


def _check(name: str) -> None:
    if name not in ("seen", "answered", "flagged"):
        raise ValueError(name)
