"""Bulk mail: subscriptions."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.web.models.answer import Answer
from hieranome.web.models.mail import MessageOut


class SubscriptionOut(Answer):
    """A recurring bulk sender: the key of its source and of those that are one with it, by what it was found (a list,
    what its mail says, or how it writes), how much came, its bytes, the shares read and answered (0 to 1), when it was
    first seen and last read (0 for never), how much came in each of the last 26 weeks, oldest first, and how many a
    week lately, through which of the owner's addresses, and the bucket decided on for always (empty while open)."""

    key: str
    keys: list[str]
    sign: Literal["list", "bulk", "habit"]
    name: str
    domain: str
    total: int
    size: int
    read: float
    answered: float
    first_seen: int
    last_read: int
    last_seen: int
    subject: str
    weeks: list[int]
    weekly: float
    addresses: list[str]
    belongs: str


class SubscriptionsOut(Answer):
    """All subscriptions, and how much old mail was not looked through for what it says of itself yet."""

    subscriptions: list[SubscriptionOut]
    to_look_at: int


class AboutOut(Answer):
    """What a subscription says it is: its description, where help and its archive are, the domain its newest message
    comes from and whether a believed server found that so, and its newest messages."""

    description: str
    help: str
    archive: str
    domain: str
    standing: Literal["absent", "aligned", "unaligned", "forged"]
    recent: list[MessageOut]


class DecisionIn(BaseModel):
    """Subscriptions by the keys of all their sources, and the bucket all their mail belongs in from now on."""

    sources: Annotated[list[Annotated[str, Field(max_length=2_000)]], Field(min_length=1, max_length=500)]
    belongs: str
