"""One message on its way in: its bytes compressed, its facts read, where it stands if somebody filed it."""

from __future__ import annotations

import hashlib
import zlib
from dataclasses import dataclass, replace

from hieranome.core.deciders import Decider
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector
from hieranome.core.files import kinds_of
from hieranome.mail.reading import correspondents_text, read, read_as_source
from hieranome.store.messages import Words

COMPRESSION = 6


@dataclass(frozen=True, slots=True)
class Placed:
    """Where a message was put and by what."""

    place: str
    decided_by: Decider


@dataclass(frozen=True, slots=True)
class Incoming:
    """One message read and compressed; for mail of the history its vector is made beforehand. ``stands`` is where
    somebody filed it already, which nothing here changes; ``trouble`` says why it could not be read, if it could
    not; ``account`` is the address of the mailbox it comes to, where it comes from one."""

    digest: bytes
    compressed: bytes
    facts: MessageFacts
    text: str
    seen: bool = False
    answered: bool = False
    flagged: bool = False
    vector: Vector | None = None
    stands: Placed | None = None
    trouble: str = ""
    account: str = ""


def words_of(facts: MessageFacts, text: str) -> Words:
    """The words of a message by where they stand, for the search index."""
    return Words(
        facts.subject,
        correspondents_text((facts.sender,)),
        correspondents_text(facts.to),
        correspondents_text(facts.cc),
        facts.list_id,
        " ".join(f"{one.name} {' '.join(kinds_of(one))}" for one in facts.attachments),
        text,
    )


def digest_of(raw: bytes) -> bytes:
    """What tells one message from another: the SHA-256 of its bytes."""
    return hashlib.sha256(raw).digest()


def prepare(raw: bytes, arrived: int, *, seen: bool = False, answered: bool = False, flagged: bool = False) -> Incoming:
    """Read and compress; ``arrived`` (Unix seconds) stands in for a date that cannot be read."""
    reading = read(raw)
    facts = reading.facts if reading.facts.sent_at else replace(reading.facts, sent_at=arrived)
    return Incoming(digest_of(raw), zlib.compress(raw, COMPRESSION), facts, reading.text, seen, answered, flagged)


def unreadable(
    raw: bytes, arrived: int, why: str, *, seen: bool = False, answered: bool = False, flagged: bool = False
) -> Incoming:
    """A message that could not be read, kept whole and taken as its source."""
    reading = read_as_source(raw)
    facts = replace(reading.facts, sent_at=arrived)
    packed = zlib.compress(raw, COMPRESSION)
    return Incoming(digest_of(raw), packed, facts, reading.text, seen, answered, flagged, trouble=why)
