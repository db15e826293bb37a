"""How a message says one may unsubscribe, and doing it: by the header fields of RFC 2369 and RFC 8058 alone, never by a
link of its text."""

from __future__ import annotations

import contextlib
import re
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal
from urllib.parse import parse_qsl, unquote, urlsplit

import dkim

from hieranome.core.signatures import POST, UNSUBSCRIBE, Signature
from hieranome.mail.headers import one_line
from hieranome.mail.mime import parse
from hieranome.mail.public import Deadline, Dial, NotPublic, TooLate, Unreached, ask, by_public_network

PATIENCE = 10.0
"""Seconds a request may take in all."""
MAX_ANSWER = 64_000
MAX_TARGET = 2_000
MAX_SIGNATURES = 10
MAX_SAID, MAX_WORDS = 200, 3
"""Characters and words of what a message that unsubscribes says."""
_WORD = re.compile(r"[A-Za-z0-9._+=/@:~-]+")
_PARTS = re.compile(r"[^a-z]+")
_COMMANDS_OF_A_LIST = frozenset({"unsubscribe", "signoff", "unsub", "optout"})
_COMMANDS = _COMMANDS_OF_A_LIST | {"remove", "stop", "leave", "off", "opt-out"}
"""Words by which programs of lists are asked: alone, and those with a name behind."""
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
    signatures, and how often the headers they must cover stand in it. Where not all of its headers could be read
    (``whole``), it names none."""

    whole: bool
    web: str
    one_click: bool
    mailto: Mailto | None
    signatures: tuple[Signature, ...]
    counts: dict[str, int]


def ways(raw: bytes) -> Ways:
    """What the headers of a message say. Never raises for what they hold."""
    headers = parse(raw).headers
    if not headers.whole:
        return Ways(False, "", False, None, (), {})
    named = headers.every(UNSUBSCRIBE)
    targets = ["".join(found.split()) for found in _URI.findall(named[0][:20_000])] if len(named) == 1 else []
    web = next((one for one in targets if _is_web(one)), "")
    mailto = next((found for one in targets if (found := _mailto(one)) is not None), None)
    said = headers.every(POST)
    one_click = len(said) == 1 and "".join(said[0].split()).lower() == _ONE_CLICK and web.lower().startswith("https:")
    signatures = tuple(_signature(value) for value in headers.every("dkim-signature")[:MAX_SIGNATURES])
    counts = {UNSUBSCRIBE: len(named), POST: len(said)}
    return Ways(True, web, one_click, mailto, signatures, counts)


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
    subject, body = (one_line(fields.get(name, "")) for name in ("subject", "body"))
    asks = harmless(subject) or "unsubscribe"
    return Mailto(to, asks, harmless(body) or ("unsubscribe" if body else ""))


def harmless(text: str) -> str:
    """A subject or text that somebody else wrote, as it may stand in the owner's mail: a word that asks to be
    unsubscribed, with the name or the mark of a list behind it. Empty where it says anything else."""
    words = text.split()
    if len(text) > MAX_SAID or not 0 < len(words) <= MAX_WORDS or not all(_WORD.fullmatch(one) for one in words):
        return ""
    first = words[0].lower()
    named = _PARTS.split(first)[0] in _COMMANDS_OF_A_LIST
    return text if named or (len(words) == 1 and first in _COMMANDS) else ""


def _signature(value: str) -> Signature:
    tags: dict[str, str] = {}
    for part in value[:20_000].split(";"):
        name, _, said = part.partition("=")
        tags.setdefault(name.strip().lower(), "".join(said.split()).lower())
    headers = tuple(one for one in tags.get("h", "").split(":") if one)
    expires = int(tags["x"]) if re.fullmatch(r"[0-9]{1,12}", tags.get("x", "")) else 0
    return Signature(tags.get("d", ""), tags.get("s", ""), headers, tags.get("b", ""), expires)


def verified(
    raw: bytes, found: Ways, speaks: Callable[[Signature], bool], look_up: KeyLookUp, now: float | None = None
) -> bool:
    """Whether one of the signatures that would do, as ``speaks`` says, holds by its key in the DNS (RFC 6376)."""
    at = time.time() if now is None else now
    for number, signature in enumerate(found.signatures):
        if speaks(signature) and not 0 < signature.expires < at:
            with contextlib.suppress(Exception):  # whatever the signature or the DNS say
                checked = dkim.DKIM(raw, timeout=5)
                if _agrees(checked.headers, found.counts) and checked.verify(idx=number, dnsfunc=_keys(look_up)):
                    return True
    return False


def _agrees(headers: list[tuple[bytes, bytes]], counts: dict[str, int]) -> bool:
    """Whether who checks the signature reads as many of the headers that count as we do."""
    names = [name.decode("ascii").lower() for name, _ in headers]
    return all(names.count(name) == count for name, count in counts.items())


def _keys(look_up: KeyLookUp) -> Callable[..., bytes]:
    """Keys as they are looked up, without those that are not for the only digest there is (RFC 6376, section 3.6.1)."""

    def key_of(name: bytes, timeout: float = 5) -> bytes:
        said = look_up(name, timeout)
        digests = re.search(rb"(?:^|;)\s*h\s*=([^;]*)", said)
        allowed = digests is None or b"sha256" in b"".join(digests.group(1).lower().split()).split(b":")
        return said if allowed else b""

    return key_of


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
