"""Lists of mail, page by page: a place's, and what a search finds."""

from __future__ import annotations

import base64
import json
import sqlite3
from dataclasses import dataclass
from typing import Literal

from hieranome.core.errors import StaleCursor
from hieranome.store.messages import COLUMNS, Message, as_message

Order = Literal["importance", "time"]
MAX_PAGE = 500
LARGEST = 2**62
"""No key of a list is as large."""


@dataclass(frozen=True, slots=True)
class Page:
    """Messages of one page and the cursor of the next (empty at the end)."""

    messages: list[Message]
    next: str


@dataclass(frozen=True, slots=True)
class Listing:
    """Which mail of a place, in which order: ``unread_first`` puts read mail behind all unread, ``unread_only``
    leaves it out."""

    place: str
    order: Order = "importance"
    unread_first: bool = False
    unread_only: bool = False

    @property
    def column(self) -> str:
        """What it is sorted by."""
        return "score" if self.order == "importance" else "time"


def page(db: sqlite3.Connection, listing: Listing, cursor: str, limit: int) -> Page:
    """One page of a place, keyset-paged: its cost does not grow with the mailbox."""
    limit = max(1, min(limit, MAX_PAGE))
    kind = f"{listing.order}{'+' if listing.unread_first else ''}"
    at = read_cursor(cursor, kind) if cursor else None
    parts = [_seek(listing, seen, at) for seen in ((0,) if listing.unread_only else (0, 1))]
    wanted = [part for part in parts if part is not None]
    union = " UNION ALL ".join(f"SELECT * FROM ({sql} LIMIT ?)" for sql, _ in wanted)
    values = [value for _, given in wanted for value in (*given, limit + 1)]
    ahead = "seen, " if listing.unread_first else ""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM ({union}) ORDER BY {ahead}{listing.column} DESC, id DESC LIMIT ?",
        (*values, limit + 1),
    ).fetchall()
    found = [as_message(row) for row in rows[:limit]]
    if len(rows) <= limit:
        return Page(found, "")
    last = found[-1]
    seen = int(last.seen) if listing.unread_first else 0
    return Page(found, write_cursor(kind, seen, getattr(last, listing.column), last.id))


def _seek(listing: Listing, seen: int, at: tuple[float, ...] | None) -> tuple[str, list[str | float]] | None:
    """The part of a page with read or unread mail, or None when the cursor is past it."""
    sql = f"SELECT {COLUMNS} FROM messages WHERE place = ? AND seen = ?"
    values: list[str | float] = [listing.place, seen]
    if at is not None:
        before, key, number = at
        if listing.unread_first and seen < before:
            return None
        if not listing.unread_first or seen == before:
            sql += f" AND ({listing.column}, id) < (?, ?)"
            values += [key, number]
    return f"{sql} ORDER BY {listing.column} DESC, id DESC", values


def numbers(db: sqlite3.Connection, listing: Listing, sender: str, limit: int) -> list[int]:
    """The ids of the newest messages of a place, of one sender where one is named."""
    where, values = "place = ?", [listing.place]
    if sender:
        where, values = "place = ? AND sender_address = ?", [listing.place, sender]
    if listing.unread_only:
        where += " AND seen = 0"
    rows = db.execute(f"SELECT id FROM messages WHERE {where} ORDER BY time DESC, id DESC LIMIT ?", (*values, limit))
    return [row[0] for row in rows]


def above(db: sqlite3.Connection, place: str, score: float, limit: int) -> list[Message]:
    """The messages of a place that score at least so much, in [0, 1], the most important first."""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE place = ? AND seen IN (0, 1) AND score >= ?"
        " ORDER BY score DESC, id DESC LIMIT ?",
        (place, score, limit),
    )
    return [as_message(row) for row in rows]


def write_cursor(kind: str, *key: float) -> str:
    """A cursor of a list of some kind: where its last row stands."""
    return base64.urlsafe_b64encode(json.dumps([kind, *key]).encode()).decode()


def read_cursor(cursor: str, kind: str) -> tuple[float, ...]:
    """Where the last row of a page stood. Raises :class:`StaleCursor` when it is of another list."""
    try:
        kept, *key = json.loads(base64.urlsafe_b64decode(cursor.encode()))
        if kept != kind or len(key) != 3:
            raise ValueError(kept)
        ahead, value, number = float(key[0]), float(key[1]), int(key[2])
        if not (abs(ahead) < LARGEST and abs(value) < LARGEST and abs(number) < LARGEST):
            raise ValueError(key)
        return ahead, value, number
    except (ValueError, TypeError, OverflowError) as exc:
        raise StaleCursor(
            "The page cursor does not belong to this list. Leave it out to begin at the first page."
        ) from exc
