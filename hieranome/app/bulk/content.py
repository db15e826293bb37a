"""What an edition says, as it is kept and as it is written out: groups of mail, and at its end what happened since the
edition before."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from pydantic import TypeAdapter

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
    leaving: int


@dataclass(frozen=True, slots=True)
class Content:
    """All of an edition: its plan's name, when it was due, by which zone, and what stands in it. ``left_over`` is how
    much more mail there was than an edition holds: it waits for the next."""

    name: str
    due: int
    zone: str
    groups: tuple[Group, ...]
    end: End
    left_over: int

    @property
    def entries(self) -> list[Entry]:
        """Every message, in the order of the edition."""
        return [one for group in self.groups for one in group.entries]

    def kept(self) -> dict[str, Any]:
        """It as JSON can say it."""
        return asdict(self)

    @classmethod
    def read(cls, kept: object) -> Content:
        """It from what was kept. Raises :class:`ValueError` for what is no edition."""
        return _CONTENT.validate_python(kept)


_CONTENT = TypeAdapter(Content)
