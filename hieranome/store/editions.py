"""Editions as they were compiled, what stood in them, and what there is to compile."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from hieranome.core.errors import NotFound
from hieranome.store.messages import COLUMNS, FIELDS, Message, as_message


@dataclass(frozen=True, slots=True)
class Edition:
    """One edition: its plan's number and name then, when it was due, how many messages stand in it, when it was read
    (0 while it was not), and the message put on the Desk for it, if one was."""

    id: int
    plan: int
    due: int
    name: str
    messages: int
    read_at: int
    message: int | None


_FIELDS = ", ".join(Edition.__dataclass_fields__)


def candidates(
    db: sqlite3.Connection,
    plan: int,
    *,
    buckets: Sequence[str],
    sources: Sequence[str],
    found: Sequence[int],
    since: int,
    limit: int,
) -> list[tuple[Message, str, str]]:
    """Mail for the next edition of a plan with its Message-ID and its source, newest first: unread, of the buckets, of
    the sources wherever it stands in the band, and among ``found``; later than ``since``, and in none of its editions
    so far."""
    rows = db.execute(
        f"""
        SELECT {COLUMNS}, message_id, source FROM messages AS m WHERE id IN (
            SELECT id FROM messages WHERE place IN (SELECT value FROM json_each(:buckets))
                AND seen = 0 AND time > :since
            UNION SELECT id FROM messages WHERE place IN (SELECT name FROM places WHERE band >= 0)
                AND source IN (SELECT value FROM json_each(:sources)) AND time > :since
            UNION SELECT value FROM json_each(:found))
        AND time > :since AND seen = 0 AND summed IN (0, 2)
        AND NOT EXISTS (SELECT 1 FROM edition_items WHERE plan = :plan AND message = m.id)
        AND NOT EXISTS (SELECT 1 FROM no_edition WHERE message = m.id)
        ORDER BY time DESC, id DESC LIMIT :limit
        """,
        {
            "buckets": json.dumps(list(buckets)),
            "sources": json.dumps(list(sources)),
            "found": json.dumps(list(found)),
            "since": since,
            "plan": plan,
            "limit": limit,
        },
    )
    return [(as_message({name: row[name] for name in FIELDS}), row["message_id"], row["source"]) for row in rows]


def add(
    db: sqlite3.Connection, plan: int, due: int, made_at: int, name: str, content: object, items: Sequence[int]
) -> int:
    """Keep an edition and what stands in it; returns its number."""
    number = db.execute(
        "INSERT INTO editions (plan, due, made_at, name, content, messages) VALUES (?, ?, ?, ?, ?, ?)",
        (plan, due, made_at, name, json.dumps(content, ensure_ascii=False), len(items)),
    ).lastrowid
    assert number is not None
    db.executemany("INSERT INTO edition_items VALUES (?, ?, ?)", [(plan, one, number) for one in items])
    return number


def put_message(db: sqlite3.Connection, number: int, message: int, put: str) -> None:
    """Note the message that stands on the Desk for an edition, and whether a server is to have it."""
    db.execute("UPDATE editions SET message = ?, put = ? WHERE id = ?", (message, put, number))


def recent(db: sqlite3.Connection, before: int, limit: int) -> list[Edition]:
    """Editions with smaller numbers than ``before`` (0: from the newest), newest first."""
    rows = db.execute(
        f"SELECT {_FIELDS} FROM editions WHERE ? = 0 OR id < ? ORDER BY id DESC LIMIT ?", (before, before, limit)
    )
    return [Edition(*row) for row in rows]


def get(db: sqlite3.Connection, number: int) -> tuple[Edition, Any]:
    """One edition with its content as it was kept. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {_FIELDS}, content FROM editions WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no edition {number}. Load the list again.")
    return Edition(*row[:-1]), json.loads(row[-1])


def latest_due(db: sqlite3.Connection, plan: int) -> int:
    """When the latest edition of a plan was due that has any mail; 0 where there is none."""
    return int(db.execute("SELECT coalesce(max(due), 0) FROM editions WHERE plan = ?", (plan,)).fetchone()[0])


def mark_read(db: sqlite3.Connection, number: int, at: int) -> None:
    """Note that an edition was read, unless it was before."""
    db.execute("UPDATE editions SET read_at = ? WHERE id = ? AND read_at = 0", (at, number))


def unread(db: sqlite3.Connection) -> int:
    """How many editions wait to be read, here or as messages."""
    row = db.execute(
        "SELECT count(*) FROM editions AS e LEFT JOIN messages AS m ON m.id = e.message"
        " WHERE e.read_at = 0 AND coalesce(m.seen, 0) = 0"
    ).fetchone()
    return int(row[0])


def of_message(db: sqlite3.Connection, message: int) -> int:
    """The edition a message on the Desk stands for, or 0."""
    row = db.execute("SELECT id FROM editions WHERE message = ?", (message,)).fetchone()
    return int(row[0]) if row else 0


def message_id(db: sqlite3.Connection, message: int) -> str:
    """The Message-ID a message bears; empty where it bears none."""
    row = db.execute("SELECT message_id FROM messages WHERE id = ?", (message,)).fetchone()
    return str(row[0]) if row else ""


def to_put(db: sqlite3.Connection) -> list[tuple[int, int, str]]:
    """(edition, its message, state) of those a server is still to have, oldest first."""
    rows = db.execute("SELECT id, message, put FROM editions WHERE put IN ('wanted', 'begun') ORDER BY id")
    return [(row[0], row[1], row[2]) for row in rows]


def set_put(db: sqlite3.Connection, number: int, put: str) -> None:
    """Note how far an edition's message is on its way to the server."""
    db.execute("UPDATE editions SET put = ? WHERE id = ?", (put, number))


def standing(db: sqlite3.Connection, numbers: Iterable[int]) -> dict[int, tuple[str, bool]]:
    """Where each of some messages stands now, and whether it is read."""
    rows = db.execute(
        "SELECT id, place, seen FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: (row[1], bool(row[2])) for row in rows}
