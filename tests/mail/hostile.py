"""Mail made to break its reader: shapes, each of any size, and random messages put together from tokens."""

from __future__ import annotations

import base64
import random
from collections.abc import Callable, Iterator

Shape = Callable[[int], bytes]
"""Makes a message of about so many bytes."""

HEADERS = (
    "From", "To", "Cc", "Reply-To", "Subject", "Date", "Message-ID", "In-Reply-To", "References", "Received", "List-Id",
    "List-Post", "Sender", "Authentication-Results", "Content-Type", "Content-Disposition", "Content-Transfer-Encoding",
    "Content-ID", "Precedence", "X-Priority", "Delivered-To",
)  # fmt: skip

VALUES: dict[str, str] = {
    "open comments": "((((", "comments": "(a)", "closed comments": "))))", "groups": "a:", "groups closed": "a:b;",
    "colons": ":::", "angles": "<<<<", "closed angles": ">>>>", "angle pairs": "<a@b.example>", "quotes": '"', "quoted": '"a" ',
    "backslashes": "\\", "escaped quotes": '\\"', "commas": ",,,", "semicolons": ";;;", "parameters": ";a",
    "named parameters": ";name=a", "quoted parameters": ';name=";a', "sections": ";name*0=a", "encoded": ";name*=utf-8''%41",
    "sections mixed": ";name*1*=%C3;name*0=x", "equals": "=", "ats": "@", "addresses": "a@b.example, ", "routes": "<@a,@b:c@d>,",
    "brackets": "[", "letters": "a", "dots": "a.", "dashes": "a-", "blanks": " ", "tabs": "\t", "folded": "\r\n ",
    "encoded words": "=?utf-8?q?=C3?= ", "open words": "=?", "words open": "=?utf-8?b?", "words of utf-7": "=?utf-7?q?+2AA-?= ",
    "words of escapes": "=?unicode_escape?q?=5Cud800?= ", "words of punycode": "=?punycode?q?abc-kva9?= ", "high": "é", "wide": "漢",
    "controls": "\x01\x02\x0b", "nul": "\x00", "turned": "\u202e\u202d", "digits": "9", "names": "owner-a-bounces+",
    "senders": "x-bounces", "percent": "%ff", "html": "<b>", "pass": "; dkim=pass header.d=good.example", "mixed": "(<:\"[;,",
}  # fmt: skip

BODIES: dict[str, bytes] = {
    "nul": b"\x00", "high": b"\xff", "surrogates": b"\xed\xa0\x80", "utf-7": b"+2AA-", "escapes": b"\\ud800", "base64": b"QUFB", "junk": b"=*&%",
    "soft breaks": b"=\n", "soft": b"=C3", "uu": b"M" + b"!" * 60 + b"\n", "quoted": b"> ", "lines": b"\n", "returns": b"\r", "dashes": b"--\n",
    "from": b"\nFrom ", "wrote": b"On a day somebody wrote:\n", "underscores": b"_" * 30 + b"\n", "words": b"a ", "one word": b"a",
    "links": b"http://a.example/", "wide": "漢".encode(), "combining": "a\u0301".encode(), "turned": "\u202e".encode(), "blanks": b" ",
}  # fmt: skip
CHARSETS = (
    "utf-7", "unicode_escape", "raw_unicode_escape", "punycode", "idna", "undefined", "rot13", "zlib", "hex", "utf-16",
    "utf-32", "hz", "iso-2022-jp", "gb18030", "none", "x" * 5000, "utf-8\x00",
)  # fmt: skip
ENCODINGS = ("7bit", "8bit", "base64", "quoted-printable", "x-uuencode", "binary", "9bit")

PAGES: dict[str, str] = {
    "div q": "<div></q>", "b q": "<b></q>", "lists": "<ul><li>", "dl dd": "<dl><dd>", "ruby": "<ruby><rt>", "divs": "<div>", "closed": "</div>",
    "spans": "<div><span>", "tables": "<table>", "cells": "<table><tr><td>", "links": "<a href=x>", "open": "<div ", "less": "<", "more": ">",
    "comments": "<!--", "closed comments": "<!-- <div> -->", "quoted more": "<div title='>'>", "open quotes": '<a b="', "styles": "<style>",
    "closed styles": "<style></style>", "selects": "<select><option>", "forms": "<form><p>", "svg": "<svg><b>", "sections": "<svg><![CDATA[ > </svg> ]]>",
    "hidden": '<div style="display:none">x', "hidden deep": "<p hidden><p hidden>", "quotes": "<blockquote>x", "entities": "&lt;", "open entities": "&a",
    "surrogate entities": "&#xD800;", "pictures": "<img src=http://a.example/b.png>", "buttons": "<button><p>", "headings": "<h1><h2>", "templates": "<template>",
    "bodies": "<body a=1>", "frames": "<frameset>", "details": "<details>", "plain": "<plaintext>", "fonts": "<font a=1><b>", "textareas": "<textarea>",
    "attributes": " a=1", "processing": "<?", "doctypes": "<!doctype html>", "closed p": "</p>", "closed br": "</br>", "math": "<math><mi>",
    "scripts": "<script>", "titles": "<title>", "li": "<li></li>", "nobr": "<nobr>", "blanks": " \n \n",
}  # fmt: skip

EVENTS: dict[str, str] = {
    "events": "BEGIN:VEVENT\r\n", "ends": "END:VEVENT\r\n", "alarms": "BEGIN:VALARM\r\n", "people": "ATTENDEE;CN=a:mailto:a@b.example\r\n",
    "parameters": ";A=b", "quotes": '"', "folded": "\r\n a", "colons": ":", "rules": "RRULE:FREQ=SECONDLY;COUNT=99999999\r\n",
    "dates": "DTSTART:99999999T999999\r\n", "zones": "BEGIN:VTIMEZONE\r\n", "organisers": "ORGANIZER:mailto:a@b.example\r\n",
}  # fmt: skip


def _times(piece: bytes, size: int) -> bytes:
    return piece * max(1, size // max(1, len(piece)))


def _header(name: str, value: str) -> Shape:
    def make(size: int) -> bytes:
        filled = _times(value.encode(), size)
        before = b"text/plain" if name == "Content-Type" else b""
        return b"From: a@b.example\n%s: %s%s\nSubject: x\n\nhello\n" % (name.encode(), before, filled)

    return make


def _body(encoding: str, charset: str, piece: bytes) -> Shape:
    head = f"From: a@b.example\nContent-Type: text/plain; charset={charset}\nContent-Transfer-Encoding: {encoding}\n\n"
    begin = b"begin 644 x\n" if "uu" in encoding else b""
    return lambda size: head.encode() + begin + _times(piece, size)


def _page(piece: str) -> Shape:
    head = b"From: a@b.example\nContent-Type: text/html\n\n<p>first words</p>"
    opened = b"<div" if piece.startswith(" ") else b""
    return lambda size: head + opened + _times(piece.encode(), size)


def _distinct_page(piece: str) -> Shape:
    head = b"From: a@b.example\nContent-Type: text/html\n\n"
    return lambda size: head + "".join(piece.format(n) for n in range(size // len(piece))).encode()


def _event(piece: str) -> Shape:
    head = b"From: a@b.example\nContent-Type: text/calendar\n\nBEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nSUMMARY:x\r\nX:"
    return lambda size: head + _times(piece.encode(), size)


def _nested(depth: int) -> Shape:
    def make(size: int) -> bytes:
        deep = b"".join(b"Content-Type: multipart/mixed; boundary=b%d\n\n--b%d\n" % (n, n) for n in range(depth))
        return b"From: a@b.example\n" + deep + b"\n" + _times(b"a line of text\n--no\n", size)

    return make


def _trees() -> dict[str, Shape]:
    mixed = b"From: a@b.example\nContent-Type: multipart/%s; boundary=x\n\n"
    return {
        "empty parts": lambda size: mixed % b"mixed" + _times(b"--x\n\n", size),
        "digest parts": lambda size: mixed % b"digest" + _times(b"--x\n\nFrom: a@b.example\n\n", size),
        "only delimiters": lambda size: mixed % b"mixed" + _times(b"--x\n", size),
        "almost delimiters": lambda size: mixed % b"mixed" + _times(b"--xy\n--x y\n", size),
        "delimiter and blanks": lambda size: mixed % b"mixed" + b"--x" + _times(b" ", size) + b"\n\nhello",
        "headers": lambda size: b"From: a@b.example\n" + _times(b"X-A: b\n", size) + b"\nhello",
        "headers of one name": lambda size: _times(b"To: a@b.example\n", size) + b"\nhello",
        "many from": lambda size: _times(b"From: a@b.example\n", size) + b"\nhello",
        "a long name": lambda size: _times(b"X", size) + b": y\nFrom: a@b.example\n\nhello",
        "no end of headers": lambda size: b"From: a@b.example\n" + _times(b" folded\n", size),
        "part headers": lambda size: mixed % b"mixed" + b"--x\n" + _times(b"X-A: b\n", size) + b"\nhello\n--x--\n",
        "boundary of blanks": lambda size: b'From: a@b.example\nContent-Type: multipart/mixed; boundary="'
        + _times(b" ", size) + b'"\n\n' + _times(b"--  \n", size),
        "boundary of nothing": lambda size: b'Content-Type: multipart/mixed; boundary=""\n\n' + _times(b"--\n", size),
        "messages in messages": lambda size: _times(b"Content-Type: message/rfc822\n\n", size),
        "related": lambda size: mixed % b"related" + _times(b"--x\nContent-Type: text/html\n\n<b>\n", size),
        "attachments": lambda size: mixed % b"mixed"
        + _times(b"--x\nContent-Disposition: attachment; filename=a.pdf\n\nx\n", size),
        "one line": lambda size: _times(b"a", size),
        "zeros": lambda size: bytes(size),
        "pages in base64": lambda size: b"Content-Type: text/html\nContent-Transfer-Encoding: base64\n\n"
        + base64.encodebytes(_times(b"<div></q>", size * 3 // 4)),
        **{f"nested {depth}": _nested(depth) for depth in (20, 60, 150, 2000)},
    }  # fmt: skip


def shapes() -> dict[str, Shape]:
    """All shapes by name: more than a thousand."""
    found: dict[str, Shape] = {f"{n}: {v}": _header(n, value) for n in HEADERS for v, value in VALUES.items()}
    found |= {f"body {e} {b}": _body(e, "utf-8", piece) for e in ENCODINGS for b, piece in BODIES.items()}
    found |= {f"charset {c[:20]} {b}": _body("8bit", c, piece) for c in CHARSETS for b, piece in BODIES.items()}
    found |= {f"page {name}": _page(piece) for name, piece in PAGES.items()}
    found |= {
        "page p b": _distinct_page("<p><b id={}></p>"), "page attributes": _distinct_page("<a{0} b{0}=1 c{0}=2>"),
        "page bodies": _distinct_page("<body a{}=1>"), "page fonts": _distinct_page("<font a{}=1><div>"),
        "page one tag": lambda size: _page("")(0) + b"<div " + b" ".join(b"a%d=1" % n for n in range(size // 8)) + b">x",
        "page hidden tag": lambda size: _page("")(0) + b'<div t=">" '
        + b" ".join(b"a%d=1" % n for n in range(size // 8)) + b">x",
    }  # fmt: skip
    found |= {f"event {name}": _event(piece) for name, piece in EVENTS.items()}
    return found | {f"tree {name}": shape for name, shape in _trees().items()}


_TOKENS = (
    *(f"{name}: ".encode() for name in HEADERS), *(value.encode() for value in VALUES.values()), *BODIES.values(),
    *(piece.encode() for piece in PAGES.values()), *(piece.encode() for piece in EVENTS.values()),
    *(f"charset={name[:40]}".encode() for name in CHARSETS), *(name.encode() for name in ENCODINGS),
    b"\n", b"\r\n", b"\n\n", b"\r\n\r\n", b"--b", b"--b--", b"boundary=b", b'boundary="b"', b"multipart/mixed;", b"text/html;", b"text/calendar;",
    b"text/plain;", b"message/rfc822", b"friend@good.example", b"attachment; filename=", b"begin 644 x\n", b"cid:", b"\n ", b"; ", b"\xc3", b"\xa9",
)  # fmt: skip


def random_messages(count: int, seed: int) -> Iterator[bytes]:
    """Messages put together from tokens."""
    rng = random.Random(seed)
    for _ in range(count):
        yield b"".join(rng.choices(_TOKENS, k=rng.randint(1, 60)))
