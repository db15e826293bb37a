"""Common learners to measure the engine beside: same features, same lessons, same routing.

Each learns the bucket as a class and takes the engine's place in a replay, in up to three ways: on the plain words
of a message (sender, recipients, list, subject, text), taken at its word, nothing asked; on all the features the
engine has; and, where it gives probabilities, on those and with the engine's routing: expected cost, and questions
within the same bound.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from scipy.sparse import csr_matrix, vstack
from sklearn.linear_model import LogisticRegression, SGDClassifier
from sklearn.naive_bayes import MultinomialNB

from hieranome.core.buckets import BUILT_IN, DESK, SHELF, Bucket
from hieranome.core.features import Vector, groups_of, slots_of
from hieranome.core.groups import GROUPS
from hieranome.core.judgement import Judgement, Lesson

Way = Literal["words", "features", "routed"]
WAYS: tuple[Way, ...] = ("words", "features", "routed")

BUCKETS = [bucket.name for bucket in BUILT_IN]
A_DAY = 60
"""Messages after which the learner that refits daily does so."""
COLUMNS = 1 << 18
PLAIN = [
    number
    for number, group in enumerate(GROUPS)
    if group.name in ("address", "name", "addressed", "list", "subject", "text")
]
_ADDRESS = next(number for number, group in enumerate(GROUPS) if group.name == "address")


def as_row(vector: Vector, way: Way = "features") -> csr_matrix:
    """A vector as one sparse row of length 1, each feature with the same value: what scikit-learn's own hashing of
    words would make of them."""
    if way == "words":
        vector = vector[np.isin(groups_of(vector), PLAIN)]
    columns = np.unique(slots_of(vector) % COLUMNS)
    values = np.full(len(columns), 1.0 / np.sqrt(max(1, len(columns))))
    return csr_matrix((values, columns, [0, len(columns)]), shape=(1, COLUMNS))


class Peer:
    """A learner in the engine's place."""

    name = ""

    def __init__(self, way: Way = "features") -> None:
        self.buckets: list[Bucket] = list(BUILT_IN)
        self.way = way

    def add_bucket(self, bucket: Bucket) -> None:
        """Not asked of a peer: the streams have built-in buckets alone."""
        raise NotImplementedError(f"{self.name} knows the built-in buckets alone, not {bucket.name}")

    def judge(self, vector: Vector) -> Judgement:
        """Its shares of the buckets in the form the routing takes."""
        shares = self.shares(vector)
        if self.way != "routed":
            shares = {max(shares, key=shares.__getitem__): 1.0}
        p = shares.get(DESK, 0.0)
        rest = sum(share for name, share in shares.items() if name != DESK) or 1.0
        low = {name: shares.get(name, 0.0) / rest for name in BUCKETS if name != DESK}
        return Judgement(p, 0.0, 0.0, 0.0, low, {DESK: 1.0})

    def leave(self, number: int, vector: Vector, place: str, judgement: Judgement) -> None:
        """Nothing is learned from mail left where it was put."""

    def shares(self, vector: Vector) -> dict[str, float]:
        """The probability of each bucket; all on the Shelf while nothing was learned."""
        raise NotImplementedError

    def learn(self, lesson: Lesson) -> None:
        """Take in one lesson."""
        raise NotImplementedError


class LastBucket(Peer):
    """Where the sender's last corrected message belonged."""

    name = "the sender's last bucket"

    def __init__(self, way: Way) -> None:
        super().__init__(way)
        self._last: dict[int, str] = {}

    def shares(self, vector: Vector) -> dict[str, float]:
        return {self._last.get(self._sender(vector), SHELF): 1.0}

    def learn(self, lesson: Lesson) -> None:
        self._last[self._sender(lesson.vector)] = lesson.belongs

    @staticmethod
    def _sender(vector: Vector) -> int:
        return int(vector[groups_of(vector) == _ADDRESS][0])


class Incremental(Peer):
    """A scikit-learn classifier taught by ``partial_fit``; ``counts`` gives every feature the value 1."""

    def __init__(self, name: str, way: Way, model: MultinomialNB | SGDClassifier, *, counts: bool = False) -> None:
        super().__init__(way)
        self.name = name
        self._model = model
        self._counts = counts
        self._begun = False

    def _row(self, vector: Vector) -> csr_matrix:
        row = as_row(vector, self.way)
        return row.sign() if self._counts else row

    def shares(self, vector: Vector) -> dict[str, float]:
        if not self._begun:
            return {SHELF: 1.0}
        if hasattr(self._model, "predict_proba"):
            return dict(zip(BUCKETS, self._model.predict_proba(self._row(vector))[0].tolist(), strict=True))
        return {BUCKETS[int(np.argmax(self._model.decision_function(self._row(vector))[0]))]: 1.0}

    def learn(self, lesson: Lesson) -> None:
        belongs = [BUCKETS.index(lesson.belongs)]
        self._model.partial_fit(self._row(lesson.vector), belongs, classes=range(len(BUCKETS)))
        self._begun = True


class DailyRefit(Peer):
    """Logistic regression, fitted anew once a day to all lessons so far."""

    name = "logistic, refitted daily"

    def __init__(self, way: Way, strength: float = 10.0) -> None:
        super().__init__(way)
        self._strength = strength
        self._rows: list[csr_matrix] = []
        self._belongs: list[int] = []
        self._model: LogisticRegression | None = None
        self._columns = np.zeros(0, dtype=np.intp)
        self._judged = 0

    def _refit(self) -> None:
        rows = vstack(self._rows).tocsr()
        self._columns = np.unique(rows.indices)
        self._model = LogisticRegression(C=self._strength, max_iter=300).fit(rows[:, self._columns], self._belongs)

    def shares(self, vector: Vector) -> dict[str, float]:
        self._judged += 1
        if self._judged % A_DAY == 0 and len(set(self._belongs)) > 1:
            self._refit()
        if self._model is None:
            return {SHELF: 1.0}
        shares = self._model.predict_proba(as_row(vector, self.way)[:, self._columns])[0].tolist()
        return {BUCKETS[number]: share for number, share in zip(self._model.classes_, shares, strict=True)}

    def learn(self, lesson: Lesson) -> None:
        self._rows.append(as_row(lesson.vector, self.way))
        self._belongs.append(BUCKETS.index(lesson.belongs))


def passive_aggressive(way: Way) -> Incremental:
    """Passive-aggressive learning (Crammer et al. 2006), by the step size of that name."""
    model = SGDClassifier(loss="hinge", penalty=None, learning_rate="pa1", eta0=1.0, random_state=1)
    return Incremental("passive-aggressive", way, model)


def naive_bayes(way: Way) -> Incremental:
    """Multinomial naive Bayes."""
    return Incremental("naive Bayes", way, MultinomialNB(alpha=0.1), counts=True)


def sgd(way: Way) -> Incremental:
    """Logistic regression by stochastic gradient descent, as scikit-learn ships it."""
    return Incremental("SGD logistic", way, SGDClassifier(loss="log_loss", random_state=1))


def peers() -> list[Peer]:
    """All of them, new."""
    return [
        LastBucket("words"),
        *(passive_aggressive(way) for way in WAYS[:2]),
        *(naive_bayes(way) for way in WAYS),
        *(sgd(way) for way in WAYS),
        *(DailyRefit(way) for way in WAYS),
    ]
