"""The second judgement: which of several buckets of one kind a message belongs in.

One binary model a bucket, normalised. A lesson is taken in until it holds, so that one suffices; the first about
a sender until it holds whatever the sender writes next.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from hieranome.core.gaussian import Floats, GaussianLogistic, Rows, Step
from hieranome.core.importance import NOT_REPEATED
from hieranome.core.prior import OWN_BUCKET, Prior

DOUBT = 0.25
"""How much of the doubt about the weights counts as doubt about a share. Prior variances are set so wide
that one lesson suffices; taken at face value they would call everything even."""
ROUNDS = 6
HOLDS = 0.95
FIRST_HOLDS = 0.8
"""A lesson is taken in up to ROUNDS times, until its share is above HOLDS, and, if it is the first of its sender,
above FIRST_HOLDS without the words of its text: once by all features, then by those particular to the message
alone, so that other mail is left where it is. A firmer hold costs mistakes where few are corrected."""
PARTICULAR = frozenset({"address", "name", "list", "list_sender", "addressed", "own_address", "sender_subject"})

Steps = list[dict[str, Step]]


class Choice:
    """Shares of the buckets ``names``; with one bucket alone nothing is learned and its share is 1."""

    def __init__(self, names: Sequence[str], priors: Mapping[str, Prior]) -> None:
        self.names = list(names)
        single = len(self.names) == 1
        self._models = {} if single else {n: GaussianLogistic(priors.get(n, OWN_BUCKET)) for n in self.names}

    def shares(self, rows: Rows, added: Mapping[str, Floats] | None = None) -> Floats:
        """Shares that sum to one, messages x buckets; ``added`` is put on the log-odds of a bucket."""
        if not self._models:
            return np.ones((len(rows.starts), 1))
        odds = np.empty((len(rows.starts), len(self.names)))
        for column, (name, model) in enumerate(self._models.items()):
            mean, spread = model.predict_all(rows)
            odds[:, column] = mean / np.sqrt(1.0 + math.pi * DOUBT * spread / 8.0)
            if added and name in added:
                odds[:, column] += added[name]
        weights = np.exp(odds - odds.max(axis=1, keepdims=True))
        return np.asarray(weights / weights.sum(axis=1, keepdims=True))

    def learn(self, rows: Rows, belongs: str, *, first: bool = False) -> Steps:
        """Take in one lesson, the ``first`` of its sender or not; nothing for a bucket not chosen among."""
        steps: Steps = []
        if belongs not in self._models:
            return steps
        at = self.names.index(belongs)
        lasting = rows.only(NOT_REPEATED, without=True) if first else rows
        while len(steps) < ROUNDS and not (
            steps and self.shares(rows)[0, at] > HOLDS and (not first or self.shares(lasting)[0, at] > FIRST_HOLDS)
        ):
            taught = rows.only(PARTICULAR) if steps else rows
            steps.append({name: model.learn(taught, name == belongs) for name, model in self._models.items()})
        return steps

    def take_back(self, steps: Steps) -> None:
        """Undo the latest lesson not yet taken back."""
        for step in reversed(steps):
            for name, one in step.items():
                self._models[name].take_back(one)
