"""The away notice."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.at_server.differences import Difference
from hieranome.core.away import MAX_CIRCLES, MAX_TEXT, Who
from hieranome.core.query import MAX_LINE
from hieranome.mail.managesieve import PORT
from hieranome.store.away import Told
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.mail import InvitationOut, MessageOut
from hieranome.web.models.mailboxes import Host, PortNumber, Security

Typed = Annotated[str, Field(max_length=200)]


class CircleIn(BaseModel):
    """Some people: those a search line holds, those ever written to, or everybody; and what they are told, by language
    (the empty one: mail in every other; none at all: nothing)."""

    name: Annotated[str, Field(max_length=200)]
    who: Who
    line: Annotated[str, Field(max_length=MAX_LINE)] = ""
    texts: Annotated[dict[str, Annotated[str, Field(max_length=MAX_TEXT)]], Field(max_length=20)]


class AwayIn(BaseModel):
    """The notice: ``begins`` and ``ends`` as they are typed; empty keeps what stands, and begins now where nothing
    does. A whole day is away until it is over. A person is told again after ``days``."""

    on: bool
    begins: Typed = ""
    ends: Typed = ""
    days: Annotated[int, Field(ge=0, le=1_000)] = 7
    circles: Annotated[list[CircleIn], Field(max_length=MAX_CIRCLES)]


class CircleOut(Answer):
    """A circle as it stands; ``sentence`` is how its line reads, or why it cannot be read."""

    name: str
    who: Who
    line: str
    sentence: str
    texts: dict[str, str]


class ToldOut(Answer, of=Told):
    """Somebody who got a notice, and why a server did not take it (empty: it did)."""


class AwayServerOut(Answer):
    """A mailbox: whether its server sends the notice, whether that is known to stand as it was put there, and why the
    last change could not be put there (empty: it was)."""

    account: int
    address: str
    answers: bool
    current: bool
    problem: str


class AwayOut(Answer):
    """The notice as it stands: ``holds`` says that it is sent now; times are Unix seconds (0: none said yet), also as
    they read."""

    on: bool
    holds: bool
    begins: int
    ends: int
    begins_shown: str
    ends_shown: str
    days: int
    circles: list[CircleOut]
    languages: list[str]
    told: list[ToldOut]
    servers: list[AwayServerOut]


class WouldOut(Answer):
    """A message of last week whose sender would have got a notice, and which."""

    message: MessageOut
    person: str
    circle: str
    language: str
    text: str


class WouldNotOut(Answer):
    """Why others would have got none: how many messages, and one of them."""

    why: str
    count: int
    message: int


class DryRunOut(Answer):
    """What the notice would have done last week."""

    looked_at: int
    would: list[WouldOut]
    others: list[WouldNotOut]


class InvitedOut(Answer):
    """An invitation into the time away, and what was answered (empty: nothing yet)."""

    message: MessageOut
    invitation: InvitationOut
    answer: str


class DifferenceOut(Answer, of=Difference):
    """What a server does otherwise with the notice."""


class AnswerAtIn(BaseModel):
    """Whether the server of a mailbox sends the notice; then nothing is sent from here for that mailbox. ``host`` is
    where it keeps its scripts (RFC 5804; empty: where it was asked before, or at the mailbox's own server)."""

    account: Id
    on: bool
    host: Host | Literal[""] = ""
    port: PortNumber = PORT
    security: Security = "starttls"
