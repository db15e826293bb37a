"""The MIME tree of a message (RFC 2045, RFC 2046), read in bounded time and memory.

Headers, parts, nesting and the length of every value are bounded before anything is made of them; what lies beyond the
bounds stays in the raw bytes and is told as a defect. Nothing is copied while the tree is walked: a part is a stretch
of the message's bytes.
"""

from __future__ import annotations

import binascii
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import islice

from hieranome.mail.headers import Headers
from hieranome.mail.parameters import split_value

MAX_DEPTH = 20
"""Multiparts within multiparts that are opened."""
MAX_PARTS = 400
"""Leaves that are read of one message."""
MAX_LOOKS = 100_000
"""Places that are looked at for a delimiter of parts."""
MAX_HEADERS = 1_000
"""Headers that are read of one part."""
MAX_NAME = 200
"""Characters of a header's name."""
MAX_BOUNDARY = 1_000
"""Bytes of a boundary; RFC 2046 allows 70."""
MAX_HEADER_BLOCK = 500_000
"""Bytes of one part's headers that are read."""

_HEADER = re.compile(rb"([!-9;-~]+)[ \t]*:[ \t]*([^\n]*(?:\n[ \t][^\n]*)*)\n?")
_BLANK = re.compile(rb"\r?\n")
_HEADERS_END = re.compile(rb"\n\r?\n")
_ENVELOPE = re.compile(rb">?From [^\n]*\n")
_REST_OF_LINE = re.compile(rb"(--)?[ \t]*\r?(?:\n|\Z)")
_NOT_BASE64 = bytes(set(range(256)) - set(b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/="))
_LINE = re.compile(rb"[^\r\n]+")
MAX_UU_LINES = 600_000
"""Lines of a uuencoded part that are read."""
_UU_NAMES = frozenset({"x-uuencode", "uuencode", "uue", "x-uue"})


@dataclass(slots=True)
class Entity:
    """A message or a part of one (an entity, RFC 2045, section 2.4): its path in the tree (``1.2``), its headers, what
    these say it is, and where its body lies in ``raw``. ``inside`` are its parts; a leaf has none."""

    raw: bytes
    path: str
    headers: Headers
    media_type: str
    parameters: dict[str, str]
    encoding: str
    start: int
    end: int
    inside: list[Entity] = field(default_factory=list)
    broken: bool = False
    """Whether its structure, or that of a part within, is not as it should be."""

    @property
    def body(self) -> bytes:
        """The body as it came, its transfer encoding not undone."""
        return self.raw[self.start : self.end]

    @property
    def content(self) -> bytes:
        """The body with its transfer encoding undone (RFC 2045, section 6); what cannot be comes as it stands."""
        return decoded(self.body, self.encoding)

    @property
    def size(self) -> int:
        """About how many bytes the content has, without undoing its encoding."""
        length = self.end - self.start
        return length * 3 // 4 if self.encoding == "base64" else length

    def leaves(self) -> Iterator[Entity]:
        """The leaves of the tree, in order."""
        if not self.inside:
            yield self
        for part in self.inside:
            yield from part.leaves()

    def find(self, path: str) -> Entity | None:
        """The leaf at a path, or None."""
        return next((part for part in self.leaves() if part.path == path), None)

    def first(self, media_type: str) -> Entity | None:
        """The first leaf of a media type, or None."""
        return next((part for part in self.leaves() if part.media_type == media_type), None)


@dataclass(slots=True)
class _Budget:
    """What is left of what may be read of one message."""

    parts: int = MAX_PARTS
    looks: int = MAX_LOOKS


def parse(raw: bytes) -> Entity:
    """The tree of a message. Never raises, whatever the bytes are."""
    if b"\n" not in raw[:65_536] and b"\r" in raw[:65_536]:
        raw = raw.replace(b"\r", b"\n")  # line ends of an old habit
    envelope = _ENVELOPE.match(raw)
    budget = _Budget()
    return _entity(raw, "1", envelope.end() if envelope else 0, len(raw), "text/plain", 0, budget)


def _entity(raw: bytes, path: str, start: int, end: int, default: str, depth: int, budget: _Budget) -> Entity:
    pairs, body, broken = _headers(raw, start, end)
    headers = Headers(pairs, whole=not broken and all(len(name) < MAX_NAME for name, _ in pairs))
    media_type, parameters = _kind(headers, default)
    encoding = headers.raw("content-transfer-encoding").partition(";")[0].strip().lower()[:40]
    made = Entity(raw, path, headers, media_type, parameters, encoding, body, end, broken=broken)
    if media_type.startswith("multipart/"):
        _open(made, depth, budget)
    if not made.inside:
        budget.parts -= 1
    return made


def _headers(raw: bytes, start: int, end: int) -> tuple[list[tuple[str, bytes]], int, bool]:
    """The headers of a part, where its body begins, and whether something was wrong or too much."""
    pairs: list[tuple[str, bytes]] = []
    last = min(end, start + MAX_HEADER_BLOCK)
    at = start
    while at < last and len(pairs) < MAX_HEADERS:
        match = _HEADER.match(raw, at, last)
        if match is None:
            break
        pairs.append((match.group(1)[:MAX_NAME].decode("ascii"), match.group(2).rstrip(b"\r\n")))
        at = match.end()
    blank = _BLANK.match(raw, at, end)
    if blank is not None:
        return pairs, blank.end(), False
    if at >= end:
        return pairs, end, False
    if at < last and len(pairs) < MAX_HEADERS:
        return pairs, at, True  # a line that is no header: the body begins with it
    behind = _HEADERS_END.search(raw, at - 1, end)
    return pairs, behind.end() if behind else end, True


def _kind(headers: Headers, default: str) -> tuple[str, dict[str, str]]:
    """The media type and its parameters; RFC 2045, section 5.2, says what to take for a broken one."""
    if "content-type" not in headers:
        return default, {}
    kind, parameters = split_value(headers.raw("content-type"))
    return (kind if kind.count("/") == 1 and kind.isascii() and len(kind) <= 100 else "text/plain"), parameters


def _open(made: Entity, depth: int, budget: _Budget) -> None:
    """Find the parts of a multipart (RFC 2046, section 5.1); one that cannot be taken apart is text."""
    boundary = made.parameters.get("boundary", "").encode("utf-8")
    if not 0 < len(boundary) <= MAX_BOUNDARY or depth >= MAX_DEPTH:
        made.media_type, made.broken = "text/plain", True
        return
    default = "message/rfc822" if made.media_type == "multipart/digest" else "text/plain"
    places = _delimiters(made.raw, boundary, made.start, made.end, budget)
    began = -1
    for line_start, line_end, closing in places:
        if began >= 0:
            if budget.parts <= 0:
                made.broken = True
                break
            number = len(made.inside) + 1
            part = _entity(made.raw, f"{made.path}.{number}", began, line_start, default, depth + 1, budget)
            made.inside.append(part)
            made.broken |= part.broken
        began = line_end
        if closing:
            return
    made.broken = True
    if began < 0:
        made.media_type = "text/plain"
    elif budget.parts > 0:
        part = _entity(made.raw, f"{made.path}.{len(made.inside) + 1}", began, made.end, default, depth + 1, budget)
        made.inside.append(part)


def _delimiters(raw: bytes, boundary: bytes, start: int, end: int, budget: _Budget) -> Iterator[tuple[int, int, bool]]:
    """The delimiter lines of a multipart: where the part before ends, where the next begins, whether it is the last."""
    wanted = b"--" + boundary
    at = start
    while budget.looks > 0 and (found := raw.find(wanted, at, end)) >= 0:
        budget.looks -= 1
        at = found + len(wanted)
        if found > start and raw[found - 1] != 10:
            continue
        rest = _REST_OF_LINE.match(raw, at, min(end, at + 1000))
        if rest is None:
            continue
        before = found
        if before > start:  # the line break belongs to the delimiter
            before -= 2 if before - 2 >= start and raw[before - 2 : before] == b"\r\n" else 1
        yield before, rest.end(), rest.group(1) is not None
        at = rest.end()


def decoded(body: bytes, encoding: str) -> bytes:
    """A body with its transfer encoding undone, as far as it can be; linear in its length."""
    if encoding == "base64":
        return _from_base64(body)
    if encoding == "quoted-printable":
        return binascii.a2b_qp(body)
    if encoding in _UU_NAMES:
        return _from_uu(body)
    return body


def _from_base64(body: bytes) -> bytes:
    letters = body.translate(None, _NOT_BASE64).partition(b"=")[0]
    if not letters:
        return body
    if len(letters) % 4 == 1:
        letters = letters[:-1]
    return binascii.a2b_base64(letters + b"=" * (-len(letters) % 4))


def _from_uu(body: bytes) -> bytes:
    found = bytearray()
    begun = False
    for match in islice(_LINE.finditer(body), MAX_UU_LINES):
        line = match.group()
        if not begun:
            begun = line.startswith(b"begin ")
        elif line.strip() == b"end":
            break
        else:
            try:
                found += binascii.a2b_uu(line)
            except binascii.Error:
                continue
    return bytes(found) if begun else body
