"""Whether a message is proven forged, by what the owner's own server found (RFC 8601).

Only the topmost Authentication-Results header of an authserv-id the owner confirmed is believed: any other
may have been written by the sender. No result is not a failed one. A failure that a mailing list explains is
not forgery: lists pass mail on under their own name, which breaks what the writer's server signed.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from hieranome.core.facts import MessageFacts

_COMMENT = re.compile(r"\([^()]*\)")
_PAIR = re.compile(r'([a-z0-9._-]+)\s*=\s*("[^"]*"|[^\s;"]+)')
_FAILED = frozenset({"fail", "hardfail", "permerror"})


@dataclass(frozen=True, slots=True)
class Result:
    """One method's result (RFC 8601, section 2.2): ``spf``, ``dkim``, ``dmarc``; its value; its properties."""

    method: str
    value: str
    properties: dict[str, str]

    def is_for(self, domain: str) -> bool:
        """Whether it speaks of a domain or of one above or below it in the same organisation."""
        named = [self.properties.get(key, "") for key in ("header.d", "header.i", "smtp.mailfrom", "header.from")]
        return any(aligned(name.rpartition("@")[2], domain) for name in named if name)


def aligned(one: str, other: str) -> bool:
    """Relaxed alignment (RFC 7489, section 3.1): the same domain, or one below the other."""
    return bool(one and other) and (one == other or one.endswith(f".{other}") or other.endswith(f".{one}"))


def parse_results(text: str) -> Iterator[Result]:
    """The results of one header, behind its authserv-id; comments are left out, what cannot be read is passed over."""
    bare = text.lower()
    while (shorter := _COMMENT.sub(" ", bare)) != bare:
        bare = shorter
    for part in bare.split(";"):
        pairs = [(key, value.strip('"')) for key, value in _PAIR.findall(part)]
        if pairs and "." not in pairs[0][0]:
            yield Result(pairs[0][0], pairs[0][1], dict(pairs[1:]))


def trusted_results(facts: MessageFacts, confirmed: Iterable[str]) -> list[Result]:
    """The results of the topmost header written by a server the owner confirmed."""
    believed = frozenset(confirmed)
    return next((list(parse_results(text)) for server, text in facts.authentication if server in believed), [])


def forged(facts: MessageFacts, confirmed: Iterable[str], *, uses_list: bool = False) -> str:
    """Why the message is proven forged, in words, or an empty string.

    ``uses_list`` says that the sender's mail came through this message's list before; a failure counts for
    nothing then when the list's own domain passed.
    """
    results = trusted_results(facts, confirmed)
    domain = facts.sender.domain
    passed = [one for one in results if one.value == "pass"]
    if any(one.method in ("dkim", "spf") and one.is_for(domain) for one in passed):
        return ""
    failed = [one for one in results if one.value in _FAILED and one.method in ("dmarc", "spf", "dkim")]
    decisive = [one for one in failed if one.method == "dmarc"] or (
        failed if {one.method for one in failed} >= {"spf", "dkim"} else []
    )
    if not decisive:
        return ""
    if uses_list and facts.list_id and any(one.is_for(facts.list_id) for one in passed):
        return ""
    found = ", ".join(f"{one.method}={one.value}" for one in decisive)
    return f"your mail server found that {domain or 'its sender'} did not send it ({found})"


_METHODS = {
    "spf": "the sending server (SPF)",
    "dkim": "the signature (DKIM)",
    "dmarc": "the sender's own policy (DMARC)",
    "arc": "the chain of forwarders (ARC)",
}
_VALUES = {"pass": "holds", "none": "is absent", "neutral": "says neither", "softfail": "is doubtful"}


def in_words(results: str) -> str:
    """One header's results as a sentence would say them."""
    said = []
    for one in parse_results(results):
        if one.method not in _METHODS:
            continue
        named = (one.properties.get(key, "") for key in ("header.d", "header.from", "smtp.mailfrom"))
        domain = next((name for name in named if name), "").rpartition("@")[2]
        value = "fails" if one.value in _FAILED else _VALUES.get(one.value, f"could not be checked ({one.value})")
        said.append(f"{_METHODS[one.method]}{f' of {domain}' if domain else ''} {value}")
    return "; ".join(said) or "nothing was checked"
