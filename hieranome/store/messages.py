"""Messages: put in, listed page by page, moved, rescored."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hieranome.core.buckets import DRAIN
from hieranome.core.errors import NotFound
from hieranome.core.features import FEATURE_VERSION, Vector, pack, unpack
from hieranome.core.text import spaced

SNIPPET = 160
IN_SIGHT = 60
"""Messages of a place, in each of its orders, that are rescored at once after a lesson; the rest follows behind."""
STANDING = 5_000
"""Messages of the band a lesson looks for its kin among."""


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
    decided_by: str
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
    decided_by: str
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str
    ask_value: float
    asked: bool
    counted: bool
    assured: bool


@dataclass(frozen=True, slots=True)
class Score:
    """New numbers of one message."""

    message: int
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str


FIELDS = tuple(Message.__dataclass_fields__)
COLUMNS = ", ".join(FIELDS)
_FLAGS = ("readable", "seen", "answered", "flagged")
_NEW = tuple(NewMessage.__dataclass_fields__)
_INSERT = f"INSERT INTO messages ({', '.join(_NEW)}) VALUES ({', '.join(f':{name}' for name in _NEW)})"


def as_message(row: sqlite3.Row) -> Message:
    """A row of :data:`COLUMNS` as a message."""
    values = dict(row)
    for flag in _FLAGS:
        values[flag] = bool(values[flag])
    return Message(**values)


@dataclass(frozen=True, slots=True)
class Words:
    """The words of a message by where they stand, as the search index takes them."""

    subject: str
    sender: str
    recipients: str
    list: str
    body: str


def add(db: sqlite3.Connection, new: NewMessage, compressed: bytes, vector: Vector, words: Words) -> int:
    """Store one message with its bytes, its vector and its words; returns its id."""
    number = db.execute(_INSERT, {name: getattr(new, name) for name in _NEW}).lastrowid
    assert number is not None
    db.execute("INSERT INTO raw VALUES (?, ?)", (number, compressed))
    db.execute("INSERT INTO vectors VALUES (?, ?, ?)", (number, FEATURE_VERSION, pack(vector)))
    db.execute(
        "INSERT INTO words VALUES (?, ?, ?, ?, ?, ?)",
        (number, spaced(words.subject), spaced(words.sender), spaced(words.recipients), words.list, spaced(words.body)),
    )
    return number


def index(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Put the words of stored messages into the search index, after all else of a batch."""
    db.execute(
        "INSERT INTO words_index (rowid, subject, sender, recipients, list, body)"
        " SELECT message, subject, sender, recipients, list, body FROM words"
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
    return as_message(row)


def get_many(db: sqlite3.Connection, numbers: Sequence[int]) -> list[Message]:
    """The messages of these ids that exist, in the order asked for."""
    found = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    ).fetchall()
    by_id = {row["id"]: as_message(row) for row in found}
    return [by_id[number] for number in numbers if number in by_id]


def raw(db: sqlite3.Connection, number: int) -> bytes:
    """The bytes of a message as they came. Raises :class:`NotFound`."""
    row = db.execute("SELECT zlib FROM raw WHERE message = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no message {number}.")
    return zlib.decompress(row[0])


def vector(db: sqlite3.Connection, number: int) -> Vector:
    """The stored vector of a message."""
    row = db.execute("SELECT features FROM vectors WHERE message = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no message {number}.")
    return unpack(row[0])


def move(db: sqlite3.Connection, number: int, place: str, decided_by: str) -> None:
    """Put a message somewhere else."""
    db.execute("UPDATE messages SET place = ?, decided_by = ? WHERE id = ?", (place, decided_by, number))


def mark(db: sqlite3.Connection, numbers: Iterable[int], name: str, wanted: bool) -> list[int]:
    """Set or clear ``seen``, ``answered`` or ``flagged``; returns the messages that changed."""
    if name not in ("seen", "answered", "flagged"):
        raise ValueError(name)
    changed = db.execute(
        f"UPDATE messages SET {name} = ? WHERE {name} <> ? AND id IN (SELECT value FROM json_each(?)) RETURNING id",
        (wanted, wanted, json.dumps(list(numbers))),
    )
    return [row[0] for row in changed.fetchall()]


def in_sight(db: sqlite3.Connection) -> list[int]:
    """The messages a lesson rescores at once, oldest first: of every place of the band the most important and the
    newest, read and unread."""
    part = "SELECT id FROM (SELECT id FROM messages WHERE place = ? AND seen = ? ORDER BY {} DESC, id DESC LIMIT ?)"
    found: set[int] = set()
    for (place,) in db.execute("SELECT name FROM places WHERE band >= 0 AND total > 0").fetchall():
        for column in ("score", "time"):
            for seen in (0, 1):
                found.update(row[0] for row in db.execute(part.format(column), (place, seen, IN_SIGHT)))
    return sorted(found)


def standing(db: sqlite3.Connection) -> list[int]:
    """The newest messages of the band, by their ids: among them a lesson looks for its kin."""
    rows = db.execute(
        "SELECT id FROM messages INDEXED BY messages_by_when"
        " WHERE place IN (SELECT name FROM places WHERE band >= 0) ORDER BY time DESC, id DESC LIMIT ?",
        (STANDING,),
    )
    return sorted(row[0] for row in rows)


def left_to_the_model(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[int, str]]:
    """Those of some messages that stand where the model or a lesson's pull put them, each with its place."""
    rows = db.execute(
        "SELECT id, place FROM messages WHERE id IN (SELECT value FROM json_each(?))"
        " AND decided_by IN ('model', 'kin')",
        (json.dumps(list(numbers)),),
    )
    return [(row[0], row[1]) for row in rows]


def vectors(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, Vector]:
    """The vectors of some messages."""
    rows = db.execute(
        "SELECT message, features FROM vectors WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: unpack(row[1]) for row in rows}


def chunk_below(db: sqlite3.Connection, below: int, size: int, *, band: bool) -> tuple[list[int], list[Vector]]:
    """The next ``size`` weighed messages with smaller ids, newest first: those of the band, or all others."""
    which = "IN" if band else "NOT IN"
    rows = db.execute(
        f"""
        SELECT m.id, v.features FROM messages AS m JOIN vectors AS v ON v.message = m.id
        WHERE m.id < ? AND m.place {which} (SELECT name FROM places WHERE band >= 0)
            AND m.place NOT IN ('sent', 'drafts') ORDER BY m.id DESC LIMIT ?
        """,
        (below, size),
    ).fetchall()
    return [row[0] for row in rows], [unpack(row[1]) for row in rows]


def scores(db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[float, float, str]]:
    """(score, certainty, likely low bucket) of each of some messages that exist."""
    rows = db.execute(
        "SELECT id, score, certainty, likely FROM messages WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    ).fetchall()
    found = {number: (score, certainty, likely) for number, score, certainty, likely in rows}
    return [found[number] for number in numbers]


def rescore(db: sqlite3.Connection, scores: Iterable[Score]) -> None:
    """Write new numbers."""
    db.executemany(
        "UPDATE messages SET score = ?, low_edge = ?, high_edge = ?, certainty = ?, likely = ? WHERE id = ?",
        [(s.score, s.low_edge, s.high_edge, s.certainty, s.likely, s.message) for s in scores],
    )


def recent_questions(db: sqlite3.Connection, window: int) -> list[tuple[float, bool]]:
    """(value of asking, asked or not when it came) of the last messages, oldest first."""
    rows = db.execute(
        "SELECT ask_value, asked FROM messages WHERE place <> 'sent' ORDER BY id DESC LIMIT ?", (window,)
    ).fetchall()
    return [(row[0], bool(row[1])) for row in reversed(rows)]


def note_asked(db: sqlite3.Connection, number: int) -> None:
    """Note that the owner is asked about a message that came earlier."""
    db.execute("UPDATE messages SET asked = 1 WHERE id = ?", (number,))


def sum_keys(row: sqlite3.Row) -> list[str]:
    """The sums a stored message belongs to; the row holds sender_address, sender_domain and list_id."""
    found = []
    if row["sender_address"]:
        found += [f"address:{row['sender_address']}", f"domain:{row['sender_domain']}"]
    if row["list_id"]:
        found.append(f"list:{row['list_id']}")
    return found


def standing_with(db: sqlite3.Connection, column: str, values: Sequence[str | int], limit: int) -> list[Message]:
    """Standing messages of the band of a thread, sender, list or domain, newest first."""
    if column not in ("thread", "sender_address", "list_id", "sender_domain"):
        raise ValueError(column)
    rows = db.execute(
        f"SELECT {COLUMNS} FROM messages WHERE {column} IN (SELECT value FROM json_each(?))"
        " AND place IN (SELECT name FROM places WHERE band >= 0) ORDER BY id DESC LIMIT ?",
        (json.dumps(list(values)), limit),
    )
    return [as_message(row) for row in rows]


def came_through(db: sqlite3.Connection, address: str, list_id: str, besides: int = 0) -> bool:
    """Whether mail of a sender came through a list before, ``besides`` the message at hand, was not refused, and was
    not itself mail whose sender nothing spoke for."""
    row = db.execute(
        "SELECT 1 FROM messages"
        " WHERE sender_address = ? AND list_id = ? AND place <> ? AND assured = 1 AND id <> ? LIMIT 1",
        (address, list_id, DRAIN, besides),
    ).fetchone()
    return row is not None


def of_thread(db: sqlite3.Connection, thread: int, limit: int = 200) -> list[Message]:
    """The messages of a thread, oldest first."""
    rows = db.execute(f"SELECT {COLUMNS} FROM messages WHERE thread = ? ORDER BY time, id LIMIT ?", (thread, limit))
    return [as_message(row) for row in rows]


def set_counted(db: sqlite3.Connection, number: int) -> bool:
    """Note that a message is part of its sender's sums; returns whether it was before."""
    before = bool(db.execute("SELECT counted FROM messages WHERE id = ?", (number,)).fetchone()[0])
    db.execute("UPDATE messages SET counted = 1 WHERE id = ? AND counted = 0", (number,))
    return before


def keys_for_sums(db: sqlite3.Connection, number: int) -> list[str]:
    """The sums a message belongs to, by its id."""
    row = db.execute("SELECT sender_address, sender_domain, list_id FROM messages WHERE id = ?", (number,)).fetchone()
    return sum_keys(row)
