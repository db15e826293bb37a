"""The first judgement: how likely a message is important, as log-odds.

A regression over the features of a message. What history knows of its sender and which of the owner's addresses it went
to speak with what ships, and no lesson moves them: a lesson about one message would else move all mail that has no more
in common with it than that its sender was never answered.
"""

from __future__ import annotations

import numpy as np

from hieranome.core.gaussian import GaussianLogistic, Rows
from hieranome.core.groups import GROUPS
from hieranome.core.prior import IMPORTANCE

NOT_LEARNED = frozenset({"relation", "own_address"})
"""Groups no lesson moves."""
OF_SOURCE = frozenset({"address", "list", "list_sender", "sender_subject"})
"""Groups whose features only mail of one sender or one list has: all that a silence moves."""


def learned(rows: Rows) -> Rows:
    """The features of one vector that lessons move."""
    return rows.only(NOT_LEARNED, without=True)


class Importance(GaussianLogistic):
    """The regression behind importance."""

    def __init__(self) -> None:
        super().__init__(IMPORTANCE)

    def beside(self, rows: Rows) -> float:
        """The log-odds of one vector's features that no lesson moves."""
        return self.sum(rows.only(NOT_LEARNED))

    def prior_parts(self, rows: Rows) -> dict[str, float]:
        """What the prior alone gives to one vector's log-odds, by feature group; groups without any are left out."""
        parts = np.bincount(rows.groups, self.prior_means(rows) * rows.values, minlength=len(GROUPS))
        return {group.name: float(part) for group, part in zip(GROUPS, parts, strict=True) if part != 0.0}
