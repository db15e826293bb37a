"""Writing."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.writing.beginning import Answer as InvitationAnswer
from hieranome.app.writing.beginning import Kind
from hieranome.store.drafts import DraftAttachment, Identity
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.mailboxes import Address

Line = Annotated[str, Field(max_length=20_000)]


class IdentityOut(Answer, of=Identity):
    """Who the owner writes as."""


class IdentityIn(BaseModel):
    """Who the owner writes as, and the mailbox that hands its mail in."""

    address: Address
    account: int
    name: Annotated[str, Field(max_length=100)] = ""
    signature: Annotated[str, Field(max_length=5_000)] = ""


class AttachmentOut(Answer, of=DraftAttachment):
    """A file that goes with a draft; its size in bytes."""


class DraftOut(Answer):
    """What the owner writes: a draft, in the outbox, on its way, gone, or unsure. Times are Unix seconds; ``due_at`` is
    when it goes, ``timed`` when the owner wants it to (0: at once), ``awaited`` by when an answer is waited for (0:
    none is), ``phrased`` that a phrase was put into it."""

    id: int
    sender: str
    recipients: str
    cc: str
    bcc: str
    subject: str
    body: str
    kind: Literal["new", "reply", "reply_all", "forward", "answer"]
    answers: int | None
    changed_at: int
    state: Literal["draft", "waiting", "sending", "handing", "sent", "unsure"]
    due_at: int
    timed: int
    awaited: int
    phrased: bool
    tries: int
    error: str
    attachments: list[AttachmentOut]


class SendIn(BaseModel):
    """When it goes, and by when an answer is waited for, as they were typed; empty: at once, and not."""

    at: Annotated[str, Field(max_length=200)] = ""
    awaited: Annotated[str, Field(max_length=200)] = ""


class BeginIn(BaseModel):
    """What is begun: a new message, a reply to or forward of a message, or another program's ``draft`` gone on with."""

    kind: Literal[Kind, "draft"]
    message: Id | None = None


class DraftIn(BaseModel):
    """All that the owner wrote of a draft."""

    sender: Annotated[str, Field(max_length=254)]
    recipients: Line = ""
    cc: Line = ""
    bcc: Line = ""
    subject: Annotated[str, Field(max_length=2_000)] = ""
    body: Annotated[str, Field(max_length=2_000_000)] = ""


class InvitationIn(BaseModel):
    """The answer to an invitation."""

    answer: InvitationAnswer


class PersonOfferedOut(Answer):
    """A correspondent offered while an address is typed."""

    name: str
    address: str
