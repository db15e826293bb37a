"""What an owner arranges besides mail: each kind of thing whose changes are steps of the journal."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Thing(StrEnum):
    """A kind of thing the owner makes, changes and removes."""

    TRAYS = "trays"
    SEARCH = "search"
    PHRASE = "phrase"
    ROUTINE = "routine"
    QUEUE = "queue"
    PLAN = "plan"
    RULE = "rule"
    APPEARANCE = "appearance"
    KEYS = "keys"
    AWAY = "away"


@dataclass(frozen=True, slots=True)
class ThingFacets:
    """How a kind of thing is told: ``called`` names it in a sentence, ``event`` is published when it changed."""

    called: str
    event: str


THINGS: dict[Thing, ThingFacets] = {
    Thing.TRAYS: ThingFacets("the trays", "trays"),
    Thing.SEARCH: ThingFacets("this search", "searches"),
    Thing.PHRASE: ThingFacets("this phrase", "phrases"),
    Thing.ROUTINE: ThingFacets("this routine", "routines"),
    Thing.QUEUE: ThingFacets("this queue", "queues"),
    Thing.PLAN: ThingFacets("this plan", "editions"),
    Thing.RULE: ThingFacets("this rule", "rules"),
    Thing.APPEARANCE: ThingFacets("the appearance", "appearance"),
    Thing.KEYS: ThingFacets("the keys", "appearance"),
    Thing.AWAY: ThingFacets("the away notice", "away"),
}
"""The table: the store says where each lies (:mod:`hieranome.store.arranged`)."""
