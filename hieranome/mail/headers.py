"""Header values as they come, made into text without ever raising.

Encoded words are RFC 2047, parameters RFC 2231 (left to the standard library), raw UTF-8 RFC 6532.
Real mail breaks all three; what cannot be decoded stays as it stands.
"""

from __future__ import annotations

import binascii
import quopri
import re
from datetime import UTC, datetime
from email.message import Message
from email.utils import getaddresses, mktime_tz, parsedate_tz

from hieranome.core.facts import NOBODY, Correspondent

MAX_HEADER = 60_000
"""Characters of one header that are looked at; more is kept in the raw message only."""

_ENCODED = re.compile(r"=\?([^?\s]+)\?([bBqQ])\?([^?]*)\?=")
_BETWEEN = re.compile(r"(\?=)\s+(=\?)")
_SIMPLE = re.compile(r"""^(?:([\w .'=?+/*-]*|"[^"\\]*")\s*<([\w.+=-]+@[\w.-]+)>|([\w.+=-]+@[\w.-]+))$""")
_FOLD = re.compile(r"\r?\n[ \t]*")
_EARLIEST, _LATEST = 1, 253_402_300_799


def decode_bytes(raw: bytes, charset: str = "") -> str:
    """Text of ``raw`` in ``charset`` when that is a charset and fits, else UTF-8, else Windows-1252."""
    for name in (charset.strip("\"' ").partition("*")[0], "utf-8"):
        if not name:
            continue
        try:
            return raw.decode(name)
        except (LookupError, UnicodeError, ValueError):
            continue
    return raw.decode("cp1252", "replace")


def _plain(value: str) -> str:
    """Undo the surrogates by which the parser carries 8-bit header bytes; unfold; drop NULs."""
    text = _FOLD.sub(" ", value[:MAX_HEADER])
    if not text.isascii():
        text = decode_bytes(text.encode("utf-8", "surrogateescape"))
    return text.replace("\x00", "")


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
    text = _BETWEEN.sub(r"\1\2", text)
    pieces: list[str] = []
    at = 0
    pending, charset = b"", ""
    for match in _ENCODED.finditer(text):
        between = text[at : match.start()]
        this = match.group(1).lower()
        if pending and (between or this != charset):
            pieces.append(decode_bytes(pending, charset))
            pending = b""
        pieces.append(between)
        pending, charset, at = pending + _word_bytes(match.group(2), match.group(3)), this, match.end()
    if pending:
        pieces.append(decode_bytes(pending, charset))
    pieces.append(text[at:])
    return "".join(pieces)


def decode_header(value: str) -> str:
    """The value of an unstructured header as text on one line."""
    return " ".join(decode_words(_plain(value)).split())


def addresses(value: str) -> tuple[Correspondent, ...]:
    """The correspondents of an address header, in order; what is no address is left out."""
    plain = _plain(value).strip()
    if not plain:
        return ()
    simple = _SIMPLE.match(plain)
    if simple:
        name = (simple.group(1) or "").strip().strip('"')
        return (Correspondent((simple.group(2) or simple.group(3)).lower(), " ".join(decode_words(name).split())),)
    found = []
    for name, address in getaddresses([plain]):
        if "@" in address or (address and not name):
            shown = " ".join(decode_words(name).split())
            found.append(Correspondent(address.strip().lower(), shown))
        elif name:
            found.append(Correspondent("", decode_words(name)))
    return tuple(c for c in found if c.address or c.name)


def first_address(value: str) -> Correspondent:
    """The first correspondent of an address header, or nobody."""
    found = addresses(value)
    return found[0] if found else NOBODY


def parse_date(value: str) -> tuple[int, int] | None:
    """Unix seconds and the sender's local hour (0-23) of an RFC 5322 date, or None when unreadable."""
    try:
        parsed = parsedate_tz(_plain(value)[:200])
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


class Headers:
    """All headers of one message or part, by lower-cased name, undecoded; reading never raises."""

    def __init__(self, message: Message) -> None:
        self._values: dict[str, list[str]] = {}
        for name, value in message.raw_items():
            self._values.setdefault(name.lower().strip(), []).append(str(value))

    def __len__(self) -> int:
        return len(self._values)

    def __contains__(self, name: str) -> bool:
        return name in self._values

    @property
    def names(self) -> tuple[str, ...]:
        """The names of all headers, lower-cased, in order, each once."""
        return tuple(self._values)

    def raw(self, name: str) -> str:
        """The first value of the header as it stands, or an empty string."""
        values = self._values.get(name)
        return values[0] if values else ""

    def every(self, name: str) -> list[str]:
        """All values of the header, undecoded, top to bottom."""
        return self._values.get(name, [])

    def text(self, name: str) -> str:
        """The first value, decoded."""
        return decode_header(self.raw(name)) if name in self._values else ""

    def people(self, name: str) -> tuple[Correspondent, ...]:
        """Correspondents of all headers of that name."""
        return tuple(c for value in self.every(name) for c in addresses(value))


def header_list(message: Message) -> list[tuple[str, str]]:
    """Every header in order, decoded: name and value. Never raises."""
    return [(name, decode_words(_plain(str(value)))) for name, value in message.raw_items()]
