"""What IMAP servers answer, as values: folders, their status, what is known of messages.

Answers about flags, sizes and dates are read with small patterns: the library's grammar costs more than all else in a
large folder.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from imapclient.imap_utf7 import decode as decode_name

from hieranome.core.tags import is_keyword
from hieranome.mail.charsets import valid

USES = {
    "\\inbox": "inbox",
    "\\sent": "sent",
    "\\drafts": "drafts",
    "\\archive": "archive",
    "\\trash": "trash",
    "\\junk": "junk",
}
_USUAL = {
    "sent": ("sent", "sent items", "sent mail", "sent messages"),
    "drafts": ("drafts",),
    "archive": ("archive", "archives"),
    "trash": ("trash", "deleted", "deleted items", "deleted messages", "bin"),
    "junk": ("junk", "spam", "junk mail", "junk e-mail", "bulk mail"),
}


@dataclass(frozen=True, slots=True)
class Status:
    """What a server tells of a folder without opening it; ``modseq`` is 0 where it keeps none."""

    validity: int
    uidnext: int
    messages: int
    modseq: int = 0


@dataclass(frozen=True, slots=True)
class Listed:
    """A folder on the server: its name, its hierarchy delimiter, its role (``inbox``, ``sent``, ``drafts``,
    ``archive``, ``trash``, ``junk`` or an empty string), its status where one was told. ``virtual`` says that it only
    shows marked messages of other folders (\\Flagged, \\Important; RFC 6154, RFC 8457)."""

    name: str
    delimiter: str
    role: str
    status: Status | None = None
    virtual: bool = False


MAX_KEYWORDS = 100
"""Keywords heeded of one message."""


@dataclass(frozen=True, slots=True)
class Flags:
    """The marks of a message that Hieranome knows, whether it waits to be expunged, whether it is a draft, and its
    keywords but those with a meaning of their own (``$``, RFC 5788)."""

    seen: bool = False
    answered: bool = False
    flagged: bool = False
    deleted: bool = False
    draft: bool = False
    keywords: frozenset[str] = frozenset()

    @classmethod
    def of(cls, words: Iterable[bytes | str | int]) -> Flags:
        """Out of the words of a FLAGS answer."""
        told = [w.decode("ascii", "replace") if isinstance(w, bytes) else str(w) for w in words]
        said = {word.lower() for word in told}
        keywords = {word.lower(): word for word in told if word[:1] != "$" and is_keyword(word)}
        seen, answered, flagged, deleted, draft = (
            word in said for word in ("\\seen", "\\answered", "\\flagged", "\\deleted", "\\draft")
        )
        return cls(seen, answered, flagged, deleted, draft, frozenset(list(keywords.values())[:MAX_KEYWORDS]))


@dataclass(frozen=True, slots=True)
class Meta:
    """What is known of a message before its bytes: flags, size in bytes, INTERNALDATE (Unix seconds), EMAILID
    (RFC 8474; empty where the server keeps none)."""

    uid: int
    flags: Flags
    size: int
    at: int
    email_id: str


@dataclass(frozen=True, slots=True)
class Changes:
    """What changed in a folder: new flags by UID; spans of UIDs removed, or None where that was not told. A span may be
    of any length: what is known is looked for in it, never the other way round."""

    flags: dict[int, Flags]
    gone: list[range] | None


MAX_NUMBERS = 100_000
"""Numbers of a set that are told one by one."""


def spans(text: str) -> list[range]:
    """The spans of a set, in its order. Raises ValueError for what is none, and for numbers beyond 32 bits."""
    found = []
    for part in text.split(","):
        first, colon, last = part.partition(":")
        low, high = _number(first), _number(last if colon else first)
        found.append(range(low, high + 1) if low <= high else range(low, high - 1, -1))
    return found


def _number(text: str) -> int:
    if not (text.isascii() and text.isdecimal() and len(text) <= 10):
        raise ValueError(f"{text[:20]!r} is no number")
    return int(text)


def numbers(text: str) -> list[int]:
    """The numbers of a set, in its order. Raises ValueError for what is none, and for more than any command of ours is
    about."""
    found = spans(text)
    if sum(map(len, found)) > MAX_NUMBERS:
        raise ValueError("a set of numbers is too long")
    return [number for span in found for number in span]


def vanished(lines: Sequence[bytes | None]) -> list[range]:
    """The spans of UIDs of VANISHED answers (RFC 7162, section 3.2.10)."""
    found: list[range] = []
    for line in lines:
        if line:
            words = re.sub(rb"^\(EARLIER\)\s*", b"", line, flags=re.IGNORECASE)
            found += spans(words.decode("ascii").strip())
    return found


def text_of(word: bytes | str) -> str:
    """A word of an answer as text."""
    return word.decode("ascii", "replace") if isinstance(word, bytes) else str(word)


def folder_name(name: bytes | str | int) -> str:
    """The name of a folder out of modified UTF-7."""
    return valid(str(decode_name(name) if isinstance(name, bytes) else name))


def status_of(values: Sequence[Any]) -> Status:
    """The items of a STATUS answer."""
    told = {text_of(values[i]).upper(): int(values[i + 1]) for i in range(0, len(values) - 1, 2)}
    return Status(told["UIDVALIDITY"], told["UIDNEXT"], told["MESSAGES"], told.get("HIGHESTMODSEQ", 0))


UID = re.compile(rb"\bUID (\d+)")
_FLAGS = re.compile(rb"\bFLAGS \(([^()]*)\)")
_SIZE = re.compile(rb"\bRFC822\.SIZE (\d+)")
_DATE = re.compile(rb'\bINTERNALDATE "([^"]*)"')
_EMAIL_ID = re.compile(rb"\bEMAILID \(([^()]*)\)")


def line_of(line: Any) -> bytes:
    """The text of a FETCH answer, without its literal."""
    return bytes(line[0] if isinstance(line, tuple) else line)


def flags_of(line: Any) -> Flags:
    """The flags of a FETCH answer."""
    told = _FLAGS.search(line_of(line))
    return Flags.of(told[1].split()) if told else Flags()


def meta_of(line: Any) -> Meta | None:
    """What a FETCH answer without literals tells; None for one that is about something else."""
    text = line_of(line)
    uid, size, date, email_id = (one.search(text) for one in (UID, _SIZE, _DATE, _EMAIL_ID))
    if uid is None or size is None:
        return None
    known_by = email_id[1].decode("ascii", "replace") if email_id else ""
    return Meta(int(uid[1]), flags_of(line), int(size[1]), _seconds(date[1]) if date else 0, known_by)


def _seconds(date: bytes) -> int:
    """When a message came, in seconds since 1970; 0 where the date is none."""
    try:
        told = datetime.strptime(date.decode("ascii").strip(), "%d-%b-%Y %H:%M:%S %z").timestamp()
    except (ValueError, OverflowError):
        return 0
    return max(0, int(told))


def role_of(name: str, words: set[str]) -> str:
    """The role of a folder by its name and attributes."""
    if name.upper() == "INBOX":
        return "inbox"
    return next((role for word, role in USES.items() if word in words), "")


VIRTUAL = {"\\flagged", "\\important"}
"""Attributes of folders that hold no mail of their own."""


def one_role_each(found: list[Listed]) -> list[Listed]:
    """Where the server names no folder for a use, the one with a usual name has it."""
    taken = {one.role for one in found}
    made = []
    for one in found:
        last = one.name.rpartition(one.delimiter)[2].lower() if one.delimiter else one.name.lower()
        role = one.role or next((r for r, names in _USUAL.items() if last in names and r not in taken), "")
        if role and not one.role:
            taken.add(role)
        made.append(replace(one, role=role))
    return made
