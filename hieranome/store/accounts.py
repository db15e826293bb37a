"""Mailboxes on servers and their folders."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Any

from hieranome.core.errors import NotFound


@dataclass(frozen=True, slots=True)
class NewAccount:
    """What the owner says of a mailbox: the address it is for, how its servers are reached, who signs in. ``bearer``
    says that a token is used, ``prefix`` what the names of one's own folders must begin with (RFC 2342); a pin is the
    fingerprint of the certificate a server is trusted by, or empty. Where the owner authorised it (OAuth), the
    addresses, the client and the scope say how; ``token_url`` is empty where not."""

    address: str
    name: str
    user: str
    bearer: bool
    imap_host: str
    imap_port: int
    imap_security: str
    smtp_host: str
    smtp_port: int
    smtp_security: str
    prefix: str = ""
    imap_pin: str = ""
    smtp_pin: str = ""
    authorise_url: str = ""
    token_url: str = ""
    client_id: str = ""
    scope: str = ""


@dataclass(frozen=True, slots=True)
class Account(NewAccount):
    """A mailbox as it stands. ``state`` is ``new``, ``reading`` (its history), ``weighing`` or ``watching``;
    ``routing`` says that mail is moved on the server, ``routed`` is the newest message of when it first was (0: never);
    ``error`` is why it cannot be reached now, or empty."""

    id: int = 0
    state: str = "new"
    paused: bool = False
    routing: bool = False
    error: str = ""
    first_message: int = 0
    added_at: int = 0
    synced_at: int = 0
    routed: int = 0


@dataclass(frozen=True, slots=True)
class Folder:
    """A folder of a mailbox and what was last known of it; ``place`` is where its mail stands here. ``low`` is the
    lowest UID of its history read so far: 0 when all is, -1 before it began."""

    id: int
    account: int
    name: str
    role: str
    place: str
    present: bool
    followed: bool
    validity: int
    uidnext: int
    modseq: int
    messages: int
    low: int
    keywords: bool = True


_NEW = tuple(NewAccount.__dataclass_fields__)
_ACCOUNT = tuple(Account.__dataclass_fields__)
_FOLDER = tuple(Folder.__dataclass_fields__)
_TRUTHS = ("bearer", "paused", "routing", "present", "followed", "keywords")


def _values(row: sqlite3.Row) -> dict[str, Any]:
    return {key: bool(row[key]) if key in _TRUTHS else row[key] for key in row.keys()}  # noqa: SIM118


def add(db: sqlite3.Connection, new: NewAccount, at: int) -> int:
    """Store a mailbox; its id."""
    marks = ", ".join("?" * (len(_NEW) + 1))
    values = [getattr(new, name) for name in _NEW]
    number = db.execute(f"INSERT INTO accounts ({', '.join(_NEW)}, added_at) VALUES ({marks})", [*values, at]).lastrowid
    assert number is not None
    return number


def change(db: sqlite3.Connection, number: int, new: NewAccount) -> None:
    """Store what the owner says of a mailbox anew."""
    sets = ", ".join(f"{name} = ?" for name in _NEW)
    db.execute(f"UPDATE accounts SET {sets} WHERE id = ?", [*(getattr(new, name) for name in _NEW), number])


def every(db: sqlite3.Connection) -> list[Account]:
    """All mailboxes, in the order they were added."""
    rows = db.execute(f"SELECT {', '.join(_ACCOUNT)} FROM accounts ORDER BY id").fetchall()
    return [Account(**_values(row)) for row in rows]


def get(db: sqlite3.Connection, number: int) -> Account:
    """One mailbox. Raises :class:`NotFound`."""
    found = next((one for one in every(db) if one.id == number), None)
    if found is None:
        raise NotFound(f"There is no mailbox {number}. It may have been taken away; load the page again.")
    return found


def update(db: sqlite3.Connection, number: int, **values: str | int) -> None:
    """Set columns of a mailbox."""
    sets = ", ".join(f"{name} = ?" for name in values)
    db.execute(f"UPDATE accounts SET {sets} WHERE id = ?", [*values.values(), number])


def remove(db: sqlite3.Connection, number: int) -> None:
    """Forget a mailbox, its folders and copies; the messages stay here."""
    db.execute(
        "UPDATE copies SET goal = NULL, target = NULL WHERE folder IN (SELECT id FROM folders WHERE account = ?)",
        (number,),
    )
    db.execute("DELETE FROM accounts WHERE id = ?", (number,))


def add_folder(db: sqlite3.Connection, account: int, name: str, role: str, place: str, *, present: bool = True) -> int:
    """Store a folder; its id."""
    number = db.execute(
        "INSERT INTO folders (account, name, role, place, present) VALUES (?, ?, ?, ?, ?)",
        (account, name, role, place, present),
    ).lastrowid
    assert number is not None
    return number


def folders(db: sqlite3.Connection, account: int) -> list[Folder]:
    """The folders of a mailbox, the inbox first, then the buckets."""
    rows = db.execute(
        f"SELECT {', '.join(_FOLDER)} FROM folders WHERE account = ?"
        " ORDER BY role <> 'inbox', role <> 'bucket', role = 'other', name",
        (account,),
    ).fetchall()
    return [Folder(**_values(row)) for row in rows]


def folder(db: sqlite3.Connection, number: int) -> Folder:
    """One folder. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {', '.join(_FOLDER)} FROM folders WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no folder {number}.")
    return Folder(**_values(row))


def update_folder(db: sqlite3.Connection, number: int, **values: str | int) -> None:
    """Set columns of a folder."""
    sets = ", ".join(f"{name} = ?" for name in values)
    db.execute(f"UPDATE folders SET {sets} WHERE id = ?", [*values.values(), number])


def remove_folder(db: sqlite3.Connection, number: int) -> None:
    """Forget a folder and its copies."""
    db.execute("UPDATE copies SET goal = NULL WHERE goal = ?", (number,))
    db.execute("UPDATE copies SET home = NULL, home_place = NULL WHERE home = ?", (number,))
    db.execute("UPDATE copies SET target = NULL, stage = '' WHERE target = ?", (number,))
    db.execute("DELETE FROM folders WHERE id = ?", (number,))
