"""Copies of messages on servers: where each stands, where it is to go, what was begun of its move."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, slots=True)
class Copy:
    """One copy: the folder and UID it stands under (None once it is gone), the marks the server last told, its
    INTERNALDATE (Unix seconds), size in bytes and EMAILID (RFC 8474). ``goal`` is the folder it is to go to; ``stage``
    what was begun of a move, with the target folder's UIDVALIDITY and next UID from before it."""

    id: int
    folder: int
    uid: int | None
    message: int
    seen: bool
    answered: bool
    flagged: bool
    at: int
    size: int
    email_id: str
    news: bool
    twin: bool
    missing: int
    goal: int | None
    tries: int
    stage: str
    target: int | None
    target_validity: int
    target_uidnext: int
    target_uid: int


@dataclass(frozen=True, slots=True)
class NewCopy:
    """A copy found on a server."""

    folder: int
    uid: int
    message: int
    seen: bool
    answered: bool
    flagged: bool
    at: int
    size: int
    email_id: str
    news: bool = False


_FIELDS = tuple(Copy.__dataclass_fields__)
_COLUMNS = ", ".join(f"c.{name}" for name in _FIELDS)
_TRUTHS = ("seen", "answered", "flagged", "news", "twin")
_NEW = tuple(NewCopy.__dataclass_fields__)


def _copy(row: sqlite3.Row) -> Copy:
    values: dict[str, Any] = {name: bool(row[name]) if name in _TRUTHS else row[name] for name in _FIELDS}
    return Copy(**values)


def select(db: sqlite3.Connection, where: str, *values: object, by: str = "") -> list[Copy]:
    """Copies; ``by`` names the partial index that holds the few that matter, which the planner does not see by
    itself."""
    indexed = f" INDEXED BY {by}" if by else ""
    return [_copy(row) for row in db.execute(f"SELECT {_COLUMNS} FROM copies AS c{indexed} {where}", values)]


def add(db: sqlite3.Connection, new: Iterable[NewCopy]) -> None:
    """Store copies; one that is known under its folder and UID is left as it is."""
    marks = ", ".join("?" * len(_NEW))
    db.executemany(
        f"INSERT OR IGNORE INTO copies ({', '.join(_NEW)}) VALUES ({marks})",
        [[getattr(one, name) for name in _NEW] for one in new],
    )


def in_folder(db: sqlite3.Connection, folder: int) -> list[Copy]:
    """The copies that stand in a folder, by UID."""
    return select(db, "WHERE c.folder = ? AND c.uid IS NOT NULL ORDER BY c.uid", folder)


def uids(db: sqlite3.Connection, folder: int) -> list[int]:
    """The UIDs known of a folder, ascending."""
    rows = db.execute("SELECT uid FROM copies WHERE folder = ? AND uid IS NOT NULL ORDER BY uid", (folder,))
    return [row[0] for row in rows]


def count(db: sqlite3.Connection, folder: int) -> int:
    """How many copies stand in a folder."""
    row = db.execute("SELECT count(*) FROM copies WHERE folder = ? AND uid IS NOT NULL", (folder,)).fetchone()
    return int(row[0])


def at(db: sqlite3.Connection, folder: int, wanted: Iterable[int]) -> list[Copy]:
    """The copies that stand in a folder under these UIDs, by UID."""
    where = "WHERE c.folder = ? AND c.uid IN (SELECT value FROM json_each(?)) ORDER BY c.uid"
    return select(db, where, folder, json.dumps(list(wanted)))


def marks(db: sqlite3.Connection, folder: int) -> dict[int, tuple[bool, bool, bool]]:
    """Seen, answered and flagged, as the server last told, of every copy in a folder, by UID."""
    rows = db.execute("SELECT uid, seen, answered, flagged FROM copies WHERE folder = ? AND uid IS NOT NULL", (folder,))
    return {row[0]: (bool(row[1]), bool(row[2]), bool(row[3])) for row in rows}


def of_message(db: sqlite3.Connection, message: int) -> list[Copy]:
    """The copies of a message, oldest first."""
    return select(db, "WHERE c.message = ? ORDER BY c.id", message)


def accounts_of(db: sqlite3.Connection, messages: Sequence[int]) -> dict[int, list[str]]:
    """The addresses of the mailboxes each of some messages stands in; those in none are left out."""
    rows = db.execute(
        "SELECT DISTINCT c.message, a.address FROM copies AS c JOIN folders AS f ON f.id = c.folder"
        " JOIN accounts AS a ON a.id = f.account WHERE c.message IN (SELECT value FROM json_each(?)) ORDER BY a.id",
        (json.dumps(list(messages)),),
    )
    found: dict[int, list[str]] = {}
    for message, address in rows:
        found.setdefault(message, []).append(address)
    return found


def told_apart(db: sqlite3.Connection, messages: Sequence[int]) -> dict[int, list[str]]:
    """What :func:`accounts_of` tells, where there are several mailboxes; else nothing, since it tells nothing apart."""
    several = db.execute("SELECT count(*) FROM accounts").fetchone()[0] > 1
    return accounts_of(db, messages) if several else {}


def by_email_id(db: sqlite3.Connection, account: int, email_id: str) -> int | None:
    """The message a mailbox knows under an EMAILID, or None."""
    row = db.execute(
        "SELECT c.message FROM copies AS c JOIN folders AS f ON f.id = c.folder"
        " WHERE c.email_id = ? AND c.email_id <> '' AND f.account = ? LIMIT 1",
        (email_id, account),
    ).fetchone()
    return int(row[0]) if row else None


def by_digest(db: sqlite3.Connection, digests: Sequence[bytes]) -> dict[bytes, int]:
    """The messages stored under digests of their bytes."""
    marks = ", ".join("?" * len(digests))
    rows = db.execute(f"SELECT digest, id FROM messages WHERE digest IN ({marks})", digests)
    return {bytes(row[0]): row[1] for row in rows}


def set_flags(db: sqlite3.Connection, copy: int, *, seen: bool, answered: bool, flagged: bool) -> None:
    """Note the marks the server has now; it is to be told more where the message's own are others."""
    db.execute(
        "UPDATE copies SET seen = ?1, answered = ?2, flagged = ?3, dirty ="
        " (SELECT m.seen <> ?1 OR m.answered <> ?2 OR m.flagged <> ?3 FROM messages AS m WHERE m.id = message)"
        " WHERE id = ?4",
        (seen, answered, flagged, copy),
    )


def compare_marks(db: sqlite3.Connection, message: int) -> None:
    """Let the server be told the marks of a message where the owner's rules set more than it came with."""
    db.execute(
        "UPDATE copies SET dirty = 1 WHERE message = ?1 AND uid IS NOT NULL"
        " AND EXISTS (SELECT 1 FROM rule_hits WHERE message = ?1) AND EXISTS (SELECT 1 FROM messages AS m"
        " WHERE m.id = ?1 AND (m.seen > copies.seen OR m.flagged > copies.flagged))",
        (message,),
    )


def lose(db: sqlite3.Connection, numbers: Iterable[int]) -> None:
    """Note that copies are gone from their folders, and are to be looked for."""
    db.executemany(
        "UPDATE copies SET uid = NULL, goal = NULL, stage = '', target = NULL, dirty = 0 WHERE id = ?",
        [(number,) for number in numbers],
    )


def unnumber(db: sqlite3.Connection, numbers: Iterable[int]) -> None:
    """Note that copies under way are no longer where they stood; their move is still to be looked up."""
    db.executemany("UPDATE copies SET uid = NULL WHERE id = ?", [(number,) for number in numbers])


def renumber(db: sqlite3.Connection, changes: Iterable[tuple[int, int]]) -> None:
    """Give copies (by id) the UIDs they have now."""
    pairs = list(changes)
    db.executemany("UPDATE copies SET uid = NULL WHERE id = ?", [(number,) for number, _ in pairs])
    db.executemany("UPDATE copies SET uid = ? WHERE id = ?", [(uid, number) for number, uid in pairs])


def to_explain(db: sqlite3.Connection, account: int) -> list[Copy]:
    """Copies that appeared or went and were not yet thought about."""
    return select(
        db,
        "JOIN folders AS f ON f.id = c.folder WHERE (c.news = 1 OR c.uid IS NULL) AND c.stage = ''"
        " AND f.account = ? ORDER BY c.id",
        account,
        by="copies_to_explain",
    )


def explained(db: sqlite3.Connection, number: int, *, twin: bool = False) -> None:
    """Note that a copy that appeared was thought about; a twin stands beside another copy of its message."""
    db.execute("UPDATE copies SET news = 0, twin = ? WHERE id = ?", (twin, number))


def missed(db: sqlite3.Connection, number: int) -> None:
    """Count a look that did not find a copy anywhere."""
    db.execute("UPDATE copies SET missing = missing + 1 WHERE id = ?", (number,))


def forget(db: sqlite3.Connection, number: int) -> None:
    """Forget a copy that is gone."""
    db.execute("DELETE FROM copies WHERE id = ?", (number,))


def newest_in_inbox(db: sqlite3.Connection, account: int, most: int) -> list[tuple[int, str]]:
    """The newest messages in the inbox of a mailbox, each with the place it stands in here."""
    rows = db.execute(
        """
        SELECT m.id, m.place FROM copies AS c JOIN folders AS f ON f.id = c.folder
            JOIN messages AS m ON m.id = c.message
        WHERE f.account = ? AND f.role = 'inbox' AND c.uid IS NOT NULL ORDER BY m.time DESC LIMIT ?
        """,
        (account, most),
    )
    return [(row[0], row[1]) for row in rows]
