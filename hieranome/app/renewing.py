"""Vectors made anew from the stored bytes, behind the page, where those kept are of another feature version.

Lessons come first, so that the model knows again what it was taught, then messages, the newest first. Meanwhile a
message without a vector keeps its score. What the end cuts off is gone on with after the next start.
"""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Sequence

from hieranome.app.reading.vectors import made_anew
from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import HieranomeError
from hieranome.core.features import Vector, extract
from hieranome.mail.reading import read_as_source
from hieranome.store import messages, renewed

CHUNK = 50
"""Messages between two changes of the store."""
_LOG = logging.getLogger(__name__)


class Renewer(Following):
    """Makes vectors anew, from a thread, as long as any are missing."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        super().__init__(room, "renewer", "reading stored mail anew", self._round, lambda: not room.whole)

    def _round(self) -> float | None:
        if not self._room.whole:
            self.renew()
        return None

    def renew(self) -> bool:
        """Make all that is missing; False when the end cut it short."""
        db = self._room.reader()
        if renewed.lessons_left(db, 1):
            if not self._lessons():
                return False
            self._room.load()
        if not self._messages():
            return False
        with self._room.change() as db:
            renewed.end(db)
        self._room.load()
        return True

    def _lessons(self) -> bool:
        while left := renewed.lessons_left(self._room.reader(), CHUNK):
            made = list(zip((lesson for lesson, _ in left), self._made([number for _, number in left]), strict=True))
            with self._room.change() as db:
                renewed.put_lessons(db, made)
            if self.worker.ended.is_set():
                return False
        return True

    def _messages(self) -> bool:
        done, of, below = 0, renewed.how_many_left(self._room.reader()), 2**62
        while left := renewed.messages_left(self._room.reader(), below, CHUNK):
            made = list(zip(left, self._made(left), strict=True))
            with self._room.change() as db:
                renewed.put_vectors(db, made)
            done, below = done + len(left), left[-1]
            self._room.tell("renewing", done=done, of=max(of, done))
            if self.worker.ended.is_set():
                return False
        return True

    def _made(self, numbers: Sequence[int]) -> list[Vector]:
        db = self._room.reader()
        return [self._one(db, number) for number in numbers]

    def _one(self, db: sqlite3.Connection, number: int) -> Vector:
        """The vector of a message; whatever reading it raises, it is taken as its source, and the next has its turn."""
        try:
            return made_anew(self._room, db, number)
        except (sqlite3.OperationalError, HieranomeError):
            raise  # the store's trouble, or ours: tried again later
        except Exception:
            _LOG.exception("a stored message could not be read anew")
        return extract(read_as_source(messages.raw(db, number)).facts, self._room.context(False))
