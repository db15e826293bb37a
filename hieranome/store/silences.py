"""Silences: mail looked past, each with its weight as it was. A verdict takes one away for good."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import replace

from hieranome.core.features import unpack
from hieranome.core.judgement import Given
from hieranome.core.silence import Silence
from hieranome.store import lessons, places


def next_number(db: sqlite3.Connection) -> int:
    """The id the next silence gets: one never used before."""
    row = db.execute("SELECT seq FROM sqlite_sequence WHERE name = 'silences'").fetchone()
    return int(row[0]) + 1 if row else 1


def add(db: sqlite3.Connection, message: int, at: int, silence: Silence) -> None:
    """Write the silence about a message that has none, behind all lessons so far."""
    db.execute(
        "INSERT INTO silences (id, message, after, at, place, weight, sure, beside)"
        " VALUES (?, ?, (SELECT coalesce(max(id), 0) FROM lessons), ?, ?, ?, ?, ?)",
        (silence.id, message, at, silence.place, silence.weight, silence.sure, silence.beside),
    )


def about(db: sqlite3.Connection, messages: Sequence[int]) -> list[tuple[int, int]]:
    """(id, message) of the silences about some messages."""
    marks = ",".join("?" * len(messages))
    rows = db.execute(f"SELECT id, message FROM silences WHERE message IN ({marks})", list(messages))
    return [(row[0], row[1]) for row in rows]


def withdraw(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Take silences away."""
    db.executemany("DELETE FROM silences WHERE id = ?", [(number,) for number in numbers])


def every(db: sqlite3.Connection) -> list[int]:
    """The ids of all silences."""
    return [row[0] for row in db.execute("SELECT id FROM silences ORDER BY id")]


def how_many(db: sqlite3.Connection) -> int:
    """How many silences stand."""
    return int(db.execute("SELECT count(*) FROM silences").fetchone()[0])


def given(db: sqlite3.Connection, instead: Mapping[str, str] | None = None) -> list[Given]:
    """All the model takes in, lessons and silences, in order. What names a bucket that is not used counts for the one
    that takes its mail ``instead``: as the store says, or as a model is to be built."""
    stands_for = places.switched_off(db) if instead is None else instead
    rows = db.execute(
        "SELECT s.after, s.id, v.features, s.place, s.weight, s.sure, s.beside"
        " FROM silences AS s JOIN vectors AS v ON v.message = s.message ORDER BY s.after, s.id"
    )
    silences = [(r[0], Silence(r[1], unpack(r[2]), stands_for.get(r[3], r[3]), r[4], bool(r[5]), r[6])) for r in rows]
    found: list[Given] = []
    at = 0
    for told in lessons.teaching(db):
        lesson = replace(
            told,
            belongs=stands_for.get(told.belongs, told.belongs),
            stood=stands_for.get(told.stood, told.stood),
        )
        while at < len(silences) and silences[at][0] < lesson.id:
            found.append(silences[at][1])
            at += 1
        found.append(lesson)
    return found + [silence for _, silence in silences[at:]]
