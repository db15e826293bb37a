"""What was said for always of senders, lists and domains: by lessons, by vouching, and for editions."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.actors import Actor
from hieranome.core.sure import ALWAYS, Reach

HOLDS = (
    "l.undone = 0 AND l.id > (SELECT coalesce(max(lesson), 0) FROM ended AS e"
    " WHERE e.reach = l.reach AND e.key = l.key)"
)
"""Whether a lesson ``l`` that was given for always holds still."""
_COLUMN = {Reach.ADDRESS: "sender_address", Reach.LIST: "list_id", Reach.DOMAIN: "sender_domain"}


@dataclass(frozen=True, slots=True)
class Always:
    """One thing said for always: of which sender, list or domain, the bucket, when (Unix seconds), the newest lesson
    that says so, the message it is about, and who said it."""

    reach: Reach
    key: str
    belongs: str
    at: int
    lesson: int
    message: int
    by: Actor


def every(db: sqlite3.Connection) -> list[Always]:
    """All that holds, the newest first: of each sender, list and domain what was said last."""
    marks = ", ".join("?" * len(ALWAYS))
    rows = db.execute(
        "SELECT l.reach, l.key, l.belongs, l.at, max(l.id), l.message, s.actor FROM lessons AS l"
        f" JOIN steps AS s ON s.id = l.step WHERE l.reach IN ({marks}) AND {HOLDS}"
        " GROUP BY l.reach, l.key ORDER BY max(l.id) DESC",
        [reach.value for reach in ALWAYS],
    )
    return [Always(Reach(row[0]), row[1], row[2], row[3], row[4], row[5], Actor(row[6])) for row in rows]


def end(db: sqlite3.Connection, step: int, reach: Reach, key: str) -> bool:
    """Let what was said of a sender, list or domain hold no more; False where nothing holds."""
    newest = db.execute(
        f"SELECT max(id) FROM lessons AS l WHERE reach = ? AND key = ? AND {HOLDS}", (reach.value, key)
    ).fetchone()[0]
    if newest is None:
        return False
    db.execute("INSERT INTO ended VALUES (?, ?, ?, ?)", (step, reach.value, key, newest))
    return True


def bring_back(db: sqlite3.Connection, step: int) -> bool:
    """Let hold again what a step ended; False where it ended nothing."""
    return db.execute("DELETE FROM ended WHERE step = ?", (step,)).rowcount > 0


def bound_to(db: sqlite3.Connection, bucket: str) -> set[int]:
    """The messages that stand in a bucket and whose sender, list or domain is to go there for always."""
    found: set[int] = set()
    for one in every(db):
        if one.belongs == bucket:
            which = f"SELECT id FROM messages WHERE {_COLUMN[one.reach]} = ? AND place = ?"
            found |= {row[0] for row in db.execute(which, (one.key, bucket))}
    return found


def newest_of(db: sqlite3.Connection, reach: Reach, key: str) -> int | None:
    """The newest message of a sender, list or domain that is kept, or None."""
    row = db.execute(
        f"SELECT id FROM messages WHERE {_COLUMN[reach]} = ? AND place NOT IN ('sent', 'drafts', 'gone')"
        " AND decided_by NOT IN ('own', 'edition') ORDER BY time DESC, id DESC LIMIT 1",
        (key,),
    ).fetchone()
    return row[0] if row else None


def came_since(db: sqlite3.Connection, reach: Reach, key: str, at: int) -> int:
    """How much came from a sender, list or domain since a time (Unix seconds)."""
    row = db.execute(f"SELECT count(*) FROM messages WHERE {_COLUMN[reach]} = ? AND time >= ?", (key, at)).fetchone()
    return int(row[0])


def vouched_since(db: sqlite3.Connection) -> dict[tuple[str, str], int]:
    """Since when each address and domain is vouched for (Unix seconds), by kind and key."""
    return {(row[0], row[1]): row[2] for row in db.execute("SELECT kind, key, at FROM vouched")}


def left_out_since(db: sqlite3.Connection) -> dict[str, int]:
    """Since when each source stands in no edition (Unix seconds)."""
    rows = db.execute(
        "SELECT o.source, max(s.at) FROM left_out AS o JOIN steps AS s ON s.id = o.step WHERE s.undone_at IS NULL"
        " GROUP BY o.source"
    )
    return {row[0]: row[1] for row in rows}
