"""What trays look at: the newest mail of a place, and which of it asks something."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence


def newest(db: sqlite3.Connection, place: str, most: int) -> list[tuple[int, int, float, int, int, int, str]]:
    """Of the newest messages of a place, newest first: id, time, score, seen, answered, flagged, sender's domain."""
    # The index alone tells how far back they reach: rows are looked up for those that are wanted, and no others.
    each = "SELECT * FROM (SELECT time FROM messages WHERE place = ? AND seen = {} ORDER BY time DESC, id DESC LIMIT ?)"
    (oldest,) = db.execute(
        f"SELECT min(time) FROM (SELECT time FROM ({each.format(0)} UNION ALL {each.format(1)})"
        " ORDER BY time DESC LIMIT ?)",
        (place, most, place, most, most),
    ).fetchone()
    part = (
        "SELECT id, time, score, seen, answered, flagged, sender_domain FROM messages"
        " WHERE place = ? AND seen = {} AND time >= ?"
    )
    return db.execute(
        f"{part.format(0)} UNION ALL {part.format(1)} ORDER BY time DESC, id DESC LIMIT ?",
        (place, oldest, place, oldest, most),
    ).fetchall()


def of(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[int, int, float, int, int, int, str]]:
    """Some messages, wherever they stand, as :func:`newest` gives them."""
    return db.execute(
        "SELECT id, time, score, seen, answered, flagged, sender_domain FROM messages"
        " WHERE id IN (SELECT value FROM json_each(?)) AND place <> 'gone'",
        (json.dumps(list(numbers)),),
    ).fetchall()


def raised(db: sqlite3.Connection) -> set[int]:
    """The mail the owner put on the Desk by hand and has not read since."""
    return {row[0] for row in db.execute("SELECT message FROM raised")}


def no_longer_raised(db: sqlite3.Connection, numbers: Sequence[int]) -> bool:
    """Note that messages were read since they were put on the Desk; whether that is news."""
    among = "DELETE FROM raised WHERE message IN (SELECT value FROM json_each(?))"
    return db.execute(among, (json.dumps(list(numbers)),)).rowcount > 0


def asking(db: sqlite3.Connection, numbers: Sequence[int], question: int) -> set[int]:
    """Those of some messages whose vector has a feature, by its number."""
    # Vectors are numbers of four bytes, little end first: what straddles two of them is none.
    wanted = question.to_bytes(4, "little")
    rows = db.execute(
        "SELECT message, features FROM vectors WHERE message IN (SELECT value FROM json_each(?))"
        " AND instr(features, ?) > 0",
        (json.dumps(list(numbers)), wanted),
    )
    return {number for number, features in rows if _aligned(features, wanted)}


def _aligned(features: bytes, wanted: bytes) -> bool:
    at = features.find(wanted)
    while at >= 0 and at % 4:
        at = features.find(wanted, at + 1)
    return at >= 0
