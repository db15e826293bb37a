"""Which sums a message belongs to, and whether it is counted in them."""

from __future__ import annotations

import sqlite3

from hieranome.core.deciders import Decider


def sum_keys(row: sqlite3.Row) -> list[str]:
    """The sums a stored message belongs to; the row holds sender_address, sender_domain and list_id."""
    found = []
    if row["sender_address"]:
        found += [f"address:{row['sender_address']}", f"domain:{row['sender_domain']}"]
    if row["list_id"]:
        found.append(f"list:{row['list_id']}")
    return found


def set_counted(db: sqlite3.Connection, number: int) -> bool:
    """Note that a message is part of its sender's sums; returns whether it was before."""
    before = bool(db.execute("SELECT counted FROM messages WHERE id = ?", (number,)).fetchone()[0])
    db.execute("UPDATE messages SET counted = 1 WHERE id = ? AND counted = 0", (number,))
    return before


def keys_for_sums(db: sqlite3.Connection, number: int) -> list[str]:
    """The sums a message belongs to, by its id; an edition belongs to none."""
    row = db.execute(
        "SELECT sender_address, sender_domain, list_id FROM messages WHERE id = ? AND decided_by <> ?",
        (number, Decider.EDITION),
    ).fetchone()
    return sum_keys(row) if row else []
