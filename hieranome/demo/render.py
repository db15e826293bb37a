"""Made-up mail as RFC 5322 bytes."""

from __future__ import annotations

import base64
import random
import struct
import zlib
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from html import escape

from hieranome.demo.world import OWNER, OWNER_NAME, SERVER, Sender

_POLICY = SMTP.clone(refold_source="none")


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
    sender, message = draft.sender, EmailMessage(policy=_POLICY)
    domain = sender.address.partition("@")[2]
    stamp = draft.at.strftime("%a, %d %b %Y %H:%M:%S %z")
    message["Return-Path"] = f"<{'bounces@' + domain if sender.list_id else sender.address}>"
    message["Delivered-To"] = OWNER
    verdict = "pass" if draft.genuine else "fail"
    message["Authentication-Results"] = (
        f"{SERVER}; spf={verdict} smtp.mailfrom={domain}; dkim={verdict} header.d={domain}"
    )
    message["Received"] = f"from mail.{domain} by {SERVER} with ESMTPS id {draft.number:06x}; {stamp}"
    message["Received"] = (
        f"from app-{draft.number % 7}.{domain} by mail.{domain} with ESMTP id q{draft.number:08x}; {stamp}"
    )
    message["DKIM-Signature"] = _signature(domain, draft)
    _address(message, draft, Address(sender.name, addr_spec=sender.address), draft.to or sender.to)
    _mark(message, sender)
    _fill(message, draft)
    return message.as_bytes()


def _signature(domain: str, draft: Draft) -> str:
    """What a DKIM signature looks like (RFC 6376); nobody can verify it."""
    rng = random.Random(draft.message_id)
    text = base64.b64encode(rng.randbytes(256)).decode()
    tags = "from:to:subject:date:message-id:list-id:mime-version:content-type"
    return f"v=1; a=rsa-sha256; c=relaxed/relaxed; d={domain}; s=s1; h={tags}; bh={text[:43]}=; b={text}"


def sent(draft: Draft) -> bytes:
    """A message the owner wrote."""
    message = EmailMessage(policy=_POLICY)
    _address(message, draft, Address(OWNER_NAME, addr_spec=OWNER), draft.to)
    message.set_content(draft.body)
    return message.as_bytes()


def _address(message: EmailMessage, draft: Draft, writer: Address, to: str) -> None:
    message["From"] = writer
    message["To"] = Address(OWNER_NAME, addr_spec=to) if to == OWNER else to
    message["Subject"] = draft.subject
    message["Date"] = draft.at
    message["Message-ID"] = draft.message_id
    if draft.reply_to_id:
        message["In-Reply-To"] = draft.reply_to_id
        message["References"] = " ".join((*draft.references, draft.reply_to_id))


def _mark(message: EmailMessage, sender: Sender) -> None:
    domain = sender.address.partition("@")[2]
    if sender.list_id:
        message["List-Id"] = f"{sender.name} <{sender.list_id}>"
        if sender.to.partition("@")[2] == domain:
            message["List-Post"] = f"<mailto:{sender.to}>"
            message["Precedence"] = "list"
        else:
            message["Precedence"] = "bulk"
    if sender.unsubscribe:
        message["List-Unsubscribe"] = f"<https://{domain}/leave>, <mailto:leave@{domain}>"
        message["List-Unsubscribe-Post"] = "List-Unsubscribe=One-Click"
    if sender.automatic:
        message["Auto-Submitted"] = "auto-generated"


def _fill(message: EmailMessage, draft: Draft) -> None:
    body = draft.body if draft.body.endswith("\n") else draft.body + "\n"
    if draft.sender.html and draft.genuine:
        message.set_content(body)
        message.add_alternative(_as_html(draft, body), subtype="html")
    elif draft.sender.html:
        message.set_content(_as_html(draft, body), subtype="html")
    else:
        message.set_content(body)
    if draft.invite:
        message.add_alternative(
            _calendar(draft).encode(), maintype="text", subtype="calendar", params={"method": "REQUEST"}
        )
    if draft.attachment.endswith(".png"):
        message.add_attachment(_picture(draft.number), maintype="image", subtype="png", filename=draft.attachment)
    elif draft.attachment:
        message.add_attachment(body, subtype="plain", filename=draft.attachment)
    _fix_boundaries(message, draft)


def _fix_boundaries(message: EmailMessage, draft: Draft) -> None:
    """Boundaries that follow from the message alone, so that the same mail is the same bytes."""
    for depth, part in enumerate(p for p in message.walk() if p.is_multipart()):
        part.set_boundary(f"=_{draft.world}.{draft.number}.{depth}")


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


def local(day: datetime, clock: str) -> datetime:
    """The given day at ``HH:MM``, in its own time zone."""
    hour, minute = clock.split(":")
    return day.replace(hour=int(hour), minute=int(minute), second=0, microsecond=0)
