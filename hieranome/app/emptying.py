"""The Trash emptied, by the owner's word: what stands there goes for good, first on the servers, then here. It is the
one thing that cannot be taken back. What was taught with such mail stays, and so do the lines of the journal."""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.app.room.following import Following
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import Conflict
from hieranome.core.sizes import sized
from hieranome.core.steps import StepKind
from hieranome.store import emptying, journal

CHUNK = 50
"""Messages taken out in one change."""
REST = 0.02
"""Seconds between two chunks, in which whoever waits comes first."""


@dataclass(frozen=True, slots=True)
class Trash:
    """How the Trash is: how much can be taken out of it for good and its bytes, how much stays because it stands
    elsewhere on a server still, and how much is going already."""

    messages: int
    size: int
    staying: int
    going: int


def look(room: Mailroom) -> Trash:
    """How the Trash is now."""
    db = room.reader()
    return Trash(*emptying.weight(db), emptying.going(db))


def empty(room: Mailroom, messages: int) -> journal.Step:
    """Take all that can go out of the Trash for good: ``messages`` is how much that was said to be. The step is
    written, and the mail goes from behind. Raises :class:`Conflict` where it is more or less by now, or nothing;
    nothing is changed then."""
    with room.change() as db:
        count, size, _ = emptying.weight(db)
        if count != messages:
            raise Conflict(
                f"By now {count:,} messages can be deleted for good. Check the Trash again before you empty it."
            )
        if not count:
            raise Conflict("Nothing in the Trash can be taken out of it now.")
        what = "One message" if count == 1 else f"{count:,} messages"
        title = f"{what}, {sized(size)}, taken out of the Trash for good"
        step = journal.begin(db, room.clock(), StepKind.REMOVED, title)
        emptying.begin(db, step)
        room.tell("emptying")
        return journal.get(db, step)


class Emptier(Following):
    """Takes out here, from a thread, what no server has any more."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        doing = "taking mail out of the Trash for good"
        super().__init__(room, "emptier", doing, self.work, lambda: bool(emptying.going(room.reader())))

    def work(self) -> float | None:
        """Take out all that is ready."""
        while not self.worker.ended.is_set() and self._chunk():
            self.worker.rest(REST)
        return None

    def _chunk(self) -> bool:
        if not emptying.ready(self._room.reader(), 1):
            return False
        with self._room.change() as db:
            numbers = emptying.ready(db, CHUNK)
            emptying.remove(db, numbers)
            self._room.tell_moved(0, numbers)
            self._room.tell("emptying")
        return bool(numbers)
