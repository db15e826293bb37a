"""The away notice, and whom it went to."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, astuple, dataclass

from hieranome.core.away import Away, Circle
from hieranome.store import settings


@dataclass(frozen=True, slots=True)
class Told:
    """Somebody who got a notice: when (Unix seconds), of which circle, in which language (empty: the text for every
    other), for which message, and why a server did not take it (empty: it did)."""

    person: str
    at: int
    circle: str
    language: str
    message: int | None
    failed: str


def get(db: sqlite3.Connection) -> Away:
    """The notice as it is set."""
    kept = settings.value(db, settings.AWAY, None)
    if kept is None:
        return Away()
    return Away(**{**kept, "circles": tuple(Circle(**one) for one in kept["circles"])})


def put(db: sqlite3.Connection, away: Away) -> None:
    """Keep the notice."""
    settings.put(db, settings.AWAY, asdict(away))


def told_since(db: sqlite3.Connection, person: str, since: int) -> bool:
    """Whether a person got a notice since some time."""
    row = db.execute("SELECT 1 FROM away_told WHERE person = ? AND at > ? LIMIT 1", (person, since)).fetchone()
    return row is not None


def note(db: sqlite3.Connection, told: Told, message_id: str) -> None:
    """Note that a notice goes to somebody, or why it does not."""
    db.execute(
        "INSERT INTO away_told (person, at, circle, language, message, failed, message_id)"
        " VALUES (?, ?, ?, ?, ?, ?, ?)",
        (*astuple(told), message_id),
    )


def note_failed(db: sqlite3.Connection, message_id: str, why: str) -> None:
    """Note that a server did not take a notice."""
    db.execute("UPDATE away_told SET failed = ? WHERE message_id = ?", (why, message_id))


def count_since(db: sqlite3.Connection, since: int) -> int:
    """How many notices went since some time."""
    return int(db.execute("SELECT count(*) FROM away_told WHERE at > ?", (since,)).fetchone()[0])


def told(db: sqlite3.Connection, most: int) -> list[Told]:
    """Who got a notice, the latest first."""
    rows = db.execute(
        "SELECT person, at, circle, language, message, failed FROM away_told ORDER BY at DESC, id DESC LIMIT ?", (most,)
    )
    return [Told(*row) for row in rows]


def received_since(db: sqlite3.Connection, since: int, most: int) -> list[int]:
    """The ids of received mail since some time, newest first."""
    rows = db.execute(
        "SELECT id FROM messages INDEXED BY messages_by_when WHERE time >= ? AND decided_by NOT IN ('own', 'edition')"
        " AND place <> 'gone' ORDER BY time DESC LIMIT ?",
        (since, most),
    )
    return [row[0] for row in rows]
