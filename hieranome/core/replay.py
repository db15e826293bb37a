"""Replay: a mailbox whose truths are known, passed through the engine as if it arrived now.

Every message is judged and routed before its truth is looked at (prequential evaluation, Dawid 1984). Then a
simulated reader looks: a message in the wrong bucket is corrected with a given probability, one in Your call
is always answered, and of one left where it stands the engine is told no more than that, where the reader looks there
at all.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Protocol

from hieranome.core.buckets import BUILT_IN, UNDECIDED, Bucket, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.groups import Context
from hieranome.core.judgement import Judgement, Lesson
from hieranome.core.relations import Relations, Sums, keys_of
from hieranome.core.routing import Asking, route


@dataclass(frozen=True, slots=True)
class Passing:
    """One message of the mailbox: its facts, and what its owner did with it later on."""

    facts: MessageFacts
    read: bool = False
    answered: bool = False


@dataclass(frozen=True, slots=True)
class Predicted:
    """What was predicted of one message, and its truth, looked at afterwards."""

    message_id: str
    score: float
    certainty: float
    place: str
    belongs: str
    corrected: bool


class Learner(Protocol):
    """What a replay needs of an engine."""

    buckets: list[Bucket]

    def judge(self, vector: Vector) -> Judgement:
        """Judge one message."""
        ...

    def learn(self, lesson: Lesson) -> None:
        """Take in one lesson."""
        ...

    def leave(self, number: int, vector: Vector, place: str, judgement: Judgement) -> None:
        """Take in that a message, judged so, was looked past where it was put."""
        ...

    def add_bucket(self, bucket: Bucket) -> None:
        """Begin to choose among one bucket more."""
        ...


EVERYWHERE: Mapping[str, float] = {}
"""The reader looks at all mail, wherever it was put."""


class Replay:
    """The engine, or another learner, in a mailbox it is new to. Feed it with :meth:`step`, in order of arrival.

    ``correct`` is the share of mistakes the reader corrects, drawn by ``draw`` (uniform in [0, 1)); buckets in
    ``important`` are Desk-like. A bucket that is not built in is known to the engine from its first lesson on.
    ``looked`` gives the share of mail, by place, that the reader looks past where it stands; all of it elsewhere.
    ``watch`` gives seconds, of which ``scoring`` and ``learning`` took their share.
    """

    def __init__(
        self,
        *,
        owner: Owner | None = None,
        costs: Costs | None = None,
        correct: float = 1.0,
        draw: Callable[[], float] = lambda: 0.0,
        important: Iterable[str] = (),
        watch: Callable[[], float] = lambda: 0.0,
        learner: Learner | None = None,
        looked: Mapping[str, float] = EVERYWHERE,
    ) -> None:
        self.owner = owner or Owner()
        self.costs = costs or Costs()
        self.correct = correct
        self.engine: Learner = Engine() if learner is None else learner
        self._important = frozenset(important)
        self._draw = draw
        self._watch = watch
        self._looked = looked
        self.scoring = 0.0
        self.learning = 0.0
        self._asking = Asking()
        self._relations = Relations()
        self._mine: set[str] = set()
        self._open: dict[str, list[str]] = {}
        self._lessons = 0

    @property
    def important(self) -> frozenset[str]:
        """Names of the buckets that are Desk-like."""
        return self._important | frozenset(b.name for b in BUILT_IN if b.important)

    def step(self, passing: Passing, belongs: str | None) -> Predicted | None:
        """Pass one message on; None for the owner's own and for one without a truth, which only count in the sums."""
        facts = passing.facts
        if self.owner.owns(facts.sender):
            self._note_sent(facts)
            return None
        predicted = self._predict(facts, belongs) if belongs is not None else None
        self._note_received(passing)
        return predicted

    def _predict(self, facts: MessageFacts, belongs: str) -> Predicted:
        began = self._watch()
        vector = extract(facts, Context(self.owner, self._relations, self._in_my_thread(facts)))
        judgement = self.engine.judge(vector)
        place = route(judgement, self.costs, self._asking)
        judged = self._watch()
        self.scoring += judged - began
        asked = place == UNDECIDED
        corrected = asked or (place != belongs and self._draw() < self.correct)
        if not corrected:
            if self._looks(place):
                self.engine.leave(self._lessons, vector, place, judgement)
                self._lessons += 1
        else:
            self._teach(Lesson(self._lessons, vector, belongs, place))
            self.learning += self._watch() - judged
        return Predicted(facts.message_id, judgement.importance, judgement.certainty, place, belongs, corrected)

    def _looks(self, place: str) -> bool:
        share = self._looked.get(place, 1.0)
        return share >= 1.0 or (share > 0.0 and self._draw() < share)

    def _teach(self, lesson: Lesson) -> None:
        self._lessons += 1
        if all(bucket.name != lesson.belongs for bucket in self.engine.buckets):
            own = Bucket(lesson.belongs, lesson.belongs, lesson.belongs in self._important)
            self.engine.add_bucket(own)
        self.engine.learn(lesson)

    def _in_my_thread(self, facts: MessageFacts) -> bool:
        return not self._mine.isdisjoint((facts.in_reply_to, *facts.references))

    def _note_sent(self, facts: MessageFacts) -> None:
        for key, sums in Relations.sent(facts, self.owner):
            self._relations.add(key, sums)
        for key in self._open.pop(facts.in_reply_to, []):
            self._relations.add(key, Sums(answered=1))
        self._mine.update(name for name in (facts.message_id, facts.in_reply_to) if name)

    def _note_received(self, passing: Passing) -> None:
        facts = passing.facts
        if self._in_my_thread(facts) and facts.message_id:
            self._mine.add(facts.message_id)
        for key, sums in Relations.received(facts, read=passing.read, answered=passing.answered):
            self._relations.add(key, sums)
        if facts.message_id and not passing.answered:
            self._open[facts.message_id] = list(keys_of(facts))


def replay(run: Replay, mailbox: Iterable[Passing], truth: Mapping[str, str]) -> Iterator[Predicted]:
    """Pass a whole mailbox on; ``truth`` gives buckets by message id."""
    for passing in mailbox:
        predicted = run.step(passing, truth.get(passing.facts.message_id))
        if predicted is not None:
            yield predicted
