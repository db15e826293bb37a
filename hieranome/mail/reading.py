"""Raw bytes of one message into facts, text and parts. Reading never raises on what mail contains."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from email.message import Message
from email.parser import BytesHeaderParser, BytesParser
from email.policy import compat32

from hieranome.core.facts import AttachmentFacts, Correspondent, MessageFacts
from hieranome.core.text import own_words
from hieranome.mail.headers import Headers, addresses, decode_bytes, decode_header, first_address, parse_date
from hieranome.mail.html_text import HtmlText

MAX_TEXT = 200_000
"""Characters of text kept per message for reading, searching and scoring; the raw bytes stay whole."""
MAX_DEPTH = 40
MAX_PARTS = 400
CLOCK_SLACK = 2 * 86_400
"""Seconds by which Date may differ from the receiving machine's clock before the latter is believed."""

_LINK = re.compile(r"https?://([^\s/<>\"'()\[\]:?#]+)", re.IGNORECASE)
_MESSAGE_ID = re.compile(r"<[^<>]+>")
_LIST_IN_BRACKETS = re.compile(r"<([^<>]+)>")
_LIST_SENDER = re.compile(r"^(?:owner-(.+)|(.+?)-(?:owner|bounces?|admin|request)(?:\+.*)?)@(.+)$")
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


def parse(raw: bytes) -> Message:
    """The standard library's parse; a tree too deep for it becomes headers and one text body."""
    try:
        return BytesParser(policy=compat32).parsebytes(raw)
    except RecursionError:
        return BytesHeaderParser(policy=compat32).parsebytes(raw)


_AS_IS = frozenset({"", "7bit", "8bit", "binary"})


def payload(part: Message, encoding: str | None = None) -> bytes:
    """The decoded body of a leaf part; what cannot be decoded comes as it stands."""
    inside = part.get_payload()
    if encoding in _AS_IS and isinstance(inside, str):
        try:
            return inside.encode("ascii", "surrogateescape")
        except UnicodeError:
            return inside.encode("utf-8", "surrogateescape")
    try:
        content = part.get_payload(decode=True)
    except (ValueError, LookupError, UnicodeError, AssertionError):
        content = None
    if isinstance(content, bytes):
        return content
    rest = part.get_payload()
    return rest.encode("utf-8", "surrogateescape") if isinstance(rest, str) else b""


def leaves(message: Message) -> Iterator[tuple[str, Message]]:
    """Leaf parts with their paths, depth first, within :data:`MAX_DEPTH` and :data:`MAX_PARTS`."""
    stack = [("1", message, 0)]
    count = 0
    while stack and count < MAX_PARTS:
        path, part, depth = stack.pop()
        inside = part.get_payload()
        if isinstance(inside, list) and depth < MAX_DEPTH and part_type(part) != "message/rfc822":
            for number, child in reversed(list(enumerate(inside, 1))):
                if isinstance(child, Message):
                    stack.append((f"{path}.{number}", child, depth + 1))
        else:
            count += 1
            yield path, part


def find_part(message: Message, path: str) -> Message | None:
    """The leaf part at ``path``, or None."""
    return next((part for at, part in leaves(message) if at == path), None)


def part_bytes(part: Message) -> bytes:
    """The content of a part as a file: an attached message as its source, else the decoded body."""
    if part_type(part) == "message/rfc822":
        inside = part.get_payload()
        if isinstance(inside, list) and inside and isinstance(inside[0], Message):
            try:
                return inside[0].as_bytes()
            except (ValueError, LookupError, UnicodeError, KeyError, TypeError):
                return inside[0].as_string().encode("utf-8", "surrogateescape")
    return payload(part)


def read(raw: bytes) -> Reading:
    """Read one message. Never raises for what the message contains."""
    message = parse(raw)
    headers = Headers(message)
    bodies = _Bodies(message, headers)
    facts = _facts(raw, message, headers, bodies)
    return Reading(facts, bodies.text, bodies.html, bodies.parts)


class _Bodies:
    """The readable text, the HTML and the list of parts of one message."""

    def __init__(self, message: Message, headers: Headers) -> None:
        self.parts: list[Part] = []
        plain: list[str] = []
        htmls: list[str] = []
        self.invitation = False
        self.charset = ""
        for path, part in leaves(message):
            own = headers if part is message else Headers(part)
            kind = _media_type(part, own.raw("content-type"))
            name = _file_name(part, own)
            attached = bool(name) or own.raw("content-disposition").lstrip()[:10].lower() == "attachment"
            if kind == "text/calendar":
                self.invitation = True
                attached = True
            elif kind.startswith("text/") and not attached:
                charset = _charset(part, own.raw("content-type"))
                self.charset = self.charset or charset.lower()[:30]
                encoding = own.raw("content-transfer-encoding").strip().lower()
                text = decode_bytes(payload(part, encoding), charset).replace("\x00", "")
                (htmls if kind == "text/html" else plain).append(text)
            elif not kind.startswith("text/"):
                attached = True
            content_id = own.raw("content-id").strip().strip("<>")
            self.parts.append(Part(path, kind, name, _size(part, own), content_id, attached))
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


def _facts(raw: bytes, message: Message, headers: Headers, bodies: _Bodies) -> MessageFacts:
    sent_at, hour, date_defects = _when(headers)
    readable = any(name in headers for name in ("from", "to", "subject", "date", "message-id", "received"))
    sender = first_address(headers.raw("from")) if "from" in headers else first_address(headers.raw("sender"))
    return MessageFacts(
        message_id=one_id(headers.raw("message-id")),
        in_reply_to=one_id(headers.raw("in-reply-to")),
        references=tuple(_MESSAGE_ID.findall(headers.raw("references")[:20_000])[-40:]),
        sender=sender,
        reply_to=first_address(headers.raw("reply-to")),
        to=headers.people("to")[:2000],
        cc=headers.people("cc")[:2000],
        subject=headers.text("subject")[:2000],
        text=bodies.own,
        sent_at=sent_at,
        hour=hour,
        size=len(raw),
        list_id=_list_id(headers),
        list_post="list-post" in headers or "mailing-list" in headers or "x-beenthere" in headers,
        list_unsubscribe="list-unsubscribe" in headers,
        precedence=headers.text("precedence").lower()[:20],
        auto_submitted=headers.text("auto-submitted").lower() not in ("", "no"),
        mailer=(headers.text("x-mailer") or headers.text("user-agent"))[:60],
        media_type=_media_type(message, headers.raw("content-type")),
        html_only=bodies.html_only,
        invitation=bodies.invitation,
        links=_link_hosts(bodies),
        attachments=tuple(AttachmentFacts(p.media_type, p.name, p.size) for p in bodies.parts if p.attached),
        quoted_lines=bodies.quoted_lines,
        sender_priority=_sender_priority(headers),
        delivered_to=first_address(headers.raw("delivered-to") or headers.raw("x-original-to")).address,
        first_host=_first_host(headers),
        authentication=_authentication(headers),
        header_names=headers.names[:60],
        charset=bodies.charset,
        html_tags=bodies.tags,
        defects=(*date_defects, *_defects(message, headers, bodies)),
        readable=readable,
    )


_CHARSET = re.compile(r";\s*charset\s*=\s*\"?([\w.:+-]+)\"?", re.IGNORECASE)


def _charset(part: Message, content_type: str) -> str:
    """The declared charset; the short way for what nearly everybody writes, the library's for the rest."""
    found = _CHARSET.search(content_type)
    if found or "charset" not in content_type.lower():
        return found.group(1) if found else ""
    try:
        value = part.get_param("charset")
    except (ValueError, LookupError, UnicodeError, TypeError):
        return ""
    return str((value[2] if isinstance(value, tuple) else value) or "")


def part_type(part: Message) -> str:
    """The media type of a part, lower-cased."""
    return _media_type(part, next((str(v) for n, v in part.raw_items() if n.lower() == "content-type"), ""))


def _media_type(part: Message, content_type: str) -> str:
    """The media type a Content-Type header names: RFC 2045, section 5.2, says what to take for a broken one."""
    if not content_type:
        return part.get_default_type()
    kind = content_type.partition(";")[0].strip().lower()
    return kind if kind.count("/") == 1 and kind.isascii() else "text/plain"


def _file_name(part: Message, headers: Headers) -> str:
    if "name" not in f"{headers.raw('content-disposition')} {headers.raw('content-type')}".lower():
        return ""
    try:
        name = part.get_filename("")
    except (ValueError, LookupError, UnicodeError, TypeError):
        name = ""
    decoded = decode_header(str(name or ""))
    return re.sub(r"[\x00-\x1f\\/]+", "_", decoded)[:200]


def _size(part: Message, headers: Headers) -> int:
    inside = part.get_payload()
    if not isinstance(inside, str):
        return 0
    encoding = headers.raw("content-transfer-encoding").strip().lower()
    return len(inside) * 3 // 4 if encoding == "base64" else len(inside)


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


def _list_id(headers: Headers) -> str:
    """RFC 2919 List-Id, else what older list software leaves; lower-cased, empty when no list."""
    if "list-id" in headers:
        value = headers.text("list-id")
        found = _LIST_IN_BRACKETS.search(value)
        return (found.group(1) if found else value).strip().lower()[:200]
    for name in ("list-post", "x-beenthere", "x-mailing-list", "mailing-list"):
        if name in headers:
            value = headers.text(name).replace("mailto:", "").removeprefix("list ")
            value = value.partition(";")[0]
            found = _LIST_IN_BRACKETS.search(value)
            return (found.group(1) if found else value).strip().lower()[:200]
    sender = first_address(headers.raw("sender") or headers.raw("return-path")).address
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


def _authentication(headers: Headers) -> tuple[tuple[str, str], ...]:
    """(authserv-id, results) of every Authentication-Results header (RFC 8601), top first."""
    found = []
    for value in headers.every("authentication-results")[:10]:
        server, _, results = decode_header(value).partition(";")
        found.append((server.split()[0].lower() if server.split() else "", results.strip().lower()[:1000]))
    return tuple(found)


def _defects(message: Message, headers: Headers, bodies: _Bodies) -> Iterator[str]:
    if "message-id" not in headers:
        yield "message-id missing"
    if "from" not in headers or not addresses(headers.raw("from")):
        yield "sender missing"
    elif len(headers.every("from")) > 1:
        yield "several senders"
    if not headers.every("to") and not headers.every("cc"):
        yield "recipients missing"
    if any(not headers.raw(name).isascii() for name in ("from", "subject", "to")):
        yield "raw 8-bit headers"
    if message.defects:
        yield "structure broken"
    if bodies.hidden_words > 20:
        yield "hidden text"


def correspondents_text(people: tuple[Correspondent, ...]) -> str:
    """Names and addresses as one line for the search index."""
    return " ".join(f"{c.name} {c.address}".strip() for c in people[:200])
