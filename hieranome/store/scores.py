"""Scores of standing mail: read, written anew, and what is asked about."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hieranome.core.features import Vector, unpack

IN_SIGHT = 60
"""Messages of a place, in each of its orders, that are rescored at once after a lesson; the rest follows behind."""


@dataclass(frozen=True, slots=True)
class Score:
    """New numbers of one message."""

    message: int
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str


def in_sight(db: sqlite3.Connection) -> list[int]:
    """The messages a lesson rescores at once, oldest first: of every place of the band the most important and the
    newest, read and unread."""
    part = (
        "SELECT id FROM (SELECT id FROM messages WHERE place = ? AND seen = ? ORDER BY {} DESC, id DESC LIMIT ?)"
        " WHERE id NOT IN (SELECT message FROM editions WHERE message IS NOT NULL)"
    )
    found: set[int] = set()
    for (place,) in db.execute("SELECT name FROM places WHERE band >= 0 AND total > 0").fetchall():
        for column in ("score", "time"):
            for seen in (0, 1):
                found.update(row[0] for row in db.execute(part.format(column), (place, seen, IN_SIGHT)))
    return sorted(found)


def weighed(db: sqlite3.Connection, numbers: Sequence[int]) -> list[int]:
    """Those of some messages that are weighed at all, in their order."""
    rows = db.execute(
        "SELECT message FROM vectors WHERE message IN (SELECT value FROM json_each(?))", (json.dumps(list(numbers)),)
    )
    have = {row[0] for row in rows}
    return [number for number in numbers if number in have]


def chunk_below(db: sqlite3.Connection, below: int, size: int, *, band: bool) -> tuple[list[int], list[Vector]]:
    """The next ``size`` weighed messages with smaller ids, newest first: those of the band, or all others. They are
    read in the order of their ids: by the index of places each call would read all of them."""
    which = "IN" if band else "NOT IN"
    rows = db.execute(
        f"""
        SELECT m.id, v.features FROM messages AS m JOIN vectors AS v ON v.message = m.id
        WHERE m.id < ? AND +m.place {which} (SELECT name FROM places WHERE band >= 0)
            AND +m.place NOT IN ('sent', 'drafts', 'gone') ORDER BY m.id DESC LIMIT ?
        """,
        (below, size),
    ).fetchall()
    return [row[0] for row in rows], [unpack(row[1]) for row in rows]


def standing(db: sqlite3.Connection) -> int:
    """How many messages may have to be scored anew, at most."""
    (total,) = db.execute("SELECT sum(total) FROM places WHERE name NOT IN ('sent', 'drafts', 'gone')").fetchone()
    return int(total or 0)


def scores(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[float, float, str]]:
    """(score, certainty, likely low bucket) of each of some messages that exist."""
    rows = db.execute(
        "SELECT id, score, certainty, likely FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    ).fetchall()
    found = {number: (score, certainty, likely) for number, score, certainty, likely in rows}
    return [found[number] for number in numbers]


def rescore(db: sqlite3.Connection, scores: Iterable[Score]) -> None:
    """Write new numbers."""
    db.executemany(
        "UPDATE messages SET score = ?, low_edge = ?, high_edge = ?, certainty = ?, likely = ? WHERE id = ?",
        [(s.score, s.low_edge, s.high_edge, s.certainty, s.likely, s.message) for s in scores],
    )


def recent_questions(db: sqlite3.Connection, window: int) -> list[bool]:
    """Whether each of the last messages was asked about when it came, oldest first."""
    rows = db.execute(
        "SELECT asked FROM messages WHERE place <> 'sent' AND decided_by <> 'edition' ORDER BY id DESC LIMIT ?",
        (window,),
    ).fetchall()
    return [bool(row[0]) for row in reversed(rows)]


def received_since(db: sqlite3.Connection, since: int, limit: int) -> list[tuple[bool, Vector]]:
    """The newest mail of others dated later than ``since`` (Unix seconds): whether it is known to be good (it was
    answered, or the owner put it elsewhere than in the Drain), and its vector."""
    rows = db.execute(
        "SELECT m.answered = 1 OR (m.decided_by = 'verdict' AND m.place <> 'drain'), v.features"
        " FROM messages AS m INDEXED BY messages_by_when JOIN vectors AS v ON v.message = m.id"
        " WHERE m.time > ? AND m.summed >= 0 ORDER BY m.time DESC, m.id DESC LIMIT ?",
        (since, limit),
    )
    return [(bool(row[0]), unpack(row[1])) for row in rows]


def note_asked(db: sqlite3.Connection, number: int) -> None:
    """Note that the owner is asked about a message that came earlier."""
    db.execute("UPDATE messages SET asked = 1 WHERE id = ?", (number,))


def to_weigh(db: sqlite3.Connection, first: int, most: int) -> list[sqlite3.Row]:
    """Received mail from an id on, as it is weighed again: sender, place, marks, time, score, whether its thread holds
    the owner's own mail, and its vector."""
    return db.execute(
        """
        SELECT m.id, m.sender_address, m.sender_name, m.list_id, m.place, m.decided_by, m.seen, m.answered, m.time,
               m.flagged, m.score, t.mine, v.features
        FROM messages AS m JOIN vectors AS v ON v.message = m.id JOIN threads AS t ON t.id = m.thread
        WHERE m.id >= ? AND m.place NOT IN ('sent', 'gone') ORDER BY m.id LIMIT ?
        """,
        (first, most),
    ).fetchall()


def newest_weighed(db: sqlite3.Connection, first: int, most: int) -> list[sqlite3.Row]:
    """The newest of the received mail from an id on, oldest first, with its vector."""
    return db.execute(
        """
        SELECT * FROM (
            SELECT m.id, m.time, m.seen, m.place, m.decided_by, v.features FROM messages AS m
            JOIN vectors AS v ON v.message = m.id
            WHERE m.id >= ? AND m.place NOT IN ('sent', 'gone') ORDER BY m.time DESC LIMIT ?)
        ORDER BY time
        """,
        (first, most),
    ).fetchall()


def put_vectors(db: sqlite3.Connection, changed: Iterable[tuple[bytes, int]]) -> None:
    """Store other vectors of messages: (packed, id)."""
    db.executemany("UPDATE vectors SET features = ? WHERE message = ?", changed)
