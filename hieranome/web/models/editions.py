"""Editions and their plans."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.app.bulk.content import End, Step
from hieranome.core.plans import Grouped, Length
from hieranome.web.models.answer import Answer


class PlanIn(BaseModel):
    """An edition plan: its mail (buckets, lists and senders by key, what a search line finds), on which days (bits,
    Monday 1, Tuesday 2, ... Sunday 64) at which times (HH:MM) of which time zone (an IANA name), what it is grouped by,
    how much is told, and whether it also comes as a message on the Desk."""

    name: Annotated[str, Field(max_length=200)]
    enabled: bool = True
    buckets: Annotated[list[str], Field(max_length=100)] = []
    sources: Annotated[list[Annotated[str, Field(max_length=2_000)]], Field(max_length=5_000)] = []
    search: Annotated[str, Field(max_length=2_000)] = ""
    days: Annotated[int, Field(ge=0, le=127)] = 31
    times: Annotated[list[Annotated[str, Field(max_length=20)]], Field(max_length=50)] = ["07:30"]
    zone: Annotated[str, Field(max_length=100)] = ""
    grouped: Grouped = Grouped.LIST
    length: Length = Length.MEDIUM
    delivered: bool = True


class PlanOut(Answer):
    """A plan as it is kept, and when its next edition is due (0 for never); ``names`` are those of its sources."""

    id: int
    name: str
    enabled: bool
    buckets: list[str]
    sources: list[str]
    names: list[str]
    search: str
    days: int
    times: list[str]
    zone: str
    grouped: Grouped
    length: Length
    delivered: bool
    next_due: int


class LeftOutOut(Answer):
    """A list or sender that stands in no edition."""

    source: str
    name: str


class PlansOut(Answer):
    """All plans, what stands in no edition, and the time zone of the machine."""

    plans: list[PlanOut]
    left_out: list[LeftOutOut]
    zone: str


class EditionOut(Answer):
    """An edition: its plan's name, when it was due, how many messages stand in it, when it was read (0 for not yet)."""

    id: int
    plan: int
    name: str
    due: int
    messages: int
    read_at: int


class EditionsOut(Answer):
    """Editions, newest first; ``next`` is the number to ask for older ones with (0 at the end)."""

    editions: list[EditionOut]
    next: int
    unread: int


class EditionEntryOut(Answer):
    """A message of an edition: what is told of it, the bucket it stood in then (``stood``) and where it stands now
    (``place``), read or not."""

    message: int
    source: str
    source_name: str
    sender: str
    subject: str
    time: int
    sentences: list[str]
    stood: str
    place: str
    seen: bool


class GroupOut(Answer):
    """Mail of one list, sender or topic."""

    title: str
    newest: EditionEntryOut
    others: list[EditionEntryOut]


class EditionStepOut(Answer, of=Step):
    """A step of the journal as the end of an edition tells it."""


class CameOut(Answer):
    """How much came that stands in a place, by its title."""

    title: str
    count: int


class EndOut(Answer, of=End):
    """What happened since the edition before."""

    came: list[CameOut]
    steps: list[EditionStepOut]
    questions: list[str]


class OpenedEditionOut(EditionOut):
    """An edition to be read; ``left_over`` is how much mail waits for the next since an edition has a bound."""

    groups: list[GroupOut]
    end: EndOut
    left_over: int


class LeaveOutIn(BaseModel):
    """Lists and senders that are to stand in no edition."""

    sources: Annotated[list[Annotated[str, Field(max_length=2_000)]], Field(min_length=1, max_length=500)]
