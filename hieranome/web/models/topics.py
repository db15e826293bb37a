"""Topics: tags that find their mail."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.core.tags import MAX_NAME
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.filing import Numbers
from hieranome.web.models.mail import MessageOut

Said = Annotated[str, Field(max_length=2_000)]


class TopicIn(BaseModel):
    """A kind of mail in words: for a tag that is there, or (0) for a new one of this name."""

    tag: Id = 0
    name: Annotated[str, Field(max_length=4 * MAX_NAME)] = ""
    said: Said = ""


class TopicAnswerIn(BaseModel):
    """What the owner says of messages; ``drawn`` that they were drawn by lot, as the page was told."""

    messages: Numbers
    belongs: bool
    drawn: bool = False


class TopicTurnIn(BaseModel):
    """Whether a topic tags mail as it arrives, and in which bucket it puts it too (empty: in none)."""

    enabled: bool
    bucket: Annotated[str, Field(max_length=100)] = ""


class TopicOut(Answer):
    """A topic. ``words`` are those looked for, the rarest first, ``beside`` those found standing beside them."""

    id: int
    tag: int
    said: str
    words: list[str]
    beside: list[str]
    bucket: str
    enabled: bool


class ReasonOut(Answer):
    """What speaks for a message: ``said`` or a group of what is looked at, how that is called, the texts it is about,
    the log-odds it adds."""

    group: str
    heading: str
    texts: list[str]
    amount: float


class TopicQuestionOut(Answer):
    """A message that is asked about: how likely it belongs (0 to 1), why, and whether it was drawn by lot."""

    message: MessageOut
    likely: float
    reasons: list[ReasonOut]
    drawn: bool


class TopicToldOut(Answer):
    """A topic as it stands: answers for and against; how many messages of the last thirteen weeks it holds for its own,
    how many of those it doubts, how many a week; of how many drawn by lot it was right, between which two shares that
    lies with 95 %; what it asks."""

    topic: TopicOut
    belongs: int
    others: int
    members: int
    doubtful: int
    weeks: list[int]
    right: int
    checked: int
    low: float
    high: float
    asks: list[TopicQuestionOut]
