"""A verdict on all mail of a source in a place: one lesson, about its newest message, and the rest goes with it."""

from __future__ import annotations

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import MAX_FILED
from hieranome.app.teaching.correct import Outcome
from hieranome.app.teaching.for_good import correct_asked
from hieranome.core.deciders import BY_HAND, NEVER_TAUGHT
from hieranome.core.errors import CallerError
from hieranome.core.sure import Reach
from hieranome.store import messages, sources


def put_source(room: Mailroom, place: str, key: str, belongs: str, *, always: bool, confirmed: bool = True) -> Outcome:
    """Put all mail of a source that stands in a place where it belongs, in one step with one lesson; ``always`` lets
    the lesson hold for all its mail from now on. What the owner decided on message by message stays.
    Where it is not ``confirmed``, the owner may be asked first.

    Raises :class:`NotFound` where there is no such mail, :class:`CallerError` for more than one step covers, and what
    :func:`correct` raises; nothing is changed then.
    """
    with room.change() as db:
        numbers = sources.numbers(db, place, key)
        if len(numbers) > MAX_FILED:
            raise CallerError(f"One step covers {MAX_FILED} messages; {len(numbers)} stand there. Put some away first.")
        stood = messages.stood(db, numbers)
        free = {number for number, _, by in stood if by not in BY_HAND | NEVER_TAUGHT} or set(numbers)
        newest = next(number for number in numbers if number in free)
        listed = key.startswith("list:")
        reach = (Reach.LIST if listed else Reach.ADDRESS) if always else Reach.LEARN
        return correct_asked(room, [newest], belongs, reach, along=list(free), confirmed=confirmed)
