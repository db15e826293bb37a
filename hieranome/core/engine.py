"""The engine: a fold over lessons. The same lessons in the same order give the same numbers.

Two stages. Importance is one binary model, a regression with counts beside it, calibrated; which of the
low buckets a message belongs in (and which of the important ones, where the owner has several) is a second
judgement. The steps of the newest lessons are kept, so that any of these can be taken back: later steps are
undone, the lesson is left out, the later ones are taken in again. An older lesson is taken back by taking in all
others anew. Either way nothing of it is left.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hieranome.core.buckets import BUILT_IN, DESK, DRAIN, Bucket
from hieranome.core.calibration import Calibration, Fit
from hieranome.core.choice import Choice, Steps
from hieranome.core.errors import InternalError
from hieranome.core.features import SLOTS, Vector
from hieranome.core.gaussian import (
    Floats,
    Rows,
    Step,
    damping,
    likeness,
    logistic_all,
    prior_doubt,
)
from hieranome.core.groups import GROUPS
from hieranome.core.importance import Importance
from hieranome.core.judgement import Bond, Judgement, Lesson, Weighed, Word
from hieranome.core.prior import LOW
from hieranome.core.tally import COMMON_WORDS, Tally

DOUBT = 0.01
"""How much of the doubt about the weights counts as doubt about importance: see :mod:`hieranome.core.choice`."""

RARE_LEAST = 3
RARE_SHARE = 0.03
"""A word of a subject is rare when at most so many lessons, or so large a share of them, had it."""
_BONDS: tuple[tuple[Bond, frozenset[str]], ...] = (
    ("sender", frozenset({"address"})),
    ("list", frozenset({"list"})),
)
_SUBJECT = frozenset({"subject"})

STEPS_KEPT = 256
"""Newest lessons whose steps are kept: undoing one of them takes a moment, undoing an older one a rebuild."""


@dataclass(frozen=True, slots=True)
class _Taken:
    """The steps of one lesson, by which it is taken back."""

    importance: list[Step]
    low: Steps
    high: Steps
    calibration: Fit | None


@dataclass(slots=True)
class _Learned:
    """A lesson taken in, which weights of importance it moved by how much, and its steps while they are kept."""

    lesson: Lesson
    slots: NDArray[np.int32]
    moved: Floats
    taken: _Taken | None


class Engine:
    """Judges vectors, learns lessons, takes any of them back."""

    def __init__(self, buckets: Sequence[Bucket] = BUILT_IN) -> None:
        self.buckets = list(buckets)
        self.important = frozenset(b.name for b in buckets if b.important)
        if len(self.important) in (0, len(self.buckets)):
            raise InternalError("an engine needs an important and a low bucket: check the list of buckets")
        self._begin()

    def _begin(self) -> None:
        self._importance = Importance()
        self._low = Choice([b.name for b in self.buckets if not b.important], LOW)
        self._high = Choice([b.name for b in self.buckets if b.important], {DESK: {}})
        self._tally = Tally()
        self.calibration = Calibration()
        self._learned: list[_Learned] = []
        self._flat: tuple[NDArray[np.int32], Floats, NDArray[np.intp]] | None = None

    def __len__(self) -> int:
        return len(self._learned)

    @property
    def lesson_ids(self) -> list[int]:
        """Ids of the lessons taken in, in order."""
        return [one.lesson.id for one in self._learned]

    def add_bucket(self, bucket: Bucket) -> None:
        """Begin to choose among one bucket more; the lessons so far are taken in again beside it."""
        lessons = [one.lesson for one in self._learned]
        self.buckets.append(bucket)
        if bucket.important:
            self.important |= {bucket.name}
        self._begin()
        self.learn_all(lessons)

    def judge(self, vector: Vector) -> Judgement:
        """Judge one message."""
        return self.judge_all([vector])[0]

    def judge_all(self, vectors: Sequence[Vector]) -> list[Judgement]:
        """Judge many messages at once; the same numbers as one at a time, to rounding."""
        return self.weigh(Rows.stacked(vectors)).judgements() if vectors else []

    def weigh(self, rows: Rows) -> Weighed:
        """Judge many messages made ready, at least one, as columns."""
        mean, variance = self._importance.predict_all(rows)
        counted = self._tally.weigh(rows)
        raw = mean + counted.importance
        doubt = DOUBT * variance
        damped = raw / np.sqrt(1.0 + math.pi * doubt / 8.0)
        certainty = 1.0 - np.sqrt(variance / prior_doubt(rows))
        log_odds = self.calibration.of(damped)
        return Weighed(
            importance=logistic_all(log_odds),
            log_odds=log_odds,
            raw=raw,
            doubt=doubt,
            damped=damped,
            certainty=certainty,
            low=self._low.shares(rows, {DRAIN: counted.drain}),
            high=self._high.shares(rows),
            low_names=self._low.names,
            high_names=self._high.names,
        )

    def learn_all(self, lessons: Iterable[Lesson], progress: Callable[[int], None] | None = None) -> None:
        """Take in many lessons in order; ``progress`` is told how many are done."""
        for done, lesson in enumerate(lessons, 1):
            self.learn(lesson)
            if progress is not None:
                progress(done)

    def learn(self, lesson: Lesson) -> None:
        """Take in one lesson, after all before it."""
        rows = Rows.of(lesson.vector)
        important = lesson.belongs in self.important
        first = self._importance.is_first(rows)
        fit = self.calibration.learn(self._damped(rows), important) if lesson.asked else None
        taken = _Taken(
            self._importance.take_in(rows, important),
            self._low.learn(rows, lesson.belongs, first=first),
            self._high.learn(rows, lesson.belongs, first=first),
            fit,
        )
        slots = np.concatenate([step.slots for step in taken.importance]).astype(np.int32)
        moved = np.concatenate([step.moved for step in taken.importance])
        self._learned.append(_Learned(lesson, slots, moved, taken))
        if len(self._learned) > STEPS_KEPT:
            self._learned[-STEPS_KEPT - 1].taken = None
        self._tally.count(rows, unwanted=lesson.belongs == DRAIN, important=important)
        self._flat = None

    def _damped(self, rows: Rows) -> float:
        """The log-odds before calibration."""
        mean, variance = self._importance.predict(rows)
        return (mean + float(self._tally.weigh(rows).importance[0])) * damping(DOUBT * variance)

    def like_lessons(self, vector: Vector, least: float, newest: int = 1000) -> list[Lesson]:
        """Lessons whose messages are like this one by at least ``least`` (0 to 1), of the newest."""
        recent = [one.lesson for one in self._learned[-newest:]]
        if not recent:
            return []
        alike = likeness(Rows.stacked([lesson.vector for lesson in recent]), vector)
        return [lesson for lesson, like in zip(recent, alike, strict=True) if like >= least]

    def forget(self, lesson_id: int, progress: Callable[[int, int], None] | None = None) -> bool:
        """Undo one lesson wherever it stands; False when it was never taken in.

        ``progress`` is called with (done, of how many) while later lessons are taken in again.
        """
        return self.forget_all([lesson_id], progress) == 1

    def forget_all(self, lesson_ids: Iterable[int], progress: Callable[[int, int], None] | None = None) -> int:
        """Undo many lessons in one pass; returns how many of them had been taken in."""
        gone = set(lesson_ids)
        first = next((i for i, one in enumerate(self._learned) if one.lesson.id in gone), len(self._learned))
        tail = self._learned[first:]
        if tail and tail[0].taken is None:
            tail = self._learned
            self._begin()
        else:
            for one in reversed(tail):
                self._take_back(one)
            del self._learned[first:]
            self._flat = None
        later = [one.lesson for one in tail if one.lesson.id not in gone]
        self.learn_all(later, (lambda done: progress(done, len(later))) if progress else None)
        return len(tail) - len(later)

    def later_than(self, lesson_id: int) -> int:
        """How many lessons must be taken in again to undo this one; 0 when it is the last, or unknown."""
        ids = self.lesson_ids
        return len(ids) - ids.index(lesson_id) - 1 if lesson_id in ids else 0

    def _take_back(self, one: _Learned) -> None:
        taken = one.taken
        if taken is None:
            raise InternalError("the steps of a lesson were dropped before it was taken back")
        belongs = one.lesson.belongs
        rows = Rows.of(one.lesson.vector)
        self._tally.count(rows, unwanted=belongs == DRAIN, important=belongs in self.important, sign=-1)
        for step in reversed(taken.importance):
            self._importance.take_back(step)
        self._low.take_back(taken.low)
        self._high.take_back(taken.high)
        if taken.calibration is not None:
            self.calibration.take_back(taken.calibration)

    def prior_parts(self, vector: Vector) -> dict[str, float]:
        """What the prior alone gives to the log-odds, by feature group; groups without any are left out."""
        rows = Rows.of(vector)
        parts = np.bincount(rows.groups, self._importance.prior_means(rows) * rows.values, minlength=len(GROUPS))
        return {group.name: float(part) for group, part in zip(GROUPS, parts, strict=True) if part != 0.0}

    def lesson_parts(self, vector: Vector) -> dict[int, float]:
        """What each lesson adds to the undamped log-odds of a message; with the prior's and what the counts say
        they sum to ``raw``."""
        if not self._learned:
            return {}
        slots, moved, starts = self._flattened()
        rows = Rows.of(vector)
        dense = np.bincount(rows.slots, rows.values, minlength=self._importance.mean.size)
        parts = np.add.reduceat(moved * dense[slots], starts).tolist()
        return {one.lesson.id: part for one, part in zip(self._learned, parts, strict=True) if part != 0.0}

    def bonds(self, vector: Vector) -> dict[int, Bond]:
        """Which lessons are about mail of the same sender, the same list or with the same rare word in its subject, and
        which of these; what is stronger comes first in that order."""
        if not self._learned:
            return {}
        slots, _, starts = self._flattened()
        rows = Rows.of(vector)
        marks = np.zeros(SLOTS, dtype=np.uint8)
        for bit, (_, groups) in enumerate(_BONDS):
            marks[rows.only(groups).slots] |= 1 << bit
        words = rows.only(_SUBJECT).slots
        rare = self._tally.lessons_with(words) <= max(RARE_LEAST, RARE_SHARE * len(self._learned))
        marks[words[rare & ~np.isin(words, COMMON_WORDS)]] |= 1 << len(_BONDS)
        held = np.bitwise_or.reduceat(marks[slots], starts).tolist()
        names: list[Bond] = [*(bond for bond, _ in _BONDS), "word"]
        return {
            one.lesson.id: next(bond for bit, bond in enumerate(names) if found >> bit & 1)
            for one, found in zip(self._learned, held, strict=True)
            if found
        }

    def counted_parts(self, vector: Vector) -> tuple[float, Word | None]:
        """What the counts add to the log-odds of a message: for how it is made, and for one word of its subject."""
        rows = Rows.of(vector)
        counted = self._tally.weigh(rows)
        best = self._tally.best_word(rows)
        return float(counted.made[0]), Word(*best, float(counted.word[0])) if best else None

    @property
    def unwanted_lessons(self) -> int:
        """How many lessons put mail in the Drain."""
        return self._tally.unwanted

    def _flattened(self) -> tuple[NDArray[np.int32], Floats, NDArray[np.intp]]:
        if self._flat is None:
            lengths = np.array([len(one.slots) for one in self._learned], dtype=np.intp)
            self._flat = (
                np.concatenate([one.slots for one in self._learned]),
                np.concatenate([one.moved for one in self._learned]),
                np.cumsum(lengths) - lengths,
            )
        return self._flat
