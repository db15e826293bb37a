"""What is to be taken out of the Trash for good, and what became of it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence

from hieranome.store.copies import Copy, select

_STAYS = """
    EXISTS (
        SELECT 1 FROM copies AS c JOIN folders AS f ON f.id = c.folder JOIN accounts AS a ON a.id = f.account
        WHERE c.message = m.id AND (c.stage <> '' OR c.goal IS NOT NULL OR c.uid IS NULL OR f.role <> 'trash'
            OR a.routing = 0))
"""
"""Whether a copy of a message stands somewhere else on a server, is under way, or is in a mailbox where nothing is
moved."""


def weight(db: sqlite3.Connection) -> tuple[int, int, int]:
    """How much may be taken out of the Trash and its bytes, and how much stays, because it stands elsewhere on a server
    still."""
    row = db.execute(
        f"""
        SELECT coalesce(sum(stays = 0), 0), coalesce(sum(iif(stays = 0, size, 0)), 0), coalesce(sum(stays), 0) FROM (
            SELECT size, {_STAYS} AS stays FROM messages AS m
            WHERE place = 'trash' AND id NOT IN (SELECT message FROM leaving))
        """
    ).fetchone()
    return row[0], row[1], row[2]


def begin(db: sqlite3.Connection, step: int) -> None:
    """Note, as a step, that all that may be taken out of the Trash is to go."""
    db.execute(
        f"""
        INSERT INTO leaving SELECT m.id, ? FROM messages AS m WHERE place = 'trash'
            AND id NOT IN (SELECT message FROM leaving) AND NOT {_STAYS}
        """,
        (step,),
    )


def going(db: sqlite3.Connection) -> int:
    """How much is still to go."""
    return int(db.execute("SELECT count(*) FROM leaving").fetchone()[0])


def let_stay(db: sqlite3.Connection) -> int:
    """Let stay what turned up somewhere else on a server since, or stands where nothing is moved any more; how many."""
    return db.execute(
        "DELETE FROM leaving WHERE message IN (SELECT c.message FROM copies AS c JOIN folders AS f ON f.id = c.folder"
        " JOIN accounts AS a ON a.id = f.account WHERE c.message IN (SELECT message FROM leaving)"
        " AND c.uid IS NOT NULL AND (f.role <> 'trash' OR a.routing = 0))"
    ).rowcount


def to_remove(db: sqlite3.Connection, account: int) -> list[Copy]:
    """The copies of a mailbox that are to be removed from its Trash, by folder and UID."""
    return select(
        db,
        "JOIN folders AS f ON f.id = c.folder JOIN accounts AS a ON a.id = f.account"
        " WHERE c.message IN (SELECT message FROM leaving) AND f.account = ? AND a.routing = 1"
        " AND f.role = 'trash' AND c.uid IS NOT NULL AND c.stage = '' AND c.goal IS NULL ORDER BY c.folder, c.uid",
        account,
    )


def ready(db: sqlite3.Connection, limit: int) -> list[int]:
    """Messages that are to go and of which no server has a copy any more."""
    rows = db.execute(
        "SELECT message FROM leaving AS l WHERE NOT EXISTS (SELECT 1 FROM copies WHERE message = l.message)"
        " ORDER BY message LIMIT ?",
        (limit,),
    )
    return [row[0] for row in rows]


def remove(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Take messages out for good: their bytes, their words and, where nothing was learned from it, what was computed of
    them. What else named them names them no more, as if their rows were gone."""
    chosen = (json.dumps(list(numbers)),)
    among = "IN (SELECT value FROM json_each(?))"
    db.execute(f"DELETE FROM raw WHERE message {among}", chosen)
    db.execute(f"DELETE FROM words WHERE message {among}", chosen)
    db.execute(f"DELETE FROM vectors WHERE message {among} AND message NOT IN (SELECT message FROM silences)", chosen)
    db.execute(f"UPDATE drafts SET answers = NULL WHERE answers {among}", chosen)
    db.execute(f"UPDATE drafts SET continues = NULL WHERE continues {among}", chosen)
    db.execute(f"UPDATE editions SET put = '' WHERE put <> 'done' AND message {among}", chosen)
    db.execute(f"DELETE FROM proposed WHERE message {among}", chosen)
    db.execute(f"UPDATE messages SET place = 'gone', snippet = '', digest = randomblob(32) WHERE id {among}", chosen)


def gone(db: sqlite3.Connection, numbers: Iterable[int]) -> set[int]:
    """Those of some messages that were taken out of the Trash for good."""
    rows = db.execute(
        "SELECT id FROM messages WHERE place = 'gone' AND id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0] for row in rows}
