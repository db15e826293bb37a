"""What the engine is told and what it says: lessons and judgements."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from hieranome.core.buckets import UNDECIDED
from hieranome.core.features import Vector
from hieranome.core.gaussian import (
    Floats,
    logistic,
    logistic_all,
)
from hieranome.core.silence import Silence


@dataclass(frozen=True, slots=True)
class Lesson:
    """What the engine learns from: the vector a message had, and the bucket it belongs in.

    ``stood`` is where the message stood before. In a bucket, it tells whether its owner noticed a mistake; in Your
    call, or where it is not known, it tells nothing of that.
    """

    id: int
    vector: Vector
    belongs: str
    stood: str = UNDECIDED


Given = Lesson | Silence
"""What the engine takes in."""


class Judgement(NamedTuple):
    """What the engine holds of one message.

    ``importance`` is a probability in [0, 1] and equals logistic(``log_odds``), the sum of the evidence; ``doubt`` is
    the variance of that sum; ``certainty`` in [0, 1) is the share of the prior's doubt about such a message that
    lessons took away; ``low`` maps each low bucket to the probability that the message belongs there if it is not
    important; ``high`` does the same for the important buckets if it is.
    """

    importance: float
    log_odds: float
    doubt: float
    certainty: float
    low: dict[str, float]
    high: dict[str, float]

    @property
    def likely(self) -> str:
        """The low bucket it most likely belongs in, should it not be important."""
        return max(self.low, key=lambda name: self.low[name])

    @property
    def likely_high(self) -> str:
        """The important bucket it most likely belongs in, should it be important."""
        return max(self.high, key=lambda name: self.high[name])

    @property
    def band(self) -> tuple[float, float]:
        """The importance one standard deviation below and above."""
        spread = math.sqrt(self.doubt)
        return logistic(self.log_odds - spread), logistic(self.log_odds + spread)


@dataclass(frozen=True, slots=True)
class Weighed:
    """Many messages judged, as columns: see :class:`Judgement` for their meaning; ``low`` and ``high`` are messages x
    buckets."""

    importance: Floats
    log_odds: Floats
    doubt: Floats
    certainty: Floats
    low: Floats
    high: Floats
    low_names: list[str]
    high_names: list[str]

    def __len__(self) -> int:
        return len(self.log_odds)

    @property
    def likely(self) -> list[str]:
        """The low bucket each most likely belongs in."""
        return [self.low_names[at] for at in self.low.argmax(axis=1).tolist()]

    @property
    def edges(self) -> tuple[Floats, Floats]:
        """The importance of each one standard deviation below and above."""
        spread = np.sqrt(self.doubt)
        return logistic_all(self.log_odds - spread), logistic_all(self.log_odds + spread)

    def judgements(self) -> list[Judgement]:
        """One by one."""
        numbers = (self.importance, self.log_odds, self.doubt, self.certainty)
        low = [dict(zip(self.low_names, shares, strict=True)) for shares in self.low.tolist()]
        high = [dict(zip(self.high_names, shares, strict=True)) for shares in self.high.tolist()]
        return list(map(Judgement, *(column.tolist() for column in numbers), low, high))


Bond = Literal["sender", "list", "word"]
"""What a lesson's message has in common with another, so that the lesson is a reason: who wrote it, through what list,
or a word of the subject that few lessons had."""


@dataclass(frozen=True, slots=True)
class Word:
    """The word of a subject that speaks most for the Desk: its slot, how many lessons carried it, how many of
    those put mail on the Desk, and the log-odds it adds."""

    slot: int
    lessons: int
    important: int
    value: float
