"""Mail that may await an answer, and what came of mail before."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.store.messages import Message, get

_ADDRESS = re.compile(r"(?<![^\s<>,;])[^\s<>,;@]+@[^\s<>,;]+")


@dataclass(frozen=True, slots=True)
class Letter:
    """A message by which somebody may be waited for: its thread, when it was written, who is to answer (or, of mail to
    the owner, who asks), its importance, when the first answer came (0: none did), whether the owner let it go,
    that it was not put away, whether it went to many, and whether it stands on the Desk."""

    id: int
    thread: int
    time: int
    person: str
    score: float
    answered_at: int
    settled: bool
    standing: bool
    many: bool = False
    on_desk: bool = False


_LATER = (
    "SELECT min(a.time) FROM messages AS a INDEXED BY messages_by_thread"
    " WHERE a.thread = m.thread AND a.id <> m.id AND a.time >= m.time"
    " AND a.place NOT IN ('drafts', 'gone')"
)
_BY_OTHERS = f"({_LATER} AND a.decided_by NOT IN ('own', 'edition') AND a.automatic = 0 AND a.place <> 'junk')"
_SETTLED = "EXISTS (SELECT 1 FROM following WHERE kind = 'settled' AND message = m.id)"


def written(db: sqlite3.Connection, since: int) -> list[Letter]:
    """What the owner wrote to somebody since a time, oldest first, with the first answer by somebody, no machine."""
    rows = db.execute(
        f"""
        SELECT m.id, m.thread, m.time, w.recipients, m.score,
            {_BY_OTHERS} AS answered_at, {_SETTLED} AS settled
        FROM messages AS m INDEXED BY messages_by_when JOIN words AS w ON w.message = m.id
        WHERE m.time >= ? AND m.decided_by = 'own' AND m.place NOT IN ('drafts', 'trash', 'gone') ORDER BY m.time, m.id
        """,
        (since,),
    )
    found = []
    for row in rows.fetchall():
        named = _ADDRESS.search(row["recipients"])
        if named:
            person = named[0].lower()
            found.append(_letter(row, person, standing=True))
    return found


def received(db: sqlite3.Connection, since: int, among: Sequence[int] | None = None) -> list[Letter]:
    """Mail to the owner since a time that no machine wrote, of some messages or of all, oldest first, with when the
    owner answered (marked as answered elsewhere: at once). ``standing`` is what the owner did not put away."""
    by, only = ("INDEXED BY messages_by_when", "") if among is None else ("", " AND m.id IN (SELECT value FROM chosen)")
    rows = db.execute(
        f"""
        WITH chosen AS (SELECT value FROM json_each(?))
        SELECT m.id, m.thread, m.time, m.sender_address, m.score, m.answered, m.place, m.decided_by,
            m.bulk OR m.list_id <> '' AS many,
            ({_LATER} AND a.decided_by = 'own') AS answered_at, {_SETTLED} AS settled
        FROM messages AS m {by}
        WHERE m.time >= ? AND m.decided_by NOT IN ('own', 'edition') AND m.automatic = 0
            AND m.place NOT IN ('sent', 'drafts', 'junk', 'trash', 'drain', 'gone'){only}
        ORDER BY m.time, m.id
        """,
        (json.dumps(list(among or ())), since),
    )
    found = []
    for row in rows.fetchall():
        away = row["place"] not in ("desk", "undecided") and row["decided_by"] in ("filed", "elsewhere", "verdict")
        one = _letter(row, row["sender_address"], standing=not away)
        one = replace(one, many=bool(row["many"]), on_desk=row["place"] in ("desk", "undecided"))
        found.append(replace(one, answered_at=one.time) if row["answered"] and not one.answered_at else one)
    return found


def _letter(row: sqlite3.Row, person: str, *, standing: bool) -> Letter:
    answered_at = row["answered_at"] or 0
    return Letter(
        row["id"], row["thread"], row["time"], person, row["score"], answered_at, bool(row["settled"]), standing
    )


def is_answered(db: sqlite3.Connection, message: int) -> bool:
    """Whether somebody else, no machine, wrote in the thread of a message after it."""
    row = db.execute(f"SELECT {_BY_OTHERS} FROM messages AS m WHERE m.id = ?", (message,)).fetchone()
    return row is not None and row[0] is not None


def last_written_to(db: sqlite3.Connection, address: str) -> Message | None:
    """The last the owner wrote to an address, or None."""
    rows = db.execute(
        "SELECT m.id, w.recipients, w.cc FROM words_index AS f JOIN messages AS m ON m.id = f.rowid"
        " JOIN words AS w ON w.message = m.id WHERE words_index MATCH ? AND m.decided_by = 'own'"
        " AND m.place NOT IN ('drafts', 'trash', 'gone') ORDER BY m.time DESC, m.id DESC LIMIT 50",
        (f'{{recipients cc}}: "{address.replace(chr(34), "")}"',),
    )
    for row in rows.fetchall():
        named = {found.lower() for found in _ADDRESS.findall(f"{row['recipients']} {row['cc']}")}
        if address in named:
            return get(db, row["id"])
    return None


def received_from(db: sqlite3.Connection, address: str, since: int, most: int) -> list[int]:
    """What came from an address since a time and was not thrown away, the newest first."""
    rows = db.execute(
        "SELECT id FROM messages INDEXED BY messages_by_sender WHERE sender_address = ? AND time > ?"
        " AND decided_by NOT IN ('own', 'edition') AND place NOT IN ('trash', 'junk', 'gone')"
        " ORDER BY time DESC, id DESC LIMIT ?",
        (address, since, most),
    )
    return [row[0] for row in rows]


def names(db: sqlite3.Connection, addresses: Sequence[str]) -> dict[str, str]:
    """What those who write from some addresses call themselves, the latest of each."""
    rows = db.execute(
        "SELECT e.value AS address, (SELECT sender_name FROM messages INDEXED BY messages_by_sender"
        " WHERE sender_address = e.value AND sender_name <> '' ORDER BY id DESC LIMIT 1) AS name"
        " FROM json_each(?) AS e",
        (json.dumps(sorted(set(addresses))),),
    )
    return {row["address"]: row["name"] for row in rows if row["name"]}


def texts(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, str]:
    """The texts of some messages, as the index of words has them."""
    rows = db.execute(
        "SELECT message, body FROM words WHERE message IN (SELECT value FROM json_each(?))",
        (json.dumps(list(numbers)),),
    )
    return {row[0]: row[1] for row in rows}
