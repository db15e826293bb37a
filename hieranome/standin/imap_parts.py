"""What FETCH tells of a message: its envelope, its structure, the bytes of its sections (RFC 9051, section 7.5.2)."""

from __future__ import annotations

import re
from email import message_from_bytes
from email.message import Message
from email.utils import getaddresses

from hieranome.standin.imap_words import quoted

_SECTION = re.compile(rb"^(BODY(?:\.PEEK)?)\[([^\]]*)\](?:<(\d+)(?:\.(\d+))?>)?$", re.IGNORECASE)
_END_OF_HEADER = re.compile(rb"\r?\n\r?\n")


def split(raw: bytes) -> tuple[bytes, bytes]:
    """The header with the blank line behind it, and the rest."""
    found = _END_OF_HEADER.search(raw)
    return (raw[: found.end()], raw[found.end() :]) if found else (raw, b"")


def section(raw: bytes, item: bytes) -> tuple[bytes, bytes] | None:
    """The name to answer with and the bytes of a BODY[...] item; None when it is no such item."""
    found = _SECTION.match(item)
    if not found:
        return None
    _, inner, start, length = found.groups()
    data = _of(raw, inner)
    name = b"BODY[" + inner + b"]"
    if start is not None:
        data = data[int(start) :][: int(length)] if length else data[int(start) :]
        name += b"<" + start + b">"
    return name, data


def _of(raw: bytes, inner: bytes) -> bytes:
    head, body = split(raw)
    upper = inner.upper()
    if not inner:
        return raw
    if upper == b"HEADER":
        return head
    if upper == b"TEXT":
        return body
    if upper.startswith(b"HEADER.FIELDS"):
        names = {n.lower() for n in re.findall(rb"[^\s()]+", inner.split(b"(", 1)[-1])}
        return fields(head, names, but=upper.startswith(b"HEADER.FIELDS.NOT"))
    return _part(raw, inner)


def fields(head: bytes, names: set[bytes], *, but: bool = False) -> bytes:
    """The header fields of these names, or all others."""
    kept = [
        field
        for field in re.findall(rb"[^\r\n]+(?:\r?\n[ \t][^\r\n]*)*\r?\n", head)
        if (field.split(b":", 1)[0].strip().lower() in names) != but
    ]
    return b"".join(kept) + b"\r\n"


def _part(raw: bytes, inner: bytes) -> bytes:
    numbers, _, what = re.match(rb"([\d.]*?)(\.?)([A-Za-z.]*)$", inner).groups()  # type: ignore[union-attr]
    part: Message = message_from_bytes(raw)
    for number in filter(None, numbers.split(b".")):
        inside = part.get_payload()
        if part.get_content_type() == "message/rfc822" and isinstance(inside, list):
            part = inside[0]  # type: ignore[assignment]
            inside = part.get_payload()
        if isinstance(inside, list) and int(number) <= len(inside):
            part = inside[int(number) - 1]  # type: ignore[assignment]
        elif int(number) != 1:
            return b""
    head, body = split(part.as_bytes())
    if what.upper() == b"MIME" or what.upper() == b"HEADER":
        return head
    return body.replace(b"\r\n", b"\n").replace(b"\n", b"\r\n")


def _addresses(message: Message, name: str) -> bytes:
    found = getaddresses([str(value) for value in message.get_all(name, [])])
    made = []
    for person, address in found:
        box, _, host = address.partition("@")
        made.append(b"(" + b" ".join((quoted(person or None), b"NIL", quoted(box), quoted(host or None))) + b")")
    return b"(" + b"".join(made) + b")" if made else b"NIL"


def envelope(raw: bytes) -> bytes:
    """The ENVELOPE of a message."""
    message = message_from_bytes(split(raw)[0])

    def text(name: str) -> bytes:
        value = message.get(name)
        return quoted(None if value is None else " ".join(str(value).split()))

    sender = _addresses(message, "From")
    people = [sender, _addresses(message, "Sender"), _addresses(message, "Reply-To")]
    people = [one if one != b"NIL" else sender for one in people]
    rest = [_addresses(message, name) for name in ("To", "Cc", "Bcc")]
    return (
        b"("
        + b" ".join([text("Date"), text("Subject"), *people, *rest, text("In-Reply-To"), text("Message-ID")])
        + b")"
    )


def structure(raw: bytes, *, extended: bool) -> bytes:
    """The BODYSTRUCTURE of a message (BODY without its extensions)."""
    return _structure(message_from_bytes(raw), extended)


def _pairs(pairs: list[tuple[str, str]]) -> bytes:
    if not pairs:
        return b"NIL"
    return b"(" + b" ".join(quoted(word) for pair in pairs for word in pair) + b")"


def _disposition(part: Message) -> bytes:
    kind = part.get_content_disposition()
    if kind is None:
        return b"NIL"
    named = [("filename", str(part.get_filename()))] if part.get_filename() else []
    return b"(" + quoted(kind) + b" " + _pairs(named) + b")"


def _structure(part: Message, extended: bool) -> bytes:
    inside = part.get_payload()
    parameters = [(key, str(value)) for key, value in part.get_params([])[1:]]
    if part.get_content_maintype() == "multipart" and isinstance(inside, list) and inside:
        made = b"".join(_structure(one, extended) for one in inside if isinstance(one, Message))
        made += b" " + quoted(part.get_content_subtype())
        if extended:
            made += b" " + b" ".join((_pairs(parameters), _disposition(part), b"NIL", b"NIL"))
        return b"(" + made + b")"
    _, body = split(part.as_bytes())
    made = b" ".join(
        (
            quoted(part.get_content_maintype()),
            quoted(part.get_content_subtype()),
            _pairs(parameters),
            quoted(part.get("Content-ID")),
            quoted(part.get("Content-Description")),
            quoted(str(part.get("Content-Transfer-Encoding", "7bit")).strip()),
            b"%d" % len(body),
        )
    )
    if part.get_content_type() == "message/rfc822":
        made += b" " + b" ".join((envelope(body), structure(body, extended=extended), b"%d" % body.count(b"\n")))
    elif part.get_content_maintype() == "text":
        made += b" %d" % body.count(b"\n")
    if extended:
        made += b" " + b" ".join((b"NIL", _disposition(part), b"NIL", b"NIL"))
    return b"(" + made + b")"
