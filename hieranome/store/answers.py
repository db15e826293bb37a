"""Which messages the owner answered, known from what they sent, whichever of the two came first."""

from __future__ import annotations

import sqlite3

from hieranome.core.actors import Actor


def noted(db: sqlite3.Connection, message_id: str) -> bool:
    """Whether a message of this id was answered before it came here."""
    if not message_id:
        return False
    return db.execute("SELECT 1 FROM answers WHERE message_id = ?", (message_id,)).fetchone() is not None


def note(db: sqlite3.Connection, message_id: str) -> sqlite3.Row | None:
    """Note that a message of this id was answered. When it stands here and did not count as answered, it counts as
    answered, read and counted now, and is given as it was before: id, sender_address, sender_domain, list_id, seen,
    seen_by, counted, time."""
    db.execute("INSERT OR IGNORE INTO answers VALUES (?)", (message_id,))
    row: sqlite3.Row | None = db.execute(
        "SELECT id, sender_address, sender_domain, list_id, seen, seen_by, counted, time FROM messages"
        " WHERE message_id = ? AND answered = 0 AND place <> 'sent'",
        (message_id,),
    ).fetchone()
    if row is not None:
        owner = "UPDATE messages SET answered = 1, seen = 1, seen_by = ?, counted = 1 WHERE id = ?"
        db.execute(owner, (Actor.OWNER, row["id"]))
    return row
