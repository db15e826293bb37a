"""Following through."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.room.marks import MAX_FILED
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.mail import FollowedOut, MessageOut

Numbers = Annotated[list[Id], Field(min_length=1, max_length=MAX_FILED)]
Said = Annotated[str, Field(max_length=200)]


class MomentOut(Answer):
    """A time that was typed: when it is (Unix seconds; of a whole day its first), and how it reads."""

    at: int
    day: bool
    shown: str


class OfferOut(Answer):
    """A time that is offered: what would be typed for it, how it reads, and the words of the message that say it (empty
    where the owner's habit does)."""

    said: str
    shown: str
    words: str


class HourOut(Answer):
    """A time at which somebody usually writes: as it is typed here, how it reads, the hour by their clock, and how many
    minutes that is ahead of ours."""

    said: str
    shown: str
    hour: int
    apart: int


class DueIn(BaseModel):
    """Which messages are due, and when, as it was typed."""

    messages: Numbers
    said: Said


class DoneIn(BaseModel):
    """Messages that are done."""

    messages: Numbers


class ParkIn(BaseModel):
    """Which messages are parked: until a time that was typed (empty: by no time), and whether an answer brings them
    back (null: as it usually does)."""

    messages: Numbers
    said: Said = ""
    answer: bool | None = None


class LetGoIn(BaseModel):
    """Messages for which nothing is owed; ``promised`` says that what the owner promised in them is meant."""

    messages: Numbers
    promised: bool = False


class FollowingOut(Answer):
    """A message that is due or parked."""

    message: MessageOut
    state: FollowedOut


class OwedOut(Answer):
    """What is owed: the message, the sentence that asks or promises, who owes it or waits for it, their usual time to
    answer in seconds (0: not known), until when the owner waits (Unix seconds, 0: no time was said), a due time the
    promise names (as it is typed, or empty), whether it is a promise, and whether nobody answered in time."""

    message: MessageOut
    sentence: str
    person: str
    usual: int
    until: int
    proposed: str
    promised: bool
    missed: bool


class FollowUpOut(Answer):
    """What is due, the earliest first, and what is parked, the first to return first. ``today`` is when today began
    (Unix seconds)."""

    due: list[FollowingOut]
    parked: list[FollowingOut]
    today: int


class OwedListsOut(Answer):
    """What they owe the owner, the longest over their usual time first, and what the owner owes them, by importance and
    age; ``now`` is when it was told (Unix seconds)."""

    they: list[OwedOut]
    you: list[OwedOut]
    now: int


class FollowUpSettingsOut(Answer):
    """The hour of the clock at which a day begins, whether an answer brings back what was parked until a time, and
    whether calendars may read what is due."""

    morning: int
    answer_returns: bool
    feed: bool


class FollowUpSettingsIn(BaseModel):
    """The hour of the clock at which a day begins, and whether an answer brings back what was parked until a time."""

    morning: Annotated[int, Field(ge=0, le=23)]
    answer_returns: bool


class FeedOut(Answer):
    """The path at which calendars read what is due. It is told once."""

    path: str


Side = Literal["they", "you"]
