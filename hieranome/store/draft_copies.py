"""Our drafts as they stand in the Drafts of mailboxes on servers."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class DraftCopy:
    """A version of a draft in a folder. ``draft`` is None once the draft is gone; ``version`` is when it was changed
    last; ``uid`` holds under ``validity``, and is None where the server has not told it yet."""

    id: int
    draft: int | None
    version: int
    message_id: str
    validity: int
    uid: int | None


def of_folder(db: sqlite3.Connection, folder: int) -> list[DraftCopy]:
    """All that was put into a folder, oldest first."""
    rows = db.execute(
        "SELECT id, draft, version, message_id, validity, uid FROM draft_copies WHERE folder = ? ORDER BY id", (folder,)
    )
    return [DraftCopy(*row) for row in rows]


def uids(db: sqlite3.Connection, folder: int, validity: int) -> set[int]:
    """The UIDs of our copies in a folder, under its UIDVALIDITY."""
    rows = db.execute(
        "SELECT uid FROM draft_copies WHERE folder = ? AND validity = ? AND uid IS NOT NULL", (folder, validity)
    )
    return {row[0] for row in rows}


def add(db: sqlite3.Connection, draft: int, folder: int, version: int, message_id: str) -> int:
    """Record a version that is about to be put into a folder; its id."""
    number = db.execute(
        "INSERT INTO draft_copies (draft, folder, version, message_id) VALUES (?, ?, ?, ?)",
        (draft, folder, version, message_id),
    ).lastrowid
    assert number is not None
    return number


def put_uid(db: sqlite3.Connection, number: int, validity: int, uid: int) -> None:
    """Note where a version stands."""
    db.execute("UPDATE draft_copies SET validity = ?, uid = ? WHERE id = ?", (validity, uid, number))


def find(db: sqlite3.Connection, folder: int, message_id: str) -> int | None:
    """The version of a Message-ID in a folder, or None."""
    row = db.execute("SELECT id FROM draft_copies WHERE message_id = ? AND folder = ?", (message_id, folder)).fetchone()
    return None if row is None else int(row[0])


def remove(db: sqlite3.Connection, numbers: Iterable[int]) -> None:
    """Forget versions that are there no longer."""
    db.executemany("DELETE FROM draft_copies WHERE id = ?", [(number,) for number in numbers])
