"""The second judgement: which of several buckets of one kind a message belongs in.

One binary model a bucket, normalised.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from hieranome.core.gaussian import Floats, GaussianLogistic, Rows, Step
from hieranome.core.prior import OWN_BUCKET, Prior

DOUBT = 0.1
"""How much of the doubt about the weights counts as doubt about a share. Prior variances are set so wide
that one lesson suffices; taken at face value they would call everything even."""
BROAD = frozenset({"base", "to_whom", "how", "made", "damage", "cues", "headers", "markup", "header_order"})
"""What much other mail has too."""
BROADLY = 0.1
"""The weight of a lesson's likelihood for all features, before it is taken in whole by those that are not broad: other
mail is left where it is."""

Steps = list[dict[str, Step]]


def shares_of(odds: Floats) -> Floats:
    """The shares log-odds come to, messages x buckets: they sum to one for each message."""
    weights = np.exp(odds - odds.max(axis=1, keepdims=True))
    return np.asarray(weights / weights.sum(axis=1, keepdims=True))


class Choice:
    """Shares of the buckets ``names``; with one bucket alone nothing is learned and its share is 1."""

    def __init__(self, names: Sequence[str], priors: Mapping[str, Prior]) -> None:
        self.names = list(names)
        single = len(self.names) == 1
        self._models = {} if single else {n: GaussianLogistic(priors.get(n, OWN_BUCKET)) for n in self.names}

    def odds(self, rows: Rows) -> Floats:
        """The log-odds of each bucket by itself, messages x buckets; of one alone they are naught."""
        odds = np.zeros((len(rows.starts), len(self.names)))
        for column, model in enumerate(self._models.values()):
            mean, spread = model.predict_all(rows)
            odds[:, column] = mean / np.sqrt(1.0 + math.pi * DOUBT * spread / 8.0)
        return odds

    def learn(self, rows: Rows, belongs: str) -> Steps:
        """Take in one lesson; nothing for a bucket not chosen among."""
        steps: Steps = []
        if belongs not in self._models:
            return steps
        steps.append(self._step(rows, belongs, BROADLY))
        steps.append(self._step(rows.only(BROAD, without=True), belongs))
        return steps

    def _step(self, rows: Rows, belongs: str, likelihood: float = 1.0) -> dict[str, Step]:
        return {name: m.learn(rows, name == belongs, likelihood=likelihood) for name, m in self._models.items()}

    def take_back(self, steps: Steps) -> None:
        """Undo the latest lesson not yet taken back."""
        for step in reversed(steps):
            for name, one in step.items():
                self._models[name].take_back(one)
