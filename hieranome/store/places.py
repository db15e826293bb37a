"""Places mail stands in, with counts kept by triggers."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.buckets import UNDECIDED, Bucket
from hieranome.core.errors import NotFound


@dataclass(frozen=True, slots=True)
class Place:
    """A place with its counts; ``band`` is its position in the flow band, or -1."""

    name: str
    title: str
    band: int
    important: bool
    total: int
    unread: int


def every(db: sqlite3.Connection) -> list[Place]:
    """All places, those of the band first and in its order."""
    rows = db.execute("SELECT name, title, band, important, total, unread FROM places ORDER BY band < 0, band, rowid")
    return [Place(r[0], r[1], r[2], bool(r[3]), r[4], r[5]) for r in rows]


def buckets(db: sqlite3.Connection) -> list[Bucket]:
    """What the engine may route to: the places of the band without Your call."""
    return [Bucket(p.name, p.title, p.important) for p in every(db) if p.band >= 0 and p.name != UNDECIDED]


def check(db: sqlite3.Connection, name: str) -> str:
    """The name, when there is such a place. Raises :class:`NotFound`."""
    names = [place.name for place in every(db)]
    if name not in names:
        raise NotFound(f"There is no place called {name!r}. There are: {', '.join(names)}.")
    return name
