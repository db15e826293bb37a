"""The engine: a fold over lessons and silences. The same in the same order give the same numbers.

Two stages. Importance is one binary model, a regression with counts beside it; which of the low buckets a message
belongs in (and which of the important ones, where the owner has several) is a second judgement. The steps of the newest
are kept, so that any of these can be taken back: later steps are undone, the lesson or silence is left out, the later
ones are taken in again. An older one is taken back by taking in all others anew. Either way nothing of it is left.

It is long because taking in, taking back and telling what was taken in are three views of one state; what each lesson
contributes is :mod:`hieranome.core.contributions`.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.core.addresses import NONE_SAID, Purpose
from hieranome.core.buckets import BUILT_IN, DESK, DRAIN, Bucket
from hieranome.core.choice import Choice, Steps, shares_of
from hieranome.core.contributions import Contributions
from hieranome.core.counts import SHIPPED, Counts, Node
from hieranome.core.errors import InternalError
from hieranome.core.features import SLOTS, Vector
from hieranome.core.gaussian import Floats, Rows, Step, logistic, logistic_all, prior_doubt
from hieranome.core.groups import GROUPS
from hieranome.core.importance import OF_SOURCE, Importance, learned
from hieranome.core.judgement import Bond, Given, Judgement, Lesson, Weighed, Word
from hieranome.core.junk import for_drain
from hieranome.core.keys import Keys
from hieranome.core.prior import LOW
from hieranome.core.silence import COUNTED, STEPPED, SURE, Attention, Noted, Silence
from hieranome.core.tally import SAYS, Tally

GENERATION = 9
"""Raised when the same lessons give other numbers, so that the scores of standing mail are written anew."""
DOUBT = 0.01
"""How much of the doubt about the weights counts as doubt about importance: see :mod:`hieranome.core.choice`."""
HEEDED = 0.5
"""The share of what the counts say already that the regression leaves to them when it takes in a lesson."""

RARE_LEAST = 3
RARE_SHARE = 0.03
"""A word of a subject is rare when at most so many lessons, or so large a share of them, had it."""
_BONDS: tuple[tuple[Bond, frozenset[str]], ...] = (
    ("sender", frozenset({"address"})),
    ("list", frozenset({"list"})),
)
_SUBJECT = frozenset({"subject"})

STEPS_KEPT = 256
"""Newest lessons whose steps are kept: undoing one of them takes a moment, undoing an older one a rebuild."""
SILENCE_EFFORT = 0.1
"""The work of taking in a silence, as a share of a lesson's."""
SILENCES_KEPT = 2048
"""Of the silences among and behind them, so many at most: beyond that fewer lessons."""
_TOGETHER = 256
"""Of so many the nodes are looked up at once."""


@dataclass(frozen=True, slots=True)
class _Steps:
    """The steps by which a lesson or a silence is taken back."""

    importance: Step | None
    low: Steps
    high: Steps
    attention: Noted


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


class Engine:
    """Judges vectors, learns lessons, heeds silences, takes any of them back."""

    def __init__(self, buckets: Sequence[Bucket] = BUILT_IN, purposes: Mapping[str, Purpose] = NONE_SAID) -> None:
        self.buckets = list(buckets)
        self.purposes = purposes
        self.important = frozenset(b.name for b in buckets if b.important)
        if len(self.important) in (0, len(self.buckets)):
            raise InternalError("an engine needs an important and a low bucket: check the list of buckets")
        self._begin()

    def _begin(self) -> None:
        self._importance = Importance()
        self._low = Choice([b.name for b in self.buckets if not b.important], LOW)
        self._high = Choice([b.name for b in self.buckets if b.important], {DESK: {}})
        self._tally = Tally()
        self._counts = Counts(self.buckets)
        self._counts.say(self.purposes)
        self.attention = Attention()
        self._given: list[Given] = []
        self._steps: deque[_Steps] = deque()
        self._lessons_kept = 0
        self._learned = Contributions()

    def __len__(self) -> int:
        return len(self._learned)

    @property
    def lesson_ids(self) -> list[int]:
        """Ids of the lessons taken in, in order."""
        return [one.id for one in self._learned]

    @property
    def silence_ids(self) -> list[int]:
        """Ids of the silences taken in, in order."""
        return [one.id for one in self._given if isinstance(one, Silence)]

    def say(self, purposes: Mapping[str, Purpose]) -> None:
        """Heed what the owner says addresses are for, and no longer what was said before. No lesson is learned anew:
        they are taken in as if nothing were said."""
        self.purposes = purposes
        self._counts.say(purposes)

    def retitle(self, buckets: Sequence[Bucket]) -> None:
        """Call the buckets as they are called now; they are the same, in the same order."""
        if [(one.name, one.important) for one in buckets] != [(one.name, one.important) for one in self.buckets]:
            raise InternalError("buckets that are called otherwise must be the same: build the model anew")
        self.buckets = list(buckets)

    def add_bucket(self, bucket: Bucket) -> None:
        """Begin to choose among one bucket more; all that was taken in is taken in again beside it."""
        given = self._given
        self.buckets.append(bucket)
        if bucket.important:
            self.important |= {bucket.name}
        self._begin()
        self.learn_all(given)

    def judge(self, vector: Vector) -> Judgement:
        """Judge one message."""
        return self.judge_all([vector])[0]

    def judge_all(self, vectors: Sequence[Vector]) -> list[Judgement]:
        """Judge many messages at once; the same numbers as one at a time, to rounding."""
        return self.weigh(Rows.stacked(vectors)).judgements() if vectors else []

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
            low_names=self._low.names,
            high_names=self._high.names,
        )

    def _summed(self, rows: Rows) -> _Summed:
        mean, variance = self._importance.predict_all(rows)
        keys = Keys.of(rows)
        made, said = self._tally.weigh(rows), self._counts.weigh(keys)
        drain = made.drain + for_drain(made.shipped, self._counts.lessons_about(keys))
        low, drained = self._low_odds(rows, drain)
        high = self._high.odds(rows) + said.high
        return _Summed(keys, mean + made.importance + said.importance, variance, drained, low + said.low, high)

    def _low_odds(self, rows: Rows, drain: Floats) -> tuple[Floats, Floats]:
        """The log-odds of the low buckets by the regression and by how messages are made (``drain``), and by these the
        share of the Drain among the low buckets that ship: one more of the owner's changes nothing of it."""
        names, odds = self._low.names, self._low.odds(rows)
        if DRAIN not in names:
            return odds, np.zeros(len(odds))
        odds[:, names.index(DRAIN)] += drain
        shipped = [name for name in names if name in SHIPPED]
        shares = shares_of(odds[:, [names.index(name) for name in shipped]])
        return odds, shares[:, shipped.index(DRAIN)]

    def _of_unknown(self, keys: Keys, log_odds: Floats, drained: Floats) -> Floats:
        """What is added to the log-odds of messages because no lesson was about their list, or else their sender."""
        return self._counts.of_unknown(keys, len(self), log_odds, drained)

    def silence(self, number: int, vector: Vector, place: str, judgement: Judgement) -> Silence:
        """What it says that a message, judged so now, was looked past in a bucket."""
        important = place in self.important
        kind = judgement.importance if important else 1.0 - judgement.importance
        share = (judgement.high if important else judgement.low)[place]
        weight = self.attention.weight(kind * share)
        return Silence(number, vector, place, weight, kind > SURE, self._importance.beside(Rows.of(vector)))

    def learn_all(self, given: Iterable[Given], progress: Callable[[int], None] | None = None) -> None:
        """Take in many lessons and silences in order; ``progress`` is told how many are done."""
        every = list(given)
        for start in range(0, len(every), _TOGETHER):
            some = every[start : start + _TOGETHER]
            for done, (one, (rows, keys)) in enumerate(zip(some, _ready(some), strict=True), start + 1):
                self._learn(one, rows, keys)
                if progress is not None:
                    progress(done)

    def learn(self, given: Given) -> None:
        """Take in one lesson or one silence, after all before it."""
        self.learn_all([given])

    def _learn(self, given: Given, rows: Rows, keys: Keys) -> None:
        if isinstance(given, Silence):
            self._steps.append(self._heed(given, rows, keys))
        else:
            self._steps.append(self._take_in(given, rows, keys))
        self._given.append(given)
        self._lessons_kept += isinstance(given, Lesson)
        while self._lessons_kept > STEPS_KEPT or len(self._steps) > STEPS_KEPT + SILENCES_KEPT:
            self._lessons_kept -= isinstance(self._given[-len(self._steps)], Lesson)
            self._steps.popleft()

    def leave(self, number: int, vector: Vector, place: str, judgement: Judgement) -> None:
        """Take in that a message, judged so now, was looked past in a bucket."""
        self.learn(self.silence(number, vector, place, judgement))

    def _take_in(self, lesson: Lesson, rows: Rows, keys: Keys) -> _Steps:
        moving, important = learned(rows), lesson.belongs in self.important
        beside, counted = self._importance.beside(rows), self._counted(rows, keys)
        noted = self._note_corrected(lesson, rows, keys, beside + self._importance.sum(moving) + counted)
        rarity = self._tally.rarity(moving.slots)
        step = self._importance.learn(moving, important, beside + HEEDED * counted, share=rarity)
        low, high = self._low.learn(moving, lesson.belongs), self._high.learn(moving, lesson.belongs)
        self._tally.count(rows, unwanted=lesson.belongs == DRAIN, important=important)
        self._counts.count(keys, lesson.belongs)
        self._learned.add(lesson, step)
        return _Steps(step, low, high, noted)

    def _heed(self, silence: Silence, rows: Rows, keys: Keys) -> _Steps:
        step, mistaken = None, 0.0
        if not silence.sure:
            own, counted = rows.only(OF_SOURCE), self._counted(rows, keys)
            taught = silence.beside + self._importance.sum(learned(rows))
            mistaken = self._mistaken(silence.place, rows, keys, taught + counted)
            beside = taught - self._importance.sum(own) + HEEDED * counted
            if own.slots.size:
                important = silence.place in self.important
                step = self._importance.learn(own, important, beside, STEPPED * silence.weight)
        self._counts.count_left(keys, silence.place, COUNTED * silence.weight)
        return _Steps(step, [], [], self.attention.note_left(mistaken))

    def _note_corrected(self, lesson: Lesson, rows: Rows, keys: Keys, log_odds: float) -> Noted:
        """Note what a lesson says of the owner's attention, about a message that was judged so before."""
        source, stood = int(keys.source[0]), lesson.stood
        if all(stood != bucket.name for bucket in self.buckets):
            return self.attention.note_corrected(source, 0.0, found=False)
        found = (stood in self.important) != (lesson.belongs in self.important)
        return self.attention.note_corrected(source, self._mistaken(stood, rows, keys, log_odds), found=found)

    def _mistaken(self, place: str, rows: Rows, keys: Keys, log_odds: float) -> float:
        """The chance that a message stands on the wrong side of the Desk in a place, by its log-odds but for what is
        added to sources without a lesson."""
        _, drained = self._low_odds(rows, self._tally.weigh(rows).drain)
        chance = logistic(log_odds + float(self._of_unknown(keys, np.array([log_odds]), drained)[0]))
        return 1.0 - chance if place in self.important else chance

    def _counted(self, rows: Rows, keys: Keys) -> float:
        """What the counts add to the log-odds of one message, but for what was said of addresses."""
        return self._tally.importance_of(rows) + self._counts.importance_of(keys)

    def like_lessons(self, vector: Vector, least: float, newest: int = 1000) -> list[Lesson]:
        """Lessons whose messages are like this one by at least ``least`` (0 to 1), of the newest."""
        return self._learned.like(vector, least, newest)

    def forget(self, lesson_id: int, progress: Callable[[int, int], None] | None = None) -> bool:
        """Undo one lesson wherever it stands; False when it was never taken in.

        ``progress`` is called with (done, of how many) while later ones are taken in again.
        """
        return self.forget_all([lesson_id], progress=progress) == 1

    def forget_all(
        self,
        lesson_ids: Iterable[int],
        silence_ids: Iterable[int] = (),
        progress: Callable[[int, int], None] | None = None,
    ) -> int:
        """Undo many lessons and silences in one pass; returns how many of them had been taken in."""
        lessons, silences = set(lesson_ids), set(silence_ids)

        def gone(one: Given) -> bool:
            return one.id in (silences if isinstance(one, Silence) else lessons)

        first = next((at for at, one in enumerate(self._given) if gone(one)), len(self._given))
        if len(self._given) - first > len(self._steps):
            first, tail = 0, self._given
            self._begin()
        else:
            tail = self._given[first:]
            for one, (rows, keys) in reversed(list(zip(tail, _ready(tail), strict=True))):
                self._take_back(one, self._steps.pop(), rows, keys)
            del self._given[first:]
        later = [one for one in tail if not gone(one)]
        self.learn_all(later, (lambda done: progress(done, len(later))) if progress else None)
        return len(tail) - len(later)

    def effort(self, lesson_ids: Iterable[int], silence_ids: Iterable[int] = ()) -> float:
        """How many lessons' work it is to undo some, silences counted by their share of it; 0 when none is known."""
        lessons, silences = set(lesson_ids), set(silence_ids)
        for at, one in enumerate(self._given):
            if one.id in (silences if isinstance(one, Silence) else lessons):
                later = self._given if len(self._given) - at > len(self._steps) else self._given[at + 1 :]
                quiet = sum(isinstance(other, Silence) for other in later)
                return len(later) - quiet + SILENCE_EFFORT * quiet
        return 0.0

    def _take_back(self, given: Given, steps: _Steps, rows: Rows, keys: Keys) -> None:
        self.attention.take_back(steps.attention)
        if isinstance(given, Silence):
            self._counts.count_left(keys, given.place, COUNTED * given.weight, sign=-1)
        else:
            belongs = given.belongs
            self._tally.count(rows, unwanted=belongs == DRAIN, important=belongs in self.important, sign=-1)
            self._counts.count(keys, belongs, sign=-1)
            self._low.take_back(steps.low)
            self._high.take_back(steps.high)
            self._learned.drop()
            self._lessons_kept -= 1
        if steps.importance is not None:
            self._importance.take_back(steps.importance)

    def prior_parts(self, vector: Vector) -> dict[str, float]:
        """What the prior alone gives to the log-odds, by feature group; groups without any are left out."""
        rows = Rows.of(vector)
        parts = np.bincount(rows.groups, self._importance.prior_means(rows) * rows.values, minlength=len(GROUPS))
        return {group.name: float(part) for group, part in zip(GROUPS, parts, strict=True) if part != 0.0}

    def lesson_parts(self, vector: Vector) -> dict[int, float]:
        """What each lesson adds to the log-odds of a message; with what the prior, the silences and the counts say
        they sum to them."""
        rows = Rows.of(vector)
        weights = np.bincount(rows.slots, rows.values, minlength=self._importance.mean.size)
        return self._learned.to(np.asarray(weights, dtype=np.float64))

    def silent_part(self, vector: Vector) -> float:
        """What all silences together add to the log-odds of a message beyond what they counted."""
        rows = Rows.of(vector)
        shipped = float(self._importance.prior_means(rows) @ rows.values)
        return self._importance.sum(rows) - shipped - sum(self.lesson_parts(vector).values())

    def nodes(self, vector: Vector) -> list[Node]:
        """The nodes of the tree of counts that speak of a message."""
        return self._counts.nodes(Keys.of(Rows.of(vector)))

    def taught(self, vector: Vector) -> dict[str, int]:
        """How many lessons put mail of a message's own source in each bucket: see :meth:`Counts.taught`."""
        return self._counts.taught(Keys.of(Rows.of(vector)))

    def corrects_both_ways(self, least: float) -> bool:
        """Whether of the lessons that took mail across the line of the Desk, of which there are some, at least such a
        share took it away; those of answers to questions say nothing of it."""
        low = {bucket.name for bucket in self.buckets} - self.important
        return self._learned.both_ways(low, self.important, least)

    def bonds(self, vector: Vector) -> dict[int, Bond]:
        """Which lessons are about mail of the same sender, the same list or with the same rare word in its subject, and
        which of these; what is stronger comes first in that order."""
        rows = Rows.of(vector)
        marks = np.zeros(SLOTS, dtype=np.uint8)
        for bit, (_, groups) in enumerate(_BONDS):
            marks[rows.only(groups).slots] |= 1 << bit
        words = rows.only(_SUBJECT).slots
        rare = self._tally.lessons_with(words) <= max(RARE_LEAST, RARE_SHARE * len(self))
        marks[words[rare & SAYS[words]]] |= 1 << len(_BONDS)
        names: list[Bond] = [*(bond for bond, _ in _BONDS), "word"]
        held = self._learned.having(marks)
        return {
            number: next(bond for bit, bond in enumerate(names) if found >> bit & 1) for number, found in held.items()
        }

    def counted_parts(self, vector: Vector) -> tuple[float, float, Word | None]:
        """What the counts add to the log-odds of a message: for how it is made, by lessons and by what ships about
        junk, and for one word of its subject."""
        rows = Rows.of(vector)
        counted = self._tally.weigh(rows)
        best = self._tally.best_word(rows)
        return float(counted.made[0]), float(counted.junk[0]), Word(*best, float(counted.word[0])) if best else None

    def unknown_part(self, vector: Vector) -> float:
        """What is added to the log-odds of a message because no lesson was about its list, or else its sender."""
        found = self._summed(Rows.of(vector))
        return float(self._of_unknown(found.keys, found.log_odds, found.drained)[0])

    @property
    def unwanted_lessons(self) -> int:
        """How many lessons put mail in the Drain."""
        return self._tally.unwanted


def _ready(given: Sequence[Given]) -> Iterator[tuple[Rows, Keys]]:
    """The features and the nodes of each of some lessons and silences."""
    if given:
        rows = Rows.stacked([one.vector for one in given])
        yield from zip(rows.each(), Keys.of(rows).each(), strict=True)
