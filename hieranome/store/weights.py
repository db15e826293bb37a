"""What mail weighs: sums by source of all that stands somewhere, up to a week, and the messages behind them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Weight:
    """Mail of a source up to a week: how much may go and its bytes, how much is kept apart and its bytes, how much of
    all of it is unread and was answered, and its first and last week."""

    key: str
    free: int
    free_size: int
    kept: int
    kept_size: int
    unread: int
    answered: int
    first: int
    last: int


def table(db: sqlite3.Connection, week: int) -> list[Weight]:
    """The sums of every source of which anything may go, up to a week, that included."""
    rows = db.execute(
        "SELECT source, sum(iif(kept = 0, total, 0)) AS free, sum(iif(kept = 0, size, 0)),"
        " sum(iif(kept = 2, total, 0)), sum(iif(kept = 2, size, 0)), sum(unread), sum(answered), min(week), max(week)"
        " FROM weekly WHERE kept <> 1 AND week <= ? GROUP BY source HAVING free > 0",
        (week,),
    )
    return [Weight(*row) for row in rows]


def by_week(db: sqlite3.Connection) -> list[tuple[int, int, int]]:
    """(week, messages, bytes) of all mail that may go, oldest first."""
    rows = db.execute("SELECT week, sum(total), sum(size) FROM weekly WHERE kept = 0 GROUP BY week ORDER BY week")
    return [(row[0], row[1], row[2]) for row in rows]


def through_lists(
    db: sqlite3.Connection, addresses: Iterable[str], domains: Iterable[str], week: int
) -> dict[str, tuple[int, int]]:
    """Of some senders' mail through lists up to a week that may go, by source: how much, and its bytes."""
    rows = db.execute(
        """
        SELECT source, count(*), sum(size) FROM (
            SELECT id, source, size FROM messages INDEXED BY messages_by_sender
            WHERE sender_address IN (SELECT value FROM json_each(:addresses))
                AND list_id <> '' AND summed = 0 AND week <= :week
            UNION SELECT id, source, size FROM messages INDEXED BY messages_of_lists_by_domain
            WHERE sender_domain IN (SELECT value FROM json_each(:domains))
                AND list_id <> '' AND summed = 0 AND week <= :week)
        GROUP BY source
        """,
        {"addresses": json.dumps(list(addresses)), "domains": json.dumps(list(domains)), "week": week},
    )
    return {row[0]: (row[1], row[2]) for row in rows}


def messages_of(
    db: sqlite3.Connection,
    sources: Iterable[str],
    week: int,
    *,
    kept: bool,
    but: tuple[list[str], list[str]],
    limit: int,
) -> list[int]:
    """The mail of sources up to a week that may go, with ``kept`` also what is kept apart, but for some senders'
    addresses and domains, oldest first."""
    rows = db.execute(
        """
        SELECT id FROM messages WHERE place IN (SELECT name FROM places)
            AND source IN (SELECT value FROM json_each(:sources)) AND week <= :week
            AND (summed = 0 OR (:kept AND summed = 2))
            AND (:kept OR (sender_address NOT IN (SELECT value FROM json_each(:addresses))
                AND sender_domain NOT IN (SELECT value FROM json_each(:domains))))
        ORDER BY time, id LIMIT :limit
        """,
        {
            "sources": json.dumps(list(sources)),
            "week": week,
            "kept": int(kept),
            "addresses": json.dumps(but[0]),
            "domains": json.dumps(but[1]),
            "limit": limit,
        },
    )
    return [row[0] for row in rows]


def sizes(db: sqlite3.Connection, numbers: Iterable[int]) -> int:
    """The bytes of some messages together."""
    row = db.execute(
        "SELECT coalesce(sum(size), 0) FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    ).fetchone()
    return int(row[0])
