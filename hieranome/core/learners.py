"""The learners of an engine, side by side: what they say of a message together, and what a lesson or a silence does to
each of them.

Importance is a regression with counts beside it; which of the low buckets a message belongs in, and which of the
important ones, is a judgement each. None of them knows in which order lessons came: that is the engine's.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.core.addresses import Purpose
from hieranome.core.buckets import DESK, DRAIN, Bucket
from hieranome.core.choice import Choice, Steps, shares_of
from hieranome.core.counts import SHIPPED, Counts
from hieranome.core.gaussian import Floats, Rows, Step, logistic, logistic_all, prior_doubt
from hieranome.core.importance import OF_SOURCE, Importance, learned
from hieranome.core.judgement import Given, Lesson, Weighed
from hieranome.core.junk import for_drain
from hieranome.core.keys import Keys
from hieranome.core.prior import LOW
from hieranome.core.silence import COUNTED, STEPPED, Silence
from hieranome.core.tally import Counted, Tally

DOUBT = 0.01
"""How much of the doubt about the weights counts as doubt about importance: see :mod:`hieranome.core.choice`."""
HEEDED = 0.5
"""The share of what the counts say already that the regression leaves to them when it takes in a lesson."""


@dataclass(frozen=True, slots=True)
class Moved:
    """The steps by which the regressions took in a lesson or a silence: the way back."""

    importance: Step | None
    low: Steps
    high: Steps


@dataclass(frozen=True, slots=True)
class _Summed:
    """What all but the source of messages says of them: their nodes, the log-odds of importance by it and their doubt
    (variances), the share of the Drain among the buckets that ship, the log-odds of the low and of the important
    buckets."""

    keys: Keys
    log_odds: Floats
    variance: Floats
    drained: Floats
    low: Floats
    high: Floats


class Learners:
    """One of each, over the same buckets; ``purposes`` are what the owner says addresses are for."""

    def __init__(self, buckets: Sequence[Bucket], purposes: Mapping[str, Purpose]) -> None:
        self.important = frozenset(b.name for b in buckets if b.important)
        self.importance = Importance()
        self.low = Choice([b.name for b in buckets if not b.important], LOW)
        self.high = Choice([b.name for b in buckets if b.important], {DESK: {}})
        self.tally = Tally()
        self.counts = Counts(buckets)
        self.counts.say(purposes)

    def weigh(self, rows: Rows) -> Weighed:
        """Judge many messages made ready, at least one, as columns."""
        found = self._summed(rows)
        log_odds = found.log_odds + self._of_unknown(found.keys, found.log_odds, found.drained)
        return Weighed(
            importance=logistic_all(log_odds),
            log_odds=log_odds,
            doubt=DOUBT * found.variance,
            certainty=1.0 - np.sqrt(found.variance / prior_doubt(rows)),
            low=shares_of(found.low),
            high=shares_of(found.high),
            low_names=self.low.names,
            high_names=self.high.names,
        )

    def unknown_part(self, rows: Rows) -> float:
        """What is added to the log-odds of one message because no lesson was about its list, or else its sender."""
        found = self._summed(rows)
        return float(self._of_unknown(found.keys, found.log_odds, found.drained)[0])

    def take_in(self, lesson: Lesson, rows: Rows, keys: Keys) -> tuple[Moved, float]:
        """Learn a lesson; the way back, and how likely it was before it that its message stood on the wrong side of the
        Desk (0 where it stood in no bucket)."""
        moving, important = learned(rows), lesson.belongs in self.important
        beside, counted = self.importance.beside(rows), self._counted(rows, keys)
        mistaken = self._mistaken(lesson.stood, rows, keys, beside + self.importance.sum(moving) + counted)
        rarity = self.tally.rarity(moving.slots)
        step = self.importance.learn(moving, important, beside + HEEDED * counted, share=rarity)
        moved = Moved(step, self.low.learn(moving, lesson.belongs), self.high.learn(moving, lesson.belongs))
        self._count(lesson, rows, keys)
        return moved, mistaken

    def heed(self, silence: Silence, rows: Rows, keys: Keys) -> tuple[Moved, float]:
        """Heed a silence; the way back, and how likely it was before it that its message stands on the wrong side of
        the Desk (0 where it is sure that it does not)."""
        step, mistaken = None, 0.0
        if not silence.sure:
            own, counted = rows.only(OF_SOURCE), self._counted(rows, keys)
            taught = silence.beside + self.importance.sum(learned(rows))
            mistaken = self._mistaken(silence.place, rows, keys, taught + counted)
            beside = taught - self.importance.sum(own) + HEEDED * counted
            if own.slots.size:
                important = silence.place in self.important
                step = self.importance.learn(own, important, beside, STEPPED * silence.weight)
        self.counts.count_left(keys, silence.place, COUNTED * silence.weight)
        return Moved(step, [], []), mistaken

    def take_back(self, given: Given, moved: Moved, rows: Rows, keys: Keys) -> None:
        """Take back what was taken in last."""
        if isinstance(given, Silence):
            self.counts.count_left(keys, given.place, COUNTED * given.weight, sign=-1)
        else:
            self._count(given, rows, keys, sign=-1)
            self.low.take_back(moved.low)
            self.high.take_back(moved.high)
        if moved.importance is not None:
            self.importance.take_back(moved.importance)

    def _count(self, lesson: Lesson, rows: Rows, keys: Keys, sign: int = 1) -> None:
        important = lesson.belongs in self.important
        self.tally.count(rows, unwanted=lesson.belongs == DRAIN, important=important, sign=sign)
        self.counts.count(keys, lesson.belongs, sign=sign)

    def _counted(self, rows: Rows, keys: Keys) -> float:
        """What the counts add to the log-odds of one message, but for what was said of addresses."""
        return self.tally.importance_of(rows) + self.counts.importance_of(keys)

    def _mistaken(self, place: str, rows: Rows, keys: Keys, log_odds: float) -> float:
        """The chance that one message stands on the wrong side of the Desk in a place, by its log-odds but for what is
        added to sources without a lesson."""
        if place not in self.important and place not in self.low.names:
            return 0.0
        _, drained = self._low_odds(rows, keys, self.tally.weigh(rows))
        chance = logistic(log_odds + float(self._of_unknown(keys, np.array([log_odds]), drained)[0]))
        return 1.0 - chance if place in self.important else chance

    def _summed(self, rows: Rows) -> _Summed:
        mean, variance = self.importance.predict_all(rows)
        keys = Keys.of(rows)
        made, said = self.tally.weigh(rows), self.counts.weigh(keys)
        low, drained = self._low_odds(rows, keys, made)
        high = self.high.odds(rows) + said.high
        return _Summed(keys, mean + made.importance + said.importance, variance, drained, low + said.low, high)

    def _low_odds(self, rows: Rows, keys: Keys, made: Counted) -> tuple[Floats, Floats]:
        """The log-odds of the low buckets by the regression and by how messages are ``made``, and by these the share of
        the Drain among the low buckets that ship: one more of the owner's changes nothing of it."""
        names, odds = self.low.names, self.low.odds(rows)
        if DRAIN not in names:
            return odds, np.zeros(len(odds))
        odds[:, names.index(DRAIN)] += made.drain + for_drain(made.shipped, self.counts.lessons_about(keys))
        shipped = [name for name in names if name in SHIPPED]
        shares = shares_of(odds[:, [names.index(name) for name in shipped]])
        return odds, shares[:, shipped.index(DRAIN)]

    def _of_unknown(self, keys: Keys, log_odds: Floats, drained: Floats) -> Floats:
        """What is added to the log-odds of messages because no lesson was about their list, or else their sender."""
        return self.counts.of_unknown(keys, self.tally.lessons, log_odds, drained)
