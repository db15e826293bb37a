"""Finding the thread of an arriving message; the rule stands in :mod:`hieranome.core.threads`."""

from __future__ import annotations

import sqlite3

from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.threads import SUBJECT_DAYS, bare_subject, is_reply_subject


def assign(db: sqlite3.Connection, facts: MessageFacts, owner: Owner, mine: bool) -> int:
    """The thread of a message, made when there is none; remembers what the message mentions."""
    named = [i for i in dict.fromkeys((facts.in_reply_to, *reversed(facts.references))) if i]
    thread = _by_ids(db, named) or _by_mention(db, facts.message_id) or _by_subject(db, facts, owner)
    if thread is None:
        thread = begin(db, mine)
    elif mine:
        db.execute("UPDATE threads SET mine = 1 WHERE id = ? AND mine = 0", (thread,))
    if named:
        db.executemany("INSERT OR IGNORE INTO mentions VALUES (?, ?)", [(name, thread) for name in named])
    return thread


def begin(db: sqlite3.Connection, mine: bool = False) -> int:
    """A new thread; ``mine`` says that the owner wrote in it."""
    thread = db.execute("INSERT INTO threads (mine) VALUES (?)", (mine,)).lastrowid
    assert thread is not None
    return thread


def has_mine(db: sqlite3.Connection, thread: int) -> bool:
    """Whether the owner wrote in the thread."""
    row = db.execute("SELECT mine FROM threads WHERE id = ?", (thread,)).fetchone()
    return bool(row and row[0])


def _by_ids(db: sqlite3.Connection, named: list[str]) -> int | None:
    for name in named:
        row = db.execute("SELECT thread FROM messages WHERE message_id = ? LIMIT 1", (name,)).fetchone()
        row = row or db.execute("SELECT thread FROM mentions WHERE message_id = ? LIMIT 1", (name,)).fetchone()
        if row:
            return int(row[0])
    return None


def _by_mention(db: sqlite3.Connection, message_id: str) -> int | None:
    if not message_id:
        return None
    row = db.execute("SELECT thread FROM mentions WHERE message_id = ? LIMIT 1", (message_id,)).fetchone()
    return int(row[0]) if row else None


def _by_subject(db: sqlite3.Connection, facts: MessageFacts, owner: Owner) -> int | None:
    bare = bare_subject(facts.subject)
    if not bare or not is_reply_subject(facts.subject):
        return None
    people = {c.address for c in (facts.sender, *facts.recipients) if c.address and not owner.owns(c)}
    span = SUBJECT_DAYS * 86_400
    rows = db.execute(
        """
        SELECT m.thread, m.sender_address, w.recipients || ' ' || w.cc
        FROM messages AS m JOIN words AS w ON w.message = m.id
        WHERE m.bare_subject = ? AND m.time BETWEEN ? AND ? ORDER BY m.time DESC LIMIT 20
        """,
        (bare, facts.sent_at - span, facts.sent_at + span),
    )
    for thread, sender, others in rows:
        if sender in people or people & set(others.split()):
            return int(thread)
    return None
