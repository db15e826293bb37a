"""What a search asks of a message, as a tree: conditions, and how they are put together."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Column = Literal["subject", "sender", "recipients", "cc", "list", "files", "body"]
Sign = Literal["=", ">=", "<", "<=", ">"]

EVERYWHERE: tuple[Column, ...] = ("subject", "sender", "recipients", "cc", "list", "files", "body")


@dataclass(frozen=True, slots=True)
class Words:
    """Words next to each other in one of the columns; with ``prefix`` the last may go on."""

    columns: tuple[Column, ...]
    text: str
    prefix: bool = False


@dataclass(frozen=True, slots=True)
class Is:
    """The sender's address, its domain or the list's id is this; of the latter two, or ends with a dot and this."""

    field: Literal["address", "domain", "list"]
    value: str


@dataclass(frozen=True, slots=True)
class Holds:
    """The subject or the sender's address holds this anywhere, also within words; letters of ASCII in any case."""

    column: Literal["subject", "address"]
    text: str


NUMBERS: dict[str, str] = {
    "size": "",
    "time": "",
    "score": "the score is known here alone",
    "certainty": "the certainty is known here alone",
    "attachments": "Sieve does not count attachments",
    "seen": "mail is marked after it arrives",
    "answered": "mail is marked after it arrives",
    "flagged": "mail is marked after it arrives",
}
"""The numbers of a message that can be compared, and why no mail server can compare them (empty: it can)."""


@dataclass(frozen=True, slots=True)
class Test:
    """A comparison with a number of the message, one of ``NUMBERS``: ``score`` and ``certainty`` in [0, 1], ``time`` in
    Unix seconds, ``size`` in bytes, flags 0 or 1."""

    field: str
    sign: Sign
    value: float


@dataclass(frozen=True, slots=True)
class Stands:
    """The message stands in a place."""

    place: str


@dataclass(frozen=True, slots=True)
class Tagged:
    """The message carries one of some tags, by their ids."""

    tags: frozenset[int]


@dataclass(frozen=True, slots=True)
class Held:
    """The message stands in a mailbox whose address has this in it."""

    account: str


@dataclass(frozen=True, slots=True)
class Due:
    """The message is due from one time up to but without another (Unix seconds)."""

    since: int
    until: int


@dataclass(frozen=True, slots=True)
class Not:
    """What does not hold."""

    part: Node


@dataclass(frozen=True, slots=True)
class All:
    """Everything holds; of nothing, that is true."""

    parts: tuple[Node, ...]


@dataclass(frozen=True, slots=True)
class Any:
    """One at least holds."""

    parts: tuple[Node, ...]


Node = Words | Is | Holds | Test | Stands | Tagged | Held | Due | Not | All | Any
