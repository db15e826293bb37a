"""How sure a share is that was counted."""

from __future__ import annotations

import math
from dataclasses import dataclass

_Z = 1.959964
"""The standard normal's 97.5 % point."""


@dataclass(frozen=True, slots=True)
class Interval:
    """A share of ``whole``, and the two ends between which it lies with 95 % probability."""

    part: int
    whole: int
    low: float
    high: float


def share_interval(part: int, whole: int) -> Interval:
    """Wilson's (1927) score interval; of nothing, all of [0, 1]."""
    if not whole:
        return Interval(0, 0, 0.0, 1.0)
    share, spread = part / whole, _Z * _Z / whole
    middle = share + spread / 2
    half = _Z * math.sqrt((share * (1.0 - share) + spread / 4) / whole)
    return Interval(part, whole, max(0.0, (middle - half) / (1 + spread)), min(1.0, (middle + half) / (1 + spread)))
