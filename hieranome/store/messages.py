"""Messages: put in, listed page by page, moved, rescored."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from hieranome.core.buckets import GONE
from hieranome.core.deciders import Decider
from hieranome.core.errors import NotFound
from hieranome.core.features import FEATURE_VERSION, Vector, pack, unpack
from hieranome.core.text import spaced

SNIPPET = 160
RECEIVED = "m.decided_by NOT IN ('own', 'edition') AND m.place NOT IN ('sent', 'drafts', 'junk', 'trash', 'gone')"
"""Of a message ``m``: that it came to the owner, and is not thrown away."""


@dataclass(frozen=True, slots=True)
class Message:
    """One row of mail as lists show it. ``score`` and the edges of its band are in [0, 1];
    ``likely`` is the low bucket it would go to, were it not important."""

    id: int
    thread: int
    time: int
    sender_address: str
    sender_name: str
    list_id: str
    subject: str
    snippet: str
    size: int
    attachments: int
    readable: bool
    seen: bool
    answered: bool
    flagged: bool
    place: str
    decided_by: Decider
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str


@dataclass(frozen=True, slots=True)
class NewMessage:
    """All that is stored of an arriving message."""

    digest: bytes
    message_id: str
    thread: int
    bare_subject: str
    time: int
    sender_address: str
    sender_name: str
    sender_domain: str
    list_id: str
    subject: str
    snippet: str
    size: int
    attachments: int
    readable: bool
    seen: bool
    answered: bool
    flagged: bool
    place: str
    decided_by: Decider
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str
    asked: bool
    counted: bool
    assured: bool
    bulk: bool
    automatic: bool
    reached: str


FIELDS = tuple(Message.__dataclass_fields__)
COLUMNS = ", ".join(FIELDS)
_FLAGS = ("readable", "seen", "answered", "flagged")
_NEW = tuple(NewMessage.__dataclass_fields__)
_INSERT = f"INSERT INTO messages ({', '.join(_NEW)}) VALUES ({', '.join(f':{name}' for name in _NEW)})"


def as_message(row: sqlite3.Row | dict[str, Any]) -> Message:
    """A row of :data:`COLUMNS` as a message."""
    values = dict(row)
    for flag in _FLAGS:
        values[flag] = bool(values[flag])
    values["decided_by"] = Decider(values["decided_by"])
    return Message(**values)


@dataclass(frozen=True, slots=True)
class Words:
    """The words of a message by where they stand, as the search index takes them."""

    subject: str
    sender: str
    recipients: str
    cc: str
    list: str
    files: str
    body: str


_WORDS = tuple(Words.__dataclass_fields__)
_WORD_MARKS = ", ".join("?" * len(_WORDS))


def add(db: sqlite3.Connection, new: NewMessage, compressed: bytes, vector: Vector | None, words: Words) -> int:
    """Store one message with its bytes, its vector (None for what is never weighed) and its words; returns its id."""
    number = db.execute(_INSERT, {name: getattr(new, name) for name in _NEW}).lastrowid
    assert number is not None
    put_mail(db, number, compressed, words)
    if vector is not None:
        db.execute("INSERT INTO vectors VALUES (?, ?, ?)", (number, FEATURE_VERSION, pack(vector)))
    return number


def put_mail(db: sqlite3.Connection, number: int, compressed: bytes, words: Words) -> None:
    """Store the bytes and the words of a message whose row is there."""
    db.execute("INSERT INTO raw VALUES (?, ?)", (number, compressed))
    said = {name: getattr(words, name) for name in _WORDS}
    spread = {name: text if name == "list" else spaced(text) for name, text in said.items()}
    db.execute(
        f"INSERT INTO words (message, {', '.join(_WORDS)}) VALUES (?, {_WORD_MARKS})", (number, *spread.values())
    )


def index(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Put the words of stored messages into the search index, after all else of a batch."""
    db.execute(
        f"INSERT INTO words_index (rowid, {', '.join(_WORDS)}) SELECT message, {', '.join(_WORDS)} FROM words"
        " WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )


def known(db: sqlite3.Connection, digest: bytes) -> bool:
    """Whether a message of these very bytes is stored."""
    return db.execute("SELECT 1 FROM messages WHERE digest = ?", (digest,)).fetchone() is not None


def known_among(db: sqlite3.Connection, digests: Sequence[bytes]) -> set[bytes]:
    """Those of the digests whose messages are stored."""
    marks = ", ".join("?" * len(digests))
    return {row[0] for row in db.execute(f"SELECT digest FROM messages WHERE digest IN ({marks})", digests)}


def get(db: sqlite3.Connection, number: int) -> Message:
    """One message. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {COLUMNS} FROM messages WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no message {number}. It may have been removed; load the list again.")
    if row["place"] == GONE:
        raise NotFound("This message was taken out of the Trash for good. What it taught is kept.")
    return as_message(row)


def get_many(db: sqlite3.Connection, numbers: Sequence[int]) -> list[Message]:
    """The messages of these ids that are here, in the order asked for."""
    found = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE id IN (SELECT value FROM json_each(?)) AND place <> ?",
        (json.dumps(list(numbers)), GONE),
    ).fetchall()
    by_id = {row["id"]: as_message(row) for row in found}
    return [by_id[number] for number in numbers if number in by_id]


def raw(db: sqlite3.Connection, number: int) -> bytes:
    """The bytes of a message as they came. Raises :class:`NotFound`."""
    row = db.execute("SELECT zlib FROM raw WHERE message = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no message {number}.")
    return zlib.decompress(row[0])


def heads_from(db: sqlite3.Connection, address: str, most: int, size: int) -> list[bytes]:
    """The first bytes, up to ``size``, of the newest messages of an address that the owner did not write."""
    rows = db.execute(
        "SELECT r.zlib FROM messages AS m INDEXED BY messages_by_sender JOIN raw AS r ON r.message = m.id"
        " WHERE m.sender_address = ? AND m.decided_by NOT IN ('own', 'edition') ORDER BY m.id DESC LIMIT ?",
        (address, most))  # fmt: skip
    return [zlib.decompressobj().decompress(row[0], size) for row in rows]


def last_id(db: sqlite3.Connection) -> int:
    """The highest number of a message; 0 where there is none."""
    return int(db.execute("SELECT coalesce(max(id), 0) FROM messages").fetchone()[0])


def digests(db: sqlite3.Connection, numbers: Sequence[int]) -> list[bytes]:
    """The SHA-256 of the bytes of each of some messages that exist."""
    rows = db.execute(
        "SELECT id, digest FROM messages WHERE id IN (SELECT value FROM json_each(?))", (json.dumps(list(numbers)),)
    )
    found = {row[0]: bytes(row[1]) for row in rows}
    return [found[number] for number in numbers]


def after(db: sqlite3.Connection, number: int) -> list[int]:
    """The messages that came after one."""
    return [row[0] for row in db.execute("SELECT id FROM messages WHERE id > ?", (number,))]


def decided_on(db: sqlite3.Connection) -> list[int]:
    """The messages whose place the owner decided, by a verdict, its kin or by filing."""
    rows = db.execute("SELECT id FROM messages WHERE decided_by IN ('verdict', 'kin', 'filed')")
    return [row[0] for row in rows]


def newest_received(db: sqlite3.Connection) -> int:
    """The time of the newest message the owner did not write, or 0."""
    return int(db.execute("SELECT max(time) FROM messages WHERE place <> 'sent'").fetchone()[0] or 0)


def any_here(db: sqlite3.Connection) -> bool:
    """Whether there is any mail."""
    return db.execute("SELECT 1 FROM messages WHERE place <> ? LIMIT 1", (GONE,)).fetchone() is not None


def how_many(db: sqlite3.Connection) -> int:
    """How many messages there are."""
    row = db.execute("SELECT coalesce(sum(total), 0) FROM places WHERE name <> ?", (GONE,)).fetchone()
    return int(row[0])


def by_message_id(db: sqlite3.Connection, *, received: bool = False) -> list[tuple[int, str]]:
    """(id, Message-ID) of every message, or of those the owner did not write, oldest first."""
    which = " AND place <> 'sent'" if received else ""
    rows = db.execute(f"SELECT id, message_id FROM messages WHERE place <> 'gone'{which} ORDER BY time")
    return [(row[0], row[1]) for row in rows]


def move(db: sqlite3.Connection, number: int, place: str, decided_by: Decider) -> None:
    """Put a message somewhere else."""
    db.execute("UPDATE messages SET place = ?, decided_by = ? WHERE id = ?", (place, decided_by, number))


def stood(db: sqlite3.Connection, numbers: Iterable[int]) -> list[tuple[int, str, Decider]]:
    """Where each of some messages stands, and who decided that."""
    rows = db.execute(
        "SELECT id, place, decided_by FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return [(row[0], row[1], Decider(row[2])) for row in rows]


def move_all(
    db: sqlite3.Connection, numbers: Iterable[int], place: str, decided_by: Decider, *, out_of: str = ""
) -> list[int]:
    """Put messages somewhere else, with ``out_of`` those that still stand there; which ones moved."""
    where = " AND place = ?" if out_of else ""
    moved = db.execute(
        "UPDATE messages SET place = ?, decided_by = ? WHERE id IN (SELECT value FROM json_each(?))"
        f"{where} RETURNING id",
        (place, decided_by, json.dumps(list(numbers)), *([out_of] if out_of else [])),
    )
    return [row[0] for row in moved.fetchall()]


def standing_in(db: sqlite3.Connection, place: str) -> list[tuple[int, Decider]]:
    """(id, decided by) of all mail of a place, oldest first."""
    rows = db.execute("SELECT id, decided_by FROM messages WHERE place = ? ORDER BY time, id", (place,))
    return [(row[0], Decider(row[1])) for row in rows]


def vectors(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, Vector]:
    """The vectors of some messages."""
    rows = db.execute(
        "SELECT message, features FROM vectors WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: unpack(row[1]) for row in rows}


def of_thread(db: sqlite3.Connection, thread: int, limit: int = 200) -> list[Message]:
    """The messages of a thread, oldest first."""
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE thread = ? AND place <> ? ORDER BY time, id LIMIT ?",
        (thread, GONE, limit),
    )
    return [as_message(row) for row in rows]
