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


_SUMS = """
    SELECT source, sum(iif(kept = 0, total, 0)) AS free, sum(iif(kept = 0, size, 0)) AS free_size,
        sum(iif(kept = 2, total, 0)) AS kept_apart, sum(iif(kept = 2, size, 0)), sum(unread) AS unread, sum(answered),
        min(week), max(week)
    FROM weekly WHERE kept <> 1 AND week <= :week
"""
Senders = tuple[list[str], list[str]]
"""Addresses, and domains, of some senders."""


def table(db: sqlite3.Connection, week: int, but: Senders) -> list[Weight]:
    """The sums of every source of which anything may go, up to a week, that included, but for some senders'."""
    sql, values = _sums_but(but, ())
    return [Weight(*row) for row in db.execute(sql, {"week": week, **values})]


def heaviest(
    db: sqlite3.Connection, week: int, but: Senders, without: Iterable[str], limit: int
) -> tuple[list[Weight], int, int]:
    """Of what :func:`table` tells, but for some sources, the first ``limit``: those never opened, then by the bytes
    that may go; and of how many these are the first, with the bytes of all."""
    sql, values = _sums_but(but, without)
    rows = db.execute(
        f"SELECT *, count(*) OVER (), sum(free_size) OVER () FROM ({sql})"
        " ORDER BY unread < free + kept_apart, free_size DESC, source LIMIT :limit",
        {"week": week, "limit": limit, **values},
    ).fetchall()
    many, size = (rows[0][9], rows[0][10]) if rows else (0, 0)
    return [Weight(*row[:9]) for row in rows], many, size


def _sums_but(but: Senders, without: Iterable[str]) -> tuple[str, dict[str, str]]:
    """The sums of every source, but for some and for those of some senders, and the values of that question."""
    addresses, domains = but
    named = json.dumps([*(f"address:{one}" for one in addresses), *without])
    values = {f"domain{at}": f"@{one}" for at, one in enumerate(domains)}
    of_domains = "".join(
        f" AND NOT (source GLOB 'address:*' AND substr(source, -length(:{name})) = :{name})" for name in values
    )
    sql = f"{_SUMS} GROUP BY source HAVING free > 0 AND source NOT IN (SELECT value FROM json_each(:named)){of_domains}"
    return sql, {"named": named, **values}


def of_sources(db: sqlite3.Connection, week: int, sources: Iterable[str]) -> list[Weight]:
    """The sums of some sources of which anything may go, up to a week."""
    sql = f"{_SUMS} AND source IN (SELECT value FROM json_each(:sources)) GROUP BY source HAVING free > 0"
    values = {"week": week, "sources": json.dumps(list(sources))}
    return [Weight(*row) for row in db.execute(sql, values)]


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
