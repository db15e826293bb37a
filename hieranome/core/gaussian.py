"""Logistic regression with an independent Gaussian posterior on every weight, learned one example at a time.

The score of a vector is Gaussian with mean m and variance v. An answer moves it to the mode of the
one-dimensional posterior (Newton), and every weight follows in proportion to its own variance: the
assumed-density filtering of online Bayesian probit (Graepel et al. 2010), with the logistic link and a
Laplace step (Spiegelhalter and Lauritzen 1990). Probabilities integrate over v by MacKay's (1992)
damping factor 1 / sqrt(1 + pi v / 8).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hieranome.core.features import PRIOR_VARIANCE, SLOTS, Vector, groups_of, slots_of, values_of
from hieranome.core.groups import GROUPS
from hieranome.core.prior import Prior

Floats = NDArray[np.float64]


def logistic(x: float) -> float:
    """1 / (1 + exp(-x)), safe at both ends."""
    if x >= 0:
        return 1.0 / (1.0 + math.exp(-x))
    e = math.exp(x)
    return e / (1.0 + e)


def logistic_all(x: Floats) -> Floats:
    """The logistic function of many numbers, safe at both ends."""
    e = np.exp(-np.abs(x))
    return np.asarray(np.where(x >= 0, 1.0, e) / (1.0 + e))


@dataclass(frozen=True, slots=True)
class Rows:
    """Vectors made ready for arithmetic: weight slots, values, group numbers, and where each begins."""

    slots: NDArray[np.intp]
    values: Floats
    groups: NDArray[np.intp]
    starts: NDArray[np.intp]

    @classmethod
    def of(cls, vector: Vector) -> Rows:
        """One vector, unpacked."""
        groups = groups_of(vector)
        return cls(slots_of(vector), values_of(groups), groups, np.zeros(1, dtype=np.intp))

    def only(self, groups: frozenset[str], *, without: bool = False) -> Rows:
        """The features of some groups of one vector; ``without``, of all the others."""
        kept = _among(groups, without)[self.groups]
        return Rows(self.slots[kept], self.values[kept], self.groups[kept], self.starts)

    @classmethod
    def stacked(cls, vectors: Sequence[Vector]) -> Rows:
        """Many vectors at once. None of them may be empty."""
        if len(vectors) == 1:
            return cls.of(vectors[0])
        lengths = np.array([len(v) for v in vectors], dtype=np.intp)
        joined = np.concatenate(vectors)
        groups = groups_of(joined)
        row = np.repeat(np.arange(len(vectors), dtype=np.intp), lengths)
        return cls(slots_of(joined), values_of(groups, row), groups, np.cumsum(lengths) - lengths)

    @property
    def row(self) -> NDArray[np.intp]:
        """The vector each feature belongs to."""
        return np.repeat(np.arange(len(self.starts)), np.diff(self.starts, append=len(self.slots)))

    def each(self) -> Iterator[Rows]:
        """The vectors one by one."""
        begin = np.zeros(1, dtype=np.intp)
        for first, end in pairwise([*self.starts.tolist(), len(self.slots)]):
            yield Rows(self.slots[first:end], self.values[first:end], self.groups[first:end], begin)


@lru_cache
def _among(groups: frozenset[str], without: bool) -> NDArray[np.bool_]:
    """Of each group, whether it is among those named, or ``without``, whether it is not."""
    return np.array([(group.name in groups) != without for group in GROUPS])


@dataclass(frozen=True, slots=True)
class Step:
    """What one answer changed: enough to take it back exactly and to say what it contributes. ``whole`` says that it
    was an answer of full weight."""

    slots: NDArray[np.intp]
    moved: Floats
    old_mean: Floats
    old_variance: Floats
    whole: bool


class GaussianLogistic:
    """One binary model. Weights never touched hold the prior's mean and variance."""

    def __init__(self, prior: Prior) -> None:
        self.mean: Floats = np.zeros(SLOTS)
        self.variance: Floats = np.zeros(SLOTS)  # 0: untouched, the prior's variance holds
        self.touched = np.zeros(SLOTS, dtype=np.int32)
        self._prior: dict[int, float] = {}
        for number, weight in prior.items():
            slot = number & (SLOTS - 1)
            self._prior[slot] = self._prior.get(slot, 0.0) + weight
        self.mean[list(self._prior)] = list(self._prior.values())

    def variances(self, rows: Rows) -> Floats:
        """Posterior variance of each weight of a vector."""
        own = self.variance[rows.slots]
        return np.where(own > 0.0, own, PRIOR_VARIANCE[rows.groups])

    def predict_all(self, rows: Rows) -> tuple[Floats, Floats]:
        """Mean of the log-odds of each of many vectors, and the doubt about each.

        Doubt is a variance: that of the prior, shared out among what is known of each weight, 1 / (1 + n) after it was
        taught n times. It is largest for senders and words never seen in a lesson. The posterior variances that steer
        learning shrink far more slowly and would call everything doubtful.
        """
        mean = np.add.reduceat(self.mean[rows.slots] * rows.values, rows.starts)
        return mean, np.add.reduceat(self._doubts(rows) * rows.values * rows.values, rows.starts)

    def _doubts(self, rows: Rows) -> Floats:
        doubts: Floats = PRIOR_VARIANCE[rows.groups] / (1.0 + self.touched[rows.slots])
        return doubts

    def sum(self, rows: Rows) -> float:
        """Mean of the log-odds of one vector, or of a part of one."""
        return float(self.mean[rows.slots] @ rows.values)

    def prior_means(self, rows: Rows) -> Floats:
        """What the prior gives each weight of a vector."""
        return np.array([self._prior.get(slot, 0.0) for slot in rows.slots.tolist()])

    def learn(
        self, rows: Rows, positive: bool, beside: float = 0.0, likelihood: float = 1.0, share: Floats | None = None
    ) -> Step:
        """Take in one answer; returns the step by which :meth:`take_back` undoes it.

        ``beside`` is the log-odds of what is not to move, where ``rows`` is a part of a vector. An answer whose
        log-likelihood has a weight below 1 moves the weights less, and takes nothing from the doubt about them.
        ``share``, in (0, 1] for each feature, is how much of its variance may speak in this step; if left out, all.
        """
        old_mean = self.mean[rows.slots]
        old_variance = self.variance[rows.slots]
        variances = np.where(old_variance > 0.0, old_variance, PRIOR_VARIANCE[rows.groups])
        speaking = variances if share is None else variances * share
        total = float(speaking @ (rows.values * rows.values))
        start = beside + float(old_mean @ rows.values)
        mode = _mode(start, total, 1.0 if positive else 0.0, likelihood)
        curvature = likelihood * logistic(mode) * (1.0 - logistic(mode))
        gain = speaking * rows.values
        moved = gain * ((mode - start) / total)
        shrink = curvature / (1.0 + curvature * total)
        self.mean[rows.slots] = old_mean + moved
        self.variance[rows.slots] = variances - gain * gain * shrink
        whole = likelihood == 1.0
        self.touched[rows.slots] += whole
        return Step(rows.slots, moved, old_mean, old_variance, whole)

    def take_back(self, step: Step) -> None:
        """Undo the latest step not yet taken back."""
        self.mean[step.slots] = step.old_mean
        self.variance[step.slots] = step.old_variance
        self.touched[step.slots] -= step.whole


def _mode(start: float, variance: float, target: float, weight: float) -> float:
    """argmax over z of log N(z; start, variance) + weight x log-likelihood of the target, by Newton with bisection."""
    low, high = (start, start + variance) if target > 0.5 else (start - variance, start)
    z = start + variance * weight * (target - logistic(start)) / (1.0 + variance * weight * 0.25)
    for _ in range(50):
        p = logistic(z)
        slope = (z - start) / variance - weight * (target - p)
        if abs(slope) < 1e-12:
            break
        if slope > 0:
            high = z
        else:
            low = z
        step = slope / (1.0 / variance + weight * p * (1.0 - p))
        z = z - step
        if not low < z < high:
            z = 0.5 * (low + high)
    return z


def likeness(rows: Rows, vector: Vector) -> Floats:
    """How like one vector each of many is: 1 for itself, 0 when they share nothing.

    The kernel by which a lesson about ``vector`` moves the others before anything was learned, as a share of
    what it moves itself.
    """
    one = Rows.of(vector)
    weight = PRIOR_VARIANCE[one.groups] * one.values
    dense = np.bincount(one.slots, weight, minlength=SLOTS)
    whole = float(weight @ one.values)
    return np.asarray(np.add.reduceat(dense[rows.slots] * rows.values, rows.starts) / whole)


def prior_doubt(rows: Rows) -> Floats:
    """The doubt about each vector before any lesson."""
    return np.asarray(np.add.reduceat(PRIOR_VARIANCE[rows.groups] * rows.values * rows.values, rows.starts))
