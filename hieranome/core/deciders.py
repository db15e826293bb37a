"""By what a message stands where it stands: one table of all that can decide it, with what follows from it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from hieranome.core.sure import Reach


class Decider(StrEnum):
    """What decided where a message stands."""

    MODEL = "model"
    KIN = "kin"
    HISTORY = "history"
    WAITING = "waiting"
    RULE = "rule"
    TOPIC = "topic"
    VERDICT = "verdict"
    THREAD = "thread"
    ADDRESS = "address"
    LIST = "list"
    DOMAIN = "domain"
    VOUCHED = "vouched"
    FILED = "filed"
    ELSEWHERE = "elsewhere"
    PARKED = "parked"
    LET_GO = "let go"
    UNREADABLE = "unreadable"
    OWN = "own"
    EDITION = "edition"


@dataclass(frozen=True, slots=True)
class Facets:
    """What follows from a decider. ``words`` tell the owner why a message stands there, empty where the score does;
    ``model`` says that it stands as the model put it, ``by_hand`` that the owner put this very message there,
    ``weighed`` that it is weighed and can be taught about; ``gives_way`` are the reaches of rules that may move it
    (None: a rule that names no sender)."""

    words: str = ""
    model: bool = False
    by_hand: bool = False
    weighed: bool = True
    gives_way: frozenset[Reach | None] = frozenset()


_ANY: frozenset[Reach | None] = frozenset({Reach.ADDRESS, Reach.LIST, Reach.DOMAIN, None})
DECIDERS: dict[Decider, Facets] = {
    Decider.MODEL: Facets(model=True, gives_way=_ANY),
    Decider.KIN: Facets("It is like a message you decided on.", model=True, gives_way=_ANY),
    Decider.HISTORY: Facets("You had dealt with it before it came here.", gives_way=_ANY),
    Decider.WAITING: Facets("It waits until all of the history is read."),
    Decider.RULE: Facets("A rule of yours put it here.", gives_way=_ANY),
    Decider.TOPIC: Facets("A topic of yours put it here.", gives_way=_ANY),
    Decider.VERDICT: Facets("You put it here.", by_hand=True),
    Decider.THREAD: Facets("You decided on its thread."),
    Decider.ADDRESS: Facets("You decided on its sender for always."),
    Decider.LIST: Facets("You decided on its list for always.", gives_way=frozenset({Reach.ADDRESS})),
    Decider.DOMAIN: Facets("You decided on its domain for always.", gives_way=frozenset({Reach.ADDRESS, Reach.LIST})),
    Decider.VOUCHED: Facets("You vouch for its sender."),
    Decider.FILED: Facets("You filed it here.", by_hand=True),
    Decider.ELSEWHERE: Facets("It was moved here in another program."),
    Decider.PARKED: Facets("It was parked, and is back."),
    Decider.LET_GO: Facets("It left the Drain after its days."),
    Decider.UNREADABLE: Facets("It could not be read, so it was kept whole and stays where you will see it."),
    Decider.OWN: Facets("You sent it.", weighed=False),
    Decider.EDITION: Facets("It is an edition, put together here.", weighed=False),
}
"""The table: whoever asks what a decider means asks it."""

BY_THE_MODEL = frozenset(one for one, facets in DECIDERS.items() if facets.model)
"""Where mail stands as the model put it: looking past it says something."""
BY_HAND = frozenset(one for one, facets in DECIDERS.items() if facets.by_hand)
"""Where the owner put this very message: nothing pulls it along."""
NEVER_TAUGHT = frozenset(one for one, facets in DECIDERS.items() if not facets.weighed)
"""What is neither weighed nor learned from: the owner wrote it, or it is an edition of ours."""


def may_move(reach: Reach | None) -> frozenset[Decider]:
    """By what mail may stand that a rule of some reach moves: never by a verdict, by vouching, or where somebody filed
    it."""
    return frozenset(one for one, facets in DECIDERS.items() if reach in facets.gives_way)
