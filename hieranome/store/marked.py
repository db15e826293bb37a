"""Marks of messages: seen, answered, flagged."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence


def mark(db: sqlite3.Connection, numbers: Iterable[int], name: str, wanted: bool) -> list[int]:
    """Set or clear ``seen``, ``answered`` or ``flagged``; returns the messages that changed."""
    _check(name)
    changed = db.execute(
        f"UPDATE messages SET {name} = ? WHERE {name} <> ? AND id IN (SELECT value FROM json_each(?)) RETURNING id",
        (wanted, wanted, json.dumps(list(numbers))),
    )
    return [row[0] for row in changed.fetchall()]


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
