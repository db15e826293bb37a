"""Raw bytes of one message into facts, text and parts. Reading never raises on what mail contains.

What is read is bounded before it is read (:mod:`hieranome.mail.mime`, :mod:`hieranome.mail.shallow`), every pattern is
linear, and all text comes through :mod:`hieranome.mail.charsets`. The last line against what nobody thought of is
:mod:`hieranome.app.reading.processes`: a process that can be ended.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime

from hieranome.core.authentication import split_server
from hieranome.core.facts import AttachmentFacts, Correspondent, MessageFacts
from hieranome.core.recurring import NOT_PERSONAL
from hieranome.core.text import own_words
from hieranome.mail.charsets import decode_bytes
from hieranome.mail.headers import Headers, local_date, one_line, parse_date
from hieranome.mail.html_text import HtmlText
from hieranome.mail.mime import Entity, parse
from hieranome.mail.parameters import split_value
from hieranome.mail.people import MAX_ADDRESS, sender_of

MAX_TEXT = 200_000
"""Characters of text kept per message for reading, searching and scoring; the raw bytes stay whole."""
MAX_BODIES = 4_000_000
"""Characters of text and HTML that are decoded of one message."""
MAX_PEOPLE = 2_000
CLOCK_SLACK = 2 * 86_400
"""Seconds by which Date may differ from the receiving machine's clock before the latter is believed."""

_LINK = re.compile(r"https?://([^\s/<>\"'()\[\]:?#]+)", re.IGNORECASE)
_MESSAGE_ID = re.compile(r"<[^<>]+>")
_LIST_IN_BRACKETS = re.compile(r"<([^<>]+)>")
_NO_POSTING = re.compile(r"no\b(?!@)", re.IGNORECASE)
"""What stands in List-Post where nobody may write to the list (RFC 2369, section 3.4)."""
_LIST_SENDER = re.compile(r"^(?:owner-(.+)|(.+?)-(?:owner|bounces?|admin|request)(?:\+.*)?)@(.+)$")
_WORD = re.compile(r"[a-z_]+")
_RECEIVED_FROM = re.compile(r"from\s+(\S+)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Part:
    """One leaf of the MIME tree: its path (``1.2``), type, name, decoded size, Content-ID."""

    path: str
    media_type: str
    name: str
    size: int
    content_id: str
    attached: bool


@dataclass(slots=True)
class Reading:
    """A message read: the facts for the engine, all its text, its HTML (may be empty), its parts."""

    facts: MessageFacts
    text: str
    html: str
    parts: list[Part] = field(default_factory=list)


def read(raw: bytes) -> Reading:
    """Read one message. Never raises for what the message contains."""
    message = parse(raw)
    bodies = _Bodies(message)
    facts = _facts(raw, message, bodies)
    return Reading(facts, bodies.text, bodies.html, bodies.parts)


def read_as_source(raw: bytes) -> Reading:
    """A message that could not be read, as it is kept: its bytes as text, nothing taken from its headers."""
    text = decode_bytes(raw, limit=MAX_TEXT).replace("\x00", "")
    return Reading(MessageFacts(size=len(raw), text=text, readable=False), text, "")


class _Bodies:
    """The readable text, the HTML and the list of parts of one message."""

    def __init__(self, message: Entity) -> None:
        self.parts: list[Part] = []
        plain: list[str] = []
        htmls: list[str] = []
        self.invitation = False
        self.charset = ""
        left = MAX_BODIES
        for leaf in message.leaves():
            kind = leaf.media_type
            name, disposition = name_of(leaf)
            attached = bool(name) or disposition == "attachment"
            if kind == "text/calendar":
                self.invitation = True
                attached = True
            elif kind.startswith("text/") and not attached:
                charset = leaf.parameters.get("charset", "")
                self.charset = self.charset or charset.lower()[:30]
                text = decode_bytes(leaf.content, charset, left).replace("\x00", "")
                left -= len(text)
                (htmls if kind == "text/html" else plain).append(text)
            elif not kind.startswith("text/"):
                attached = True
            content_id = leaf.headers.raw("content-id").strip("<> ")[:300]
            self.parts.append(Part(leaf.path, kind, name, leaf.size, content_id, attached))
        self.html = "\n".join(htmls)
        self._read_text("\n".join(plain))

    def _read_text(self, plain: str) -> None:
        self.html_only = bool(self.html) and not plain.strip()
        self.links: list[str] = []
        self.hidden_words = 0
        self.tags: tuple[str, ...] = ()
        own_source = plain
        if self.html and (self.html_only or len(self.html) < 200_000):
            page = HtmlText(self.html)
            self.links = page.links
            self.tags = page.tags
            self.hidden_words = page.hidden_words
            if self.html_only:
                plain, own_source = page.text, page.own
        self.text = plain[:MAX_TEXT]
        self.own, self.quoted_lines = own_words(own_source[:MAX_TEXT])


def _facts(raw: bytes, message: Entity, bodies: _Bodies) -> MessageFacts:
    headers = message.headers
    sent_at, hour, date_defects = _when(headers)
    readable = any(name in headers for name in ("from", "to", "subject", "date", "message-id", "received"))
    sender, unclear = sender_of(headers.every("from"))
    return MessageFacts(
        message_id=one_id(headers.raw("message-id")),
        in_reply_to=one_id(headers.raw("in-reply-to")),
        references=tuple(_MESSAGE_ID.findall(headers.raw("references")[:20_000])[-40:]),
        sender=Correspondent(sender.address, one_line(sender.name)),
        reply_to=headers.first_person("reply-to"),
        to=headers.people("to")[:MAX_PEOPLE],
        cc=headers.people("cc")[:MAX_PEOPLE],
        subject=headers.text("subject")[:2000],
        text=bodies.own,
        sent_at=sent_at,
        hour=hour,
        size=len(raw),
        list_id=_list_id(headers),
        list_post="list-post" in headers or "mailing-list" in headers or "x-beenthere" in headers,
        list_unsubscribe="list-unsubscribe" in headers,
        precedence=_precedence(headers),
        auto_submitted=not set(headers.keywords("auto-submitted")) <= {"", "no"},
        mailer=(headers.text("x-mailer") or headers.text("user-agent"))[:60],
        media_type=message.media_type,
        html_only=bodies.html_only,
        invitation=bodies.invitation,
        links=_link_hosts(bodies),
        attachments=tuple(AttachmentFacts(p.media_type, p.name, p.size) for p in bodies.parts if p.attached),
        quoted_lines=bodies.quoted_lines,
        sender_priority=_sender_priority(headers),
        delivered_to=(headers.first_person("delivered-to").address or headers.first_person("x-original-to").address),
        first_host=_first_host(headers),
        authentication=_authentication(headers),
        header_names=headers.names,
        headers_whole=headers.whole,
        charset=bodies.charset,
        html_tags=bodies.tags,
        defects=(*date_defects, *_defects(message, unclear, bodies)),
        readable=readable,
    )


_BIDI = dict.fromkeys(map(ord, "\u061c\u200e\u200f"), None)


def file_name(value: str) -> str:
    """The name of an attachment as a file may bear it: no path, no controls, no marks of direction (which make one
    ending look like another)."""
    return re.sub(r"[\\/]+", "_", one_line(value).translate(_BIDI))[:200]


def name_of(leaf: Entity) -> tuple[str, str]:
    """The file name a part bears, or an empty string, and its disposition (RFC 2183)."""
    disposition, named = split_value(leaf.headers.raw("content-disposition"))
    return file_name(named.get("filename") or leaf.parameters.get("name") or ""), disposition


def one_id(value: str) -> str:
    """The message id in a header (RFC 5322, section 3.6.4), without what stands around it; all of it when there is
    none in angle brackets."""
    found = _MESSAGE_ID.search(value)
    return " ".join((found.group() if found else value).split())[:998]


def _when(headers: Headers) -> tuple[int, int, tuple[str, ...]]:
    """The time to go by, the local hour, and what was wrong with the Date."""
    date = parse_date(headers.raw("date")) if "date" in headers else None
    received = next((at for value in headers.every("received") if (at := parse_date(value.rpartition(";")[2]))), None)
    if date and received and abs(date[0] - received[0]) > CLOCK_SLACK:
        return received[0], date[1], ("date off",)
    if date:
        return *date, ()
    defect = "date broken" if "date" in headers else "date missing"
    return (*received, (defect,)) if received else (0, -1, (defect,))


def _precedence(headers: Headers) -> str:
    """What Precedence says, in lower case: of several, the first that asks not to be answered."""
    said = headers.keywords("precedence")
    words = (word for one in said for word in _WORD.findall(one))
    return next((word for word in words if word in NOT_PERSONAL), said[0][:20] if said else "")


def _list_id(headers: Headers) -> str:
    """RFC 2919 List-Id, else what older list software leaves; lower-cased, empty when no list."""
    if "list-id" in headers:
        value = headers.text("list-id")
        found = _LIST_IN_BRACKETS.search(value)
        return (found.group(1) if found else value).strip().lower()[:200]
    for name in ("list-post", "x-beenthere", "x-mailing-list", "mailing-list"):
        value = headers.text(name).replace("mailto:", "").removeprefix("list ").partition(";")[0].strip()
        if value and not _NO_POSTING.match(value):
            found = _LIST_IN_BRACKETS.search(value)
            return (found.group(1) if found else value).strip().lower()[:200]
    sender = (headers.first_person("sender").address or headers.first_person("return-path").address)[:MAX_ADDRESS]
    match = _LIST_SENDER.match(sender)
    if match and (headers.text("precedence").lower() in ("bulk", "list") or sender.startswith("owner-")):
        return f"{match.group(1) or match.group(2)}@{match.group(3)}"
    return ""


def _link_hosts(bodies: _Bodies) -> tuple[str, ...]:
    hosts: dict[str, None] = {}
    for href in bodies.links:
        found = _LINK.match(href)
        if found:
            hosts[found.group(1).lower()] = None
    for found in _LINK.finditer(bodies.own[:20_000]):
        hosts[found.group(1).lower()] = None
    return tuple(hosts)[:40]


def _sender_priority(headers: Headers) -> int:
    """1 urgent, 0 normal or none, -1 low (X-Priority, Importance, Priority)."""
    value = " ".join(headers.text(name).lower() for name in ("x-priority", "importance", "priority"))
    if re.search(r"\b[12]\b|high|urgent(?!\w)", value) and "non-urgent" not in value:
        return 1
    return -1 if re.search(r"\b[45]\b|low|non-urgent", value) else 0


def _first_host(headers: Headers) -> str:
    received = headers.every("received")
    found = _RECEIVED_FROM.match(received[-1].strip()) if received else None
    return found.group(1).lower()[:100] if found else ""


MAX_RESULTS = 10_000
"""Characters of one Authentication-Results header that are kept."""


def _authentication(headers: Headers) -> tuple[tuple[str, str], ...]:
    """(authserv-id, results) of every Authentication-Results header (RFC 8601), top first, as they stand: encoded words
    mean nothing in them."""
    return tuple(split_server(value[:MAX_RESULTS]) for value in headers.every("authentication-results")[:10])


def _defects(message: Entity, unclear: str, bodies: _Bodies) -> Iterator[str]:
    headers = message.headers
    if "message-id" not in headers:
        yield "message-id missing"
    if unclear:
        yield unclear
    if not headers.every("to") and not headers.every("cc"):
        yield "recipients missing"
    if not all(headers.is_ascii(name) for name in ("from", "subject", "to")):
        yield "raw 8-bit headers"
    if message.broken:
        yield "structure broken"
    if bodies.hidden_words > 20:
        yield "hidden text"


def correspondents_text(people: tuple[Correspondent, ...]) -> str:
    """Names and addresses as one line for the search index."""
    return " ".join(f"{c.name} {c.address}".strip() for c in people[:200])


def written_at(head: bytes) -> datetime | None:
    """When a message whose first bytes are given says that it was written, by its writer's clock; None when that cannot
    be read, or names no zone."""
    return local_date(parse(head).headers.raw("date"))
