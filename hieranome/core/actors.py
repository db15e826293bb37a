"""Who does something to mail: apart from by what it was decided where a message stands."""

from __future__ import annotations

from enum import StrEnum


class Actor(StrEnum):
    """Who moved, marked, tagged or read mail."""

    OWNER = "owner"
    """The owner, here."""
    ELSEWHERE = "elsewhere"
    """The owner, in another program."""
    RULE = "rule"
    TOPIC = "topic"
    ROUTINE = "routine"
    MODEL = "model"


HABITS = frozenset({Actor.OWNER, Actor.ELSEWHERE})
"""Whose doings tell of the owner's habits: only these count in the sums of a sender."""
