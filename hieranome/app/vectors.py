"""Vectors of standing messages, kept at hand: every lesson looks at the same thousands again."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.store import messages

MOST_KEPT = 12_000
"""Vectors kept: about half a kilobyte each."""


class Vectors:
    """Reads vectors by message once and keeps them until :meth:`clear`. Used while holding the room's lock."""

    def __init__(self) -> None:
        self._kept: dict[int, Vector] = {}
        self._ready: tuple[list[int], Rows] | None = None

    def of(self, db: sqlite3.Connection, numbers: Sequence[int]) -> list[Vector]:
        """The vectors of some messages, in order. All of them must have one."""
        missing = [number for number in numbers if number not in self._kept]
        if len(self._kept) + len(missing) > MOST_KEPT:
            wanted = set(numbers)
            self._kept = {number: vector for number, vector in self._kept.items() if number in wanted}
        if missing:
            self._kept.update(messages.vectors(db, missing))
        return [self._kept[number] for number in numbers]

    def rows(self, db: sqlite3.Connection, numbers: Sequence[int]) -> Rows:
        """The vectors of some messages, at least one, made ready; at once for the same messages as last time."""
        wanted = list(numbers)
        if self._ready is None or self._ready[0] != wanted:
            self._ready = wanted, Rows.stacked(self.of(db, wanted))
        return self._ready[1]

    def clear(self) -> None:
        """Forget all: stored vectors were written anew."""
        self._kept.clear()
        self._ready = None
