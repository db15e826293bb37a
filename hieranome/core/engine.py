"""The engine: a fold over lessons. The same lessons in the same order give the same numbers.

Two stages. Importance is one binary model; which of the low buckets a message belongs in is a
second judgement, one model per bucket, normalised. Every lesson's steps are kept, so that any lesson
can be taken back: later steps are undone, the lesson is left out, the later ones are taken in again.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from hieranome.core.buckets import BUILT_IN, Bucket, low
from hieranome.core.errors import InternalError
from hieranome.core.features import GROUPS, Vector
from hieranome.core.gaussian import Floats, GaussianLogistic, Rows, Step, damping, logistic
from hieranome.core.prior import IMPORTANCE, LOW, Prior


@dataclass(frozen=True, slots=True)
class Lesson:
    """What the engine learns from: the vector a message had, and the bucket it belongs in."""

    id: int
    vector: Vector
    belongs: str


@dataclass(frozen=True, slots=True)
class Judgement:
    """What the engine holds of one message.

    ``importance`` is a probability in [0, 1] and equals logistic(``log_odds``); ``raw`` and
    ``variance`` are the posterior mean and variance of the undamped log-odds; ``certainty`` in (0, 1]
    is the factor by which doubt damped them; ``low`` maps each low bucket to the probability that
    the message belongs there if it is not important.
    """

    importance: float
    log_odds: float
    raw: float
    variance: float
    certainty: float
    low: dict[str, float]

    @property
    def band(self) -> tuple[float, float]:
        """The importance one standard deviation below and above."""
        spread = math.sqrt(self.variance)
        return logistic(self.log_odds - spread), logistic(self.log_odds + spread)


@dataclass(frozen=True, slots=True)
class _Learned:
    lesson: Lesson
    importance: Step
    low: dict[str, Step] = field(default_factory=dict)


class Engine:
    """Judges vectors, learns lessons, takes any of them back."""

    def __init__(self, buckets: Sequence[Bucket] = BUILT_IN) -> None:
        self.important = frozenset(b.name for b in buckets if b.important)
        self._importance = GaussianLogistic(IMPORTANCE)
        no_prior: Prior = {}
        self._low = {name: GaussianLogistic(LOW.get(name, no_prior)) for name in low(buckets)}
        if not self.important or not self._low:
            raise InternalError("an engine needs an important and a low bucket: check the list of buckets")
        self._learned: list[_Learned] = []
        self._flat: tuple[NDArray[np.intp], Floats, NDArray[np.intp]] | None = None

    def __len__(self) -> int:
        return len(self._learned)

    @property
    def lesson_ids(self) -> list[int]:
        """Ids of the lessons taken in, in order."""
        return [one.lesson.id for one in self._learned]

    def judge(self, vector: Vector) -> Judgement:
        """Judge one message."""
        rows = Rows.of(vector)
        raw, variance = self._importance.predict(rows)
        lows = [model.predict(rows) for model in self._low.values()]
        return self._judgement(raw, variance, [m * damping(v) for m, v in lows])

    def judge_all(self, vectors: Sequence[Vector]) -> list[Judgement]:
        """Judge many messages at once; the same numbers as one at a time, to rounding."""
        if not vectors:
            return []
        rows = Rows.stacked(vectors)
        raw, variance = self._importance.predict_all(rows)
        lows = []
        for model in self._low.values():
            mean, spread = model.predict_all(rows)
            lows.append(mean / np.sqrt(1.0 + math.pi * spread / 8.0))
        table = np.array(lows).T.tolist()
        return [self._judgement(*numbers) for numbers in zip(raw.tolist(), variance.tolist(), table, strict=True)]

    def _judgement(self, raw: float, variance: float, low_odds: list[float]) -> Judgement:
        factor = damping(variance)
        top = max(low_odds)
        shares = [math.exp(z - top) for z in low_odds]
        total = sum(shares)
        return Judgement(
            importance=logistic(raw * factor),
            log_odds=raw * factor,
            raw=raw,
            variance=variance,
            certainty=factor,
            low={name: share / total for name, share in zip(self._low, shares, strict=True)},
        )

    def learn(self, lesson: Lesson) -> None:
        """Take in one lesson, after all before it."""
        rows = Rows.of(lesson.vector)
        important = lesson.belongs in self.important
        step = self._importance.learn(rows, important)
        steps = {}
        if lesson.belongs in self._low:
            steps = {name: model.learn(rows, name == lesson.belongs) for name, model in self._low.items()}
        self._learned.append(_Learned(lesson, step, steps))
        self._flat = None

    def forget(self, lesson_id: int, progress: Callable[[int, int], None] | None = None) -> bool:
        """Undo one lesson wherever it stands; False when it was never taken in.

        ``progress`` is called with (done, of how many) while later lessons are taken in again.
        """
        at = next((i for i, one in enumerate(self._learned) if one.lesson.id == lesson_id), None)
        if at is None:
            return False
        later = self._learned[at + 1 :]
        for one in reversed(self._learned[at:]):
            self._take_back(one)
        del self._learned[at:]
        for done, one in enumerate(later, 1):
            self.learn(one.lesson)
            if progress is not None:
                progress(done, len(later))
        self._flat = None
        return True

    def _take_back(self, one: _Learned) -> None:
        self._importance.take_back(one.importance)
        for name, step in one.low.items():
            self._low[name].take_back(step)

    def prior_parts(self, vector: Vector) -> dict[str, float]:
        """What the prior alone gives to the log-odds, by feature group; groups without any are left out."""
        rows = Rows.of(vector)
        parts = np.bincount(rows.groups, self._importance.prior_mean[rows.slots] * rows.values, minlength=len(GROUPS))
        return {group.name: float(part) for group, part in zip(GROUPS, parts, strict=True) if part != 0.0}

    def lesson_parts(self, vector: Vector) -> dict[int, float]:
        """What each lesson adds to the undamped log-odds of a message; with the prior's they sum to ``raw``."""
        if not self._learned:
            return {}
        slots, moved, starts = self._flattened()
        rows = Rows.of(vector)
        dense = np.bincount(rows.slots, rows.values, minlength=self._importance.mean.size)
        parts = np.add.reduceat(moved * dense[slots], starts).tolist()
        return {one.lesson.id: part for one, part in zip(self._learned, parts, strict=True) if part != 0.0}

    def _flattened(self) -> tuple[NDArray[np.intp], Floats, NDArray[np.intp]]:
        if self._flat is None:
            lengths = np.array([len(one.importance.slots) for one in self._learned], dtype=np.intp)
            self._flat = (
                np.concatenate([one.importance.slots for one in self._learned]),
                np.concatenate([one.importance.moved for one in self._learned]),
                np.cumsum(lengths) - lengths,
            )
        return self._flat
