"""Senders the owner vouches for, and those who try to look like them.

A vouched address or domain keeps its mail on the Desk unless the mail is proven forged, or names
several senders. What only looks like a vouched sender is never taken for one.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.facts import Correspondent, MessageFacts

_ALIKE = str.maketrans(
    {
        "0": "o", "1": "l", "3": "e", "5": "s", "|": "l", "i": "l", "а": "a", "е": "e", "о": "o", "р": "p",
        "с": "c", "у": "y", "х": "x", "к": "k", "м": "m", "т": "t", "в": "b", "н": "h", "і": "l", "ѕ": "s",
        "ј": "j", "ԁ": "d", "ɡ": "g", "ո": "n", "ս": "u", "α": "a", "ο": "o", "ρ": "p", "ν": "v", "ι": "l",
        "κ": "k", "τ": "t", "υ": "u", "ı": "l", "ł": "l", "ø": "o", "ɑ": "a", "ɣ": "y", "ɩ": "l", "ɪ": "l",
        "ɯ": "w", "ʋ": "u", "ʏ": "y", "γ": "y", "σ": "o", "ϳ": "j", "ѡ": "w", "ѵ": "v", "ү": "y", "һ": "h",
        "ҽ": "e", "ӏ": "l", "ԛ": "q", "ԝ": "w", "ա": "w", "գ": "q", "զ": "q", "հ": "h", "ռ": "n", "ց": "g",
        "ք": "f", "օ": "o", "ᴄ": "c", "ᴏ": "o", "ᴜ": "u", "ᴠ": "v", "ᴡ": "w", "ᴢ": "z", "ꜱ": "s", "ꙇ": "l",
        "ǀ": "l",
    }
)  # fmt: skip
"""Letters and digits that are read as others, among them Cyrillic, Greek and Armenian ones (after UTS 39)."""


@dataclass(frozen=True, slots=True)
class Vouched:
    """One sender vouched for: ``kind`` is ``address`` or ``domain``; ``name`` as last seen, may be empty."""

    kind: str
    key: str
    name: str = ""

    def covers(self, who: Correspondent) -> bool:
        """Whether this very address, or the domain it is of, is vouched for."""
        return self.key == (who.address if self.kind == "address" else who.domain) != ""


def skeleton(text: str) -> str:
    """What a hasty reader sees: accents dropped, look-alike letters made one, ``rn`` read as ``m``."""
    plain = unicodedata.normalize("NFKD", text.casefold())
    bare = "".join(c for c in plain if not unicodedata.combining(c) and unicodedata.category(c) != "Cf")
    return bare.translate(_ALIKE).replace("rn", "m").replace("vv", "w")


def _readable(address: str) -> str:
    """An address with its domain's punycode labels (RFC 3492) undone, as a mail program would show it."""
    local, _, domain = address.rpartition("@")
    try:
        shown = domain.encode("ascii").decode("idna") if "xn--" in domain else domain
    except UnicodeError:
        shown = domain
    return f"{local}@{shown}" if local else shown


def look_alike(facts: MessageFacts, vouched: Iterable[Vouched]) -> Vouched | None:
    """The vouched sender whom this message's sender only looks like, or None.

    By its address or domain, by a name that is a vouched address, or by bearing the name of a vouched person
    (of at least two words) from another domain.
    """
    sender = facts.sender
    address, domain = skeleton(_readable(sender.address)), skeleton(_readable(sender.domain))
    name = skeleton(sender.name).strip()
    known = list(vouched)
    if any(one.covers(sender) for one in known):
        return None
    for one in known:
        key = skeleton(one.key)
        if one.kind == "address" and (address == key or key in name or _same_name(one, name, sender)):
            return one
        if one.kind == "domain" and domain == key:
            return one
    return None


def _same_name(one: Vouched, name: str, sender: Correspondent) -> bool:
    if " " not in name or sender.domain == one.key.rpartition("@")[2]:
        return False
    return name == skeleton(one.name).strip()


_ADDRESS = re.compile(r"[\w.+'-]{1,64}@[\w-]{1,63}(?:\.[\w-]{1,63}){1,8}")


def posed_address(sender: Correspondent) -> str:
    """The address a sender's display name shows that is not the sender's own, or an empty string."""
    name = unicodedata.normalize("NFKC", sender.name[:1000]).lower()
    return next((found for found in _ADDRESS.findall(name) if found != sender.address), "")


def shown_name(sender: Correspondent) -> str:
    """The name a list shows for a sender: none where it poses as another's address."""
    return "" if sender.address and posed_address(sender) else sender.name
