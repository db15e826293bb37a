"""Moves other programs made that were too many to be learned unasked: kept until the owner answers."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.errors import Conflict, NotFound


@dataclass(frozen=True, slots=True)
class Asked:
    """Moves the owner is asked about: where to, and the messages."""

    id: int
    at: int
    belongs: str
    messages: list[int]


def ask(db: sqlite3.Connection, at: int, belongs: str, moved: Iterable[tuple[int, str]]) -> None:
    """Keep moves to a bucket, each a message with the place it stood in here, to be asked about."""
    number = db.execute("INSERT INTO proposals (at, belongs) VALUES (?, ?)", (at, belongs)).lastrowid
    db.executemany("INSERT OR IGNORE INTO proposed VALUES (?, ?, ?)", [(number, *one) for one in moved])


def waiting(db: sqlite3.Connection) -> list[Asked]:
    """What waits for an answer, oldest first."""
    rows = db.execute("SELECT id, at, belongs FROM proposals WHERE answer = '' ORDER BY id").fetchall()
    return [Asked(row["id"], row["at"], row["belongs"], _messages(db, row["id"])) for row in rows]


def answer(db: sqlite3.Connection, number: int, *, learn: bool) -> Asked:
    """Note an answer; what was asked. Raises :class:`NotFound`, and :class:`Conflict` for what was answered."""
    row = db.execute("SELECT id, at, belongs, answer FROM proposals WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no question {number}. Load the page again.")
    if row["answer"]:
        raise Conflict("This was answered already.")
    db.execute("UPDATE proposals SET answer = ? WHERE id = ?", ("learn" if learn else "leave", number))
    return Asked(row["id"], row["at"], row["belongs"], _messages(db, number))


def _messages(db: sqlite3.Connection, number: int) -> list[int]:
    return [row[0] for row in db.execute("SELECT message FROM proposed WHERE proposal = ?", (number,))]
