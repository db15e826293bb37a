"""What was asked of senders so that they write no more, and what came of it."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

Asked = Literal["post", "mailto"]
"""The ways of asking: one request without a page, or a message."""
Outcome = Literal["asked", "accepted", "page", "failed", "unreached", "sent"]
"""What came of it: not known yet, taken, a page that wants a person, refused, no answer, or put in the outbox."""
HELD: tuple[Outcome, ...] = ("accepted", "sent")
"""Outcomes after which a sender should write no more."""


@dataclass(frozen=True, slots=True)
class Request:
    """One request: about which source, when (Unix seconds), by which way, of whom, its outcome and that in words."""

    id: int
    source: str
    at: int
    way: Asked
    target: str
    outcome: Outcome
    words: str


_FIELDS = ", ".join(Request.__dataclass_fields__)


def add(db: sqlite3.Connection, source: str, at: int, way: Asked, target: str) -> int:
    """Note a request that is about to be made; its number."""
    number = db.execute(
        "INSERT INTO unsubscribed (source, at, way, target) VALUES (?, ?, ?, ?)", (source, at, way, target)
    ).lastrowid
    assert number is not None
    return number


def finish(db: sqlite3.Connection, number: int, outcome: Outcome, words: str) -> None:
    """Note what came of a request."""
    db.execute("UPDATE unsubscribed SET outcome = ?, words = ? WHERE id = ?", (outcome, words, number))


def of_source(db: sqlite3.Connection, source: str) -> list[Request]:
    """All requests about a list or sender, newest first."""
    rows = db.execute(f"SELECT {_FIELDS} FROM unsubscribed WHERE source = ? ORDER BY id DESC", (source,))
    return [Request(*row) for row in rows]


def every(db: sqlite3.Connection) -> list[Request]:
    """All requests, oldest first."""
    return [Request(*row) for row in db.execute(f"SELECT {_FIELDS} FROM unsubscribed ORDER BY id")]


def held(db: sqlite3.Connection) -> dict[str, int]:
    """When each list or sender was last asked with success to write no more."""
    marks = ", ".join("?" * len(HELD))
    rows = db.execute(
        f"SELECT source, max(at) FROM unsubscribed WHERE outcome IN ({marks}) GROUP BY source", HELD
    ).fetchall()
    return {row[0]: row[1] for row in rows}


def came_since(db: sqlite3.Connection, source: str, since: int) -> int:
    """How much mail of a list or sender is dated later than ``since`` (Unix seconds)."""
    row = db.execute(
        "SELECT count(*) FROM messages WHERE place IN (SELECT name FROM places) AND source = ? AND time > ?",
        (source, since),
    ).fetchone()
    return int(row[0])
