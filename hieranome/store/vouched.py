"""Senders vouched for, and the servers that check where mail comes from."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.buckets import DRAIN
from hieranome.core.facts import MessageFacts
from hieranome.core.vouched import Vouched


@dataclass(frozen=True, slots=True)
class Checker:
    """A server that checks mail: its authserv-id, and on how many messages its results stand topmost."""

    authserv_id: str
    messages: int


def every(db: sqlite3.Connection) -> list[Vouched]:
    """All that is vouched for, by key."""
    return [Vouched(*row) for row in db.execute("SELECT kind, key, name FROM vouched ORDER BY key, kind")]


def add(db: sqlite3.Connection, one: Vouched, at: int) -> None:
    """Vouch; once more changes the name alone."""
    db.execute(
        "INSERT INTO vouched VALUES (?, ?, ?, ?) ON CONFLICT (kind, key) DO UPDATE SET name = excluded.name",
        (one.kind, one.key, one.name, at),
    )


def remove(db: sqlite3.Connection, kind: str, key: str) -> bool:
    """Vouch no longer; False when it was not vouched for."""
    return db.execute("DELETE FROM vouched WHERE kind = ? AND key = ?", (kind, key)).rowcount > 0


def note_checkers(db: sqlite3.Connection, mail: Iterable[MessageFacts]) -> None:
    """Count which server's results stand topmost."""
    found = Counter(facts.authentication[0][0] for facts in mail if facts.authentication)
    db.executemany(
        "INSERT INTO checkers VALUES (?, ?)"
        " ON CONFLICT (authserv_id) DO UPDATE SET messages = messages + excluded.messages",
        [(name, count) for name, count in found.items() if name],
    )


def checkers(db: sqlite3.Connection, limit: int = 8) -> list[Checker]:
    """The servers whose results stand topmost most often."""
    rows = db.execute("SELECT authserv_id, messages FROM checkers ORDER BY messages DESC LIMIT ?", (limit,))
    return [Checker(*row) for row in rows]


def came_through(db: sqlite3.Connection, address: str, list_id: str, besides: int = 0) -> bool:
    """Whether mail of a sender came through a list before, ``besides`` the message at hand, was not refused, and was
    not itself mail whose sender nothing spoke for."""
    row = db.execute(
        "SELECT 1 FROM messages"
        " WHERE sender_address = ? AND list_id = ? AND place <> ? AND assured = 1 AND id <> ? LIMIT 1",
        (address, list_id, DRAIN, besides),
    ).fetchone()
    return row is not None
