"""Header values as they come, made into text without ever raising.

Encoded words are RFC 2047, parameters RFC 2231 (:mod:`hieranome.mail.parameters`), raw UTF-8 RFC 6532. Real mail breaks
all three; what cannot be decoded stays as it stands.
"""

from __future__ import annotations

import binascii
import quopri
import re
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta, timezone
from email.utils import mktime_tz, parsedate_tz

from hieranome.core.facts import Correspondent
from hieranome.mail.charsets import decode_bytes
from hieranome.mail.people import addresses

MAX_HEADER = 60_000
"""Bytes of one header that are looked at; more is kept in the raw message only."""

_ENCODED = re.compile(r"=\?([^?\s]{1,60})\?([bBqQ])\?([^?]*)\?=")
_BETWEEN = re.compile(r"(?<=\?=)\s+(?==\?)")
_FOLD = re.compile(rb"\r?\n[ \t]*")
_BLANK = bytes.maketrans(b"\r\n\x00", b"   ")
_DAY = 86_400
_EARLIEST, _LATEST = 1, 253_402_300_799
_DIRECTION = "\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"
"""Characters that turn the direction of what stands around them (Unicode Standard Annex 9): no line needs them, and
they make one text look like another."""
_UNSEEN = {ord(c): None for c in map(chr, range(32)) if not c.isspace()} | dict.fromkeys(map(ord, "\x7f" + _DIRECTION))


def plain_value(raw: bytes) -> str:
    """A header's value unfolded, as text, nothing decoded but 8-bit characters; line breaks and NULs are blanks."""
    if len(raw) > MAX_HEADER:
        raw = raw[:MAX_HEADER]
    if b"\n" in raw:
        raw = _FOLD.sub(b" ", raw)
    return (
        raw.translate(_BLANK).decode("ascii").strip() if raw.isascii() else decode_bytes(raw.translate(_BLANK)).strip()
    )


def _word_bytes(encoding: str, content: str) -> bytes:
    if encoding in "qQ":
        return quopri.decodestring(content.replace("_", " ").encode("utf-8"), header=False)
    padded = re.sub(r"[^A-Za-z0-9+/]", "", content)
    try:
        return binascii.a2b_base64(padded + "=" * (-len(padded) % 4))
    except binascii.Error:
        return binascii.a2b_base64(padded[: len(padded) // 4 * 4])


def decode_words(text: str) -> str:
    """Replace RFC 2047 encoded words; neighbours in one charset are joined before decoding."""
    if "=?" not in text:
        return text
    text = _BETWEEN.sub("", text)
    pieces: list[str] = []
    at = 0
    pending: list[bytes] = []
    charset = ""
    for match in _ENCODED.finditer(text):
        between = text[at : match.start()]
        this = match.group(1).lower()
        if pending and (between or this != charset):
            pieces.append(decode_bytes(b"".join(pending), charset))
            pending = []
        pieces.append(between)
        pending.append(_word_bytes(match.group(2), match.group(3)))
        charset, at = this, match.end()
    if pending:
        pieces.append(decode_bytes(b"".join(pending), charset))
    pieces.append(text[at:])
    return "".join(pieces)


def one_line(text: str) -> str:
    """Text with its encoded words decoded, on one line, without controls and without marks that turn its direction."""
    return " ".join(decode_words(text).translate(_UNSEEN).split())


def parse_date(value: str) -> tuple[int, int] | None:
    """Unix seconds and the sender's local hour (0-23) of an RFC 5322 date, or None when unreadable."""
    try:
        parsed = parsedate_tz(value.strip()[:200])
        if parsed is None:
            return None
        seconds = int(mktime_tz(parsed))
    except (ValueError, OverflowError, TypeError, IndexError):
        return None
    if not _EARLIEST <= seconds <= _LATEST:
        return None
    try:
        datetime.fromtimestamp(seconds, UTC)
    except (ValueError, OverflowError, OSError):
        return None
    return seconds, parsed[3] % 24


def local_date(value: str) -> datetime | None:
    """An RFC 5322 date by the clock of who wrote it, or None when it is unreadable or names no zone."""
    at = parse_date(value)
    parsed = parsedate_tz(value.strip()[:200])
    if at is None or parsed is None or parsed[9] is None or abs(parsed[9]) >= _DAY:
        return None
    return datetime.fromtimestamp(at[0], timezone(timedelta(seconds=parsed[9])))


class Headers:
    """All headers of one message or part, by lower-cased name; reading never raises, whatever they hold."""

    __slots__ = ("_values", "pairs", "whole")

    def __init__(self, pairs: Iterable[tuple[str, bytes]], *, whole: bool = True) -> None:
        self.pairs = list(pairs)
        """Every header in order: its name as it was written, its value as it came."""
        self.whole = whole and all(len(value) <= MAX_HEADER for _, value in self.pairs)
        """Whether these are all headers there are, each as long as it is. Whoever decides by headers that something
        may be done asks this first: where some were not read, they may say the opposite."""
        self._values: dict[str, list[bytes]] = {}
        for name, value in self.pairs:
            self._values.setdefault(name.lower(), []).append(value)

    def __len__(self) -> int:
        return len(self._values)

    def __contains__(self, name: str) -> bool:
        return name in self._values

    @property
    def names(self) -> tuple[str, ...]:
        """The names of all headers, lower-cased, in order, each once."""
        return tuple(self._values)

    def is_ascii(self, name: str) -> bool:
        """Whether the first value of the header is plain ASCII, as it has to be without RFC 6532."""
        values = self._values.get(name)
        return not values or values[0].isascii()

    def raw(self, name: str) -> str:
        """The first value of the header as it stands, unfolded, or an empty string."""
        values = self._values.get(name)
        return plain_value(values[0]) if values else ""

    def every(self, name: str) -> list[str]:
        """All values of the header, undecoded, top to bottom."""
        return [plain_value(value) for value in self._values.get(name, ())]

    def text(self, name: str) -> str:
        """The first value, decoded, on one line."""
        return one_line(self.raw(name)) if name in self._values else ""

    def keywords(self, name: str) -> list[str]:
        """All values without parameters and comments, in lower case: the keywords of Auto-Submitted (RFC 3834, section
        5)."""
        return [one_line(one).partition(";")[0].partition("(")[0].strip().lower() for one in self.every(name)]

    def people(self, name: str) -> tuple[Correspondent, ...]:
        """Correspondents of all headers of that name, their names decoded."""
        return tuple(
            Correspondent(one.address, one_line(one.name)) for value in self.every(name) for one in addresses(value)
        )

    def first_person(self, name: str) -> Correspondent:
        """The first correspondent of the header, or nobody."""
        return next(iter(self.people(name)), Correspondent(""))

    def lines(self) -> list[tuple[str, str]]:
        """Every header in order, decoded: name and value."""
        return [(name, decode_words(plain_value(value))) for name, value in self.pairs]
