"""What the core knows of a message: plain facts, read elsewhere, judged here."""

from __future__ import annotations

from dataclasses import dataclass, field

from hieranome.core.addresses import untagged


@dataclass(frozen=True, slots=True)
class Correspondent:
    """A person or machine in an address header; ``address`` is lower-cased, may be empty."""

    address: str
    name: str = ""

    def __reduce__(self) -> tuple[type[Correspondent], tuple[str, str]]:
        """Pickled as its values."""
        return Correspondent, (self.address, self.name)

    @property
    def domain(self) -> str:
        """The part behind the last ``@``, or an empty string."""
        return self.address.rpartition("@")[2] if "@" in self.address else ""


NOBODY = Correspondent("")


@dataclass(frozen=True, slots=True)
class AttachmentFacts:
    """One attached part: its media type, its file name (may be empty), its decoded size in bytes."""

    media_type: str
    name: str
    size: int


@dataclass(frozen=True, slots=True)
class MessageFacts:
    """Everything the engine may look at in one message.

    ``sent_at`` is Unix seconds (0 when no date could be read); ``size`` is bytes of the raw
    message; ``text`` is the writer's own words with quoted text and signature set aside; ``header_names``
    are lower-cased, in order, each once, of all headers that were read; ``headers_whole`` says whether those are all
    there are, each read to its end; ``html_tags`` are the kinds of tags its HTML uses.
    """

    message_id: str = ""
    in_reply_to: str = ""
    references: tuple[str, ...] = ()
    sender: Correspondent = NOBODY
    reply_to: Correspondent = NOBODY
    to: tuple[Correspondent, ...] = ()
    cc: tuple[Correspondent, ...] = ()
    subject: str = ""
    text: str = ""
    sent_at: int = 0
    hour: int = -1
    size: int = 0
    list_id: str = ""
    list_post: bool = False
    list_unsubscribe: bool = False
    precedence: str = ""
    auto_submitted: bool = False
    mailer: str = ""
    media_type: str = "text/plain"
    html_only: bool = False
    invitation: bool = False
    links: tuple[str, ...] = ()
    attachments: tuple[AttachmentFacts, ...] = ()
    quoted_lines: int = 0
    sender_priority: int = 0
    delivered_to: str = ""
    first_host: str = ""
    authentication: tuple[tuple[str, str], ...] = ()
    header_names: tuple[str, ...] = ()
    headers_whole: bool = True
    charset: str = ""
    html_tags: tuple[str, ...] = ()
    defects: tuple[str, ...] = ()
    readable: bool = True

    def __reduce__(self) -> tuple[type[MessageFacts], tuple[object, ...]]:
        """Pickled as its values: facts travel between processes by the hundred."""
        return MessageFacts, tuple(getattr(self, name) for name in _FACTS)

    @property
    def attached(self) -> int:
        """How many attachments there are; an invitation without a name is none."""
        return sum(1 for one in self.attachments if one.media_type != "text/calendar" or one.name)

    @property
    def recipients(self) -> tuple[Correspondent, ...]:
        """To and Cc together, in order."""
        return self.to + self.cc


_FACTS = tuple(MessageFacts.__dataclass_fields__)


@dataclass(frozen=True, slots=True)
class Owner:
    """The person the mail is for: every address they receive mail at, lower-cased."""

    addresses: frozenset[str] = field(default_factory=frozenset)

    @classmethod
    def of(cls, *addresses: str) -> Owner:
        """An owner of the given addresses."""
        return cls(frozenset(a.strip().lower() for a in addresses if a.strip()))

    def owns(self, who: Correspondent) -> bool:
        """Whether the address belongs to the owner, with or without a tag behind a plus (RFC 5233)."""
        return who.address in self.addresses or untagged(who.address) in self.addresses
