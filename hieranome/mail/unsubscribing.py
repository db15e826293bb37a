"""How a message says one may unsubscribe, and doing it: by the header fields of RFC 2369 and RFC 8058 alone, never by a
link of its text."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal
from urllib.parse import parse_qsl, unquote, urlsplit

import dkim

from hieranome.core.signatures import POST, UNSUBSCRIBE, Signature, covers_both
from hieranome.mail.headers import one_line
from hieranome.mail.mime import parse
from hieranome.mail.public import Deadline, Dial, NotPublic, TooLate, Unreached, ask, by_public_network

PATIENCE = 10.0
"""Seconds a request may take in all."""
MAX_ANSWER = 64_000
MAX_TARGET = 2_000
MAX_SIGNATURES = 10
_URI = re.compile(r"<([^<>]*)>")
_ONE_CLICK = "list-unsubscribe=one-click"
KeyLookUp = Callable[[bytes, float], bytes]
"""What a DNS name says as TXT, within some seconds."""


@dataclass(frozen=True, slots=True)
class Mailto:
    """A message that unsubscribes: to whom, with which subject and text. Nothing else of a mailto address is heeded."""

    to: str
    subject: str
    body: str


@dataclass(frozen=True, slots=True)
class Ways:
    """The ways a message names: a web address, whether it says that a POST alone will do (RFC 8058), and a message; its
    signatures, and how often the headers they must cover stand in it."""

    web: str
    one_click: bool
    mailto: Mailto | None
    signatures: tuple[Signature, ...]
    counts: dict[str, int]


def ways(raw: bytes) -> Ways:
    """What the headers of a message say. Never raises for what they hold."""
    headers = parse(raw).headers
    named = headers.every(UNSUBSCRIBE)
    targets = ["".join(found.split()) for found in _URI.findall(named[0][:20_000])] if len(named) == 1 else []
    web = next((one for one in targets if _is_web(one)), "")
    mailto = next((found for one in targets if (found := _mailto(one)) is not None), None)
    said = headers.every(POST)
    one_click = len(said) == 1 and "".join(said[0].split()).lower() == _ONE_CLICK and web.lower().startswith("https:")
    signatures = tuple(_signature(value) for value in headers.every("dkim-signature")[:MAX_SIGNATURES])
    counts = {UNSUBSCRIBE: len(named), POST: len(said)}
    return Ways(web, one_click, mailto, signatures, counts)


def _is_web(target: str) -> bool:
    with contextlib.suppress(ValueError):
        parts = urlsplit(target)
        return parts.scheme.lower() in ("https", "http") and bool(parts.hostname) and len(target) <= MAX_TARGET
    return False


def _mailto(target: str) -> Mailto | None:
    """A mailto address (RFC 6068): one recipient, its subject and body; what else it names is left out."""
    scheme, _, rest = target.partition(":")
    if scheme.lower() != "mailto" or len(target) > MAX_TARGET:
        return None
    address, _, query = rest.partition("?")
    to = one_line(unquote(address))
    if not re.fullmatch(r"[^\s,;<>\"]+@[^\s,;<>\"@]+", to):
        return None
    fields: dict[str, str] = {}
    for name, value in parse_qsl(query.replace("+", "%2B"), max_num_fields=20, keep_blank_values=True):
        fields.setdefault(name.lower(), value)
    return Mailto(to, one_line(fields.get("subject", ""))[:200] or "unsubscribe", fields.get("body", "")[:2_000])


def _signature(value: str) -> Signature:
    tags: dict[str, str] = {}
    for part in value[:20_000].split(";"):
        name, _, said = part.partition("=")
        tags.setdefault(name.strip().lower(), "".join(said.split()).lower())
    headers = tuple(one for one in tags.get("h", "").split(":") if one)
    return Signature(tags.get("d", ""), tags.get("s", ""), headers, tags.get("b", ""))


def verified(raw: bytes, found: Ways, look_up: KeyLookUp) -> bool:
    """Whether a signature that covers the headers by which one unsubscribes holds, by its key in the DNS (RFC 6376)."""
    for number, signature in enumerate(found.signatures):
        if covers_both(signature, found.counts):
            with contextlib.suppress(Exception):  # whatever the signature or the DNS say
                if dkim.DKIM(raw, timeout=5).verify(idx=number, dnsfunc=lambda name, timeout=5: look_up(name, timeout)):
                    return True
    return False


Said = Literal["accepted", "page", "failed", "unreached"]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of a request: ``accepted``, a ``page`` that wants a person, ``failed`` with a status, or ``unreached``;
    and that in words."""

    said: Said
    words: str


def post_one_click(url: str, dial: Dial | None = None) -> Outcome:
    """Ask to be unsubscribed by one POST (RFC 8058, section 3.1): to an address of the public network, following
    nowhere, with no cookie. Never raises for what a server does."""
    form = {"Content-Type": "application/x-www-form-urlencoded"}
    said = b"List-Unsubscribe=One-Click"
    made = dial or by_public_network()
    try:
        answer = ask(url, made, Deadline.after(PATIENCE), MAX_ANSWER, method="POST", headers=form, body=said)
    except NotPublic:
        return Outcome("unreached", "Its address lies in a private network and was not asked.")
    except TooLate:
        return Outcome("unreached", f"Its server did not answer within {PATIENCE:.0f} seconds.")
    except Unreached as exc:
        return Outcome("unreached", str(exc))
    if 200 <= answer.status < 300:
        return Outcome("accepted", f"Its server answered {answer.status}.")
    if 300 <= answer.status < 400:
        return Outcome("page", f"Its server answered {answer.status} and leads to a page that wants a person.")
    return Outcome("failed", f"Its server answered {answer.status}.")
