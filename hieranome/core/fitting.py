"""A logistic regression over the engine's features, with Gaussian priors, fitted to a few hundred examples
at once: its mode is found exactly, by Newton in the space of examples (Rasmussen and Williams 2006, algorithm 3.1)."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from hieranome.core.features import PRIOR_VARIANCE
from hieranome.core.gaussian import Floats, Rows, logistic_all

_NEWTON = 40
_COLUMNS = 4_096
"""Features whose likenesses are summed at a time: hundreds of long messages have tens of thousands between them."""


class Fit:
    """The regression in the space of examples: their likenesses under the prior. ``start`` are their log-odds before
    anything was learned, ``variances`` those of a weight of each group of features: the engine's, if none are given."""

    def __init__(self, rows: Rows, start: Floats, variances: Floats = PRIOR_VARIANCE) -> None:
        self._used, self._column = np.unique(rows.slots, return_inverse=True)
        self._row = rows.row
        variance = variances[rows.groups]
        self._gain = variance * rows.values
        self._kernel = self._likenesses(rows.values * np.sqrt(variance), len(rows.starts))
        self._start = start

    def _likenesses(self, scaled: Floats, examples: int) -> Floats:
        """The sum over features of what each two examples have of them."""
        kernel = np.zeros((examples, examples))
        order = np.argsort(self._column, kind="stable")
        bounds = np.searchsorted(self._column[order], np.arange(0, len(self._used) + _COLUMNS, _COLUMNS))
        for block, (first, end) in enumerate(pairwise(bounds.tolist())):
            those = order[first:end]
            dense = np.zeros((examples, _COLUMNS))
            np.add.at(dense, (self._row[those], self._column[those] - block * _COLUMNS), scaled[those])
            kernel += dense @ dense.T
        return kernel

    def _objective(self, pull: Floats, moved: Floats, targets: Floats, counted: Floats) -> float:
        """The log-posterior, but for a constant."""
        z = self._start + moved
        likelihood = targets * z - np.logaddexp(0.0, z)
        return float(counted @ likelihood - 0.5 * (pull @ moved))

    def mode(self, targets: Floats, counted: Floats) -> tuple[NDArray[np.intp], Floats]:
        """The slots of the weights, and how far each moved from the prior at the posterior's mode."""
        pull = np.zeros(len(targets))
        moved = np.zeros(len(targets))
        best = self._objective(pull, moved, targets, counted)
        for _ in range(_NEWTON):
            p = logistic_all(self._start + moved)
            curve = counted * p * (1.0 - p) + 1e-12
            root = np.sqrt(curve)
            b = curve * moved + counted * (targets - p)
            inner = np.eye(len(targets)) + root[:, np.newaxis] * self._kernel * root
            step = b - root * np.linalg.solve(inner, root * (self._kernel @ b)) - pull
            ahead, length = self._kernel @ step, 1.0
            # From the flat end of the curve a whole step goes far beyond the mode.
            while (
                length > 1e-3 and self._objective(pull + length * step, moved + length * ahead, targets, counted) < best
            ):
                length *= 0.5
            pull, moved = pull + length * step, moved + length * ahead
            before, best = best, self._objective(pull, moved, targets, counted)
            if best - before < 1e-9:
                break
        weights = np.bincount(self._column, self._gain * pull[self._row], minlength=len(self._used))
        return self._used, np.asarray(weights)
