"""Made-up mail as RFC 5322 bytes."""

from __future__ import annotations

import base64
import random
import re
import struct
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from email.charset import QP, Charset
from email.header import Header
from email.mime.base import MIMEBase
from email.mime.image import MIMEImage
from email.mime.multipart import MIMEMultipart
from email.mime.text import MIMEText
from email.policy import Compat32
from email.utils import format_datetime, formataddr
from html import escape
from textwrap import TextWrapper

from hieranome.demo.world import OWNER, OWNER_NAME, SERVER, Sender


class _Plain(Compat32):
    """Folds ASCII at its spaces; only what has to be encoded takes the library's slow way."""

    def fold_binary(self, name: str, value: str) -> bytes:
        if not isinstance(value, str) or not value.isascii():
            return super().fold_binary(name, value)
        line = f"{name}: {value}"
        lines = [line] if len(line) < 79 else _FOLD.wrap(line)
        return "".join(part + self.linesep for part in lines).encode("ascii")


_DATE = "%a, %d %b %Y %H:%M:%S %z"
_FOLD = TextWrapper(78, subsequent_indent=" ", break_long_words=False, break_on_hyphens=False)
_POLICY = _Plain(linesep="\r\n")
_QUOTED = Charset("utf-8")
_QUOTED.body_encoding = QP


@dataclass(frozen=True, slots=True)
class Draft:
    """A message of the demo before it is bytes. ``at`` is aware; ``number`` makes its id unique."""

    sender: Sender
    at: datetime
    subject: str
    body: str
    number: int
    world: str = "w"
    reply_to_id: str = ""
    attachment: str = ""
    invite: str = ""
    to: str = ""
    genuine: bool = True
    references: tuple[str, ...] = field(default=())

    @property
    def message_id(self) -> str:
        """The Message-ID, angle brackets included."""
        return f"<{self.world}.{self.number}@{self.sender.address.partition('@')[2]}>"


def received(draft: Draft) -> bytes:
    """A message as it stands in the owner's mailbox."""
    sender = draft.sender
    domain = sender.address.partition("@")[2]
    stamp = draft.at.strftime(_DATE)
    verdict = "pass" if draft.genuine else "fail"
    headers = [
        ("Return-Path", f"<{'bounces@' + domain if sender.list_id else sender.address}>"),
        ("Delivered-To", OWNER),
        ("Authentication-Results", f"{SERVER}; spf={verdict} smtp.mailfrom={domain}; dkim={verdict} header.d={domain}"),
        ("Received", f"from mail.{domain} by {SERVER} with ESMTPS id {draft.number:06x}; {stamp}"),
        (
            "Received",
            f"from app-{draft.number % 7}.{domain} by mail.{domain} with ESMTP id q{draft.number:08x}; {stamp}",
        ),
        ("DKIM-Signature", _signature(domain, draft)),
        *_addressed(draft, formataddr((sender.name, sender.address)), draft.to or sender.to),
        *_marks(sender),
    ]
    return _written(headers, _content(draft))


def sent(draft: Draft) -> bytes:
    """A message the owner wrote."""
    return _written(_addressed(draft, formataddr((OWNER_NAME, OWNER)), draft.to), _text(draft.body, "plain"))


def _written(headers: list[tuple[str, str]], content: MIMEBase) -> bytes:
    """The content with the headers before its own, as bytes.

    The classic message classes of the library: the newer ones parse every header they are given, which makes one
    message cost as much as reading ten.
    """
    own = content.items()
    for name, _ in own:
        del content[name]
    for name, value in headers:
        content[name] = value if value.isascii() else Header(value, "utf-8")  # type: ignore[assignment]
    for name, value in own:
        content[name] = value
    return content.as_bytes(policy=_POLICY)


def _signature(domain: str, draft: Draft) -> str:
    """What a DKIM signature looks like (RFC 6376); nobody can verify it."""
    rng = random.Random(draft.message_id)
    text = base64.b64encode(rng.randbytes(256)).decode()
    tags = "from:to:subject:date:message-id:list-id:list-unsubscribe:list-unsubscribe-post:mime-version:content-type"
    return f"v=1; a=rsa-sha256; c=relaxed/relaxed; d={domain}; s=s1; h={tags}; bh={text[:43]}=; b={text}"


def _addressed(draft: Draft, writer: str, to: str) -> list[tuple[str, str]]:
    headers = [
        ("From", writer),
        ("To", formataddr((OWNER_NAME, to)) if to == OWNER else to),
        ("Subject", draft.subject),
        ("Date", format_datetime(draft.at)),
        ("Message-ID", draft.message_id),
    ]
    if draft.reply_to_id:
        headers.append(("In-Reply-To", draft.reply_to_id))
        headers.append(("References", " ".join((*draft.references, draft.reply_to_id))))
    return headers


def _marks(sender: Sender) -> Iterator[tuple[str, str]]:
    domain = sender.address.partition("@")[2]
    if sender.list_id:
        yield "List-Id", f"{sender.name} <{sender.list_id}>"
        if sender.to.partition("@")[2] == domain:
            yield "List-Post", f"<mailto:{sender.to}>"
            yield "Precedence", "list"
        else:
            yield "Precedence", "bulk"
    if sender.unsubscribe and sender.html:
        yield "List-Unsubscribe", f"<https://{domain}/leave>, <mailto:leave@{domain}>"
        yield "List-Unsubscribe-Post", "List-Unsubscribe=One-Click"
    elif sender.unsubscribe:
        yield "List-Unsubscribe", f"<mailto:leave@{domain}?subject=leave>"
    if sender.automatic:
        yield "Auto-Submitted", "auto-generated"


def _content(draft: Draft) -> MIMEBase:
    body = draft.body if draft.body.endswith("\n") else draft.body + "\n"
    content = _text(body, "plain")
    if draft.sender.html:
        html = _text(_as_html(draft, body), "html")
        content = _several("alternative", draft, content, html) if draft.genuine else html
    if draft.invite:
        calendar = _text(_calendar(draft), "calendar")
        calendar.set_param("method", "REQUEST")
        content = _several("alternative", draft, content, calendar)
    if draft.attachment:
        picture = draft.attachment.endswith(".png")
        attached = MIMEImage(_picture(draft.number), "png") if picture else _text(body, "plain")
        attached.add_header("Content-Disposition", "attachment", filename=draft.attachment)
        content = _several("mixed", draft, content, attached)
    return content


def _text(body: str, subtype: str) -> MIMEBase:
    """A text part: as it is where ASCII will do, else quoted-printable."""
    return MIMEText(body, subtype, "us-ascii" if body.isascii() else _QUOTED)  # type: ignore[arg-type]


def _several(kind: str, draft: Draft, *parts: MIMEBase) -> MIMEBase:
    """A multipart whose boundary follows from the message alone, so that the same mail is the same bytes."""
    depth = sum(part.is_multipart() for part in parts)
    return MIMEMultipart(kind, f"=_{draft.world}.{draft.number}.{depth}", parts)


def _as_html(draft: Draft, body: str) -> str:
    domain = draft.sender.address.partition("@")[2]
    paragraphs = "".join(f"<p>{escape(p)}</p>" for p in body.strip().split("\n\n"))
    return (
        f'<html><body style="background-color:#f4f1e8"><table width="560" align="center" cellpadding="16" bgcolor="#ffffff"><tr>'
        f'<td><h2 style="color:#31504a">{escape(draft.sender.name)}</h2><img src="https://{domain}/banner.png" width="520" alt="">'
        f'{paragraphs}<p><a href="https://{domain}/read/{draft.number}">Read on</a></p>'
        f'<p style="font-size:11px;color:#6b7a76">You get this at your address with us. <a href="https://{domain}/leave">Leave</a></p>'
        f'<img src="https://{domain}/seen/{draft.number}.gif" width="1" height="1" alt=""></td></tr></table></body></html>'
    )


def _calendar(draft: Draft) -> str:
    start = (draft.at + timedelta(days=1)).astimezone(UTC).replace(hour=14, minute=0, second=0)
    form = "%Y%m%dT%H%M%SZ"
    return "\r\n".join(
        (
            "BEGIN:VCALENDAR",
            "VERSION:2.0",
            "PRODID:-//Quillmark//Calendar//EN",
            "METHOD:REQUEST",
            "BEGIN:VEVENT",
            f"UID:{draft.number}@quillmark.example",
            f"DTSTAMP:{draft.at.astimezone(UTC).strftime(form)}",
            f"DTSTART:{start.strftime(form)}",
            f"DTEND:{(start + timedelta(minutes=30)).strftime(form)}",
            f"SUMMARY:{draft.invite}",
            f"ORGANIZER:mailto:{draft.sender.address}",
            f"ATTENDEE:mailto:{OWNER}",
            "END:VEVENT",
            "END:VCALENDAR",
            "",
        )
    )


def _picture(number: int, width: int = 320, height: int = 200) -> bytes:
    """A small PNG: a sheet of paper with a few ruled lines, different per message."""
    rows = []
    for y in range(height):
        line = y % 20 < 2 and 20 < y < height - 20
        stamp = 40 + number % 60 < y < 90 + number % 60
        row = bytes(
            0x55 if stamp and 210 < x < 280 and (x + y) % 3 else 0x99 if line and 20 < x < width - 20 else 0xF4
            for x in range(width)
        )
        rows.append(b"\x00" + row)
    return (
        b"\x89PNG\r\n\x1a\n"
        + _chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0))
        + _chunk(b"IDAT", zlib.compress(b"".join(rows), 9))
        + _chunk(b"IEND", b"")
    )


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def dated(raw: bytes, was: datetime, now: datetime) -> bytes:
    """A message of :func:`received` as if it had been written ``now`` instead."""
    head, end, body = raw.partition(b"\r\n\r\n")
    old = rb"\s+".join(re.escape(part.encode()) for part in was.strftime(_DATE).split())
    return re.sub(old, now.strftime(_DATE).encode(), head) + end + body


def local(day: datetime, clock: str) -> datetime:
    """The given day at ``HH:MM``, in its own time zone."""
    hour, minute = clock.split(":")
    return day.replace(hour=int(hour), minute=int(minute), second=0, microsecond=0)
