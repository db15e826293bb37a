"""A second look: mail that stands elsewhere than today's model would put it is offered, never moved unasked; questions
whose answer the model has learned meanwhile leave Your call for where they belong."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move, move_as_step
from hieranome.app.room.rescoring import QUIET
from hieranome.core.actors import Actor
from hieranome.core.buckets import DESK, UNDECIDED
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.gaussian import logistic
from hieranome.core.routing import LEARNED, Bounds, bounds, worth_asking
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.store import journal, messages, places, standing
from hieranome.store.messages import Message

DAYS = 30
"""How old mail may be that is offered."""
MOST = 50
"""Messages that are offered at a time, of one place."""
LOOKED_AT = 400
"""Of one place, so many of the surest are looked at for lessons about their senders."""
ONTO_THE_DESK = 0.5
"""The lower end of the doubt about mail that is offered to the Desk. There must have been a lesson about its sender or
list besides: without one, or from the Desk's own bound on, three and five in ten proved right."""
BOTH_WAYS = 0.2
"""Nothing is offered to the Desk while a smaller share of the owner's corrections across its line took mail away from
it: who only ever adds to the Desk tells of it what belongs there, never what does not."""
SECOND_LOOK = StepKind.SECOND_LOOK
"""The kind of steps in which offered mail was moved on the owner's word."""


@dataclass(frozen=True, slots=True)
class Offer:
    """Messages of one sender, or one list, that stand in one place and look like another now, the surest and oldest
    first; so many ``lessons`` put mail of that sender or list on the side of the Desk where these look like
    belonging."""

    place: str
    target: str
    lessons: int
    messages: list[Message]


def offers(room: Mailroom) -> list[Offer]:
    """What the model would put elsewhere by now, and is sure of: its whole band of doubt lies beyond the bound, no
    lesson about its sender or list speaks against it, and it is not so for silences alone. Mail that was decided on,
    and mail the owner left standing, is none of it."""
    limits, since = bounds(room.costs), room.clock() - DAYS * DAY
    found: dict[tuple[str, str, str], list[Message]] = {}
    taught: dict[tuple[str, str, str], int] = {}
    with room.steady() as db:
        for place, row in _candidates(room, db, limits, since):
            target = DESK if place != DESK else places.in_use(db, row.likely)
            key = place, target, row.list_id or row.sender_address
            among = found.setdefault(key, [])
            lessons = _lessons_for(room, db, row, target) if target != place and len(among) < MOST else None
            if lessons is not None:
                among.append(row)
                taught[key] = max(lessons, taught.get(key, 0))
    several = sorted(taught, key=lambda key: (-taught[key], -len(found[key])))
    return [
        Offer(place, target, taught[place, target, who], found[place, target, who]) for place, target, who in several
    ]


def _candidates(room: Mailroom, db: sqlite3.Connection, limits: Bounds, since: int) -> Iterator[tuple[str, Message]]:
    """Mail the model is sure of elsewhere than it stands, with its place."""
    if room.engine.corrects_both_ways(BOTH_WAYS):
        for place in places.buckets(db):
            if not place.important:
                for row in standing.surely_above(db, place.name, ONTO_THE_DESK, since, LOOKED_AT):
                    yield place.name, row
    for row in standing.surely_below(db, DESK, limits.ask, since, LOOKED_AT):
        yield DESK, row


def _lessons_for(room: Mailroom, db: sqlite3.Connection, row: Message, target: str) -> int | None:
    """How many lessons about a message's sender or list speak for a place; None where it is not to be offered."""
    vector = vector_of(room, db, row.id)
    taught = room.engine.taught(vector)
    wanted = target in room.engine.important
    if any((bucket in room.engine.important) != wanted for bucket in taught) or (wanted and not taught):
        return None
    without = room.engine.judge(vector).log_odds - room.engine.silent_part(vector)
    desk = bounds(room.costs).desk
    return sum(taught.values()) if (logistic(without) >= desk) == wanted else None


def accept(room: Mailroom, numbers: Sequence[int]) -> journal.Step:
    """Move offered messages to where they look like belonging, as one step. Raises :class:`Conflict` when one is not
    offered any more; nothing is moved then."""
    wanted = set(_some(numbers))
    with room.change() as db:
        those: dict[tuple[str, str], list[int]] = {}
        for one in offers(room):
            those.setdefault((one.place, one.target), []).extend(m.id for m in one.messages if m.id in wanted)
        if sum(map(len, those.values())) != len(wanted):
            raise Conflict("Some of these messages are not offered any more. Look at what is now.")
        step = journal.begin(db, room.clock(), SECOND_LOOK, f"{_count(len(wanted))} moved at a second look")
        moved = [
            number
            for (_, target), ids in those.items()
            for number in move(db, step, messages.stood(db, ids), target, Decider.MODEL)
        ]
        room.tell_moved(step, moved)
    return journal.get(room.reader(), step)


def leave(room: Mailroom, numbers: Sequence[int]) -> None:
    """Let messages stand where they stand; they are not offered again."""
    with room.change() as db:
        for number in _some(numbers):
            messages.get(db, number)
            standing.leave(db, number)
        room.tell("looked")


def release_learned(room: Mailroom) -> int:
    """Let questions leave Your call that are worth no asking any more, for where the model puts them now, in one step
    for each place; how many left."""
    if not standing.questions(room.reader()):
        return 0
    with room.change() as db:
        known: dict[str, list[int]] = {}
        for number in standing.questions(db):
            place, value = worth_asking(room.engine.judge(vector_of(room, db, number)), room.costs)
            if value <= LEARNED:
                known.setdefault(place, []).append(number)
        for place, ids in known.items():
            asked, now = places.get(db, UNDECIDED).title, places.get(db, place).title
            title = f"{_count(len(ids))} left {asked} for {now}: learned meanwhile"
            move_as_step(room, db, StepKind.LEARNED, title, ids, place, Decider.MODEL, Actor.MODEL)
        return sum(map(len, known.values()))


class SecondLook(Following):
    """Lets learned questions go, a while after what the model learned."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._revision = room.revision
        super().__init__(
            room, "second look", "looking again at what was asked", self._round, lambda: room.revision != self._revision
        )

    def _round(self) -> float | None:
        before = -1
        while before != self._room.revision and not self.worker.ended.is_set():
            before = self._room.revision
            self.worker.rest(QUIET)
        if self.worker.ended.is_set() or self._revision == before:
            return None
        self._revision = before
        if release_learned(self._room):
            self._revision = self._room.revision
        return None


def _some(numbers: Sequence[int]) -> list[int]:
    wanted = list(dict.fromkeys(numbers))
    if not wanted:
        raise CallerError("Name the messages this is about.")
    return wanted


def _count(number: int) -> str:
    return "1 message" if number == 1 else f"{number} messages"
