"""What awaits an answer: of mail that nobody answered yet, which was written to be answered.

A regression over the words of mail (:mod:`hieranome.core.fitting`) learns from which mail got an answer: one of mail by
the owner, one of mail to the owner. An answer says that one was wanted. No answer says little, for some questions never
get one: such mail is learned from as what it is taken for so far, made less likely by the answer
that did not come (learning from positive and unlabelled examples; Elkan and Noto 2008). Cues stand in until there is
history. What the owner let go asks nothing, and counts several times over.

Promises are sentences, by cues (:mod:`hieranome.core.cues`).
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.core.cues import DECLINES, PROMISES, WORDS
from hieranome.core.features import Vector, feature, groups_of
from hieranome.core.fitting import Fit
from hieranome.core.gaussian import Floats, Rows, logistic_all
from hieranome.core.groups import GROUPS
from hieranome.core.text import words

START = -2.0
"""Log-odds that mail without any cue awaits an answer."""
CUES: Mapping[str, float] = {"question": 2.5, "request": 1.5, "offer": -1.0}
"""What cues add to that."""
ANSWERED = 0.85
"""The share of mail awaiting an answer that gets one, at most."""
VARIANCES: Mapping[str, float] = {"base": 0.036, "cues": 0.12, "subject": 0.4, "text": 1.9}
"""What messages are learned from, group by group, and how far the weights may go: a few hundred examples have many
words."""
LET_GO = 3.0
"""What a message counts that the owner let go, of what one counts that got an answer."""
FEW = 10
"""With how many answers no answer counts half of what an answer does: of who hardly has history, it says nothing."""
ROUNDS = 4
"""How often what unanswered mail is taken for is learned again."""
MOST, MOST_OTHERS = 250, 400
"""Messages that were answered, and others that were not, that are learned from: the newest of each."""
BOUND = 0.5
"""How likely mail that is listed awaits an answer, at least."""
_END = np.iinfo(np.intp).max
_CUES = [(feature("cues", name), amount) for name, amount in CUES.items()]
_VARIANCES = np.array([VARIANCES.get(group.name, 0.0) for group in GROUPS])
_SAID = _VARIANCES > 0.0


@dataclass(frozen=True, slots=True)
class Example:
    """A message, whether it got an answer, and whether the owner let it go."""

    vector: Vector
    answered: bool
    let_go: bool


class Awaiting:
    """How likely mail awaits an answer: weights of features by slot, beside the cues."""

    def __init__(self, slots: Sequence[int] = (), weights: Floats | None = None) -> None:
        self._slots = np.append(np.asarray(slots, dtype=np.intp), _END)
        self._weights = np.append(np.zeros(0) if weights is None else weights, 0.0)

    def likely(self, vectors: Sequence[Vector]) -> Floats:
        """How likely each of some messages awaits an answer, in [0, 1]."""
        return self._likely(_rows(vectors), _start(vectors)) if vectors else np.zeros(0)

    def _likely(self, rows: Rows, start: Floats) -> Floats:
        at = np.searchsorted(self._slots, rows.slots)
        each = np.where(self._slots[at] == rows.slots, self._weights[at] * rows.values, 0.0)
        return np.asarray(logistic_all(start + np.add.reduceat(each, rows.starts)))

    @classmethod
    def learned(cls, examples: Sequence[Example]) -> Awaiting:
        """What mail got so far, learned; examples stand in the order of time. The same give the same."""
        answered = [one for one in examples if one.answered and not one.let_go][-MOST:]
        others = [one for one in examples if not one.answered and not one.let_go][-MOST_OTHERS:]
        gone = [one for one in examples if one.let_go][-MOST:]
        if not answered and not gone:
            return cls()
        vectors = [one.vector for one in (*answered, *gone, *others)]
        rows, start = _rows(vectors), _start(vectors)
        fit = Fit(rows, start, _VARIANCES)
        targets = np.array([1.0] * len(answered) + [0.0] * (len(gone) + len(others)))
        silence = len(answered) / (len(answered) + FEW)
        counted = np.array([1.0] * len(answered) + [LET_GO] * len(gone) + [silence] * len(others))
        known = len(answered) + len(gone)
        model = cls()
        for _ in range(ROUNDS):
            likely = model._likely(rows, start)[known:]
            targets[known:] = likely * (1.0 - ANSWERED) / (1.0 - likely * ANSWERED)
            slots, weights = fit.mode(targets, counted)
            model = cls(slots.tolist(), weights)
        return model


def _rows(vectors: Sequence[Vector]) -> Rows:
    """What the messages say, without who says it and how; every vector has the feature where all mail starts."""
    return Rows.stacked([vector[_SAID[groups_of(vector)]] for vector in vectors])


def _start(vectors: Sequence[Vector]) -> Floats:
    """Log-odds by cues alone."""
    amounts = np.full(len(vectors), START)
    for number, amount in _CUES:
        amounts += amount * np.array([bool(np.any(vector == number)) for vector in vectors])
    return amounts


MOST_TEXT = 50_000
"""Characters of a text that are looked through."""
LEAST_WORDS = 4
"""A question of fewer words is about what stands before it."""
_BROKEN = re.compile(r"(?<!\n)\n(?!\n)")
_SENTENCE = re.compile(r"[^.!?\n]+[.!?]*")


def _sentences(text: str) -> list[str]:
    """The sentences of a text; a line that is broken within a paragraph goes on in the next."""
    whole = _BROKEN.sub(" ", text.replace("\r\n", "\n")[:MOST_TEXT])
    return [" ".join(one.split()) for one in _SENTENCE.findall(whole)]


def open_question(text: str) -> str:
    """The sentence of a text that asks: the last of :func:`questions`; empty where none does."""
    return next(iter(reversed(questions(text))), "")


def questions(text: str) -> list[str]:
    """The sentences of a text that ask, in its order: all that end with a question mark, else the last that holds a
    word of asking. A question of a few words stands with the sentence before it, without which it asks nothing."""
    sentences = [one for one in _sentences(text) if one]
    asked = [at for at, one in enumerate(sentences) if one.endswith("?")]
    asked = asked or [at for at, one in enumerate(sentences) if asks(one)][-1:]
    return [_with_before(sentences, at)[:300] for at in asked]


def _with_before(sentences: Sequence[str], at: int) -> str:
    short = sentences[at].endswith("?") and len(sentences[at].split()) < LEAST_WORDS
    before = sentences[at - 1] if short and at else ""
    return f"{before} {sentences[at]}" if before and len(before) < 200 else sentences[at]


def asks(sentence: str) -> bool:
    """Whether a sentence asks: it ends with a question mark, or holds a word of asking."""
    return sentence.rstrip('"”’»)] ').endswith("?") or bool(WORDS["request"] & set(words(sentence, 200)))


def promises(sentence: str) -> bool:
    """Whether the writer of a sentence says in it that they will do something."""
    return not sentence.endswith("?") and _PROMISE.search(sentence) is not None


def promise(text: str) -> str:
    """The first sentence of a text in which its writer says that they will do something; empty where there is none."""
    for sentence in _sentences(text):
        if promises(sentence):
            return sentence[:300]
    return ""


def declines(text: str) -> bool:
    """Whether the writer of a text says that no answer is wanted."""
    return _DECLINE.search(" ".join(text[:MOST_TEXT].split())) is not None


_DECLINE = re.compile("|".join(DECLINES.values()), re.IGNORECASE)
_PROMISE = re.compile("|".join(PROMISES.values()), re.IGNORECASE)
