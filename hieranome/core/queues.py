"""Queues: cases that pass through states of the owner's own naming, one after the other.

What passes through is the mail of a bucket, of a tray or of a tag. The first state is where all of it stands at first;
each later one is a tag, so that it is a keyword on servers, stands in the journal, and is found by a search.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.core.errors import CallerError
from hieranome.core.tags import clean_name

Of = Literal["bucket", "tag", "tray"]
MAX_QUEUES = 30
MAX_STATES = 9
MAX_NAME = 40


@dataclass(frozen=True, slots=True)
class State:
    """A state: how it is called, and the tag it is (0: the first, which needs none)."""

    name: str
    tag: int = 0


@dataclass(frozen=True, slots=True)
class Queue:
    """A queue: its name, what passes through it (``of`` what, and which: a place, a tag's number, a tray's name), and
    its states in order."""

    id: int
    name: str
    of: Of
    target: str
    states: tuple[State, ...]


def check(queue: Queue) -> None:
    """Raises :class:`CallerError` for a queue without a name, with too few or too many states, or two of one name."""
    names = [queue.name, *(one.name for one in queue.states)]
    for name in names:
        if not name or len(name) > MAX_NAME:
            raise CallerError(f"A queue and its states have names of 1 to {MAX_NAME} characters.")
        clean_name(name)
    if not 2 <= len(queue.states) <= MAX_STATES:
        raise CallerError(f"A queue has 2 to {MAX_STATES} states; this one has {len(queue.states)}.")
    if len({one.name.casefold() for one in queue.states}) < len(queue.states):
        raise CallerError("Two states have the same name. Give each its own.")


def tag_name(queue: str, state: str) -> str:
    """How the tag of a state is called."""
    return f"{queue}: {state}"[:60].strip()


def state_of(states: Sequence[State], carried: Sequence[int]) -> int:
    """In which state a message is, counted from 0, by the tags it carries: the furthest, where other programs set
    several."""
    found = [at for at, one in enumerate(states) if one.tag and one.tag in carried]
    return max(found, default=0)


def parted(states: Sequence[State], mail: Sequence[int], carried: Mapping[int, Sequence[int]]) -> list[list[int]]:
    """Messages by state, each in the order given."""
    parts: list[list[int]] = [[] for _ in states]
    for number in mail:
        parts[state_of(states, carried.get(number, ()))].append(number)
    return parts
