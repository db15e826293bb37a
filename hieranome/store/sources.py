"""The mail of a place by source: a list, or else a sender. Keys are those of the sums of the history."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from hieranome.core.errors import NotFound, StaleCursor
from hieranome.store.listing import Page, read_cursor, write_cursor
from hieranome.store.messages import COLUMNS, Message, as_message

Ranked = Literal["total", "newest"]
OFTEN = 28 * 86_400
"""Seconds before its newest message over which it is told how often a source writes."""


@dataclass(frozen=True, slots=True)
class Source:
    """A source in a place: what it is called, how much of its mail stands there, how much of that is unread, its newest
    message there, and how many came from it in the four weeks up to that one, and the share of all its mail that was
    read (0 to 1), wherever they stand."""

    key: str
    name: str
    total: int
    unread: int
    newest: Message
    lately: int
    read: float


@dataclass(frozen=True, slots=True)
class SourcePage:
    """Sources of one page, how many there are in the place, and the cursor of the next page (empty at the end)."""

    sources: list[Source]
    count: int
    next: str


def page(db: sqlite3.Connection, place: str, ranked: Ranked, cursor: str, limit: int) -> SourcePage:
    """One page of the sources of a place, those with most mail, or the newest, first. Raises :class:`StaleCursor`."""
    where = "place = ?"
    values: list[str | int] = [place]
    if cursor:
        rank, key = _read(cursor, ranked)
        where += f" AND {ranked} <= ? AND ({ranked} < ? OR source > ?)"
        values += [rank, rank, key]
    rows = db.execute(
        f"SELECT source, total, unread, newest FROM sources WHERE {where} ORDER BY {ranked} DESC, source LIMIT ?",
        (*values, limit + 1),
    ).fetchall()
    found = [_source(db, place, row) for row in rows[:limit]]
    count = db.execute("SELECT count(*) FROM sources WHERE place = ?", (place,)).fetchone()[0]
    more = f"{ranked} {rows[limit - 1][ranked]} {rows[limit - 1]['source']}" if len(rows) > limit else ""
    return SourcePage(found, count, more)


def _source(db: sqlite3.Connection, place: str, row: sqlite3.Row) -> Source:
    key, newest = row["source"], _newest(db, place, row["source"])
    often = _lately(db, key, row["newest"])
    return Source(key, name_of(db, key, newest), row["total"], row["unread"], newest, often, _read_of(db, key))


def name_of(db: sqlite3.Connection, key: str, newest: Message) -> str:
    """What a source is called, by its newest message: its sender's name, or of a list to which several write, its
    id."""
    if key.startswith("list:"):
        rows = db.execute(
            "SELECT DISTINCT sender_address FROM (SELECT sender_address FROM messages WHERE place = ? AND source = ?"
            " ORDER BY time DESC LIMIT 5)",
            (newest.place, key),
        )
        if len(rows.fetchall()) > 1 or not newest.sender_name:
            return newest.list_id
    return newest.sender_name or newest.sender_address


def named(db: sqlite3.Connection, newest: Mapping[str, Message], many: str) -> str:
    """What one source is called, given with its newest message, or how many ``many`` there are."""
    if len(newest) != 1:
        return f"{len(newest)} {many}"
    ((key, row),) = newest.items()
    return name_of(db, key, row)


def _read(cursor: str, ranked: Ranked) -> tuple[int, str]:
    kind, _, rest = cursor.partition(" ")
    rank, _, key = rest.partition(" ")
    if kind != ranked or not rank.lstrip("-").isdecimal() or len(rank) > 18:
        raise StaleCursor("The page cursor does not belong to this list. Leave it out to begin at the first page.")
    return int(rank), key


def _newest(db: sqlite3.Connection, place: str, key: str) -> Message:
    row = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE place = ? AND source = ? ORDER BY time DESC, id DESC LIMIT 1",
        (place, key),
    ).fetchone()
    return as_message(row)


def _lately(db: sqlite3.Connection, key: str, newest: int) -> int:
    row = db.execute(
        "SELECT count(*) FROM messages WHERE place IN (SELECT name FROM places) AND source = ? AND time > ?",
        (key, newest - OFTEN),
    ).fetchone()
    return int(row[0])


def _read_of(db: sqlite3.Connection, key: str) -> float:
    total, unread = db.execute(
        "SELECT sum(total), sum(unread) FROM sources WHERE place IN (SELECT name FROM places) AND source = ?", (key,)
    ).fetchone()
    return float(1.0 - unread / total)


def mail(db: sqlite3.Connection, place: str, key: str, cursor: str, limit: int) -> Page:
    """One page of the mail of a source in a place, newest first."""
    where = "place = ? AND source = ?"
    values: list[str | int] = [place, key]
    if cursor:
        _, at, number = read_cursor(cursor, "source")
        where += " AND (time, id) < (?, ?)"
        values += [int(at), int(number)]
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {where} ORDER BY time DESC, id DESC LIMIT ?", (*values, limit + 1)
    ).fetchall()
    found = [as_message(row) for row in rows[:limit]]
    return Page(found, write_cursor("source", 0, found[-1].time, found[-1].id) if len(rows) > limit else "")


def subjects_of(db: sqlite3.Connection, address: str, most: int) -> list[str]:
    """The subjects of the newest mail of a sender."""
    rows = db.execute(
        "SELECT subject FROM messages WHERE sender_address = ? AND place <> 'gone' ORDER BY id DESC LIMIT ?",
        (address, most),
    )
    return [row[0] for row in rows]


def numbers(db: sqlite3.Connection, place: str, key: str) -> list[int]:
    """The ids of all mail of a source in a place, newest first. Raises :class:`NotFound` where there is none."""
    rows = db.execute(
        "SELECT id FROM messages WHERE place = ? AND source = ? ORDER BY time DESC, id DESC", (place, key)
    ).fetchall()
    if not rows:
        raise NotFound("No mail of this sender or list stands there any more. Load the list again.")
    return [row[0] for row in rows]
