"""The phrasebook: stock text by short name, its files, and for which mail each was used."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.arranged import Thing
from hieranome.core.errors import NotFound
from hieranome.store import arranged
from hieranome.store.drafts import DraftAttachment


@dataclass(frozen=True, slots=True)
class Phrase:
    """Stock text, its short name, and how often it was used."""

    id: int
    short: str
    text: str
    uses: int


_SELECT = "SELECT p.id, p.short, p.text, (SELECT count(*) FROM phrase_uses WHERE phrase = p.id) FROM phrases AS p"


def every(db: sqlite3.Connection) -> list[Phrase]:
    """All phrases, by short name."""
    return [Phrase(*row) for row in db.execute(f"{_SELECT} ORDER BY p.short")]


def get(db: sqlite3.Connection, number: int) -> Phrase:
    """One phrase. Raises :class:`NotFound`."""
    row = db.execute(f"{_SELECT} WHERE p.id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no phrase {number}. It may have been taken out; load the page again.")
    return Phrase(*row)


def named(db: sqlite3.Connection, short: str) -> Phrase | None:
    """The phrase of a short name, in whatever case, or None."""
    row = db.execute(f"{_SELECT} WHERE p.short = ?", (short,)).fetchone()
    return Phrase(*row) if row else None


def put(db: sqlite3.Connection, number: int, short: str, text: str, at: int) -> int:
    """Store a phrase (0: a new one); its id."""
    if number:
        db.execute("UPDATE phrases SET short = ?, text = ?, changed_at = ? WHERE id = ?", (short, text, at, number))
        return number
    made = arranged.next_id(db, Thing.PHRASE)
    db.execute("INSERT INTO phrases (id, short, text, changed_at) VALUES (?, ?, ?, ?)", (made, short, text, at))
    return made


def remove(db: sqlite3.Connection, number: int) -> None:
    """Take a phrase out."""
    db.execute("DELETE FROM phrases WHERE id = ?", (number,))


def files(db: sqlite3.Connection, phrase: int) -> list[DraftAttachment]:
    """The files that go along with a phrase."""
    rows = db.execute(
        "SELECT id, name, media_type, length(content) FROM phrase_files WHERE phrase = ? ORDER BY id", (phrase,)
    )
    return [DraftAttachment(*row) for row in rows]


def contents(db: sqlite3.Connection, phrase: int) -> list[tuple[str, str, bytes]]:
    """The name, media type and bytes of each file that goes along with a phrase."""
    rows = db.execute("SELECT name, media_type, content FROM phrase_files WHERE phrase = ? ORDER BY id", (phrase,))
    return [(row[0], row[1], bytes(row[2])) for row in rows]


def add_file(db: sqlite3.Connection, phrase: int, name: str, media_type: str, content: bytes) -> None:
    """Let a file go along with a phrase."""
    db.execute(
        "INSERT INTO phrase_files (phrase, name, media_type, content) VALUES (?, ?, ?, ?)",
        (phrase, name, media_type, content),
    )


def remove_file(db: sqlite3.Connection, phrase: int, file: int) -> None:
    """Let a file go along no more."""
    db.execute("DELETE FROM phrase_files WHERE phrase = ? AND id = ?", (phrase, file))


def note_use(db: sqlite3.Connection, phrase: int, message: int, at: int) -> None:
    """Note that a phrase was used to answer a message."""
    db.execute(
        "INSERT INTO phrase_uses VALUES (?, ?, ?) ON CONFLICT (phrase, message) DO UPDATE SET at = excluded.at",
        (phrase, message, at),
    )


def latest_uses(db: sqlite3.Connection, most: int) -> list[tuple[int, int]]:
    """(phrase, message) of the latest uses, the latest first."""
    rows = db.execute("SELECT phrase, message FROM phrase_uses ORDER BY at DESC, phrase, message LIMIT ?", (most,))
    return [(row[0], row[1]) for row in rows]
