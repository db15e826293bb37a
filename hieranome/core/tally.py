"""How often each feature stood in lessons about unwanted and about important mail: plain counts; and beside them what
ships about junk (:mod:`hieranome.core.junk`).

A naive Bayes estimate beside the regression. The regression is quick to learn what one lesson says of
one sender; counts are better at what many lessons have in common: the make of unwanted mail, and the
one word of a subject that matters whoever writes it. They are free of order, so a lesson is taken
back by counting it down.

For a feature f and a class of lessons, the estimate is log P(f | class) / P(f | other lessons), each
smoothed towards the share of all lessons that carry f (m-estimate, Cestnik 1990).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hieranome.core import junk
from hieranome.core.features import SLOTS, slot_of
from hieranome.core.gaussian import Floats, Rows
from hieranome.core.groups import GROUPS
from hieranome.core.stopwords import AUXILIARY
from hieranome.core.stopwords import WORDS as STOPWORDS

UNWANTED_SMOOTHING = 2.0
UNWANTED_HALF = 15.0
"""Lessons of the rarer kind after which half of the estimate counts."""
UNWANTED_RANGE = (-6.0, 2.0)
"""Nothing counts for more than this, in log-odds before weighting. Telling good mail from unwanted may go
further than calling it unwanted."""
UNWANTED_FOR_DRAIN = 0.2
UNWANTED_AGAINST_DESK = 0.3
UNWANTED_GROUPS = frozenset({"to_whom", "how", "made", "damage", "cues", "text", "headers", "markup", "header_order"})
"""Groups that say how a message is made and what it says, not who sent it."""

WORD_SMOOTHING = 1.2
WORD_WEIGHT = 0.33
"""The one word of a subject that speaks most for the Desk counts with this share of its log-odds."""
WORD_LESSONS = 2
"""Lessons that must have had a word before it speaks for the Desk: what one lesson says the regression has heard."""
UNSHARED = 3.0
"""Lessons without a feature that are taken to have been before any."""

ORDINALS = ("0th", "0st", "0nd", "0rd", "0er", "0re", "0e", "0ème", "0º", "0ª")
"""Numbers that count, as words are cut: 4th, 1er."""

SAYS = np.ones(SLOTS, dtype=np.bool_)
"""Of each slot of a word of the subject, whether it tells one message from another: common words, verbs that stand
beside others, numbers, their ordinals and what marks an answer do not."""
SAYS[
    [
        slot_of("subject", word)
        for word in (*STOPWORDS, *AUXILIARY, "0", *ORDINALS, "re", "fw", "fwd", "aw", "wg", "tr", "rv", "sv")
    ]
] = False
_NONE = np.zeros(1, dtype=np.int32)
_NAMES = [group.name for group in GROUPS]
_MADE_LIKE = np.array([group.name in UNWANTED_GROUPS for group in GROUPS])
_SUBJECT = _NAMES.index("subject")


@dataclass(frozen=True, slots=True)
class Counted:
    """What the counts add, per message: to the log-odds of importance, and to those of the Drain.

    ``shipped`` are the log-odds of junk by what ships, of which nothing is in ``drain``. ``made`` and ``junk`` are
    never positive: mail made like unwanted mail is less important, the contrary says nothing.
    """

    made: Floats
    junk: Floats
    word: Floats
    drain: Floats
    shipped: Floats

    @property
    def importance(self) -> Floats:
        """All that is added to the log-odds of importance."""
        return self.made + self.junk + self.word


class Tally:
    """The counts. Every lesson is counted once, up or (to take it back) down."""

    def __init__(self) -> None:
        self._all = np.zeros(SLOTS, dtype=np.int32)
        self._unwanted = np.zeros(SLOTS, dtype=np.int32)
        self._important = np.zeros(SLOTS, dtype=np.int32)
        self.lessons = 0
        self.unwanted = 0
        self.important = 0

    def count(self, rows: Rows, *, unwanted: bool, important: bool, sign: int = 1) -> None:
        """Count one lesson, or with ``sign=-1`` take it back."""
        self._all[rows.slots] += sign
        self.lessons += sign
        if unwanted:
            self._unwanted[rows.slots] += sign
            self.unwanted += sign
        if important:
            self._important[rows.slots] += sign
            self.important += sign

    def rarity(self, slots: NDArray[np.intp]) -> Floats:
        """Of each feature, the square of the share of lessons that were without it, in (0, 1]. What nearly all lessons
        have in common tells none of them from another: moved by each lesson it would lift or lower all mail alike."""
        share: Floats = 1.0 - self._all[slots] / (self.lessons + UNSHARED)
        return share * share

    def lessons_with(self, slots: NDArray[np.intp]) -> NDArray[np.int32]:
        """In how many lessons each of some features stood."""
        return self._all[slots]

    def weigh(self, rows: Rows) -> Counted:
        """What the counts say of each of many vectors."""
        alike = self._made_like_unwanted(rows)
        against = np.minimum(0.0, -UNWANTED_AGAINST_DESK * alike)
        shipped = junk.log_odds(rows)
        drain = UNWANTED_FOR_DRAIN * np.clip(alike, *UNWANTED_RANGE)
        return Counted(against, junk.against(shipped), self._best_words(rows), drain, shipped)

    def importance_of(self, rows: Rows) -> float:
        """What the counts add to the log-odds of importance of one vector, as :meth:`weigh` has it."""
        made, rarer = float(junk.against(junk.log_odds(rows))[0]), min(self.unwanted, self.lessons - self.unwanted)
        if rarer > 0:
            at = np.flatnonzero(_MADE_LIKE[rows.groups])
            ratio = self._unwanted_ratio(rows.slots[at])
            made += min(0.0, -UNWANTED_AGAINST_DESK * rarer / (rarer + UNWANTED_HALF) * float(ratio @ rows.values[at]))
        at = _telling(rows)
        if not self.important or not at.size:
            return made
        return made + WORD_WEIGHT * float(self._words(rows.slots[at]).max())

    def best_word(self, rows: Rows) -> tuple[int, int, int] | None:
        """Of one vector, the slot of the subject word that speaks most for the Desk, in how many lessons it stood,
        and in how many of those that put mail on the Desk."""
        at = _telling(rows)
        if not self.important or not at.size:
            return None
        slot = int(rows.slots[at[np.argmax(self._words(rows.slots[at]))]])
        return slot, int(self._all[slot]), int(self._important[slot])

    def _made_like_unwanted(self, rows: Rows) -> Floats:
        rarer = min(self.unwanted, self.lessons - self.unwanted)
        if rarer <= 0:
            return np.zeros(len(rows.starts))
        at = np.flatnonzero(_MADE_LIKE[rows.groups])
        counted = np.zeros(len(rows.slots))
        counted[at] = self._unwanted_ratio(rows.slots[at]) * rows.values[at]
        trust = rarer / (rarer + UNWANTED_HALF)
        return np.asarray(trust * np.add.reduceat(counted, rows.starts))

    def _unwanted_ratio(self, slots: NDArray[np.intp]) -> Floats:
        return _ratio(self._all[slots], self._unwanted[slots], self.lessons, self.unwanted)

    def _best_words(self, rows: Rows) -> Floats:
        if not self.important:
            return np.zeros(len(rows.starts))
        at = _telling(rows)
        words = np.full(len(rows.slots), -np.inf)
        words[at] = self._words(rows.slots[at])
        best = np.maximum.reduceat(words, rows.starts)
        return np.asarray(WORD_WEIGHT * np.where(np.isfinite(best), best, 0.0))

    def _words(self, slots: NDArray[np.intp]) -> Floats:
        had, important = self._all[slots], self._important[slots]
        found = _ratio(had, important, self.lessons, self.important, WORD_SMOOTHING)
        unseen = _ratio(_NONE, _NONE, self.lessons, self.important, WORD_SMOOTHING)
        return np.where(had >= WORD_LESSONS, found, np.minimum(found, unseen))


def _telling(rows: Rows) -> NDArray[np.intp]:
    """Where the words of a subject stand that are not so common that they tell nothing."""
    return np.flatnonzero((rows.groups == _SUBJECT) & SAYS[rows.slots])


def _ratio(
    all_with: NDArray[np.int32],
    class_with: NDArray[np.int32],
    lessons: int,
    of_class: int,
    smoothing: float = UNWANTED_SMOOTHING,
) -> Floats:
    """The smoothed log-ratio of each feature: see the module."""
    pull = smoothing * (all_with + 0.5) / (lessons + 1.0)
    inside = (class_with + pull) / (of_class + smoothing)
    outside = (all_with - class_with + pull) / (lessons - of_class + smoothing)
    return np.asarray(np.log(inside / outside))
