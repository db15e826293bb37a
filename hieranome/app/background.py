"""Work that follows behind: scores of the many messages no lesson rescored at once, old lessons taken back."""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable, Sequence

from hieranome.app.mailroom import Mailroom, rescore_rows
from hieranome.app.worker import Worker
from hieranome.core.buckets import Bucket
from hieranome.core.engine import Engine
from hieranome.core.gaussian import Rows
from hieranome.store import lessons, messages, places, settings

CHUNK = 200
QUIET = 0.4
"""Seconds after a change before the work behind it begins: the next verdict comes first."""
REST = 2.0
"""How long it rests between chunks, as a multiple of how long a chunk took, so that whoever waits comes first."""


class Rescorer:
    """After lessons, brings the stored scores of all mail to the model, from a thread: the band's mail first, newest
    to oldest, then the rest. A pass that was cut off by the end or by an error is made again."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._revision = room.revision
        self.worker = Worker(room, "rescorer", "bringing the scores of all mail up to the model", self._round)
        self._stop = room.events.listen(self._notice)

    def start(self) -> None:
        """Begin to work, at once where scores are behind the lessons."""
        self.worker.start()

    def close(self) -> None:
        """Stop after the chunk at hand."""
        self._stop()
        self.worker.close()

    def _notice(self) -> None:
        if self._room.revision != self._revision:
            self.worker.wake()

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
        """One pass over all mail; False when a newer change or the end cut it short."""
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
                self.worker.rest(REST * (time.monotonic() - began))
            if band:
                self._room.tell("rescored")
        with self._room.change() as db:
            if self._room.revision != self._revision or self._room.behind:
                return False
            settings.put(db, settings.SCORED, lessons.state(db))
        return True

    def _chunk(self, below: int, band: bool) -> list[int] | None:
        """Score the next messages; their ids, or None when the pass is cut short."""
        with self._room.steady() as reader:
            if self.worker.ended.is_set() or self._room.revision != self._revision:
                return None
            numbers, vectors = messages.chunk_below(reader, below, CHUNK, band=band)
            if numbers:
                with self._room.change() as db:
                    rescore_rows(db, self._room.engine, numbers, Rows.stacked(vectors))
            return numbers


class Rebuilder:
    """When the model still holds lessons undone, builds it anew from those that stand, from a thread.

    Nobody waits meanwhile: lessons given while it works are taken in before the new model takes over.
    """

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self.worker = Worker(room, "rebuilder", "taking an old lesson out of the model", self._round)
        self._stop = room.events.listen(self._notice)

    def start(self) -> None:
        """Begin to work."""
        self.worker.start()

    def close(self) -> None:
        """Stop; what is unfinished is done by the next start, which builds the model from the store."""
        self._stop()
        self.worker.close()

    def _notice(self) -> None:
        if self._room.behind:
            self.worker.wake()

    def _round(self) -> float | None:
        if self._room.behind and not self.rebuild():
            return QUIET
        return None

    def rebuild(self) -> bool:
        """Build the model anew and put it in place; False when the end cut it short."""
        engine = build_apart(self._room, self._room.engine.buckets, self.worker.ended.is_set)
        if engine is None:
            return False
        with self._room.change() as db:
            if engine.buckets != places.buckets(db):
                return False  # a bucket was added meanwhile: begin again with it
            take_over(self._room, db, engine)
        return True


def build_apart(room: Mailroom, buckets: Sequence[Bucket], ended: Callable[[], bool] = lambda: False) -> Engine | None:
    """A model of the lessons that stand, built without the lock so that nobody waits; None when ``ended`` says so."""
    given = lessons.teaching(room.reader())
    engine = Engine(buckets)
    for done, lesson in enumerate(given, 1):
        if ended():
            return None
        engine.learn(lesson)
        if done % 50 == 0:
            room.tell("rebuild", done=done, of=len(given))
    return engine


def take_over(room: Mailroom, db: sqlite3.Connection, engine: Engine) -> None:
    """Within a change, put a model built apart in place: the lessons given and undone meanwhile are brought in first.
    Its buckets must be those of the store."""
    stand = lessons.teaching(db)
    known = {lesson.id for lesson in stand}
    engine.forget_all([number for number in engine.lesson_ids if number not in known])
    taken_in = set(engine.lesson_ids)
    engine.learn_all([lesson for lesson in stand if lesson.id not in taken_in])
    room.touch()
    room.engine = engine
    room.behind = False
    room.revision += 1
    room.tell("rebuild", done=len(stand), of=len(stand))
    room.tell_counts()
