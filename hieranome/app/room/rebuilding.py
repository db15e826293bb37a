"""The model built anew from the lessons and silences that stand, beside the one in use."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence

from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rescoring import QUIET
from hieranome.core.buckets import Bucket
from hieranome.core.engine import Engine
from hieranome.core.judgement import Given
from hieranome.core.silence import Silence
from hieranome.store import addresses, places, silences


class Rebuilder(Following):
    """When the model still holds lessons undone, builds it anew from those that stand, from a thread.

    Nobody waits meanwhile: lessons given while it works are taken in before the new model takes over. What the end cuts
    off is done by the next start, which builds the model from the store.
    """

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        super().__init__(room, "rebuilder", "taking an old lesson out of the model", self._round, lambda: room.behind)

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


def build_apart(
    room: Mailroom,
    buckets: Sequence[Bucket],
    ended: Callable[[], bool] = lambda: False,
    instead: Mapping[str, str] | None = None,
) -> Engine | None:
    """A model of what stands, built without the lock so that nobody waits; None when ``ended`` says so. ``instead``
    says which buckets stand for others in it, where the store does not say so yet."""
    given = silences.given(room.reader(), instead)
    engine = Engine(buckets, room.engine.purposes)
    for done, one in enumerate(given, 1):
        if ended():
            return None
        engine.learn(one)
        if done % 50 == 0:
            room.tell("rebuild", done=done, of=len(given))
    return engine


def ids_of(given: Sequence[Given]) -> tuple[set[int], set[int]]:
    """The ids of the lessons and of the silences among what the model takes in."""
    quiet = {one.id for one in given if isinstance(one, Silence)}
    return {one.id for one in given if not isinstance(one, Silence)}, quiet


def take_over(room: Mailroom, db: sqlite3.Connection, engine: Engine) -> None:
    """Within a change, put a model built apart in place: what was given and taken back meanwhile is brought in first.
    Its buckets must be those of the store."""
    stand = silences.given(db)
    known, heard = ids_of(stand)
    lessons, quiet = set(engine.lesson_ids), set(engine.silence_ids)
    engine.forget_all(lessons - known, quiet - heard)
    taken_in = {True: quiet, False: lessons}
    engine.learn_all(one for one in stand if one.id not in taken_in[isinstance(one, Silence)])
    room.touch()
    engine.say(addresses.purposes(db))
    room.engine = engine
    room.behind = False
    room.revision += 1
    room.tell("rebuild", done=len(stand), of=len(stand))
    room.tell_counts()
