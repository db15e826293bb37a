"""Places mail stands in, with counts kept by triggers."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from hieranome.core.buckets import DRAIN, GONE, UNDECIDED, Bucket
from hieranome.core.errors import NotFound

Rhythm = Literal["", "daily", "weekly"]


@dataclass(frozen=True, slots=True)
class Place:
    """A place with its counts; ``band`` is its position in the flow band, or -1; ``own`` says that the owner made
    it. ``notice`` is how many messages may wait before it asks to be looked at (0: any number), ``rhythm`` how often
    it wants to be looked at, ``looked_at`` when it last was (Unix seconds). ``instead`` is the bucket its mail goes to
    where the owner switched it off, or empty."""

    name: str
    title: str
    band: int
    important: bool
    total: int
    unread: int
    notice: int
    rhythm: Rhythm
    looked_at: int
    own: bool
    instead: str


_FIELDS = tuple(Place.__dataclass_fields__)


def every(db: sqlite3.Connection) -> list[Place]:
    """All places that are shown, those of the band first and in its order."""
    which = f"SELECT {', '.join(_FIELDS)} FROM places WHERE name <> ?"
    rows = db.execute(f"{which} ORDER BY band < 0, band, own, rowid", (GONE,))
    return [Place(**{**row, "important": bool(row["important"]), "own": bool(row["own"])}) for row in map(dict, rows)]


def buckets(db: sqlite3.Connection) -> list[Bucket]:
    """What the engine may route to: the buckets that are used."""
    off = switched_off(db)
    return [bucket for bucket in every_bucket(db) if bucket.name not in off]


def every_bucket(db: sqlite3.Connection) -> list[Bucket]:
    """All buckets, used or not: the places of the band without Your call."""
    return [Bucket(p.name, p.title, p.important) for p in every(db) if p.band >= 0 and p.name != UNDECIDED]


def switched_off(db: sqlite3.Connection) -> dict[str, str]:
    """The buckets that are not used, each with the one that takes its mail."""
    return {row[0]: row[1] for row in db.execute("SELECT name, instead FROM places WHERE instead <> ''")}


def in_use(db: sqlite3.Connection, name: str) -> str:
    """The bucket that stands for one: itself, or the one that takes its mail."""
    return switched_off(db).get(name, name)


def bound_for(db: sqlite3.Connection, name: str) -> str:
    """The bucket that mail goes to of which it was said for always: the one in use, but what is refused goes to the
    Drain, switched off or not."""
    return name if name == DRAIN else in_use(db, name)


def switch_off(db: sqlite3.Connection, name: str, instead: str) -> None:
    """Let the mail of a bucket, and of those it stood for, go to another that is in use."""
    db.execute("UPDATE places SET instead = ? WHERE name = ? OR instead = ?", (instead, name, name))


def switch_on(db: sqlite3.Connection, name: str) -> None:
    """Use a bucket again."""
    db.execute("UPDATE places SET instead = '' WHERE name = ?", (name,))


def check(db: sqlite3.Connection, name: str) -> str:
    """The name, when there is such a place. Raises :class:`NotFound`."""
    names = [place.name for place in every(db)]
    if name not in names:
        raise NotFound(f"There is no place called {name!r}. There are: {', '.join(names)}.")
    return name


def get(db: sqlite3.Connection, name: str) -> Place:
    """One place. Raises :class:`NotFound`."""
    check(db, name)
    return next(place for place in every(db) if place.name == name)


def add(db: sqlite3.Connection, name: str, title: str, band: int, important: bool) -> None:
    """A place the owner made: a bucket where ``band`` is its position in the band, a folder where it is -1."""
    db.execute(
        "INSERT INTO places (name, title, band, important, own) VALUES (?, ?, ?, ?, 1)", (name, title, band, important)
    )


def describe(db: sqlite3.Connection, name: str, title: str, notice: int, rhythm: Rhythm) -> None:
    """Set what a place is called and when it wants to be looked at."""
    db.execute("UPDATE places SET title = ?, notice = ?, rhythm = ? WHERE name = ?", (title, notice, rhythm, name))


def note_visit(db: sqlite3.Connection, name: str, at: int) -> None:
    """Note that the owner looked at a place."""
    db.execute("UPDATE places SET looked_at = ? WHERE name = ?", (at, name))


def remove(db: sqlite3.Connection, name: str) -> None:
    """Take an empty place of the owner's away."""
    db.execute("DELETE FROM places WHERE name = ? AND own = 1", (name,))
