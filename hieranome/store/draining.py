"""How long mail stands in the Drain, and what is to leave it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hieranome.store import settings
from hieranome.store.messages import COLUMNS, Message, as_message

KEPT_DAYS = 30
"""Days mail stays in the Drain, unless the owner says otherwise."""


def kept_days(db: sqlite3.Connection) -> int:
    """For how many days mail stays in the Drain; 0 for good."""
    return int(settings.value(db, settings.DRAIN_DAYS, KEPT_DAYS))


def date(db: sqlite3.Connection, now: int) -> int:
    """Note that what came into the Drain since the last look stands there from now on; how many."""
    return db.execute("UPDATE draining SET since = ? WHERE since = 0", (now,)).rowcount


def undated(db: sqlite3.Connection) -> bool:
    """Whether anything came into the Drain since the last look."""
    return db.execute("SELECT 1 FROM draining WHERE since = 0 LIMIT 1").fetchone() is not None


def due(db: sqlite3.Connection, until: int) -> list[int]:
    """What stands there since ``until`` or longer and is not flagged, the longest first."""
    rows = db.execute(
        "SELECT d.message FROM draining AS d JOIN messages AS m ON m.id = d.message"
        " WHERE d.since BETWEEN 1 AND ? AND m.flagged = 0 ORDER BY d.since, d.message",
        (until,),
    )
    return [row[0] for row in rows]


def how_many_due(db: sqlite3.Connection, until: int) -> int:
    """How many stand there since ``until`` or longer and are not flagged."""
    row = db.execute(
        "SELECT count(*) FROM draining AS d JOIN messages AS m ON m.id = d.message"
        " WHERE d.since BETWEEN 1 AND ? AND m.flagged = 0",
        (until,),
    ).fetchone()
    return int(row[0])


def since(db: sqlite3.Connection, numbers: Iterable[int]) -> dict[int, int]:
    """Since when each of some messages stands in the Drain, where it does; 0 for what came since the last look."""
    rows = db.execute(
        "SELECT message, since FROM draining WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: row[1] for row in rows}


_DOUBTED = "place = 'drain' AND (likely <> 'drain' OR high_edge >= ?)"


def weight(db: sqlite3.Connection, edge: float) -> tuple[int, int, int, int]:
    """Of the mail in the Drain: how many messages, their bytes, how many are doubted (see :func:`doubted`), and the
    newest by its id."""
    row = db.execute(
        f"SELECT count(*), coalesce(sum(size), 0), coalesce(sum({_DOUBTED}), 0), coalesce(max(id), 0)"
        " FROM messages WHERE place = 'drain'",
        (edge,),
    ).fetchone()
    return int(row[0]), int(row[1]), int(row[2]), int(row[3])


def doubted(db: sqlite3.Connection, edge: float, limit: int) -> list[Message]:
    """The mail in the Drain of which it is doubtful that it belongs there, by sender: the model would put it in another
    low bucket now, or its importance may be as much as ``edge``, in [0, 1]."""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {_DOUBTED} ORDER BY sender_name, sender_address, time DESC LIMIT ?",
        (edge, limit),
    )
    return [as_message(row) for row in rows]


def all_upto(db: sqlite3.Connection, newest: int) -> list[int]:
    """The mail in the Drain up to an id."""
    rows = db.execute("SELECT id FROM messages WHERE place = 'drain' AND id <= ? ORDER BY id", (newest,))
    return [row[0] for row in rows]
