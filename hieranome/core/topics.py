"""Topics: a kind of mail, found from a sentence and learned from a few answers.

What was said gives a prior: its words, and those that stand beside them in this owner's mail, raise what carries them.
The owner's answers move a logistic regression over the engine's own features (:mod:`hieranome.core.features`), whose
weights have the engine's Gaussian priors (:mod:`hieranome.core.fitting`). Mail nobody answered about counts a little,
as what the model so far takes it for (self-training; Nigam et al. 2000).

The subject's wording alone never decides: what it adds is at most what everything else says for the message.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hieranome.core.features import Vector, slot_of
from hieranome.core.fitting import Fit
from hieranome.core.gaussian import Floats, Rows, logistic_all
from hieranome.core.groups import GROUPS
from hieranome.core.stopwords import WORDS as STOPWORDS
from hieranome.core.text import words

MOST_WORDS = 30
"""Words of a sentence that are looked for."""
MOST_BESIDE = 12
"""Words that stand beside them and are looked for too."""
UNSAID = -3.0
"""Log-odds of mail of which nothing is known."""
SAID = 6.0
"""What all words that were said add together to the log-odds when a text holds them; half of it more when its subject
does."""
BESIDE = 0.25
"""What all words beside them count together, of what all that were said do."""
UNANSWERED = 0.01
"""What mail nobody answered about counts, of what an answer does."""
ROUNDS = 3
"""How often what the model takes unanswered mail for is learned again."""
DOUBT = 1.0
"""Log-odds on either side of the bound within which it is doubtful whether a message belongs."""
_END = np.iinfo(np.intp).max
_WORDING = frozenset({"subject", "subject_pairs", "sender_subject"})
_IS_WORDING = np.array([group.name in _WORDING for group in GROUPS])
_SPOKEN: tuple[str, ...] = ("subject", "text")


def said_words(sentence: str) -> list[str]:
    """The words of a sentence that may tell a kind of mail, in order, without repeats."""
    found = (word for word in words(sentence, 200) if word not in STOPWORDS and (len(word) > 2 or not word.isascii()))
    return list(dict.fromkeys(found))[:MOST_WORDS]


def beginning(word: str) -> str:
    """What words of the same stem begin with: a word without its last two letters, of five or more at least four."""
    return word if len(word) < 5 or not word.isalpha() else word[: max(4, len(word) - 2)]


def weigh(found: Mapping[str, Sequence[str]], holding: Mapping[str, int], of: int) -> dict[str, float]:
    """What each word counts: ``found`` are the words of each beginning, ``holding`` how many messages hold one of them,
    among ``of``.

    Rare words count more (inverse document frequency; Spärck Jones 1972), those in more than half of all mail nothing.
    The sum over beginnings is 1.
    """
    common = {begin for begin in found if 2 * holding[begin] > of}
    rarity = {begin: math.log((of + 1) / (holding[begin] + 0.5)) for begin in found if begin not in common}
    whole = sum(rarity.values())
    return {word: one / whole for begin, one in rarity.items() for word in found[begin]}


def beside(near: Sequence[Collection[str]], counts: Mapping[str, int], of: int, said: Collection[str]) -> list[str]:
    """The words that stand in ``near``, the messages that carry most of what was said, far more often than in all mail,
    by Dunning's (1993) likelihood ratio, the surest first; ``counts`` of the messages that hold each, among ``of``."""
    here = Counter(word for one in near for word in set(one))
    ranked: list[tuple[float, str]] = []
    for word, inside in here.items():
        outside = max(0, counts.get(word, inside) - inside)
        if word in said or inside < max(2, len(near) // 10) or word in STOPWORDS or len(word) < 3 or "0" in word:
            continue
        if inside * max(1, of - len(near)) > 3 * outside * len(near):
            ranked.append((-_ratio(inside, len(near), outside, max(1, of - len(near))), word))
    return [word for _, word in sorted(ranked)[:MOST_BESIDE]]


def _ratio(a: int, n: int, b: int, m: int) -> float:
    """The log-likelihood ratio of a of n and b of m having shares of their own rather than one."""
    share = (a + b) / (n + m)
    return _likely(a, n, a / n) + _likely(b, m, b / m) - _likely(a, n, share) - _likely(b, m, share)


def _likely(part: int, whole: int, share: float) -> float:
    inside = part * math.log(share) if part else 0.0
    return inside + ((whole - part) * math.log(1.0 - share) if part < whole else 0.0)


class Wording:
    """What was said, made ready: what each word that is looked for counts. Those that were said sum to 1."""

    def __init__(self, said: Mapping[str, float], beside: Sequence[str] = ()) -> None:
        each = BESIDE / max(4, len(beside))
        counted = {**dict.fromkeys(beside, each), **said}
        slots = [(slot_of(group, word), at, group == "subject") for at, word in enumerate(counted) for group in _SPOKEN]
        slots.sort()
        self._words = tuple(counted)
        self._slots = np.array([*(one[0] for one in slots), _END], dtype=np.intp)
        self._word = np.array([*(one[1] for one in slots), 0], dtype=np.intp)
        self._subject = np.array([*(one[2] for one in slots), False])
        self._weights = np.array(list(counted.values()))

    def found(self, rows: Rows) -> tuple[Floats, Floats]:
        """What the words found in the text of each message add to its log-odds, and what those of its subject add
        beyond that."""
        at = np.searchsorted(self._slots, rows.slots)
        hit = self._slots[at] == rows.slots
        there = np.zeros((2, len(rows.starts), max(1, len(self._weights))))
        there[self._subject[at][hit].astype(np.intp), rows.row[hit], self._word[at][hit]] = 1.0
        text, subject = there
        extra = np.minimum(subject * 1.5, 1.5 - text)
        weights = self._weights if len(self._weights) else np.zeros(1)
        return np.asarray(SAID * (text @ weights)), np.asarray(SAID * (extra @ weights))

    def heard(self, rows: Rows) -> list[str]:
        """The words found in one message, those that count most first."""
        at = np.searchsorted(self._slots, rows.slots)
        hit = sorted({int(word) for word in self._word[at][self._slots[at] == rows.slots]})
        return [self._words[word] for word in sorted(hit, key=lambda one: -self._weights[one])]


@dataclass(frozen=True, slots=True)
class Example:
    """A message of which it is known, or not (``None``), whether it belongs."""

    vector: Vector
    belongs: bool | None


@dataclass(frozen=True, slots=True)
class Reason:
    """What speaks for a message: ``said`` or a group of features, the texts it is about, and the log-odds it adds."""

    group: str
    texts: tuple[str, ...]
    amount: float


class Topic:
    """What was said and learned of a kind of mail: how words count, and weights of features by slot."""

    def __init__(self, wording: Wording, slots: NDArray[np.intp] | None = None, weights: Floats | None = None) -> None:
        self.wording = wording
        self._slots = np.array([_END], dtype=np.intp) if slots is None else np.append(slots, _END)
        self._weights = np.zeros(1) if weights is None else np.append(weights, 0.0)

    def contributions(self, rows: Rows) -> Floats:
        """What each feature adds to the log-odds, beside what was said."""
        at = np.searchsorted(self._slots, rows.slots)
        known = self._slots[at] == rows.slots
        return np.asarray(np.where(known, self._weights[at] * rows.values, 0.0))

    def parts(self, rows: Rows) -> tuple[Floats, Floats]:
        """What the wording of the subject says for each message, and what all else says."""
        each = self.contributions(rows)
        wording = _IS_WORDING[rows.groups]
        text, subject = self.wording.found(rows)
        subject = subject + np.add.reduceat(np.where(wording, each, 0.0), rows.starts)
        return subject, text + np.add.reduceat(np.where(wording, 0.0, each), rows.starts)

    def score_all(self, rows: Rows) -> Floats:
        """The log-odds that each of some messages belongs; it does from 0 on."""
        subject, rest = self.parts(rows)
        return np.asarray(UNSAID + rest + np.minimum(subject, np.maximum(rest, 0.0)))

    def likely_all(self, rows: Rows) -> Floats:
        """The log-odds with the wording of the subject counted whole: what to ask about, never what to decide by."""
        subject, rest = self.parts(rows)
        return np.asarray(UNSAID + rest + subject)

    def score(self, vector: Vector) -> float:
        """The log-odds that a message belongs."""
        return float(self.score_all(Rows.of(vector))[0])

    def likely(self, vector: Vector) -> float:
        """:meth:`likely_all` of one message."""
        return float(self.likely_all(Rows.of(vector))[0])

    def reasons(self, vector: Vector, spoken: Mapping[str, Sequence[str]]) -> list[Reason]:
        """What speaks most for a message, by group of features, the strongest first; ``spoken`` are the texts of some
        groups, by which they are named."""
        rows = Rows.of(vector)
        each = self.contributions(rows)
        text, subject = self.wording.found(rows)
        found = [Reason("said", tuple(self.wording.heard(rows)), float(text[0] + subject[0]))]
        for number, group in enumerate(GROUPS):
            amount = float(each[rows.groups == number].sum())
            found.append(Reason(group.name, self._named(group.name, spoken.get(group.name, ())), amount))
        return sorted((one for one in found if one.amount > 0.0), key=lambda one: -one.amount)

    def _named(self, group: str, texts: Sequence[str]) -> tuple[str, ...]:
        """Those texts of a group whose features speak most for it, at most three."""
        slots = np.array([slot_of(group, one) for one in texts], dtype=np.intp)
        at = np.searchsorted(self._slots, slots)
        weights = np.where(self._slots[at] == slots, self._weights[at], 0.0)
        best = sorted(zip((-weights).tolist(), texts, strict=True))[:3]
        return tuple(one for weight, one in best if weight < 0.0)


def learn(wording: Wording, examples: Sequence[Example]) -> Topic:
    """The topic after some answers. Examples nobody answered about should be a sample of the likely and of all mail.

    The same examples give the same topic, in whichever order they come.
    """
    topic = Topic(wording)
    answered = [one for one in examples if one.belongs is not None]
    if not answered:
        return topic
    ordered = [*answered, *(one for one in examples if one.belongs is None)]
    rows = Rows.stacked([one.vector for one in ordered])
    known = len(answered)
    targets = np.array([float(bool(one.belongs)) for one in ordered])
    counted = np.where(np.arange(len(ordered)) < known, 1.0, UNANSWERED)
    fit = Fit(rows, topic.likely_all(rows))
    for _ in range(ROUNDS):
        targets[known:] = logistic_all(topic.likely_all(rows))[known:]
        topic = Topic(wording, *fit.mode(targets, counted))
    return topic
