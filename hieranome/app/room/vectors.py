"""Vectors of standing messages, kept at hand: every lesson looks at the same thousands again."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.core.topics import Topic
from hieranome.store import messages

BLOCK = 9
"""Bits of a message's id within its part of :meth:`Vectors.blocks`."""
MOST_KEPT = 12_000
"""Vectors kept: about half a kilobyte each."""


class Vectors:
    """Reads vectors by message once and keeps them until :meth:`clear`. Used while holding the room's lock. ``asking``
    tells of messages on the Desk whether they ask something; it is replaced, never changed. ``fits`` is what each topic
    learned from them, with what else it was learned from."""

    def __init__(self) -> None:
        self._kept: dict[int, Vector] = {}
        self._ready: dict[int, tuple[list[int], Rows]] = {}
        self.asking: dict[int, bool] = {}
        self.fits: dict[int, tuple[object, Topic]] = {}

    def of(self, db: sqlite3.Connection, numbers: Sequence[int]) -> list[Vector]:
        """The vectors of some messages, in order. All of them must have one."""
        missing = [number for number in numbers if number not in self._kept]
        if len(self._kept) + len(missing) > MOST_KEPT:
            wanted = set(numbers)
            self._kept = {number: vector for number, vector in self._kept.items() if number in wanted}
        if missing:
            self._kept.update(messages.vectors(db, missing))
        return [self._kept[number] for number in numbers]

    def blocks(self, db: sqlite3.Connection, numbers: Sequence[int]) -> list[tuple[list[int], Rows]]:
        """Some messages in parts, each with its vectors made ready. A part is made anew only where its messages are
        others than last time."""
        wanted: dict[int, list[int]] = {}
        for number in numbers:
            wanted.setdefault(number >> BLOCK, []).append(number)
        kept = self._ready
        self._ready = {}
        for block, part in wanted.items():
            before = kept.get(block)
            if before is None or before[0] != part:
                before = part, Rows.stacked(self.of(db, part))
            self._ready[block] = before
        return list(self._ready.values())

    def clear(self) -> None:
        """Forget all: stored vectors were written anew."""
        self._kept.clear()
        self.asking = {}
        self.fits = {}
        self._ready = {}
