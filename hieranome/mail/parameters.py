"""Structured header values: a value and its parameters (RFC 2045, section 5.1; RFC 2231), read in linear time."""

from __future__ import annotations

import re
from urllib.parse import unquote_to_bytes

from hieranome.mail.charsets import decode_bytes

MAX_VALUE = 20_000
"""Characters of a header that are looked at for parameters."""
MAX_PARAMETERS = 100

_PIECE = re.compile(r'"([^"\\]*(?:\\.[^"\\]*)*)"?|;|[^";]+', re.DOTALL)
_ESCAPED = re.compile(r'\\(["\\])')
_SECTION = re.compile(r"([^*]+)(?:\*(\d{1,3}))?(\*)?")


def split_value(value: str) -> tuple[str, dict[str, str]]:
    """What stands before the first semicolon, lower-cased, and the parameters behind it by lower-cased name.

    Quotes are respected; of two parameters of one name the first counts; continued and encoded ones (RFC 2231) are put
    together and come before plain ones. What cannot be read is passed over.
    """
    pieces = _pieces(value[:MAX_VALUE])
    main = pieces[0][0].partition("(")[0].strip().lower()
    plain: dict[str, str] = {}
    sections: dict[str, dict[int, tuple[str, bool]]] = {}
    for text, at in pieces[1 : MAX_PARAMETERS + 1]:
        if at < 0:
            continue
        found = _SECTION.fullmatch(text[:at].strip().lower())
        if found is None:
            continue
        name, number, encoded = found.groups()
        content = text[at + 1 :].strip()
        if number is None and encoded is None:
            plain.setdefault(name, content)
        else:
            sections.setdefault(name, {}).setdefault(int(number or 0), (content, bool(encoded)))
    return main, plain | {name: _joined(parts) for name, parts in sections.items() if 0 in parts}


def _pieces(value: str) -> list[tuple[str, int]]:
    """The stretches between semicolons, their quotes undone, each with the place of its first ``=`` outside quotes, or
    -1."""
    pieces: list[tuple[str, int]] = []
    text: list[str] = []
    length, equals = 0, -1
    for match in _PIECE.finditer(value):
        part = match.group()
        if part == ";":
            pieces.append(("".join(text), equals))
            text, length, equals = [], 0, -1
            continue
        if match.group(1) is not None:
            part = _ESCAPED.sub(r"\1", match.group(1))
        elif equals < 0 and "=" in part:
            equals = length + part.index("=")
        text.append(part)
        length += len(part)
    pieces.append(("".join(text), equals))
    return pieces


def _joined(parts: dict[int, tuple[str, bool]]) -> str:
    """The sections of one parameter in order, as far as none is missing, decoded by the charset the first names."""
    first, encoded = parts[0]
    charset = ""
    if encoded and first.count("'") >= 2:
        charset, _, first = first.split("'", 2)
    raw = bytearray()
    for number in range(len(parts)):
        if number not in parts:
            break
        content, percent = parts[number]
        content = first if number == 0 else content
        raw += unquote_to_bytes(content) if percent else content.encode("utf-8")
    return decode_bytes(bytes(raw), charset)
