"""Reading and writing mbox files (RFC 4155), in one pass and in bounded memory.

A separator is a line that begins with ``From ``, stands first in the file or behind an empty line,
and carries a time and a year. Within a message the quoting is undone: ``>From `` becomes
``From ``; where the file also quotes quoted lines (``>>From ``, the reversible habit), one ``>`` is
taken from every such line. The habit is found by looking ahead in the file.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

SEPARATOR = re.compile(rb"^From (?:\S.*)?\d{1,2}:\d{2}(?::\d{2})?(?:\s+[A-Z+-]\S*){0,3}\s+\d{4}\b")
_QUOTED = re.compile(rb"^(>+)From ", re.MULTILINE)
_DEEP = re.compile(rb"^>>+From ", re.MULTILINE)
MAX_SEPARATOR = 1_000
"""Bytes of a separator line that are looked at."""
LOOK_AHEAD = 4 * 1024 * 1024
"""Bytes read to find the quoting habit."""


@dataclass(frozen=True, slots=True)
class MboxMessage:
    """One message: where its separator starts, where the next begins, its bytes, unquoted."""

    start: int
    end: int
    raw: bytes
    separator: bytes


def looks_like_mbox(head: bytes) -> bool:
    """Whether a file that begins with ``head`` is an mbox."""
    first = head.lstrip(b"\r\n").partition(b"\n")[0]
    return bool(SEPARATOR.match(first[:MAX_SEPARATOR])) or (first.startswith(b"From ") and b"@" in first)


def reversible_quoting(head: bytes) -> bool:
    """Whether quoted lines are quoted again in this file, so that the quoting can be undone in full."""
    return bool(_DEEP.search(head.replace(b"\r\n", b"\n")))


def unquote(raw: bytes, *, reversible: bool) -> bytes:
    """Take one ``>`` from quoted From lines: from all of them, or from those with a single one."""
    if b">From " not in raw:
        return raw
    return _QUOTED.sub(lambda m: m.group()[1:] if reversible or len(m.group(1)) == 1 else m.group(), raw)


def read_mbox(file: BinaryIO, start: int = 0) -> Iterator[MboxMessage]:
    """Messages from byte ``start`` (the beginning of a separator) on, in order."""
    file.seek(0)
    reversible = reversible_quoting(file.read(LOOK_AHEAD))
    file.seek(start)
    at = start
    begin, separator = start, b""
    lines: list[bytes] = []
    blank_before = True
    for line in file:
        if blank_before and line.startswith(b"From ") and (SEPARATOR.match(line[:MAX_SEPARATOR]) or not separator):
            if separator:
                yield _message(begin, at, lines, separator, reversible)
            begin, separator, lines = at, line.rstrip(b"\r\n"), []
        elif separator or line.strip():
            lines.append(line)
        at += len(line)
        blank_before = not line.strip(b"\r\n")
    if separator or lines:
        yield _message(begin, at, lines, separator, reversible)


def _message(start: int, end: int, lines: list[bytes], separator: bytes, reversible: bool) -> MboxMessage:
    if lines and lines[-1] in (b"\n", b"\r\n"):
        lines = lines[:-1]  # the empty line that belongs to the separator, RFC 4155
    return MboxMessage(start, end, unquote(b"".join(lines), reversible=reversible), separator)


def quote(raw: bytes) -> bytes:
    """Quote From lines reversibly: one more ``>`` before every ``From `` line, quoted or not."""
    return re.sub(rb"^(>*From )", rb">\1", raw, flags=re.MULTILINE)


def write_message(file: BinaryIO, raw: bytes, sender: str, asctime: str) -> None:
    """Append one message; ``asctime`` is UTC in the form of the C library's asctime."""
    file.write(f"From {sender or 'MAILER-DAEMON'} {asctime}\n".encode("ascii", "replace"))
    body = quote(raw)
    file.write(body if body.endswith(b"\n") else body + b"\n")
    file.write(b"\n")


def is_mbox_file(path: Path) -> bool:
    """Whether the file at ``path`` is an mbox, by its beginning."""
    with path.open("rb") as file:
        return looks_like_mbox(file.read(4096))
