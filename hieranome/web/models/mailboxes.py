"""Mailboxes on servers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, SecretStr

from hieranome.app.mailbox.elsewhere import Waiting
from hieranome.app.mailbox.habits import Person
from hieranome.web.models.answer import Answer
from hieranome.web.models.mail import MessageOut

Address = Annotated[str, Field(max_length=254, pattern=r"^\s*[^@\s]+@[^@\s]+\s*$")]
Host = Annotated[str, Field(min_length=1, max_length=253, pattern=r"^[A-Za-z0-9.:-]+$")]
PortNumber = Annotated[int, Field(ge=1, le=65535)]
Security = Literal["tls", "starttls", "plain"]
Pin = Annotated[str, Field(pattern=r"^([0-9A-F]{2}(:[0-9A-F]{2}){31})?$")]
"""A SHA-256 fingerprint as it is shown, or empty."""
Kept = Literal["keyring", "sealed", "file"]


class ServersIn(BaseModel):
    """A mailbox as its owner describes it. ``bearer`` says that the secret is a token and no password; ``secret`` may
    be left out where one is kept already, or where the owner authorised it: ``authorisation`` says by which one. A pin
    is the fingerprint of the one certificate a server is trusted by."""

    address: Address
    name: Annotated[str, Field(max_length=100)] = ""
    user: Annotated[str, Field(min_length=1, max_length=254)]
    bearer: bool = False
    secret: Annotated[SecretStr, Field(max_length=10_000)] | None = None
    kept: Kept = "file"
    imap_host: Host
    imap_port: PortNumber
    imap_security: Security
    smtp_host: Host
    smtp_port: PortNumber
    smtp_security: Security
    imap_pin: Pin = ""
    smtp_pin: Pin = ""
    authorisation: Annotated[str, Field(max_length=100)] = ""


class FindIn(BaseModel):
    """The address whose servers are looked for; its domain alone is asked for."""

    address: Address


class NamedOut(Answer):
    """A server that answered: how it is reached, and who named it: DNS, a file its domain publishes, or the usual
    names."""

    host: str
    port: int
    security: Security
    how: Literal["dns", "published", "usual"]


class AttemptOut(Answer):
    """What was tried, and why it did not do; empty where it did."""

    what: str
    why: str


class ServersFoundOut(Answer):
    """The servers found, or null; the user name they want; ``foreign`` hosts outside the address's domain, to which a
    password goes only on the owner's word; all that was tried."""

    imap: NamedOut | None
    smtp: NamedOut | None
    user: str
    foreign: list[str]
    tried: list[AttemptOut]


class ListedOut(Answer):
    """A folder found on a server: its role, the title of the bucket whose folder it is by its name (or empty), how many
    messages it holds."""

    name: str
    role: str
    bucket: str
    messages: int


class ProbeOut(Answer):
    """What was found when the servers were tried: the folders, what the server can do in words."""

    folders: list[ListedOut]
    abilities: list[str]


class MailFolderOut(Answer):
    """A folder of a mailbox: its role, the place its mail stands in here, whether it is on the server, whether it is
    followed, how many messages are known of it and how many it holds."""

    id: int
    name: str
    role: str
    place: str
    present: bool
    followed: bool
    known: int
    messages: int


class FollowIn(BaseModel):
    """Whether a folder is followed."""

    followed: bool


class MailboxOut(Answer):
    """A mailbox. ``state`` is new, reading, weighing or watching; ``routing`` says that mail is moved on the server;
    ``error`` is why it cannot be reached; ``done`` of ``total`` messages of its history are read; ``waiting`` copies
    are still to be moved; ``kept`` is how its secret is kept."""

    id: int
    address: str
    name: str
    user: str
    bearer: bool
    imap_host: str
    imap_port: int
    imap_security: Security
    smtp_host: str
    smtp_port: int
    smtp_security: Security
    imap_pin: str
    smtp_pin: str
    authorise_url: str
    token_url: str
    client_id: str
    scope: str
    state: Literal["new", "reading", "weighing", "watching"]
    paused: bool
    routing: bool
    error: str
    synced_at: int
    done: int
    total: int
    waiting: int
    kept: Kept | None


class KeepersOut(Answer):
    """Where a secret can be kept on this machine."""

    keyring: bool
    sealed: bool


class MailboxesOut(Answer):
    """All mailboxes, and where secrets can be kept."""

    mailboxes: list[MailboxOut]
    keepers: KeepersOut


class SwitchIn(BaseModel):
    """On or off."""

    on: bool


class CountOut(Answer):
    """How many messages would go to a place."""

    place: str
    messages: int


class PreviewOut(Answer):
    """Where the newest messages of a mailbox's inbox would go, and how many these are."""

    counts: list[CountOut]
    total: int


class QuestionOut(Answer):
    """A message of the first round, and how many of the newest are of its sender or list."""

    message: MessageOut
    alike: int


class RoundOut(Answer):
    """The first round: how many of how many answers were given, and the next question, or null when it is over."""

    answered: int
    answers: int
    question: QuestionOut | None


class PersonFoundOut(Answer, of=Person):
    """A correspondent of the history; ``minutes`` is the usual time to an answer, 0 where none is known."""


class AddressFoundOut(Answer):
    """An address that may be the owner's, and how many messages were sent to it."""

    address: str
    messages: int


class HistoryOut(Answer):
    """What the history tells: addresses that may be the owner's, who is answered, who is left unread, how many lists
    write."""

    addresses: list[AddressFoundOut]
    answered: list[PersonFoundOut]
    unread: list[PersonFoundOut]
    lists: int


class LeaveIn(BaseModel):
    """How a mailbox is left: its folders kept as they are, or all mail put back into the inbox."""

    how: Literal["keep", "back"]


class LeavingOut(Answer):
    """How far the leaving is: how many messages are on the server, how many were put back, which are not there;
    ``left`` is what of ours could not be taken away from it (empty: nothing)."""

    state: Literal["none", "busy", "done", "failed"]
    error: str = ""
    left: str = ""
    there: int = 0
    brought_back: int = 0
    missing: list[MessageOut] = Field(default_factory=list)


class ElsewhereOut(Answer, of=Waiting):
    """Moves another program made, too many to be learned unasked: where to, how many, the first few."""

    first: list[MessageOut]


class ElsewhereIn(BaseModel):
    """Whether these moves are lessons."""

    learn: bool


class LearnedOut(Answer):
    """How many lessons were made."""

    lessons: int


class DoubtedOut(Answer):
    """Messages in Junk that the model thinks matter, the most important first, and how many there are."""

    messages: list[MessageOut]
    total: int
