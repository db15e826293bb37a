"""Calibration: an affine map of log-odds, learned from answers to questions alone.

Corrections are mistakes by definition, so fitting to them would call everything wrong. Questions are
asked whatever the truth, and always answered, so they are the unbiased part of what lessons say. The map
z -> slope z + shift (Platt 1999) has a Gaussian posterior over both, moved by one Newton step an answer
from what ships; an answer changes it little.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import overload

import numpy as np

from hieranome.core.gaussian import Floats, logistic

SLOPE = 1.5
PIVOT = -1.8
"""What ships: log-odds are spread around the pivot, which lies where decisions are made and stays in place."""
SLOPE_SD = 0.1
SHIFT_SD = 0.2


@dataclass(frozen=True, slots=True)
class Fit:
    """One state of the calibration: the means of slope and shift, and their covariance (2 x 2)."""

    mean: Floats
    covariance: Floats

    @property
    def slope(self) -> float:
        """By how much log-odds are spread."""
        return float(self.mean[0])

    @property
    def shift(self) -> float:
        """What is added to them, seen from the pivot."""
        return float(self.mean[1])


class Calibration:
    """The map at present, and the fold that moves it."""

    def __init__(self) -> None:
        self.fit = Fit(np.array([SLOPE, 0.0]), np.diag([SLOPE_SD**2, SHIFT_SD**2]))

    @overload
    def of(self, log_odds: float) -> float: ...
    @overload
    def of(self, log_odds: Floats) -> Floats: ...
    def of(self, log_odds: float | Floats) -> float | Floats:
        """The calibrated log-odds, of one message or of many."""
        return PIVOT + self.fit.slope * (log_odds - PIVOT) + self.fit.shift

    def learn(self, log_odds: float, important: bool) -> Fit:
        """Take in the answer to a question asked at these uncalibrated log-odds; returns the fit before it."""
        before = self.fit
        features = np.array([log_odds - PIVOT, 1.0])
        p = logistic(self.of(log_odds))
        spread = before.covariance @ features
        curvature = p * (1.0 - p)
        covariance = before.covariance - np.outer(spread, spread) * curvature / (1.0 + curvature * features @ spread)
        mean = before.mean + covariance @ features * (float(important) - p)
        mean[0] = max(0.2, mean[0])
        self.fit = Fit(mean, covariance)
        return before

    def take_back(self, before: Fit) -> None:
        """Return to the fit before the latest answer not yet taken back."""
        self.fit = before
