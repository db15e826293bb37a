"""One SQLite file per owner: how it is opened, migrated, written in one place and read in many."""

from __future__ import annotations

import fcntl
import os
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path
from typing import BinaryIO

from hieranome.core.errors import Conflict, StoreFull, StoreUnusable, WorldError
from hieranome.core.text import spaced

FILE_NAME = "hieranome.sqlite3"
_FULL = (sqlite3.SQLITE_FULL,)


def migrations() -> list[tuple[int, str, str]]:
    """(number, name, SQL) of every migration, in order."""
    found = []
    for entry in resources.files("hieranome.store").joinpath("migrations").iterdir():
        if entry.name.endswith(".sql"):
            number, _, name = entry.name.removesuffix(".sql").partition("_")
            found.append((int(number), name, entry.read_text(encoding="utf-8")))
    return sorted(found)


def statements(script: str) -> Iterator[str]:
    """The single statements of an SQL script, triggers kept whole."""
    pending = ""
    for line in script.splitlines(keepends=True):
        pending += line
        if line.rstrip().endswith(";") and sqlite3.complete_statement(pending):
            yield pending
            pending = ""
    if pending.strip():
        yield pending


class Database:
    """The store of one data folder. One writer; readers on connections of their own, read-only.

    ``atomic()`` gives the writer's connection within one transaction: all of it is kept or none.
    Raises :class:`Conflict` when another process writes to the folder, :class:`StoreUnusable` when the
    file is not ours, :class:`StoreFull` when the disk is full.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.path = folder / FILE_NAME
        self._lock = threading.RLock()
        self._depth = 0
        self._reading = threading.Lock()
        self._readers: dict[threading.Thread, sqlite3.Connection] = {}
        self._open_folder()
        try:
            self._writer = self._connect(f"file:{_uri(self.path)}")
            self._prepare()
        except StoreUnusable:
            self._writer.close()
            self._release()
            raise
        except sqlite3.DatabaseError as exc:
            self._release()
            if _is_full(exc):
                raise _full(self.path) from exc
            raise StoreUnusable(
                f"{self.path} cannot be used as a data file ({exc}). Choose another data folder, or put a "
                "copy of the file back from a backup."
            ) from exc

    def _open_folder(self) -> None:
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            self._guard = _private(self.folder / "lock")
        except OSError as exc:
            if exc.errno == 28:
                raise _full(self.path) from exc
            raise WorldError(
                f"The data folder {self.folder} cannot be used ({exc.strerror}). Choose one you may write to."
            ) from exc
        try:
            fcntl.flock(self._guard, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as exc:
            self._guard.close()
            raise Conflict(
                f"The data folder {self.folder} is in use by another Hieranome. Stop that one first, or import "
                "through its page."
            ) from exc
        try:
            _close_off(self.folder)
            _private(self.path).close()  # what SQLite puts beside it takes over its permissions
        except OSError as exc:
            self._guard.close()
            if exc.errno == 28:
                raise _full(self.path) from exc
            raise StoreUnusable(
                f"{exc.filename or self.path} cannot be used ({exc.strerror}). Choose another data folder."
            ) from exc

    def _release(self) -> None:
        self._guard.close()

    @staticmethod
    def _connect(uri: str) -> sqlite3.Connection:
        connection = sqlite3.connect(uri, uri=True, check_same_thread=False, isolation_level=None, timeout=30)
        connection.row_factory = sqlite3.Row
        connection.execute("PRAGMA foreign_keys = ON")
        connection.create_function("folded", 1, str.casefold, deterministic=True)
        return connection

    def _prepare(self) -> None:
        self._writer.execute("PRAGMA journal_mode = WAL")
        self._writer.execute("PRAGMA synchronous = NORMAL")
        self._writer.execute("PRAGMA cache_size = -32000")
        self._writer.execute("PRAGMA temp_store = MEMORY")
        self._writer.create_function("spaced", 1, spaced, deterministic=True)
        at = int(self._writer.execute("PRAGMA user_version").fetchone()[0])
        known = migrations()
        if at > known[-1][0]:
            raise StoreUnusable(
                f"{self.path} was written by a newer Hieranome (schema {at}, this one knows {known[-1][0]}). "
                "Start the newer version, or choose another data folder."
            )
        for number, name, script in known:
            if number > at:
                with self.atomic() as db:
                    for statement in statements(script):
                        db.execute(statement)
                    db.execute("INSERT INTO migrations VALUES (?, ?, ?)", (number, name, int(time.time())))
                    db.execute(f"PRAGMA user_version = {number:d}")

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """The writer within one transaction; nested calls join the outer one."""
        with self._lock:
            if self._depth:
                yield self._writer
                return
            self._depth = 1
            try:
                self._writer.execute("BEGIN IMMEDIATE")
                yield self._writer
                self._writer.execute("COMMIT")
            except BaseException as exc:
                if self._writer.in_transaction:
                    self._writer.execute("ROLLBACK")
                if isinstance(exc, sqlite3.OperationalError) and _is_full(exc):
                    raise _full(self.path) from exc
                raise
            finally:
                self._depth = 0

    @contextmanager
    def part(self, db: sqlite3.Connection) -> Iterator[None]:
        """A part of a transaction that is taken back by itself when it raises."""
        db.execute("SAVEPOINT part")
        try:
            yield
        except BaseException:
            if db.in_transaction:  # a full disk may have ended it
                db.execute("ROLLBACK TO part")
                db.execute("RELEASE part")
            raise
        db.execute("RELEASE part")

    @contextmanager
    def snapshot(self) -> Iterator[sqlite3.Connection]:
        """A connection of its own that sees the store as it is now, whatever is changed meanwhile."""
        db = sqlite3.connect(f"file:{self.path}?mode=ro", uri=True)
        db.row_factory = sqlite3.Row
        try:
            db.execute("BEGIN")
            yield db
        finally:
            db.close()

    def reader(self) -> sqlite3.Connection:
        """This thread's read-only connection; within :meth:`atomic`, use the writer given there. Threads come and go:
        a new one takes over the connection of one that ended, so there are never more than threads that live."""
        thread = threading.current_thread()
        with self._reading:
            connection = self._readers.get(thread)
            if connection is None:
                ended = next((one for one in self._readers if not one.is_alive()), None)
                connection = self._readers.pop(ended) if ended is not None else self._open_reader()
                self._readers[thread] = connection
            return connection

    def _open_reader(self) -> sqlite3.Connection:
        connection = self._connect(f"file:{_uri(self.path)}?mode=ro")
        connection.execute("PRAGMA query_only = ON")
        return connection

    def close(self) -> None:
        """Close every connection and let go of the folder. What a thread that still lives reads with is closed once it
        is done: closing it under its hands would end the process."""
        with self._reading:
            for thread, connection in self._readers.items():
                if thread is threading.current_thread() or not thread.is_alive():
                    connection.close()
            self._readers.clear()
        with self._lock:
            self._writer.close()
        self._release()


def _private(path: Path) -> BinaryIO:
    """A file that only its owner may read, made where there is none, opened; what is in it stays."""
    return os.fdopen(os.open(path, os.O_RDWR | os.O_CREAT, 0o600), "r+b")


_OURS = ("hieranome.sqlite3*", "lock", "*.json", "*.json.new", "incoming", "export-*")
"""What stands in a data folder by our doing."""


def _close_off(folder: Path) -> None:
    """Take from everybody but the owner what they may do with a data folder and what we put there, whoever allowed it
    before; files of others are left alone."""
    os.chmod(folder, 0o700)
    for one in (found for pattern in _OURS for found in folder.glob(pattern)):
        for at in [one, *one.rglob("*")] if one.is_dir() and not one.is_symlink() else [one]:
            if not at.is_symlink():
                os.chmod(at, 0o700 if at.is_dir() else 0o600)


def _uri(path: Path) -> str:
    return str(path.absolute()).replace("%", "%25").replace("?", "%3f").replace("#", "%23")


def _is_full(exc: sqlite3.DatabaseError) -> bool:
    return getattr(exc, "sqlite_errorcode", 0) in _FULL


def _full(path: Path) -> StoreFull:
    return StoreFull(
        f"The disk that holds {path} is full, so the last step was not made. Free some space and do it again; "
        "everything before it is kept."
    )
