"""What an edition says, as it is kept and as it is written out: groups of mail, and at its end what happened since the
edition before."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any

from hieranome.core.editions import Entry, Group


@dataclass(frozen=True, slots=True)
class Step:
    """A step of the journal as the end of an edition tells it."""

    at: int
    title: str
    messages: int


@dataclass(frozen=True, slots=True)
class End:
    """What happened since the edition before: how much came, by the title of where it stands; what was moved, with the
    steps that did; how many lessons were given; how much waits in Your call, with its most valuable questions; how much
    the Drain lets go within a week."""

    since: int
    came: tuple[tuple[str, int], ...]
    steps: tuple[Step, ...]
    more_steps: int
    lessons: int
    asked: int
    questions: tuple[str, ...]
    leaving: int = 0


@dataclass(frozen=True, slots=True)
class Content:
    """All of an edition: its plan's name, when it was due, by which zone, and what stands in it. ``left_over`` is how
    much more mail there was than an edition holds: it waits for the next."""

    name: str
    due: int
    zone: str
    groups: tuple[Group, ...]
    end: End
    left_over: int = 0

    @property
    def entries(self) -> list[Entry]:
        """Every message, in the order of the edition."""
        return [one for group in self.groups for one in group.entries]

    def kept(self) -> dict[str, Any]:
        """It as JSON can say it."""
        return asdict(self)

    @classmethod
    def read(cls, kept: Mapping[str, Any]) -> Content:
        """It from what was kept."""
        groups = tuple(
            Group(one["title"], _entry(one["newest"]), tuple(_entry(other) for other in one["others"]))
            for one in kept["groups"]
        )
        end = kept["end"]
        told = End(
            end["since"],
            tuple((title, count) for title, count in end["came"]),
            tuple(Step(**one) for one in end["steps"]),
            end["more_steps"],
            end["lessons"],
            end["asked"],
            tuple(end["questions"]),
            end.get("leaving", 0),
        )
        return cls(kept["name"], kept["due"], kept["zone"], groups, told, kept["left_over"])


def _entry(kept: Mapping[str, Any]) -> Entry:
    return Entry(**{**kept, "sentences": tuple(kept["sentences"])})
