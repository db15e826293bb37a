"""An edition as an ordinary message on the Desk. It is neither scored nor learned from: its own row in the store says
so, never anything in the message itself, which strangers could write as well."""

from __future__ import annotations

import hashlib
import sqlite3
import zlib
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime

from hieranome.app.bulk import printing
from hieranome.app.bulk.content import Content
from hieranome.app.reading.incoming import COMPRESSION, digest_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.zones import zone_of
from hieranome.app.rows import tell_arrived
from hieranome.core.buckets import DESK
from hieranome.core.deciders import Decider
from hieranome.core.threads import bare_subject
from hieranome.mail.reading import read
from hieranome.store import accounts, editions, messages, threads

NAME = "Hieranome"


def deliver(room: Mailroom, db: sqlite3.Connection, number: int, content: Content) -> None:
    """Within a change, put an edition on the Desk, and note that the mailbox's server is to have it; nowhere where the
    owner has no address."""
    mailbox = next((one for one in accounts.every(db) if one.routing), None)
    address = mailbox.address if mailbox else min(room.owner.addresses, default="")
    if not address:
        return
    raw = message_of(content, address)
    if messages.known(db, digest_of(raw)):
        return
    row = _row(db, content, raw, address)
    message = messages.add(db, row, zlib.compress(raw, COMPRESSION), None, _words(row))
    messages.index(db, [message])
    editions.put_message(db, number, message, "wanted" if mailbox else "")
    tell_arrived(room, message)
    room.tell_counts()


def message_of(content: Content, address: str) -> bytes:
    """An edition as a multipart message to its owner. Its Message-ID and its boundary follow from what it says, so that
    the same edition is the same bytes, and nobody who has not read it knows them."""
    text, page = printing.plain(content), printing.html(content)
    mark = hashlib.sha256(f"{address}\n{text}\n{page}".encode()).hexdigest()[:40]
    local, _, domain = address.rpartition("@")
    message = EmailMessage(policy=SMTP)
    message["From"] = Address(NAME, local, domain)
    message["To"] = Address("", local, domain)
    message["Subject"] = printing.title(content)
    message["Date"] = format_datetime(datetime.fromtimestamp(content.due, zone_of(content.zone)))
    message["Message-ID"] = f"<edition.{mark}@{domain}>"
    message.set_content(text, cte="quoted-printable")
    message.add_alternative(page, subtype="html", cte="quoted-printable")
    message.set_boundary(f"=_{mark}")
    return message.as_bytes()


def _row(db: sqlite3.Connection, content: Content, raw: bytes, address: str) -> messages.NewMessage:
    subject = printing.title(content)
    return messages.NewMessage(
        digest=digest_of(raw),
        message_id=read(raw).facts.message_id,
        thread=threads.begin(db),
        bare_subject=bare_subject(subject)[:200],
        time=content.due,
        sender_address=address,
        sender_name=NAME,
        sender_domain=address.rpartition("@")[2],
        list_id="",
        subject=subject,
        snippet=printing.summary(content)[: messages.SNIPPET],
        size=len(raw),
        attachments=0,
        readable=True,
        seen=False,
        answered=False,
        flagged=False,
        place=DESK,
        decided_by=Decider.EDITION,
        score=0.0,
        low_edge=0.0,
        high_edge=1.0,
        certainty=0.0,
        likely="",
        asked=False,
        counted=False,
        assured=True,
        bulk=False,
        automatic=True,
        reached=address,
    )


def _words(row: messages.NewMessage) -> messages.Words:
    """What a search finds it by: its subject alone, since what stands in it is found where it came from."""
    return messages.Words(row.subject, row.sender_name, "", "", "", "", "")
