"""How readily mail is drained: what good mail in the Drain costs the owner, and what each setting would have done."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import DRAIN
from hieranome.core.errors import CallerError
from hieranome.core.gaussian import Rows
from hieranome.core.routing import settle_all
from hieranome.store import scores, settings

SCALE = (1.0, 2.0, 3.0, 5.0, 8.0, 13.0)
"""What good mail in the Drain may be said to cost, in units of one unimportant message on the Desk."""
MONTH = 30 * 86_400
MOST = 5_000
"""Messages of the last month that are looked at, the newest."""


@dataclass(frozen=True, slots=True)
class Would:
    """What a setting would have done with the mail of the last month: how many messages it would have drained, and how
    many of those were good: answered, or put elsewhere by the owner."""

    cost: float
    drained: int
    good: int


def preview(room: Mailroom) -> list[Would]:
    """What each setting of the scale would have done last month, by the model of today."""
    with room.steady() as db:
        rows = scores.received_since(db, room.clock() - MONTH, MOST)
        if not rows:
            return [Would(cost, 0, 0) for cost in SCALE]
        found = room.engine.weigh(Rows.stacked([vector for _, vector in rows]))
        good = [known_good for known_good, _ in rows]
        told = []
        for cost in SCALE:
            places = settle_all(found, replace(room.costs, drained_good=cost))
            drained = [was for place, was in zip(places, good, strict=True) if place == DRAIN]
            told.append(Would(cost, len(drained), sum(drained)))
        return told


def set_cost(room: Mailroom, cost: float) -> None:
    """Say what good mail in the Drain costs. Raises :class:`CallerError` for what is not on the scale."""
    if cost not in SCALE:
        raise CallerError(f"The cost is one of {', '.join(f'{one:g}' for one in SCALE)}.")
    with room.change() as db:
        room.touch()
        settings.put(db, settings.DRAINED_COST, cost)
        room.costs = replace(room.costs, drained_good=cost)
        room.tell("drain")
