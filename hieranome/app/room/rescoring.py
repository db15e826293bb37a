"""Work that follows behind: scores of the many messages no lesson rescored at once, old lessons taken back."""

from __future__ import annotations

import time

from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.scoring import rescore_rows
from hieranome.core.gaussian import Rows
from hieranome.store import lessons, scores, settings

CHUNK = 200
QUIET = 0.4
"""Seconds after a change before the work behind it begins: the next verdict comes first."""
TOLD = 1_000
"""Messages scored anew between two tellings of how far it is."""
REST = 0.3
"""How long it rests between chunks, as a multiple of how long a chunk took, so that whoever waits comes first."""


class Rescorer(Following):
    """After lessons, brings the stored scores of all mail to the model, from a thread: the band's mail first, newest
    to oldest, then the rest. A pass that was cut off by the end or by an error is made again."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._revision = room.revision
        doing = "bringing the scores of all mail up to the model"
        super().__init__(room, "rescorer", doing, self._round, lambda: room.revision != self._revision)

    def _behind(self) -> bool:
        db = self._room.reader()
        return bool(settings.value(db, settings.SCORED, lessons.NONE) != lessons.state(db))

    def _round(self) -> float | None:
        if not self._behind() and self._revision == self._room.revision:
            return None
        before = -1
        while before != self._room.revision and not self.worker.ended.is_set():
            before = self._room.revision
            self.worker.rest(QUIET)
        self._revision = self._room.revision
        return None if self.pass_over() else QUIET

    def pass_over(self) -> bool:
        """One pass over all mail, telling how far it is; False when a newer change or the end cut it short."""
        done, of = 0, scores.standing(self._room.reader())
        for band in (True, False):
            below = 2**62
            while True:
                began = time.monotonic()
                numbers = self._chunk(below, band)
                if numbers is None:
                    return False
                if not numbers:
                    break
                below = numbers[-1]
                done += len(numbers)
                if done % TOLD < len(numbers):
                    self._room.tell("rescoring", done=min(done, of - 1), of=of)
                self.worker.rest(REST * (time.monotonic() - began))
            if band:
                self._room.tell("rescored")
        with self._room.change() as db:
            if self._room.revision != self._revision or self._room.behind:
                return False
            settings.put(db, settings.SCORED, lessons.state(db))
        self._room.tell("rescoring", done=of, of=of)
        return True

    def _chunk(self, below: int, band: bool) -> list[int] | None:
        """Score the next messages; their ids, or None when the pass is cut short."""
        with self._room.steady() as reader:
            if self.worker.ended.is_set() or self._room.revision != self._revision:
                return None
            numbers, vectors = scores.chunk_below(reader, below, CHUNK, band=band)
            if numbers:
                with self._room.change() as db:
                    rescore_rows(db, self._room.engine, numbers, Rows.stacked(vectors))
            return numbers
