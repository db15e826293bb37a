"""Kin: the standing messages a lesson would move too, found by how like they are to what it was about."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import QUIET_PLACES
from hieranome.core.deciders import Decider
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows, likeness
from hieranome.core.routing import settle_all
from hieranome.core.sure import Reach
from hieranome.store import messages, standing
from hieranome.store.messages import Message

KIN_LIKENESS = 0.3
"""How like a corrected message another must be to be its kin; 1 is the same."""
CLOSE_LIKENESS = 0.6
"""How like it must be when the model would have moved it already."""
MAX_COMPARED = 10
"""Messages of one verdict whose kin are looked for."""
MAX_KIN = 200
"""Kin listed by name; the count is of all."""
MAX_NEAR = 1_000
"""Like messages that are judged again, the most alike first."""


@dataclass(frozen=True, slots=True)
class Kin:
    """A standing message a lesson would move too: where it stands, where it would go, how sure (0 to 1)."""

    message: Message
    target: str
    sureness: float


@dataclass(frozen=True, slots=True)
class Near:
    """A standing message like a corrected one: how like, where the model would have put it, where it would now, and how
    sure it is of that."""

    message: int
    alike: float
    was: str
    target: str
    sureness: float


class Like:
    """Standing mail like the corrected messages, as the model saw it before the lesson."""

    def __init__(self, room: Mailroom, db: sqlite3.Connection, corrected: Sequence[Vector]) -> None:
        self._room = room
        found: list[tuple[float, int]] = []
        for numbers, rows in room.vectors.blocks(db, room.having_vectors(db, standing.newest(db))):
            alike = np.max([likeness(rows, vector) for vector in corrected], axis=0)
            near = np.flatnonzero(alike >= KIN_LIKENESS).tolist()
            found += [(float(alike[at]), numbers[at]) for at in near]
        found.sort(reverse=True)
        self._alike = found[:MAX_NEAR]
        vectors = room.vectors.of(db, [number for _, number in self._alike])
        self._rows = Rows.stacked(vectors) if vectors else None
        self._was = settle_all(room.engine.weigh(self._rows), room.costs) if self._rows is not None else []

    def now(self) -> list[Near]:
        """The same messages as the model sees them now."""
        if self._rows is None:
            return []
        found = self._room.engine.weigh(self._rows)
        near = []
        for at, target in enumerate(settle_all(found, self._room.costs)):
            sure = importance = float(found.importance[at])
            if target not in self._room.engine.important:
                sure = (1 - importance) * float(found.low[at, found.low_names.index(target)])
            alike, number = self._alike[at]
            near.append(Near(number, alike, self._was[at], target, sure))
        return near


def kin_of(db: sqlite3.Connection, near: Sequence[Near], own: set[int]) -> list[Kin]:
    """Like messages that stand elsewhere than the model now would put them; the surest first."""
    found = {
        one.message: (one.target, one.sureness)
        for one in near
        if one.message not in own and (one.target != one.was or one.alike >= CLOSE_LIKENESS)
    }
    free = [
        number
        for number, place in standing.left_to_the_model(db, list(found))
        if place != found[number][0] and place not in QUIET_PLACES
    ]
    free.sort(key=lambda number: -found[number][1])
    return [Kin(row, *found[row.id]) for row in messages.get_many(db, free)]


_BOUND_BY = {
    Reach.THREAD: "thread",
    Reach.ADDRESS: "sender_address",
    Reach.LIST: "list_id",
    Reach.DOMAIN: "sender_domain",
}


def bound_kin(db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach, kin: list[Kin]) -> list[Kin]:
    """For a lesson that binds a thread or a sender, what it binds comes first, and for sure."""
    column = _BOUND_BY.get(reach)
    if column is None:
        return kin
    own = {row.id for row in rows}
    found = standing.alike(db, column, [_column_value(r, reach) for r in rows], MAX_KIN)
    bound = [
        Kin(row, belongs, 1.0)
        for row in found
        if row.id not in own and row.place != belongs and row.decided_by != Decider.VERDICT
    ]
    ids = {one.message.id for one in bound}
    return bound + [one for one in kin if one.message.id not in ids]


def _column_value(row: Message, reach: Reach) -> str | int:
    if reach is Reach.THREAD:
        return row.thread
    if reach is Reach.LIST:
        return row.list_id
    return row.sender_address if reach is Reach.ADDRESS else row.sender_address.rpartition("@")[2]
