"""The model built anew from the lessons that stand, beside the one in use."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rescoring import QUIET
from hieranome.app.room.worker import Worker
from hieranome.core.buckets import Bucket
from hieranome.core.engine import Engine
from hieranome.store import lessons, places


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
