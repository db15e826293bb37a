"""Work that follows behind: scores of the many messages no lesson rescored at once, old lessons taken back."""

from __future__ import annotations

import threading
import time

from hieranome.app.mailroom import Mailroom, rescore_rows
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
    to oldest, then the rest. A pass that was cut off by the end is made at the next start."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._wanted = threading.Event()
        self._ended = threading.Event()
        self._stop = room.events.listen(self._notice)
        self._revision = room.revision
        self._thread = threading.Thread(target=self._work, name="rescorer", daemon=True)

    def start(self) -> None:
        """Begin to work, at once where scores are behind the lessons."""
        db = self._room.reader()
        if settings.value(db, settings.SCORED, lessons.NONE) != lessons.state(db):
            self._wanted.set()
        self._thread.start()

    def close(self) -> None:
        """Stop after the chunk at hand."""
        self._stop()
        self._ended.set()
        self._wanted.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _notice(self) -> None:
        if self._room.revision != self._revision:
            self._wanted.set()

    def _work(self) -> None:
        while not self._ended.is_set():
            self._wanted.wait()
            while self._wanted.is_set() and not self._ended.is_set():
                self._wanted.clear()
                self._ended.wait(QUIET)
            self._revision = self._room.revision
            self.pass_over()

    def pass_over(self) -> bool:
        """One pass over all mail; False when a newer change or the end cut it short."""
        for band in (True, False):
            below = 2**62
            while True:
                began = time.monotonic()
                numbers = self._chunk(below, band)
                if numbers is None:
                    self._wanted.set()
                    return False
                if not numbers:
                    break
                below = numbers[-1]
                self._ended.wait(REST * (time.monotonic() - began))
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
            if self._ended.is_set() or self._room.revision != self._revision:
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
        self._wanted = threading.Event()
        self._ended = threading.Event()
        self._stop = room.events.listen(self._notice)
        self._thread = threading.Thread(target=self._work, name="rebuilder", daemon=True)

    def start(self) -> None:
        """Begin to work."""
        self._thread.start()

    def close(self) -> None:
        """Stop; what is unfinished is done by the next start, which builds the model from the store."""
        self._stop()
        self._ended.set()
        self._wanted.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _notice(self) -> None:
        if self._room.behind:
            self._wanted.set()

    def _work(self) -> None:
        while True:
            self._wanted.wait()
            self._wanted.clear()
            if self._ended.is_set():
                return
            if self._room.behind:
                self.rebuild()

    def rebuild(self) -> bool:
        """Build the model anew and put it in place; False when the end cut it short."""
        room = self._room
        given = lessons.teaching(room.reader())
        engine = Engine(room.engine.buckets)
        for done, lesson in enumerate(given, 1):
            if self._ended.is_set():
                return False
            engine.learn(lesson)
            if done % 50 == 0:
                room.tell("rebuild", done=done, of=len(given))
        with room.change() as db:
            if engine.buckets != places.buckets(db):
                self._wanted.set()  # a bucket was added meanwhile: begin again with it
                return False
            stand = lessons.teaching(db)
            known = {lesson.id for lesson in stand}
            engine.forget_all([number for number in engine.lesson_ids if number not in known])
            taken_in = set(engine.lesson_ids)
            engine.learn_all([lesson for lesson in stand if lesson.id not in taken_in])
            room.touch()
            room.engine = engine
            room.behind = False
            room.revision += 1
            room.tell("rebuild", done=len(given), of=len(given))
            room.tell_counts()
        return True
