"""The engine: a fold over lessons and silences. The same in the same order give the same numbers.

What is learned, and how a message is judged by it, is :mod:`hieranome.core.learners`; here is the order. The way back
from the newest is kept, so that any of these can be taken back: later ones are undone, the lesson or silence is left
out, the later ones are taken in again. An older one is taken back by taking in all others anew. Either way nothing of
it is left. What each lesson contributes to a message is :mod:`hieranome.core.contributions`.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.core.addresses import NONE_SAID, Purpose
from hieranome.core.buckets import BUILT_IN, Bucket
from hieranome.core.contributions import Contributions
from hieranome.core.counts import Node
from hieranome.core.errors import InternalError
from hieranome.core.features import SLOTS, Vector
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Bond, Given, Judgement, Lesson, Weighed, Word
from hieranome.core.keys import Keys
from hieranome.core.learners import Learners, Moved
from hieranome.core.silence import SURE, Attention, Noted, Silence
from hieranome.core.tally import SAYS

GENERATION = 9
"""Raised when the same lessons give other numbers, so that the scores of standing mail are written anew."""

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
class _Taken:
    """The way back from a lesson or a silence."""

    moved: Moved
    noted: Noted


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
        self._learners = Learners(self.buckets, self.purposes)
        self.attention = Attention()
        self._given: list[Given] = []
        self._steps: deque[_Taken] = deque()
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
        self._learners.counts.say(purposes)

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
        return self._learners.weigh(rows)

    def silence(self, number: int, vector: Vector, place: str, judgement: Judgement) -> Silence:
        """What it says that a message, judged so now, was looked past in a bucket."""
        important = place in self.important
        kind = judgement.importance if important else 1.0 - judgement.importance
        share = (judgement.high if important else judgement.low)[place]
        weight = self.attention.weight(kind * share)
        return Silence(number, vector, place, weight, kind > SURE, self._learners.importance.beside(Rows.of(vector)))

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

    def _take_in(self, lesson: Lesson, rows: Rows, keys: Keys) -> _Taken:
        moved, mistaken = self._learners.take_in(lesson, rows, keys)
        assert moved.importance is not None
        self._learned.add(lesson, moved.importance)
        # It says of the owner's attention only what it says of where the message stood: in a bucket.
        stood = any(lesson.stood == bucket.name for bucket in self.buckets)
        found = stood and (lesson.stood in self.important) != (lesson.belongs in self.important)
        return _Taken(moved, self.attention.note_corrected(int(keys.source[0]), mistaken, found=found))

    def _heed(self, silence: Silence, rows: Rows, keys: Keys) -> _Taken:
        moved, mistaken = self._learners.heed(silence, rows, keys)
        return _Taken(moved, self.attention.note_left(mistaken))

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

    def _take_back(self, given: Given, taken: _Taken, rows: Rows, keys: Keys) -> None:
        self.attention.take_back(taken.noted)
        self._learners.take_back(given, taken.moved, rows, keys)
        if isinstance(given, Lesson):
            self._learned.drop()
            self._lessons_kept -= 1

    def prior_parts(self, vector: Vector) -> dict[str, float]:
        """What the prior alone gives to the log-odds, by feature group; groups without any are left out."""
        return self._learners.importance.prior_parts(Rows.of(vector))

    def lesson_parts(self, vector: Vector) -> dict[int, float]:
        """What each lesson adds to the log-odds of a message; with what the prior, the silences and the counts say
        they sum to them."""
        rows = Rows.of(vector)
        weights = np.bincount(rows.slots, rows.values, minlength=self._learners.importance.mean.size)
        return self._learned.to(np.asarray(weights, dtype=np.float64))

    def silent_part(self, vector: Vector) -> float:
        """What all silences together add to the log-odds of a message beyond what they counted."""
        rows = Rows.of(vector)
        shipped = float(self._learners.importance.prior_means(rows) @ rows.values)
        return self._learners.importance.sum(rows) - shipped - sum(self.lesson_parts(vector).values())

    def nodes(self, vector: Vector) -> list[Node]:
        """The nodes of the tree of counts that speak of a message."""
        return self._learners.counts.nodes(Keys.of(Rows.of(vector)))

    def taught(self, vector: Vector) -> dict[str, int]:
        """How many lessons put mail of a message's own source in each bucket: see :meth:`Counts.taught`."""
        return self._learners.counts.taught(Keys.of(Rows.of(vector)))

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
        rare = self._learners.tally.lessons_with(words) <= max(RARE_LEAST, RARE_SHARE * len(self))
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
        counted = self._learners.tally.weigh(rows)
        best = self._learners.tally.best_word(rows)
        return float(counted.made[0]), float(counted.junk[0]), Word(*best, float(counted.word[0])) if best else None

    def unknown_part(self, vector: Vector) -> float:
        """What is added to the log-odds of a message because no lesson was about its list, or else its sender."""
        return self._learners.unknown_part(Rows.of(vector))

    @property
    def unwanted_lessons(self) -> int:
        """How many lessons put mail in the Drain."""
        return self._learners.tally.unwanted


def _ready(given: Sequence[Given]) -> Iterator[tuple[Rows, Keys]]:
    """The features and the nodes of each of some lessons and silences."""
    if given:
        rows = Rows.stacked([one.vector for one in given])
        yield from zip(rows.each(), Keys.of(rows).each(), strict=True)
