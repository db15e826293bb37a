"""Import jobs and how far each of their files has been read."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.errors import NotFound


@dataclass(frozen=True, slots=True)
class ImportJob:
    """One import. ``state`` is ``reading``, ``weighing``, ``done`` or ``failed``; bytes tell progress."""

    id: int
    path: str
    started_at: int
    finished_at: int | None
    state: str
    error: str
    first_message: int
    bytes_total: int
    bytes_done: int
    added: int
    known: int
    mine: bool
    """Whether the owner gave their word that what bears their address in it is theirs."""


_JOB = f"SELECT {', '.join(ImportJob.__dataclass_fields__)} FROM imports"


def begin(db: sqlite3.Connection, path: str, at: int, bytes_total: int, *, mine: bool) -> ImportJob:
    """Write a new job."""
    first = int(db.execute("SELECT coalesce(max(id), 0) + 1 FROM messages").fetchone()[0])
    number = db.execute(
        "INSERT INTO imports (path, started_at, state, first_message, bytes_total, mine)"
        " VALUES (?, ?, 'reading', ?, ?, ?)",
        (path, at, first, bytes_total, mine),
    ).lastrowid
    assert number is not None
    return get(db, number)


def get(db: sqlite3.Connection, number: int) -> ImportJob:
    """One job. Raises :class:`NotFound`."""
    row = db.execute(f"{_JOB} WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no import {number}.")
    return _job(row)


def _job(row: sqlite3.Row) -> ImportJob:
    return ImportJob(**(dict(row) | {"mine": bool(row["mine"])}))


def recent(db: sqlite3.Connection, limit: int = 20) -> list[ImportJob]:
    """The latest jobs, newest first."""
    return [_job(row) for row in db.execute(f"{_JOB} ORDER BY id DESC LIMIT ?", (limit,))]


def unfinished(db: sqlite3.Connection) -> list[ImportJob]:
    """Jobs that were cut off, oldest first."""
    return [_job(row) for row in db.execute(f"{_JOB} WHERE state IN ('reading', 'weighing') ORDER BY id")]


def to_resume(db: sqlite3.Connection, path: str) -> ImportJob | None:
    """The latest job of that path that was cut off or failed, or None."""
    row = db.execute(f"{_JOB} WHERE path = ? AND state <> 'done' ORDER BY id DESC LIMIT 1", (path,)).fetchone()
    return _job(row) if row else None


def advance(db: sqlite3.Connection, number: int, read: int, added: int, known: int) -> None:
    """Count bytes and messages on a job."""
    db.execute(
        "UPDATE imports SET bytes_done = bytes_done + ?, added = added + ?, known = known + ? WHERE id = ?",
        (read, added, known, number),
    )


def set_state(db: sqlite3.Connection, number: int, state: str, at: int | None = None, error: str = "") -> None:
    """Set the state, the time it ended, the error."""
    db.execute("UPDATE imports SET state = ?, finished_at = ?, error = ? WHERE id = ?", (state, at, error, number))


def file_done(db: sqlite3.Connection, number: int, path: str, size: int, modified: int) -> int:
    """Bytes of that very file (same size and time of change) read by the job so far."""
    row = db.execute(
        "SELECT done FROM import_files WHERE import = ? AND path = ? AND size = ? AND modified = ?",
        (number, path, size, modified),
    ).fetchone()
    return int(row[0]) if row else 0


def set_file_done(db: sqlite3.Connection, number: int, path: str, size: int, modified: int, done: int) -> None:
    """Remember how far a file has been read."""
    db.execute(
        "INSERT INTO import_files VALUES (?, ?, ?, ?, ?) ON CONFLICT (import, path) DO UPDATE SET"
        " size = excluded.size, modified = excluded.modified, done = excluded.done",
        (number, path, size, modified, done),
    )


def set_mine(db: sqlite3.Connection, number: int, mine: bool) -> None:
    """Note the owner's word on what bears their address."""
    db.execute("UPDATE imports SET mine = ? WHERE id = ?", (mine, number))


def set_skipped(db: sqlite3.Connection, number: int, skipped: Iterable[tuple[str, str]]) -> None:
    """Note the files the job passes over, each with the reason."""
    db.executemany("INSERT OR REPLACE INTO import_skipped VALUES (?, ?, ?)", [(number, *one) for one in skipped])


def skipped(db: sqlite3.Connection, number: int, limit: int = 100) -> list[tuple[str, str]]:
    """The files a job passed over, each with the reason."""
    rows = db.execute("SELECT path, why FROM import_skipped WHERE import = ? ORDER BY path LIMIT ?", (number, limit))
    return [(row[0], row[1]) for row in rows]
