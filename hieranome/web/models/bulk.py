"""Bulk mail: subscriptions, unsubscribing, the Drain, old mail."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.bulk.old_mail import Age, Row, Weighed
from hieranome.app.emptying import Trash as ShownTrash
from hieranome.store.unsubscribed import Asked, Outcome
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.teaching import StepOut


class SubscriptionOut(Answer):
    """A recurring bulk sender: the key of its source and of those that are one with it, by what it was found (a list,
    what its mail says, or how it writes), how much came, its bytes, the share read (0 to 1), when it was first
    seen and last read (0 for never), how much came in each of the last 26 weeks, oldest first, and how many a
    week lately, through which of the owner's addresses, the bucket decided on for always (empty while open), when it
    was last asked with success to write no more (0 for never), and how much it wrote all the same, later than it had
    to."""

    key: str
    keys: list[str]
    sign: Literal["list", "bulk", "habit"]
    name: str
    domain: str
    total: int
    size: int
    read: float
    first_seen: int
    last_read: int
    subject: str
    weeks: list[int]
    weekly: float
    addresses: list[str]
    belongs: str
    unsubscribed: int
    came_back: int


class SubscriptionsOut(Answer):
    """All subscriptions, and how much old mail was not looked through for what it says of itself yet."""

    subscriptions: list[SubscriptionOut]
    to_look_at: int


class OfferOut(Answer):
    """How a subscription can be ended: by a request without a page (``post``), by a message (``mailto``) from one of
    the owner's addresses, on a page the owner opens (``link``), or not but by refusing; to whom, why so in words, and
    the subject and text of the message, as they will be sent."""

    way: Literal["post", "mailto", "link", "refuse"]
    target: str
    sender: str
    words: str
    subject: str
    text: str


class RequestOut(Answer):
    """What was asked so that a sender writes no more, and what came of it: ``asked`` until that is known, ``accepted``,
    a ``page`` that wants a person, ``failed``, ``unreached``, or ``sent``."""

    at: int
    way: Asked
    target: str
    outcome: Outcome
    words: str


class AboutOut(Answer):
    """What a subscription says it is: its description, the domain its newest message comes from and whether a believed
    server found that so, its newest messages, how it can be ended, and what was asked so far, newest first."""

    description: str
    domain: str
    standing: Literal["absent", "aligned", "unaligned", "forged"]
    recent: list[MessageOut]
    offer: OfferOut
    asked: list[RequestOut]


class UnsubscribeIn(BaseModel):
    """A subscription to be ended, by the key of its source."""

    source: Annotated[str, Field(max_length=2_000)]


class DecisionIn(BaseModel):
    """Subscriptions by the keys of all their sources, and the bucket all their mail belongs in from now on; whether
    that is ``confirmed``, where it asks; ``chosen`` says that the owner chose each of them."""

    sources: Annotated[list[Annotated[str, Field(max_length=2_000)]], Field(min_length=1, max_length=500)]
    belongs: str
    confirmed: bool = False
    chosen: bool = False


class DrainOut(Answer):
    """The Drain: for how many days it keeps mail (0: for good), how much stands there and how large, of how much it is
    doubtful that it belongs there, how much leaves within a week, the newest message by its id, and what good mail in
    it is said to cost."""

    days: int
    total: int
    size: int
    doubtful: int
    leaving: int
    newest: int
    cost: float


class DrainIn(BaseModel):
    """How the Drain is to be; what is left out stays as it is."""

    days: Annotated[int, Field(ge=0, le=3_650)] | None = None
    cost: float | None = None


class EmptyIn(BaseModel):
    """Up to which message the Drain is to be emptied, by its id."""

    newest: Id


class TrashOut(Answer, of=ShownTrash):
    """The Trash: how much can be taken out of it for good and its bytes, how much stays because it stands elsewhere on
    a server still, and how much is going already."""


class EmptyTrashIn(BaseModel):
    """How many messages are to be taken out of the Trash for good, as they were told."""

    messages: Annotated[int, Field(ge=1)]


class WouldOut(Answer):
    """What a cost of good mail drained would have done with the mail of the last month."""

    cost: float
    drained: int
    good: int


class WeightOut(Answer, of=Row):
    """Mail of a list, sender or domain beyond an age: how much may go and its bytes, how much is kept apart and its
    bytes, the shares read and answered (0 to 1), its first and last week (Unix seconds of their Mondays), how much a
    year."""


class AgeOut(Answer, of=Age):
    """What mail older than so many weeks would free."""


class WeighedOut(Answer, of=Weighed):
    """Old mail weighed: the rows told, how many others there are and their bytes, what each age would free."""

    rows: list[WeightOut]
    ages: list[AgeOut]


class PutAwayIn(BaseModel):
    """Rows of old mail whose mail is to go to the Trash; ``kept`` for what is kept apart as well."""

    keys: Annotated[list[Annotated[str, Field(max_length=2_000)]], Field(min_length=1, max_length=5_000)]
    weeks: Annotated[int, Field(ge=0, le=5_000)]
    by: Literal["source", "domain"] = "source"
    kept: bool = False


class PutAwayOut(Answer):
    """What went: the step that did it, and the bytes."""

    step: StepOut
    size: int
