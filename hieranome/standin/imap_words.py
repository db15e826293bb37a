"""The words of IMAP commands and answers: atoms, strings, literals, lists, sets of numbers, mailbox names."""

from __future__ import annotations

import base64
import re
from collections.abc import Iterable
from datetime import UTC, datetime

Word = bytes | list["Word"]
"""An atom or string, or a parenthesised list."""

_ATOM = re.compile(rb"[^\s(){\"]+(?:\[[^\]]*\](?:<[\d.]+>)?)?")
_BODY = re.compile(rb"(?:BODY|BODY\.PEEK)\[[^\]]*\](?:<[\d.]+>)?", re.IGNORECASE)
_QUOTED = re.compile(rb'"((?:[^"\\]|\\.)*)"')
_LITERAL = re.compile(rb"\{(\d+)\+?\}\r?\n")
LITERAL_AHEAD = re.compile(rb"\{(\d+)(\+?)\}\r?\n$")
"""The end of a line that announces a literal."""


class Unparsable(Exception):
    """A command that does not follow the grammar."""


def words(line: bytes) -> list[Word]:
    """The words of a whole command, its literals within it."""
    found, at = _words(line, 0, closing=False)
    if at < len(line.rstrip(b"\r\n")):
        raise Unparsable(line[at : at + 20].decode("ascii", "replace"))
    return found


def _words(line: bytes, at: int, *, closing: bool) -> tuple[list[Word], int]:
    found: list[Word] = []
    while at < len(line):
        char = line[at : at + 1]
        if char in b" \r\n" and not _LITERAL.match(line, at):
            at += 1
        elif char == b"(":
            inner, at = _words(line, at + 1, closing=True)
            found.append(inner)
        elif char == b")":
            if not closing:
                raise Unparsable("a bracket closes that was not opened")
            return found, at + 1
        else:
            word, at = _word(line, at)
            found.append(word)
    if closing:
        raise Unparsable("a bracket is not closed")
    return found, at


def _word(line: bytes, at: int) -> tuple[bytes, int]:
    literal = _LITERAL.match(line, at)
    if literal:
        end = literal.end() + int(literal[1])
        return line[literal.end() : end], end
    quoted = _QUOTED.match(line, at)
    if quoted:
        return re.sub(rb"\\(.)", rb"\1", quoted[1]), quoted.end()
    atom = _BODY.match(line, at) or _ATOM.match(line, at)
    if not atom:
        raise Unparsable(line[at : at + 20].decode("ascii", "replace"))
    return atom[0], atom.end()


def numbers(text: bytes, all_numbers: list[int]) -> list[int]:
    """The numbers of a sequence set that exist, ascending; ``*`` is the highest."""
    top = all_numbers[-1] if all_numbers else 0
    wanted: list[tuple[int, int]] = []
    for part in text.split(b","):
        first, colon, last = part.partition(b":")
        try:
            low = top if first == b"*" else int(first)
            high = low if not colon else (top if last == b"*" else int(last))
        except ValueError as exc:
            raise Unparsable(f"{text!r} is no set of numbers") from exc
        wanted.append((min(low, high), max(low, high)))
    return [n for n in all_numbers if any(low <= n <= high for low, high in wanted)]


def ranges(many: Iterable[int]) -> str:
    """Numbers as a sequence set."""
    parts: list[list[int]] = []
    for number in sorted(many):
        if parts and number == parts[-1][1] + 1:
            parts[-1][1] = number
        else:
            parts.append([number, number])
    return ",".join(str(low) if low == high else f"{low}:{high}" for low, high in parts)


def quoted(value: str | bytes | None) -> bytes:
    """A value as an IMAP string, or NIL."""
    if value is None:
        return b"NIL"
    raw = value.encode("utf-8", "surrogateescape") if isinstance(value, str) else value
    if len(raw) < 500 and all(32 <= char < 127 for char in raw):
        return b'"' + raw.replace(b"\\", b"\\\\").replace(b'"', b'\\"') + b'"'
    return b"{%d}\r\n" % len(raw) + raw


def to_utf7(name: str) -> bytes:
    """A mailbox name in modified UTF-7 (RFC 3501, section 5.1.3)."""
    made, other = b"", ""
    for char in f"{name}\0":
        if " " <= char <= "~" or char == "\0":
            if other:
                coded = base64.b64encode(other.encode("utf-16-be")).rstrip(b"=").replace(b"/", b",")
                made, other = made + b"&" + coded + b"-", ""
            made += b"&-" if char == "&" else char.encode("ascii")
        else:
            other += char
    return made[:-1]


def from_utf7(name: bytes) -> str:
    """A mailbox name out of modified UTF-7."""

    def decoded(found: re.Match[bytes]) -> bytes:
        coded = found[1].replace(b",", b"/")
        if not coded:
            return b"&"
        return base64.b64decode(coded + b"=" * (-len(coded) % 4)).decode("utf-16-be").encode("utf-8")

    return re.sub(rb"&([^-]*)-", decoded, name).decode("utf-8", "replace")


def internal_date(at: int) -> bytes:
    """A time (Unix seconds) as INTERNALDATE."""
    return datetime.fromtimestamp(at, UTC).strftime('"%d-%b-%Y %H:%M:%S +0000"').encode("ascii")


def parse_internal_date(text: bytes) -> datetime:
    """A date-time of APPEND."""
    try:
        return datetime.strptime(text.decode("ascii").strip(), "%d-%b-%Y %H:%M:%S %z")
    except ValueError as exc:
        raise Unparsable(f"{text!r} is no date-time") from exc


def parse_day(text: bytes) -> datetime:
    """A date of SEARCH, the start of that day in UTC."""
    try:
        return datetime.strptime(text.decode("ascii"), "%d-%b-%Y").replace(tzinfo=UTC)
    except ValueError as exc:
        raise Unparsable(f"{text!r} is no date") from exc


def bytes_of(word: Word) -> bytes:
    """A word as it came. Raises :class:`Unparsable` for a list."""
    if isinstance(word, list):
        raise Unparsable("a list stands where a word should")
    return word


def text_of(word: Word) -> str:
    """A word as text."""
    return bytes_of(word).decode("utf-8", "replace")
