"""What the headers of a message say about answering it by a machine (RFC 3834), and an answer of that kind written."""

from __future__ import annotations

from datetime import datetime

from hieranome.core.away import Asked
from hieranome.core.facts import Correspondent
from hieranome.mail.mime import parse
from hieranome.mail.people import addresses
from hieranome.mail.writing import Written, message_of

_NAMING = ("to", "cc", "bcc", "resent-to", "resent-cc", "resent-bcc")
"""Headers that name whom a message is for (RFC 5230, section 4.5)."""
_DECLINING = ("all", "oof", "autoreply")
"""Values of X-Auto-Response-Suppress that several programs heed."""


def asked(raw: bytes) -> Asked:
    """What a message's headers say about answering it. Never raises for what they hold."""
    headers = parse(raw).headers
    paths = headers.every("return-path")
    declined = {word.strip() for word in headers.raw("x-auto-response-suppress").lower().split(",")}
    return Asked(
        return_path=_path(paths[0]) if paths else None,
        named=tuple(one.address for name in _NAMING for one in headers.people(name)),
        declined=not declined.isdisjoint(_DECLINING),
        senders=len(headers.people("from")),
    )


def _path(value: str) -> str:
    """The address of a Return-Path (RFC 5321, section 4.4), empty for the null one or what is none."""
    found = [one.address for one in addresses(value)]
    return found[0] if len(found) == 1 and "@" in found[0] else ""


def notice(sender: Correspondent, to: str, subject: str, body: str, answers: tuple[str, tuple[str, ...]],
           message_id: str, at: datetime) -> bytes:  # fmt: skip
    """A notice as bytes (RFC 3834, section 3): it says that a machine answers, to which message (its id and its
    references). Raises :class:`hieranome.core.errors.CallerError` where it cannot be one."""
    in_reply_to, references = answers
    mentions = (*references, in_reply_to) if in_reply_to else references
    written = Written(sender, (Correspondent(to),), subject=subject, body=body, in_reply_to=in_reply_to,
                      mentions=mentions)  # fmt: skip
    return b"Auto-Submitted: auto-replied\r\nPrecedence: bulk\r\n" + message_of(written, message_id, at, with_bcc=False)
