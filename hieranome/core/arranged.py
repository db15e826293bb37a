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
class Facets:
    """How a kind of thing is told: ``called`` names it in a sentence, ``event`` is published when it changed."""

    called: str
    event: str


THINGS: dict[Thing, Facets] = {
    Thing.TRAYS: Facets("the trays", "trays"),
    Thing.SEARCH: Facets("this search", "searches"),
    Thing.PHRASE: Facets("this phrase", "phrases"),
    Thing.ROUTINE: Facets("this routine", "routines"),
    Thing.QUEUE: Facets("this queue", "queues"),
    Thing.PLAN: Facets("this plan", "editions"),
    Thing.RULE: Facets("this rule", "rules"),
    Thing.APPEARANCE: Facets("the appearance", "appearance"),
    Thing.KEYS: Facets("the keys", "appearance"),
    Thing.AWAY: Facets("the away notice", "away"),
}
"""The table: the store says where each lies (:mod:`hieranome.store.arranged`)."""
