"""What the next message of a sender or list will do, foretold from how such messages are judged now.

Nobody knows what the next message says. So the newest of the source are judged as if they arrived now; where all of
them go to one place, and none comes close to another, the next one is promised there. Else it depends on what it says,
and that is what is said.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.core.buckets import Costs
from hieranome.core.judgement import Judgement
from hieranome.core.routing import bounds, worth_asking

MARGIN = 3.0
"""By so much, in log-odds, each judged message is on its side of the Desk where the next one is promised there. In
lives (``bench/life.py``) 1,798 of 1,823 promises were kept; with 2.0, in fewer lives, 240 of 245 (3.0: 193 of 195)."""
JUDGED = 2
"""So many messages are judged at least: of a source that wrote once, 88 of a hundred promises were kept."""


@dataclass(frozen=True, slots=True)
class Foretold:
    """Where messages of a source would go: the ``place`` where all go, or empty; where the first goes (empty: it
    would be asked about); by how much the closest is on its side of the Desk, in log-odds; how many were judged."""

    place: str
    first: str
    margin: float
    judged: int

    @property
    def sure(self) -> bool:
        """Whether the next one is promised to go there."""
        return bool(self.place) and self.margin >= MARGIN and self.judged >= JUDGED


def foretell(judgements: Sequence[Judgement], costs: Costs) -> Foretold:
    """What some messages, at least one, would do if they arrived now."""
    bound = bounds(costs).desk
    desk = math.log(bound / (1.0 - bound))
    found = [place if value <= 0.0 else "" for place, value in (worth_asking(one, costs) for one in judgements)]
    margin = min(abs(one.log_odds - desk) for one in judgements)
    return Foretold(found[0] if len(set(found)) == 1 else "", found[0], margin, len(judgements))
