"""Queues, what stands in them, and since when."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence

from hieranome.core.arranged import Thing
from hieranome.core.errors import NotFound
from hieranome.core.queues import Queue, State
from hieranome.store import arranged


def every(db: sqlite3.Connection) -> list[Queue]:
    """All queues, by name."""
    states: dict[int, list[State]] = {}
    for row in db.execute("SELECT queue, name, coalesce(tag, 0) FROM queue_states ORDER BY queue, position"):
        states.setdefault(row[0], []).append(State(row[1], row[2]))
    rows = db.execute("SELECT id, name, of, target FROM queues ORDER BY name").fetchall()
    return [Queue(row[0], row[1], row[2], row[3], tuple(states.get(row[0], ()))) for row in rows]


def get(db: sqlite3.Connection, number: int) -> Queue:
    """One queue. Raises :class:`NotFound`."""
    found = next((one for one in every(db) if one.id == number), None)
    if found is None:
        raise NotFound(f"There is no queue {number}. It may have been taken out; load the page again.")
    return found


def put(db: sqlite3.Connection, queue: Queue) -> int:
    """Store a queue (id 0: a new one) with its states; its id."""
    number = queue.id
    if number:
        db.execute("UPDATE queues SET name = ?, of = ?, target = ? WHERE id = ?",
                   (queue.name, queue.of, queue.target, number))  # fmt: skip
        db.execute("DELETE FROM queue_states WHERE queue = ?", (number,))
    else:
        number = arranged.next_id(db, Thing.QUEUE)
        db.execute("INSERT INTO queues VALUES (?, ?, ?, ?)", (number, queue.name, queue.of, queue.target))
    db.executemany(
        "INSERT INTO queue_states VALUES (?, ?, ?, ?)",
        [(number, at, one.name, one.tag or None) for at, one in enumerate(queue.states)],
    )
    return number


def remove(db: sqlite3.Connection, number: int) -> None:
    """Take a queue out; its tags stay."""
    db.execute("DELETE FROM queues WHERE id = ?", (number,))


def using(db: sqlite3.Connection, tag: int) -> str:
    """The name of a queue of which a tag is a state, or whose mail a tag names; empty where there is none."""
    row = db.execute(
        "SELECT q.name FROM queues AS q WHERE (q.of = 'tag' AND q.target = ?1)"
        " OR q.id IN (SELECT queue FROM queue_states WHERE tag = ?2) LIMIT 1",
        (str(tag), tag),
    ).fetchone()
    return row[0] if row else ""


def newest_with(db: sqlite3.Connection, tags: Sequence[int], most: int) -> list[int]:
    """The newest messages that carry one of some tags and are not thrown away."""
    rows = db.execute(
        "SELECT DISTINCT m.id, m.time FROM tagged AS t JOIN messages AS m ON m.id = t.message"
        " WHERE t.tag IN (SELECT value FROM json_each(?)) AND m.place NOT IN ('trash', 'junk', 'gone')"
        " ORDER BY m.time DESC, m.id DESC LIMIT ?",
        (json.dumps(list(tags)), most),
    )
    return [row[0] for row in rows]


def since(db: sqlite3.Connection, messages: Sequence[int], tags: Sequence[int], place: str) -> dict[int, int]:
    """Since when each of some messages stands in its state (Unix seconds): since the last that was done with one of
    some tags of it, or since it came to stand in a place (empty: any), or else since it came."""
    rows = db.execute(
        """
        SELECT m.id, max(
            coalesce((SELECT max(t.since) FROM tagged AS t WHERE t.message = m.id
                AND t.tag IN (SELECT value FROM json_each(?2))), 0),
            coalesce((SELECT max(s.at) FROM tagging AS t JOIN steps AS s ON s.id = t.step WHERE t.message = m.id
                AND s.undone_at IS NULL AND t.tag IN (SELECT value FROM json_each(?2))), 0),
            coalesce((SELECT max(s.at) FROM moves AS v JOIN steps AS s ON s.id = v.step WHERE v.message = m.id
                AND s.undone_at IS NULL AND v.target = ?3), 0),
            m.time)
        FROM messages AS m WHERE m.id IN (SELECT value FROM json_each(?1))
        """,
        (json.dumps(list(messages)), json.dumps(list(tags)), place),
    )
    return {row[0]: row[1] for row in rows}
