"""What the headers of a message say about answering it by a machine (RFC 3834), and an answer of that kind written."""

from __future__ import annotations

import re
from datetime import datetime

from hieranome.core.away import Asked
from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.mail.mime import parse
from hieranome.mail.writing import Written, message_of, recipients, reply_mentions

_NAMING = ("to", "cc", "bcc", "resent-to", "resent-cc", "resent-bcc")
"""Headers that name whom a message is for (RFC 5230, section 4.5)."""
_DECLINING = ("all", "oof", "autoreply")
"""Values of X-Auto-Response-Suppress that several programs heed."""
_WORD = re.compile(r"[a-z]+")


def asked(raw: bytes) -> Asked:
    """What a message's headers say about answering it. Never raises for what they hold."""
    headers = parse(raw).headers
    paths = headers.every("return-path")
    declined = set(_WORD.findall(" ".join(headers.every("x-auto-response-suppress")).lower()))
    return Asked(
        return_path=_path(paths[0]) if paths else None,
        named=tuple(one.address for name in _NAMING for one in headers.people(name)),
        declined=not declined.isdisjoint(_DECLINING),
        senders=len(headers.people("from")),
    )


def _path(value: str) -> str | None:
    """The address of a Return-Path (RFC 5321, section 4.4), empty for the null one, None for what mail cannot be sent
    to."""
    if value.replace(" ", "") == "<>":
        return ""
    try:
        found = recipients(value)
    except CallerError:
        return None
    return found[0].address.lower() if len(found) == 1 else None


def notice(
    sender: Correspondent, to: str, subject: str, body: str, facts: MessageFacts, message_id: str, at: datetime
) -> tuple[Written, bytes]:
    """A notice that answers a message, as it is written and as bytes (RFC 3834, section 3): it says that a machine
    speaks. Raises :class:`CallerError` where it cannot be one."""
    written = Written(
        sender, (Correspondent(to),), subject=subject, body=body, in_reply_to=facts.message_id,
        mentions=reply_mentions(facts),
    )  # fmt: skip
    raw = message_of(written, message_id, at, with_bcc=False)
    return written, b"Auto-Submitted: auto-replied\r\nPrecedence: bulk\r\n" + raw
