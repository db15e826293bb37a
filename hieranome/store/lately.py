"""What happened since the owner last looked: counted, for the page to tell."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.buckets import UNDECIDED
from hieranome.store import messages


@dataclass(frozen=True, slots=True)
class Lately:
    """What came and where it stands, how much of it is asked about, how many lessons were given, how many messages
    followed as kin, and the newest message there is."""

    newest: int
    places: list[tuple[str, int]]
    asked: int
    lessons: int
    followed: int

    @property
    def came(self) -> int:
        """How many messages came."""
        return sum(count for _, count in self.places)


def came_between(db: sqlite3.Connection, since: int, until: int) -> list[tuple[str, int]]:
    """How much mail dated later than ``since`` up to ``until`` (Unix seconds) stands in each place, but for what the
    owner wrote."""
    rows = db.execute(
        "SELECT place, count(*) FROM messages INDEXED BY messages_by_when WHERE time > ? AND time <= ?"
        " AND place NOT IN ('sent', 'drafts', 'gone') GROUP BY place ORDER BY count(*) DESC, place",
        (since, until),
    )
    return [(row[0], row[1]) for row in rows]


def lessons_between(db: sqlite3.Connection, since: int, until: int) -> int:
    """How many lessons that stand were given later than ``since``, up to ``until`` (Unix seconds)."""
    row = db.execute(
        "SELECT count(*) FROM lessons AS l JOIN steps AS s ON s.id = l.step"
        " WHERE s.at > ? AND s.at <= ? AND l.undone = 0",
        (since, until),
    ).fetchone()
    return int(row[0])


def happened(db: sqlite3.Connection, after: int, since: int) -> Lately:
    """What came after a message, and what was done since a time (Unix seconds)."""
    places = db.execute(
        "SELECT place, count(*) FROM messages WHERE id > ? AND place NOT IN ('sent', 'drafts', 'gone') GROUP BY place",
        (after,),
    ).fetchall()
    counts = [(row[0], row[1]) for row in places]
    lessons = db.execute(
        "SELECT count(*) FROM lessons AS l JOIN steps AS s ON s.id = l.step WHERE s.at >= ? AND l.undone = 0", (since,)
    ).fetchone()[0]
    followed = db.execute(
        "SELECT count(*) FROM steps AS s JOIN moves AS m ON m.step = s.id"
        " WHERE s.at >= ? AND s.kind = 'kin' AND s.undone_at IS NULL",
        (since,),
    ).fetchone()[0]
    return Lately(messages.last_id(db), counts, dict(counts).get(UNDECIDED, 0), lessons, followed)
