"""Where a message goes: the least expected cost, with asking bounded.

Let p be the importance and q the shares of the low buckets. The Desk costs (1 - p) x noise; a low
bucket costs p x buried (or drained) plus what a wrong low bucket costs under q; asking has a flat
price. Asking is worth the difference to the cheaper of the two. Where it is worth anything it is done,
within a bound over the last :data:`WINDOW`; the rest goes where it costs least.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from operator import mul

import numpy as np

from hieranome.core.buckets import DRAIN, UNDECIDED, Costs
from hieranome.core.gaussian import Floats
from hieranome.core.judgement import Judgement, Weighed

WINDOW = 200
"""Messages over which the bound on asking holds."""

MOST_ASKED = 14
"""How many of them may be asked about."""

LEARNED = -0.2
"""A question whose answer would save less than this, in units of the costs, is none any more. Less than nothing, so
that no question comes and goes with every lesson."""

QUITE_SURE, FAIRLY_SURE = 0.97, 0.8
"""From which chance on a message is called quite or fairly sure to be on the right side of the Desk, taken at the end
of its doubt that is nearer to the other side. Of mail called so 99 and 93 of a hundred are (``bench/certainty.py``)."""


@dataclass(frozen=True, slots=True)
class Bounds:
    """The importances where asking begins and where the Desk begins, each in [0, 1]."""

    ask: float
    desk: float


def bounds(costs: Costs) -> Bounds:
    """The two bounds that follow from the costs, for a message sure of its low bucket.

    Away costs p x buried, asking its price: asking can pay from asking / buried on. The Desk costs
    (1 - p) x noise, so from noise / (noise + buried) on it is the cheaper place for what is not asked.
    """
    desk = costs.noise / (costs.noise + costs.buried)
    return Bounds(min(costs.asking / costs.buried, desk), desk)


def settle(judgement: Judgement, costs: Costs) -> tuple[str, float]:
    """The place of least expected cost without asking, and that cost."""
    p = judgement.importance
    best, least = judgement.likely_high, (1.0 - p) * costs.noise
    shares = list(judgement.low.values())
    for name, missed, wrong in _low_costs(costs, tuple(judgement.low)):
        cost = p * missed + (1.0 - p) * sum(map(mul, shares, wrong))
        if cost < least:
            best, least = name, cost
    return best, least


def costs_of(found: Weighed, costs: Costs) -> Floats:
    """The least expected cost of each of many messages, as :func:`settle` finds it."""
    return np.asarray(np.minimum((1.0 - found.importance) * costs.noise, _away(found, costs).min(axis=1)))


def _away(found: Weighed, costs: Costs) -> Floats:
    """What each low bucket would cost for each of many messages."""
    p = found.importance[:, np.newaxis]
    table = _low_costs(costs, tuple(found.low_names))
    missed = np.array([cost for _, cost, _ in table])
    wrong = np.array([row for _, _, row in table])
    return np.asarray(p * missed + (1.0 - p) * (found.low @ wrong.T))


def settle_all(found: Weighed, costs: Costs) -> list[str]:
    """What :func:`settle` says of each of many messages."""
    away = _away(found, costs)
    kept = (1.0 - found.importance) * costs.noise <= away.min(axis=1)
    columns = (kept.tolist(), found.high.argmax(axis=1).tolist(), away.argmin(axis=1).tolist())
    return [found.high_names[high] if keep else found.low_names[low] for keep, high, low in zip(*columns, strict=True)]


@lru_cache(maxsize=64)
def _low_costs(costs: Costs, names: tuple[str, ...]) -> list[tuple[str, float, list[float]]]:
    """For each low bucket: its cost for important mail, and for mail that belongs in each low bucket."""
    return [
        (
            name,
            costs.drained_important if name == DRAIN else costs.buried,
            [costs.of(other, name) for other in names],
        )
        for name in names
    ]


def worth_asking(judgement: Judgement, costs: Costs) -> tuple[str, float]:
    """The place of least expected cost without asking, and what asking would save, in units of the costs (may be below
    nothing)."""
    place, cost = settle(judgement, costs)
    return place, cost - costs.asking


def between(judgement: Judgement, costs: Costs) -> tuple[str, str]:
    """The two places a question about a message is between. Where it is quite sure that it can wait, that is not
    asked: the question is in which of the two likeliest low buckets."""
    low = sorted(judgement.low, key=lambda name: -judgement.low[name])
    waits = judgement.importance < bounds(costs).desk and 1.0 - judgement.band[1] >= QUITE_SURE
    if waits and len(low) > 1:
        return low[0], low[1]
    return judgement.likely_high, low[0]


class Asking:
    """The memory of the last :data:`WINDOW` messages, whether each was asked about, that bounds how much is asked."""

    def __init__(self, past: Iterable[bool] = ()) -> None:
        self._past: deque[bool] = deque(past, maxlen=WINDOW)

    def copy(self) -> Asking:
        """The same memory, apart from this one."""
        return Asking(self._past)

    @property
    def past(self) -> list[bool]:
        """What is remembered, oldest first."""
        return list(self._past)

    def allows(self, value: float) -> bool:
        """Whether a question that saves so much is worth it and within the bound."""
        return value > 0.0 and sum(self._past) < MOST_ASKED

    def note(self, asked: bool) -> None:
        """Remember one message."""
        self._past.append(asked)


def route(judgement: Judgement, costs: Costs, asking: Asking) -> str:
    """Where an arriving message goes; noted in ``asking``."""
    place, value = worth_asking(judgement, costs)
    if asking.allows(value):
        place = UNDECIDED
    asking.note(place == UNDECIDED)
    return place
