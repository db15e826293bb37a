"""A second look: mail that stands elsewhere than today's model would put it is offered, never moved unasked; questions
whose answer the model has learned meanwhile leave Your call for where they belong."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move, move_as_step
from hieranome.app.room.rescoring import QUIET
from hieranome.core.buckets import DESK, UNDECIDED
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.routing import LEARNED, bounds, worth_asking
from hieranome.core.times import DAY
from hieranome.store import journal, messages, places, standing
from hieranome.store.messages import Message

DAYS = 30
"""How old mail may be that is offered."""
MOST = 50
"""Messages that are offered at a time, of one place."""
SECOND_LOOK = "second look"
"""The kind of steps in which offered mail was moved on the owner's word."""


@dataclass(frozen=True, slots=True)
class Offer:
    """Messages that stand in one place and look like another now, the surest and oldest first."""

    place: str
    target: str
    messages: list[Message]


def offers(room: Mailroom) -> list[Offer]:
    """What the model would put elsewhere by now, and is sure of: its whole band of doubt lies beyond the bound. Mail
    that was decided on, and mail the owner left standing, is none of it."""
    db, limits = room.reader(), bounds(room.costs)
    since = room.clock() - DAYS * DAY
    found: dict[tuple[str, str], list[Message]] = {}
    for place in places.buckets(db):
        if not place.important:
            rows = standing.surely_above(db, place.name, limits.desk, since, MOST)
            if rows:
                found[place.name, DESK] = rows
    for row in standing.surely_below(db, DESK, limits.ask, since, MOST):
        found.setdefault((DESK, places.in_use(db, row.likely)), []).append(row)
    return [Offer(place, target, rows) for (place, target), rows in found.items() if place != target]


def accept(room: Mailroom, numbers: Sequence[int]) -> journal.Step:
    """Move offered messages to where they look like belonging, as one step. Raises :class:`Conflict` when one is not
    offered any more; nothing is moved then."""
    wanted = set(_some(numbers))
    with room.change() as db:
        those = {(one.place, one.target): [m.id for m in one.messages if m.id in wanted] for one in offers(room)}
        if sum(map(len, those.values())) != len(wanted):
            raise Conflict("Some of these messages are not offered any more. Look at what is now.")
        step = journal.begin(db, room.clock(), SECOND_LOOK, f"{_count(len(wanted))} moved at a second look")
        moved = [
            number
            for (_, target), ids in those.items()
            for number in move(db, step, messages.stood(db, ids), target, "model")
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
            place, value = worth_asking(room.engine.judge(messages.vector(db, number)), room.costs)
            if value <= LEARNED:
                known.setdefault(place, []).append(number)
        for place, ids in known.items():
            asked, now = places.get(db, UNDECIDED).title, places.get(db, place).title
            title = f"{_count(len(ids))} left {asked} for {now}: learned meanwhile"
            move_as_step(room, db, journal.LEARNED, title, ids, place, "model")
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
