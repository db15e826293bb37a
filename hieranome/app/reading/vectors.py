"""The vector of a stored message: as it is kept, or made of its bytes where none is."""

from __future__ import annotations

import sqlite3

from hieranome.app.reading.placement import examine
from hieranome.app.reading.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.features import Vector, extract
from hieranome.store import messages, threads


def vector_of(room: Mailroom, db: sqlite3.Connection, number: int) -> Vector:
    """The vector of a message. While vectors are made anew (:mod:`hieranome.app.renewing`), one that has its turn still
    to come is made now. Raises :class:`hieranome.core.errors.NotFound`."""
    kept = messages.vectors(db, [number]).get(number)
    return kept if kept is not None else made_anew(room, db, number)


def made_anew(room: Mailroom, db: sqlite3.Connection, number: int) -> Vector:
    """The vector of a message, made of its bytes. Raises :class:`hieranome.core.errors.NotFound`."""
    facts = reading_of(messages.raw(db, number)).facts
    found = examine(room, db, facts, number)
    mine = threads.has_mine(db, messages.get(db, number).thread)
    return extract(facts, found.context(room, mine))
