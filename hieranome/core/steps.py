"""Kinds of steps the journal tells of: one table, with how each is told and whether it can be undone."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class StepKind(StrEnum):
    """What kind of step a line of the journal is."""

    VERDICT = "verdict"
    ELSEWHERE = "elsewhere"
    KIN = "kin"
    FILED = "filed"
    BACK = "back"
    MARKED = "marked"
    TAGGED = "tagged"
    TAGS = "tags"
    DUE = "due"
    PARKED = "parked"
    RETURNED = "returned"
    OWED = "owed"
    ROUTINE = "routine"
    RULE = "rule"
    AGED = "aged"
    SERVED = "served"
    TOPIC = "topic"
    LEARNED = "learned"
    SECOND_LOOK = "second look"
    WEIGHED = "weighed"
    LEFT_OUT = "left out"
    LET_GO = "let go"
    EMPTIED = "emptied"
    REMOVED = "removed"
    DISCARDED = "discarded"
    ENDED = "ended"
    ARRANGED = "arranged"
    SWITCHED = "switched off"
    UNREADABLE = "unreadable"


@dataclass(frozen=True, slots=True)
class Facets:
    """How a kind of step is told. ``label`` names it beside its line; ``moved`` says what it did to a message that
    moved, before the words for where that stands; ``undoable`` whether it can be taken back at all; ``by_itself`` that
    nobody asked for it, so it is never the latest that was done."""

    label: str
    moved: str = "It was moved, and stands"
    undoable: bool = True
    by_itself: bool = False


STEPS: dict[StepKind, Facets] = {
    StepKind.VERDICT: Facets("verdict", "You put it"),
    StepKind.ELSEWHERE: Facets("elsewhere", "It was moved in another program, and stands"),
    StepKind.KIN: Facets("similar mail", "It is like a message you decided on, and stands"),
    StepKind.FILED: Facets("filed", "You filed it"),
    StepKind.BACK: Facets("put back", "You put it back"),
    StepKind.MARKED: Facets("marked"),
    StepKind.TAGGED: Facets("tagged"),
    StepKind.TAGS: Facets("tag"),
    StepKind.DUE: Facets("due"),
    StepKind.PARKED: Facets("parked"),
    StepKind.RETURNED: Facets("returned", undoable=False, by_itself=True),
    StepKind.OWED: Facets("owed"),
    StepKind.ROUTINE: Facets("routine", "A routine moved it, and it stands"),
    StepKind.RULE: Facets("rule run", "A rule moved it, and it stands"),
    StepKind.AGED: Facets("by a rule", "A rule for old mail moved it, and it stands", by_itself=True),
    StepKind.SERVED: Facets("put back", by_itself=True),
    StepKind.TOPIC: Facets("topic", "A topic moved it, and it stands"),
    StepKind.LEARNED: Facets("by itself", "What the model learned moved it, and it stands", by_itself=True),
    StepKind.SECOND_LOOK: Facets("second look", "You moved it at a second look, and it stands"),
    StepKind.WEIGHED: Facets("old mail", "You put it away in old mail, and it stands"),
    StepKind.LEFT_OUT: Facets("left out"),
    StepKind.LET_GO: Facets("out of the Drain", "Its days in the Drain were over, and it stands"),
    StepKind.EMPTIED: Facets("emptied", "You emptied the Drain, and it stands"),
    StepKind.REMOVED: Facets("out of the Trash", undoable=False, by_itself=True),
    StepKind.DISCARDED: Facets("discarded"),
    StepKind.ENDED: Facets("no longer always"),
    StepKind.ARRANGED: Facets("arranged"),
    StepKind.SWITCHED: Facets("switched off", "Its bucket was switched off, and it stands"),
    StepKind.UNREADABLE: Facets(
        "kept whole", "It could not be read and was kept whole", undoable=False, by_itself=True
    ),
}
"""The table: the journal, the page and undo ask it."""

BY_THEMSELVES = tuple(kind for kind, facets in STEPS.items() if facets.by_itself)
"""Steps that are never the latest that was done."""
FINAL = frozenset(kind for kind, facets in STEPS.items() if not facets.undoable)
"""Steps that tell what happened, with nothing to take back."""
