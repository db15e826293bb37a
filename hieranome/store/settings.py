"""Settings: small values by key, and the sums of the history."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from hieranome.core.facts import Owner
from hieranome.core.relations import Relations, Sums

OWNER = "owner_addresses"


def owner(db: sqlite3.Connection) -> Owner:
    """The owner's addresses as set."""
    row = db.execute("SELECT value FROM settings WHERE key = ?", (OWNER,)).fetchone()
    return Owner.of(*json.loads(row[0])) if row else Owner()


def set_owner(db: sqlite3.Connection, addresses: Iterable[str]) -> None:
    """Set the owner's addresses."""
    db.execute(
        "INSERT INTO settings VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (OWNER, json.dumps(sorted(Owner.of(*addresses).addresses))),
    )


def relations(db: sqlite3.Connection) -> Relations:
    """All sums of the history."""
    found = Relations()
    for key, received, read, answered, written in db.execute("SELECT key, received, read, answered, written FROM sums"):
        found.add(key, Sums(received, read, answered, written))
    return found


def add_sums(db: sqlite3.Connection, added: Iterable[tuple[str, Sums]]) -> None:
    """Add observations to the stored sums."""
    db.executemany(
        """
        INSERT INTO sums VALUES (?, ?, ?, ?, ?) ON CONFLICT (key) DO UPDATE SET
            received = received + excluded.received, read = read + excluded.read,
            answered = answered + excluded.answered, written = written + excluded.written
        """,
        [(key, s.received, s.read, s.answered, s.written) for key, s in added],
    )
