"""Mail that stands in the band: what a lesson looks for its kin among."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Sequence

from hieranome.store.messages import COLUMNS, Message, as_message

STANDING = 5_000
"""Messages of the band a lesson looks for its kin among."""


def newest(db: sqlite3.Connection) -> list[int]:
    """The newest messages of the band, by their ids: among them a lesson looks for its kin."""
    rows = db.execute(
        "SELECT id FROM messages INDEXED BY messages_by_when"
        " WHERE place IN (SELECT name FROM places WHERE band >= 0)"
        " AND id NOT IN (SELECT message FROM editions WHERE message IS NOT NULL) ORDER BY time DESC, id DESC LIMIT ?",
        (STANDING,),
    )
    return sorted(row[0] for row in rows)


def left_to_the_model(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[int, str]]:
    """Those of some messages that stand where the model or a lesson's pull put them, each with its place."""
    rows = db.execute(
        "SELECT id, place FROM messages WHERE id IN (SELECT value FROM json_each(?))"
        " AND decided_by IN ('model', 'kin')",
        (json.dumps(list(numbers)),),
    )
    return [(row[0], row[1]) for row in rows]


def newest_left_to_the_model(
    db: sqlite3.Connection, most: int, without: Collection[str], quiet: Collection[str]
) -> list[int]:
    """The newest messages that stand where the model or a lesson's pull put them; those from some addresses and those
    in ``quiet`` places left out."""
    rows = db.execute(
        "SELECT id FROM messages INDEXED BY messages_by_when WHERE decided_by IN ('model', 'kin')"
        " AND place NOT IN (SELECT value FROM json_each(?)) AND sender_address NOT IN (SELECT value FROM json_each(?))"
        " ORDER BY time DESC, id DESC LIMIT ?",
        (json.dumps(list(quiet)), json.dumps(list(without)), most),
    )
    return [row[0] for row in rows]


_OFFERED = """
    place = ? AND decided_by IN ('model', 'kin') AND time > ? AND flagged = 0 AND answered = 0
    AND id NOT IN (SELECT message FROM left_standing)
    AND EXISTS (SELECT 1 FROM vectors WHERE message = id)
"""


def surely_above(db: sqlite3.Connection, place: str, bound: float, since: int, limit: int) -> list[Message]:
    """Mail of a place the model put there whose whole band of doubt lies above a bound by now, the surest first."""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {_OFFERED} AND seen IN (0, 1) AND score >= ? AND low_edge >= ?"
        " ORDER BY certainty DESC, time, id LIMIT ?",
        (place, since, bound, bound, limit),
    )
    return [as_message(row) for row in rows]


def surely_below(db: sqlite3.Connection, place: str, bound: float, since: int, limit: int) -> list[Message]:
    """Mail of a place the model put there whose whole band of doubt lies below a bound by now, the surest first."""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {_OFFERED} AND seen IN (0, 1) AND score < ? AND high_edge < ?"
        " ORDER BY certainty DESC, time, id LIMIT ?",
        (place, since, bound, bound, limit),
    )
    return [as_message(row) for row in rows]


def leave(db: sqlite3.Connection, number: int) -> None:
    """Note that a message may stay where it stands."""
    db.execute("INSERT OR IGNORE INTO left_standing VALUES (?)", (number,))


def questions(db: sqlite3.Connection) -> list[int]:
    """The messages the model asks about, that nobody decided on and that did not leave once before; those among them
    that a topic asked about whose tag is gone by now."""
    rows = db.execute(
        "SELECT id FROM messages AS m WHERE place = 'undecided' AND (decided_by IN ('model', 'kin')"
        " OR (decided_by = 'topic' AND NOT EXISTS (SELECT 1 FROM topic_found AS f JOIN topics AS t ON t.id = f.topic"
        " JOIN tags AS g ON g.id = t.tag WHERE f.message = m.id AND t.removed = 0 AND g.removed = 0)))"
        " AND EXISTS (SELECT 1 FROM vectors WHERE message = m.id) AND NOT EXISTS (SELECT 1 FROM moves AS v"
        " JOIN steps AS s ON s.id = v.step WHERE v.message = m.id AND s.kind = 'learned') ORDER BY id LIMIT 200"
    )
    return [row[0] for row in rows]


def alike(db: sqlite3.Connection, column: str, values: Sequence[str | int], limit: int) -> list[Message]:
    """Standing messages of the band of a thread, sender, list or domain, newest first."""
    if column not in ("thread", "sender_address", "list_id", "sender_domain"):
        raise ValueError(column)
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {column} IN (SELECT value FROM json_each(?))"
        " AND place IN (SELECT name FROM places WHERE band >= 0) ORDER BY id DESC LIMIT ?",
        (json.dumps(list(values)), limit),
    )
    return [as_message(row) for row in rows]
