"""A simulated mail account: folders, messages, flags, as a store that a server serves and tests fill and read.

It keeps what RFC 9051, RFC 7162 (CONDSTORE, QRESYNC) and RFC 8474 (EMAILID) ask a server to remember: UIDs that only
grow, a UIDVALIDITY for each folder, one mod-sequence for the account, and which UIDs went when.

It is long because it is a whole store, with the SQL of its own file.
"""

from __future__ import annotations

import hashlib
import sqlite3
import threading
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

INBOX = "INBOX"
USES = {"Sent": "\\Sent", "Drafts": "\\Drafts", "Archive": "\\Archive", "Trash": "\\Trash", "Junk": "\\Junk"}
"""The folders a new account has besides INBOX, and their special use (RFC 6154)."""

_SCHEMA = """
CREATE TABLE IF NOT EXISTS state (modseq INTEGER NOT NULL, validity INTEGER NOT NULL, mail INTEGER NOT NULL);
CREATE TABLE IF NOT EXISTS folders (name TEXT PRIMARY KEY, validity INTEGER NOT NULL, uidnext INTEGER NOT NULL,
    modseq INTEGER NOT NULL, use TEXT NOT NULL);
CREATE TABLE IF NOT EXISTS mail (folder TEXT NOT NULL, uid INTEGER NOT NULL, flags TEXT NOT NULL,
    modseq INTEGER NOT NULL, at INTEGER NOT NULL, email_id TEXT NOT NULL, size INTEGER NOT NULL, raw BLOB NOT NULL,
    PRIMARY KEY (folder, uid)) WITHOUT ROWID;
CREATE INDEX IF NOT EXISTS mail_by_modseq ON mail (folder, modseq);
CREATE INDEX IF NOT EXISTS mail_by_flags ON mail (folder, flags, size);
CREATE TABLE IF NOT EXISTS gone (folder TEXT NOT NULL, uid INTEGER NOT NULL, modseq INTEGER NOT NULL,
    PRIMARY KEY (folder, uid)) WITHOUT ROWID;
"""


class NoFolder(Exception):
    """There is no folder of that name."""


class FolderExists(Exception):
    """There is a folder of that name already."""


class Full(Exception):
    """The account holds as much as it may."""


@dataclass(frozen=True, slots=True)
class FolderState:
    """A folder as STATUS tells of it."""

    name: str
    validity: int
    uidnext: int
    modseq: int
    use: str


@dataclass(frozen=True, slots=True)
class Stored:
    """One message in a folder, without its bytes."""

    uid: int
    flags: frozenset[str]
    modseq: int
    at: int
    email_id: str
    size: int


class Postbox:
    """One account, in memory or in a file. Safe to use from several threads.

    ``capacity`` is the number of bytes it may hold (None: any). Whoever listens is called after every change.
    """

    def __init__(self, path: Path | None = None, *, capacity: int | None = None) -> None:
        self._lock = threading.RLock()
        self._db = sqlite3.connect(str(path) if path else ":memory:", check_same_thread=False, isolation_level=None)
        self._db.execute("PRAGMA journal_mode = WAL")
        self._db.execute("PRAGMA synchronous = NORMAL")
        self._db.executescript(_SCHEMA)
        self._depth = 0
        self._listeners: list[Callable[[], None]] = []
        self.capacity = capacity
        if self._one("SELECT count(*) FROM state") == 0:
            self._db.execute("INSERT INTO state VALUES (1, 1000, 1)")
            self.create(INBOX)
            for name, use in USES.items():
                self.create(name, use)

    def close(self) -> None:
        """Close the file."""
        with self._lock:
            self._db.close()

    def listen(self, told: Callable[[], None]) -> Callable[[], None]:
        """Call ``told`` after every change; returns what ends it."""
        self._listeners.append(told)
        return lambda: self._listeners.remove(told) if told in self._listeners else None

    # --- folders -----------------------------------------------------------------------

    def folders(self) -> list[FolderState]:
        """All folders, INBOX first."""
        rows = self._all("SELECT name, validity, uidnext, modseq, use FROM folders ORDER BY name <> 'INBOX', name")
        return [FolderState(*row) for row in rows]

    def folder(self, name: str) -> FolderState:
        """One folder. Raises :class:`NoFolder`."""
        row = self._row("SELECT name, validity, uidnext, modseq, use FROM folders WHERE name = ?", _name(name))
        if row is None:
            raise NoFolder(name)
        return FolderState(*row)

    def create(self, name: str, use: str = "") -> None:
        """Make a folder. Raises :class:`FolderExists`."""
        with self._changing():
            if self._row("SELECT 1 FROM folders WHERE name = ?", _name(name)):
                raise FolderExists(name)
            validity = self._next("validity")
            self._run("INSERT INTO folders VALUES (?, ?, 1, ?, ?)", name, validity, self._next("modseq"), use)

    def delete(self, name: str) -> None:
        """Take a folder away, with what is in it."""
        with self._changing():
            self.folder(name)
            for table in ("mail", "gone"):
                self._run(f"DELETE FROM {table} WHERE folder = ?", name)
            self._run("DELETE FROM folders WHERE name = ?", name)

    def rename(self, old: str, new: str) -> None:
        """Give a folder, and those under it, another name."""
        with self._changing():
            self.folder(old)
            for state in self.folders():
                if state.name == old or state.name.startswith(f"{old}/"):
                    target = new + state.name[len(old) :]
                    if self._row("SELECT 1 FROM folders WHERE name = ?", target):
                        raise FolderExists(target)
                    for table in ("mail", "gone"):
                        self._run(f"UPDATE {table} SET folder = ? WHERE folder = ?", target, state.name)
                    self._run("UPDATE folders SET name = ? WHERE name = ?", target, state.name)

    def renumber(self, name: str) -> None:
        """Give a folder a new UIDVALIDITY and its messages new UIDs, as a server does that lost its index."""
        with self._changing():
            mail = self._all(
                "SELECT uid, flags, at, email_id, size, raw FROM mail WHERE folder = ? ORDER BY uid", _name(name)
            )
            for table in ("mail", "gone"):
                self._run(f"DELETE FROM {table} WHERE folder = ?", _name(name))
            start = self.folder(name).uidnext % 7 + 3
            for uid, (_, *rest) in enumerate(mail, start):
                flags, at, email_id, size, raw = rest
                put = (_name(name), uid, flags, self._next("modseq"), at, email_id, size, raw)
                self._run("INSERT INTO mail VALUES (?, ?, ?, ?, ?, ?, ?, ?)", *put)
            self._run(
                "UPDATE folders SET validity = ?, uidnext = ?, modseq = ? WHERE name = ?",
                self._next("validity"), start + len(mail), self._next("modseq"), _name(name),
            )  # fmt: skip

    # --- messages ----------------------------------------------------------------------

    def append(self, name: str, raw: bytes, flags: Iterable[str] = (), at: datetime | None = None) -> int:
        """Put a message into a folder; its UID. Raises :class:`NoFolder`, :class:`Full`."""
        with self._changing():
            self.folder(name)
            if self.capacity is not None and self.used() + len(raw) > self.capacity:
                raise Full(name)
            stamp = int((at or datetime.now(UTC)).timestamp())
            mark = f"M{self._next('mail')}{hashlib.sha256(raw).hexdigest()[:12]}"
            return self._put(_name(name), frozenset(flags), stamp, mark, raw)

    def mail(self, name: str, above_modseq: int = 0, low: int = 0, high: int = 2**32) -> list[Stored]:
        """The messages of a folder by UID, those changed since a mod-sequence, with UIDs from ``low`` to ``high``."""
        where = "folder = ? AND uid BETWEEN ? AND ?" + (
            " AND +modseq > ?" if low or not above_modseq else " AND modseq > ?"
        )
        rows = self._all(
            f"SELECT uid, flags, modseq, at, email_id, size FROM mail WHERE {where} ORDER BY uid",
            _name(name), low, high, above_modseq,
        )  # fmt: skip
        return [Stored(uid, frozenset(flags.split()), *rest) for uid, flags, *rest in rows]

    def counts(self, name: str) -> tuple[int, int, int, int]:
        """How many messages a folder holds, how many are unseen, how many are marked deleted, and their bytes."""
        row = self._row(
            "SELECT count(*), coalesce(sum(instr(flags, '\\Seen') = 0), 0),"
            " coalesce(sum(instr(flags, '\\Deleted') > 0), 0), coalesce(sum(size), 0) FROM mail WHERE folder = ?",
            _name(name),
        )
        return int(row[0]), int(row[1]), int(row[2]), int(row[3])

    def uids(self, name: str) -> list[int]:
        """The UIDs of a folder, ascending."""
        return [row[0] for row in self._all("SELECT uid FROM mail WHERE folder = ? ORDER BY uid", _name(name))]

    def raw(self, name: str, uid: int) -> bytes:
        """The bytes of a message. Raises KeyError when it is gone."""
        row = self._row("SELECT raw FROM mail WHERE folder = ? AND uid = ?", _name(name), uid)
        if row is None:
            raise KeyError(uid)
        return bytes(row[0])

    def holds(self, message_id: str) -> bool:
        """Whether any folder holds a message of that Message-ID."""
        line = f"Message-ID: {message_id}\r\n".encode()
        return self._row("SELECT 1 FROM mail WHERE instr(raw, ?) LIMIT 1", line) is not None

    def flag(self, name: str, uids: Iterable[int], change: Callable[[frozenset[str]], frozenset[str]]) -> None:
        """Change the flags of messages."""
        with self._changing():
            for uid in uids:
                row = self._row("SELECT flags FROM mail WHERE folder = ? AND uid = ?", _name(name), uid)
                if row is None:
                    continue
                before = frozenset(row[0].split())
                after = change(before)
                if after != before:
                    self._run(
                        "UPDATE mail SET flags = ?, modseq = ? WHERE folder = ? AND uid = ?",
                        " ".join(sorted(after)), self._touch(name), _name(name), uid,
                    )  # fmt: skip

    def copy(self, name: str, uids: Iterable[int], target: str) -> dict[int, int]:
        """Copy messages into another folder; the new UID of each."""
        made = {}
        with self._changing():
            self.folder(target)
            for uid in uids:
                row = self._row(
                    "SELECT flags, at, email_id, raw FROM mail WHERE folder = ? AND uid = ?", _name(name), uid
                )
                if row is None:
                    continue
                flags, at, email_id, raw = row
                if self.capacity is not None and self.used() + len(raw) > self.capacity:
                    raise Full(target)
                made[uid] = self._put(_name(target), frozenset(flags.split()), at, email_id, raw)
        return made

    def move(self, name: str, uids: Iterable[int], target: str) -> dict[int, int]:
        """Move messages into another folder; the new UID of each."""
        with self._changing():
            capacity, self.capacity = self.capacity, None
            try:
                made = self.copy(name, uids, target)
            finally:
                self.capacity = capacity
            self.expunge(name, made)
        return made

    def expunge(self, name: str, uids: Iterable[int]) -> list[int]:
        """Remove messages; those that were there."""
        removed = []
        with self._changing():
            for uid in uids:
                if self._run("DELETE FROM mail WHERE folder = ? AND uid = ?", _name(name), uid):
                    self._run("INSERT OR REPLACE INTO gone VALUES (?, ?, ?)", _name(name), uid, self._touch(name))
                    removed.append(uid)
        return removed

    def gone(self, name: str, since_modseq: int) -> list[int]:
        """UIDs removed after a mod-sequence."""
        rows = self._all("SELECT uid FROM gone WHERE folder = ? AND modseq > ? ORDER BY uid", _name(name), since_modseq)
        return [row[0] for row in rows]

    def used(self) -> int:
        """Bytes held."""
        return int(self._one("SELECT coalesce(sum(size), 0) FROM mail"))

    # --- within ------------------------------------------------------------------------

    def _put(self, folder: str, flags: frozenset[str], at: int, email_id: str, raw: bytes) -> int:
        uid = int(self._one("SELECT uidnext FROM folders WHERE name = ?", folder))
        self._run("UPDATE folders SET uidnext = uidnext + 1 WHERE name = ?", folder)
        self._run(
            "INSERT INTO mail VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            folder, uid, " ".join(sorted(flags - {"\\Recent"})), self._touch(folder), at, email_id, len(raw), raw,
        )  # fmt: skip
        return uid

    def _touch(self, name: str) -> int:
        modseq = self._next("modseq")
        self._run("UPDATE folders SET modseq = ? WHERE name = ?", modseq, _name(name))
        return modseq

    def _next(self, what: str) -> int:
        return int(self._one(f"UPDATE state SET {what} = {what} + 1 RETURNING {what}"))

    @contextmanager
    def _changing(self) -> Iterator[None]:
        with self._lock:
            outer = self._depth == 0
            self._depth += 1
            if outer:
                self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
                if outer:
                    self._db.execute("COMMIT")
            except BaseException:
                if outer:
                    self._db.execute("ROLLBACK")
                raise
            finally:
                self._depth -= 1
        if outer:
            for told in list(self._listeners):
                told()

    def _run(self, sql: str, *values: object) -> int:
        return self._db.execute(sql, values).rowcount

    def _all(self, sql: str, *values: object) -> list[Any]:
        with self._lock:
            return self._db.execute(sql, values).fetchall()

    def _row(self, sql: str, *values: object) -> Any:
        with self._lock:
            return self._db.execute(sql, values).fetchone()

    def _one(self, sql: str, *values: object) -> int:
        row = self._row(sql, *values)
        assert row is not None
        return int(row[0])


def _name(name: str) -> str:
    return INBOX if name.upper() == INBOX else name
