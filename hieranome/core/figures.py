"""How good predictions were, once the truths are known."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from hieranome.core.buckets import DESK, DRAIN, UNDECIDED, Costs
from hieranome.core.replay import Predicted

EARLY = 0.25
"""Share of the stream that counts as early; the other figures are of what follows."""
CALIBRATION_BINS = 10
CURVE_POINTS = 20
_NORMAL_95 = 1.959964
"""The standard normal's 97.5 % point."""


@dataclass(frozen=True, slots=True)
class Share:
    """A share with the counts it is made of."""

    part: int
    whole: int

    @property
    def value(self) -> float:
        """The share in [0, 1]; 0 of nothing."""
        return self.part / self.whole if self.whole else 0.0

    @property
    def interval(self) -> tuple[float, float]:
        """The ends between which the share lies with 95 % probability: Wilson's (1927) score interval; of nothing, all
        of [0, 1]."""
        if not self.whole:
            return 0.0, 1.0
        spread = _NORMAL_95 * _NORMAL_95 / self.whole
        middle = self.value + spread / 2
        half = _NORMAL_95 * math.sqrt((self.value * (1.0 - self.value) + spread / 4) / self.whole)
        return max(0.0, (middle - half) / (1 + spread)), min(1.0, (middle + half) / (1 + spread))


@dataclass(frozen=True, slots=True)
class Bin:
    """One bin of a reliability table: how many messages, their mean score, the share that was important."""

    count: int
    score: float
    important: float


@dataclass(frozen=True, slots=True)
class Figures:
    """All figures of one run.

    ``regret`` and ``early_regret`` are mean costs x 100 after and within the first quarter; ``buried`` is of what
    belongs on the Desk, ``noise`` of what stands there, ``asked`` and ``corrections`` of all; ``auc`` ranks by
    score; ``calibration_error`` is the expected one over ten bins of equal mass (Naeini et al. 2015);
    ``brier`` the mean squared error of scores, ``brier_share`` that as a share of a constant's; ``curve`` the
    regret of twenty equal stretches of the whole stream; ``own`` the recall of each bucket.
    """

    messages: int
    regret: float
    early_regret: float
    buried: Share
    noise: Share
    asked: Share
    corrections: Share
    wrong_low: int
    drained_good: int
    auc: float
    calibration_error: float
    brier: float
    brier_share: float
    reliability: list[Bin] = field(default_factory=list)
    curve: list[float] = field(default_factory=list)
    recall: dict[str, Share] = field(default_factory=dict)


def figures(
    predicted: Sequence[Predicted], costs: Costs | None = None, important: frozenset[str] = frozenset({DESK})
) -> Figures:
    """The figures of a run. Nothing predicted gives zeros."""
    costs = costs or Costs()
    cut = int(EARLY * len(predicted))
    early, late = predicted[:cut], predicted[cut:]
    truly = [one for one in late if one.belongs in important]
    on_desk = [one for one in late if one.place in important]
    low_moved = [one for one in late if one.belongs not in important and one.place not in {*important, UNDECIDED}]
    reliability = _reliability(late, important)
    brier = _mean([(one.score - (one.belongs in important)) ** 2 for one in late])
    rate = len(truly) / len(late) if late else 0.0
    return Figures(
        messages=len(predicted),
        regret=_regret(late, costs, important),
        early_regret=_regret(early, costs, important),
        buried=Share(sum(one.place not in {*important, UNDECIDED} for one in truly), len(truly)),
        noise=Share(sum(one.belongs not in important for one in on_desk), len(on_desk)),
        asked=Share(sum(one.place == UNDECIDED for one in late), len(late)),
        corrections=Share(sum(one.corrected for one in late), len(late)),
        wrong_low=sum(one.place not in (one.belongs, DRAIN) for one in low_moved),
        drained_good=sum(one.place == DRAIN != one.belongs for one in low_moved),
        auc=_auc(late, important),
        calibration_error=sum(b.count * abs(b.score - b.important) for b in reliability) / max(1, len(late)),
        brier=brier,
        brier_share=brier / (rate * (1 - rate)) if 0.0 < rate < 1.0 else 0.0,
        reliability=reliability,
        curve=[_regret(part, costs, important) for part in _stretches(predicted, CURVE_POINTS)],
        recall=_recall(late),
    )


def _mean(values: Sequence[float]) -> float:
    return math.fsum(values) / len(values) if values else 0.0


def _regret(predicted: Sequence[Predicted], costs: Costs, important: frozenset[str]) -> float:
    return 100.0 * _mean([costs.of(one.belongs, one.place, important) for one in predicted])


def _stretches(ordered: Sequence[Predicted], count: int) -> list[Sequence[Predicted]]:
    """At most ``count`` consecutive parts of equal length, none empty."""
    count = min(count, len(ordered))
    edges = [i * len(ordered) // count for i in range(count + 1)] if count else []
    return [ordered[a:b] for a, b in pairwise(edges)]


def _reliability(predicted: Sequence[Predicted], important: frozenset[str]) -> list[Bin]:
    ordered = sorted(predicted, key=lambda one: one.score)
    return [
        Bin(len(part), _mean([p.score for p in part]), _mean([float(p.belongs in important) for p in part]))
        for part in _stretches(ordered, CALIBRATION_BINS)
    ]


def _auc(predicted: Sequence[Predicted], important: frozenset[str]) -> float:
    """The chance that an important message scores above another (Mann and Whitney 1947); ties count half."""
    ordered = sorted(predicted, key=lambda one: one.score)
    positives = sum(one.belongs in important for one in ordered)
    negatives = len(ordered) - positives
    if not positives or not negatives:
        return 0.0
    total, below, at = 0.0, 0, 0
    while at < len(ordered):
        end = at
        while end < len(ordered) and ordered[end].score == ordered[at].score:
            end += 1
        tied = sum(one.belongs in important for one in ordered[at:end])
        others = end - at - tied
        total += tied * (below + others / 2)
        below += others
        at = end
    return total / (positives * negatives)


def _recall(predicted: Sequence[Predicted]) -> dict[str, Share]:
    names = dict.fromkeys(one.belongs for one in predicted)
    return {
        name: Share(
            sum(one.belongs == name == one.place for one in predicted), sum(one.belongs == name for one in predicted)
        )
        for name in names
    }
