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
from hieranome.core.gaussian import Floats, GaussianLogistic, Rows, Step, damping, likeness, logistic, prior_doubt
from hieranome.core.prior import IMPORTANCE, LOW, Prior

IMPORTANCE_DOUBT = 0.01
LOW_DOUBT = 0.25
"""How much of the doubt about the weights counts as doubt about a score. Prior variances are set so wide that
one lesson suffices; taken at face value they would call everything even."""

LOW_ROUNDS = 5
LOW_HOLDS = 0.95
"""A lesson about a low bucket is taken in up to LOW_ROUNDS times, until its share is above LOW_HOLDS: once by all
features, then by those particular to the message alone, so that other mail is left where it is."""
PARTICULAR = frozenset({"address", "list", "list_sender", "addressed", "sender_subject", "subject_pairs"})


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
    ``doubt`` are the posterior mean of the undamped log-odds and the variance that damps them;
    ``certainty`` in [0, 1) is the share of the prior's doubt about such a message that lessons took
    away; ``low`` maps each low bucket to the probability that the message belongs there if it is not
    important.
    """

    importance: float
    log_odds: float
    raw: float
    doubt: float
    certainty: float
    low: dict[str, float]

    @property
    def likely(self) -> str:
        """The low bucket it most likely belongs in, should it not be important."""
        return max(self.low, key=lambda name: self.low[name])

    @property
    def band(self) -> tuple[float, float]:
        """The importance one standard deviation below and above."""
        spread = math.sqrt(self.doubt)
        return logistic(self.log_odds - spread), logistic(self.log_odds + spread)


@dataclass(frozen=True, slots=True)
class _Learned:
    lesson: Lesson
    importance: Step
    low: list[dict[str, Step]] = field(default_factory=list)


def _shares(odds: list[float]) -> list[float]:
    """Odds on one scale as shares that sum to one."""
    top = max(odds)
    weights = [math.exp(z - top) for z in odds]
    total = sum(weights)
    return [weight / total for weight in weights]


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
        whole = float(prior_doubt(rows)[0])
        return self._judgement(raw, variance, whole, [m * damping(LOW_DOUBT * v) for m, v in lows])

    def judge_all(self, vectors: Sequence[Vector]) -> list[Judgement]:
        """Judge many messages at once; the same numbers as one at a time, to rounding."""
        if not vectors:
            return []
        rows = Rows.stacked(vectors)
        raw, variance = self._importance.predict_all(rows)
        whole = prior_doubt(rows)
        lows = []
        for model in self._low.values():
            mean, spread = model.predict_all(rows)
            lows.append(mean / np.sqrt(1.0 + math.pi * LOW_DOUBT * spread / 8.0))
        table = np.array(lows).T.tolist()
        columns = (raw.tolist(), variance.tolist(), whole.tolist(), table)
        return [self._judgement(*numbers) for numbers in zip(*columns, strict=True)]

    def _judgement(self, raw: float, variance: float, whole: float, low_odds: list[float]) -> Judgement:
        doubt = IMPORTANCE_DOUBT * variance
        factor = damping(doubt)
        return Judgement(
            importance=logistic(raw * factor),
            log_odds=raw * factor,
            raw=raw,
            doubt=doubt,
            certainty=1.0 - math.sqrt(variance / whole),
            low=dict(zip(self._low, _shares(low_odds), strict=True)),
        )

    @staticmethod
    def likeness(vectors: Sequence[Vector], vector: Vector) -> list[float]:
        """How like ``vector`` each of many is, 1 for itself: see :func:`hieranome.core.gaussian.likeness`."""
        return likeness(Rows.stacked(vectors), vector).tolist() if vectors else []

    def learn(self, lesson: Lesson) -> None:
        """Take in one lesson, after all before it."""
        rows = Rows.of(lesson.vector)
        important = lesson.belongs in self.important
        step = self._importance.learn(rows, important)
        self._learned.append(_Learned(lesson, step, self._learn_low(lesson.belongs, rows)))
        self._flat = None

    def _learn_low(self, belongs: str, rows: Rows) -> list[dict[str, Step]]:
        """Teach the second judgement until it holds: a lesson about the bucket must suffice once."""
        steps: list[dict[str, Step]] = []
        while belongs in self._low and len(steps) < LOW_ROUNDS:
            if steps and self._low_shares(rows)[belongs] > LOW_HOLDS:
                break
            taught = rows.only(PARTICULAR) if steps else rows
            steps.append({name: model.learn(taught, name == belongs) for name, model in self._low.items()})
        return steps

    def _low_shares(self, rows: Rows) -> dict[str, float]:
        odds = [mean * damping(LOW_DOUBT * spread) for mean, spread in (m.predict(rows) for m in self._low.values())]
        return dict(zip(self._low, _shares(odds), strict=True))

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
        for steps in reversed(one.low):
            for name, step in steps.items():
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
