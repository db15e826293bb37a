"""Mail that is here already, looked through for what is kept of each message since: whether it says that it is bulk,
whether a machine made it, which of the owner's addresses it came to. Done once, and again when the addresses change."""

from __future__ import annotations

import re
from dataclasses import asdict, dataclass, replace

from hieranome.app.reading.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.recurring import by_machine, reached, says_bulk
from hieranome.store import described, messages, settings

CHUNK = 100
REST = 0.05
"""Seconds between two chunks, in which whoever waits comes first."""
LOOK_AGAIN = 60.0
"""Seconds until it is looked whether the owner's addresses are others."""
_HEAD_END = re.compile(rb"\r?\n\r?\n|\r\r")
MAX_HEAD = 262_144


@dataclass(frozen=True, slots=True)
class Progress:
    """For which addresses of the owner mail is looked through, up to which message it was, and up to which it is to be:
    what arrives later is described as it arrives."""

    addresses: list[str]
    upto: int
    last: int

    @classmethod
    def of(cls, room: Mailroom) -> Progress:
        """How far it is; at the beginning for addresses that are not those noted."""
        noted = settings.value(room.reader(), settings.LOOKED_THROUGH, None)
        found = cls(**noted) if noted else None
        addresses = sorted(room.owner.addresses)
        if found is not None and found.addresses == addresses:
            return found
        return cls(addresses, 0, messages.last_id(room.reader()))


def to_look_at(room: Mailroom) -> int:
    """How many messages are still to be looked through, at most."""
    progress = Progress.of(room)
    return max(0, progress.last - progress.upto)


class LookingThrough(Regular):
    """Looks through what is here, chunk by chunk; an end in the middle of it is gone on from."""

    def __init__(self, room: Mailroom, schedule: Schedule) -> None:
        doing = "looking through old mail for subscriptions"
        super().__init__(room, schedule, "looking-through", doing, LOOK_AGAIN, self.look_through)
        self._room = room

    def look_through(self) -> None:
        """Look through all that is to be, until the end comes."""
        progress = self.progress()
        while progress.upto < progress.last and not self.worker.ended.is_set():
            progress = self.chunk(progress)
            self.worker.rest(REST)

    def progress(self) -> Progress:
        """How far it is."""
        return Progress.of(self._room)

    def chunk(self, progress: Progress) -> Progress:
        """Describe the next messages, in one change with how far that is; where the owner's addresses are others by
        then, nothing, and all is begun anew."""
        owner = Owner.of(*progress.addresses)
        found = described.raws_between(self._room.reader(), progress.upto, progress.last, CHUNK)
        read_heads = [(number, _facts(raw)) for number, raw in found]
        progress = replace(progress, upto=found[-1][0] if found else progress.last)
        with self._room.change() as db:
            if sorted(self._room.owner.addresses) != progress.addresses:
                return self.progress()
            for number, facts in read_heads:
                bulk, to = says_bulk(facts), reached(facts, owner)
                described.describe(db, number, bulk=bulk, automatic=by_machine(facts), reached=to)
            settings.put(db, settings.LOOKED_THROUGH, asdict(progress))
        return progress


def _facts(raw: bytes) -> MessageFacts:
    """What the headers of a message say."""
    end = _HEAD_END.search(raw, 0, MAX_HEAD)
    return reading_of(raw[: end.start() if end else MAX_HEAD]).facts
