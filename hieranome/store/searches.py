"""Searches kept by name, senders whose pictures are fetched, and who writes."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.arranged import Thing
from hieranome.core.conditions import Words
from hieranome.core.errors import NotFound
from hieranome.store import arranged
from hieranome.store.search import expression


@dataclass(frozen=True, slots=True)
class Saved:
    """A search line kept under a name."""

    id: int
    name: str
    line: str


def every(db: sqlite3.Connection) -> list[Saved]:
    """The saved searches, by name."""
    return [Saved(*row) for row in db.execute("SELECT id, name, line FROM searches ORDER BY name COLLATE NOCASE")]


def save(db: sqlite3.Connection, name: str, line: str, at: int) -> Saved:
    """Keep a line under a name; the name's older line gives way."""
    db.execute(
        "INSERT INTO searches (id, name, line, at) VALUES (?, ?, ?, ?)"
        " ON CONFLICT (name) DO UPDATE SET line = excluded.line, at = excluded.at",
        (arranged.next_id(db, Thing.SEARCH), name, line, at),
    )
    return Saved(*db.execute("SELECT id, name, line FROM searches WHERE name = ?", (name,)).fetchone())


def remove(db: sqlite3.Connection, number: int) -> None:
    """Keep a search no longer. Raises :class:`NotFound`."""
    if not db.execute("DELETE FROM searches WHERE id = ?", (number,)).rowcount:
        raise NotFound(f"There is no saved search {number}. It may have been removed; load the list again.")


def correspondents(db: sqlite3.Connection, start: str, limit: int) -> list[tuple[str, str]]:
    """(name, address) of senders whose name or address has a word that begins so, the latest writers first."""
    if not any(one.isalnum() for one in start):
        return []
    rows = db.execute(
        "SELECT m.sender_name, m.sender_address FROM messages AS m WHERE m.id IN"
        " (SELECT rowid FROM words_index WHERE words_index MATCH ? ORDER BY rowid DESC LIMIT 300)"
        " AND m.sender_address <> '' GROUP BY m.sender_address ORDER BY max(m.id) DESC LIMIT ?",
        (expression(Words(("sender",), start, prefix=True)), limit),
    )
    return [(row[0], row[1]) for row in rows]


def lists(db: sqlite3.Connection, start: str, limit: int) -> list[str]:
    """Ids of mailing lists that hold the letters, stepping from one id to the next in the index: a mailbox has few
    lists and much mail from each."""
    least = "SELECT min(list_id) FROM messages INDEXED BY messages_by_list WHERE list_id <> ''"
    rows = db.execute(
        f"WITH RECURSIVE every (id) AS ({least} UNION ALL"
        f" SELECT ({least} AND list_id > every.id) FROM every WHERE id IS NOT NULL)"
        " SELECT id FROM every WHERE instr(lower(id), ?) LIMIT ?",
        (start.lower(), limit),
    )
    return [row[0] for row in rows]


def count_lists(db: sqlite3.Connection) -> int:
    """How many mailing lists write."""
    return int(db.execute("SELECT count(DISTINCT list_id) FROM messages WHERE list_id <> ''").fetchone()[0])


def newest_recipients(db: sqlite3.Connection, most: int) -> list[str]:
    """The recipients, as text, of the newest received messages that came through no list."""
    rows = db.execute(
        "SELECT w.recipients || ' ' || w.cc FROM messages AS m JOIN words AS w ON w.message = m.id"
        " WHERE m.place NOT IN ('sent', 'drafts') AND m.list_id = '' ORDER BY m.time DESC LIMIT ?",
        (most,),
    )
    return [row[0] for row in rows]


def is_pictured(db: sqlite3.Connection, address: str) -> bool:
    """Whether pictures of a sender are always fetched."""
    return db.execute("SELECT 1 FROM pictured WHERE address = ?", (address,)).fetchone() is not None


def pictured(db: sqlite3.Connection) -> list[str]:
    """The senders whose pictures are always fetched."""
    return [row[0] for row in db.execute("SELECT address FROM pictured ORDER BY address")]


def set_pictured(db: sqlite3.Connection, address: str, wanted: bool, at: int) -> None:
    """Fetch a sender's pictures always, or no longer."""
    if wanted:
        db.execute("INSERT OR IGNORE INTO pictured VALUES (?, ?)", (address, at))
    else:
        db.execute("DELETE FROM pictured WHERE address = ?", (address,))
