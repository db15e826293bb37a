"""The owner looks past mail: what stays where it was put is weak evidence that it belongs there."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.scoring import rescore_rows
from hieranome.core.deciders import BY_THE_MODEL
from hieranome.core.errors import CallerError
from hieranome.core.gaussian import Rows
from hieranome.store import emptying, messages, scores, settings, silences, standing

MAX_AT_ONCE = 500
"""Messages one report may cover."""
RESCORED = 1_000
"""Standing messages of the senders and lists looked past that are scored anew at once; more follow behind."""
BEFORE_RESCORING = 100
"""After so many silences all mail is scored anew from behind: what of these senders lies outside the band as well."""


def look_past(room: Mailroom, seen: Sequence[tuple[int, str]]) -> int:
    """Take in that messages were looked past, each with the bucket it was seen in; how many of them say something.

    Says nothing: mail that stands elsewhere by now or is gone for good, that somebody put there for sure, or that was
    looked past before; and all of it where the owner does not want it to teach.
    Raises :class:`CallerError` for too many, :class:`NotFound` for a message that does not exist.
    """
    places = dict(seen)
    if len(places) > MAX_AT_ONCE:
        raise CallerError(f"At most {MAX_AT_ONCE} messages can be looked past at once; {len(places)} were given.")
    if not places:
        return 0
    with room.change() as db:
        if not teaches(db):
            return 0
        known = {bucket.name for bucket in room.engine.buckets}
        before = {message for _, message in silences.about(db, list(places))}
        gone = emptying.gone(db, places)
        rows = [messages.get(db, number) for number in places if number not in gone]
        telling = [
            row.id
            for row in rows
            if row.id not in before
            and row.place == places[row.id]
            and row.place in known
            and row.decided_by in BY_THE_MODEL
        ]
        if not telling:
            return 0
        room.touch()
        first = silences.how_many(db)
        for number in telling:
            vector, place = vector_of(room, db, number), places[number]
            silence = room.engine.silence(silences.next_number(db), vector, place, room.engine.judge(vector))
            silences.add(db, number, room.clock(), silence)
            room.engine.learn(silence)
        whole = _rescore_sources(room, db, [row for row in rows if row.id in set(telling)])
        if not whole or first // BEFORE_RESCORING != (first + len(telling)) // BEFORE_RESCORING:
            room.revision += 1
    return len(telling)


def _rescore_sources(room: Mailroom, db: sqlite3.Connection, rows: Sequence[messages.Message]) -> bool:
    """Bring the scores of standing mail of the senders and lists of some messages up to the model: no other mail is
    moved by what was looked past. False where there is more of it than is done at once."""
    found: dict[int, None] = {}
    for column in ("sender_address", "list_id"):
        values = sorted({getattr(row, column) for row in rows} - {""})
        found.update(dict.fromkeys(one.id for one in standing.alike(db, column, values, RESCORED)))
    numbers = scores.weighed(db, sorted(found))
    if numbers:
        rescore_rows(db, room.engine, numbers, Rows.stacked(room.vectors.of(db, numbers)))
        room.tell("rescored")
    return len(found) < RESCORED


def teaches(db: sqlite3.Connection) -> bool:
    """Whether mail that is looked past teaches anything."""
    return bool(settings.value(db, settings.LOOKED_PAST_TEACHES, True))


def set_teaches(room: Mailroom, wanted: bool) -> None:
    """Say whether mail that is looked past teaches; if not, what was looked past so far is forgotten too."""
    with room.change() as db:
        settings.put(db, settings.LOOKED_PAST_TEACHES, wanted)
        if not wanted:
            _forget(room, db, silences.every(db))


def withdraw(room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """Within a change, take back that messages were looked past: a verdict says more."""
    _forget(room, db, [number for number, _ in silences.about(db, numbers)])


def _forget(room: Mailroom, db: sqlite3.Connection, gone: Sequence[int]) -> None:
    if gone:
        silences.withdraw(db, gone)
        room.forget([], gone)
        room.revision += 1
