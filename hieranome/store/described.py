"""What stored messages say of themselves, looked up afterwards."""

from __future__ import annotations

import sqlite3
import zlib


def raws_between(db: sqlite3.Connection, after: int, last: int, limit: int) -> list[tuple[int, bytes]]:
    """The messages that came after one, up to another, oldest first: the id and the bytes of each."""
    rows = db.execute(
        "SELECT message, zlib FROM raw WHERE message > ? AND message <= ? ORDER BY message LIMIT ?",
        (after, last, limit),
    )
    return [(row[0], zlib.decompress(row[1])) for row in rows]


def describe(db: sqlite3.Connection, number: int, *, bulk: bool, automatic: bool, reached: str) -> None:
    """Note what a message says of itself, and the owner's address it came to, where it is not noted so already."""
    db.execute(
        "UPDATE messages SET bulk = ?1, automatic = ?2, reached = ?3 WHERE id = ?4"
        " AND (bulk, automatic, reached) <> (?1, ?2, ?3)",
        (bulk, automatic, reached, number),
    )
