"""Whether a message comes from whom it says, by what the owner's own server found (RFC 8601).

Only the topmost Authentication-Results header of an authserv-id the owner confirmed is believed: any other may have
been written by the sender. No result is not a failed one. A failure that a mailing list explains is not forgery: lists
pass mail on under their own name, which breaks what the writer's server signed.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum

from hieranome.core.facts import MessageFacts

_TOKEN = re.compile(r'"([^"\\]*(?:\\.[^"\\]*)*)"?|[;=()]|[^\s";=()]+|\s+', re.DOTALL)
_ESCAPED = re.compile(r"\\(.)", re.DOTALL)
_FAILED = frozenset({"fail", "hardfail", "permerror"})
_CHECKED = frozenset({"spf", "dkim", "dmarc"})

Organisation = Callable[[str], str]
"""The organisational domain of a domain (RFC 7489, section 3.2); the domain itself where there is none."""


@dataclass(frozen=True, slots=True)
class Result:
    """One method's result (RFC 8601, section 2.2): ``spf``, ``dkim``, ``dmarc``; its value; its properties."""

    method: str
    value: str
    properties: dict[str, str]

    def is_for(self, domain: str, organisation: Organisation) -> bool:
        """Whether it speaks of a domain's organisation: for DMARC by the From it looked at, for DKIM by the signing
        domain, for SPF by the envelope's sender."""
        keys = {"dmarc": ("header.from",), "dkim": ("header.d", "header.i"), "spf": ("smtp.mailfrom", "smtp.helo")}
        named = [self.properties.get(key, "") for key in keys.get(self.method, ())]
        told = next((name for name in named if name), "").rpartition("@")[2]
        if self.method == "dmarc" and not told:
            return True  # it is about From by its nature
        return aligned(told, domain, organisation)


def aligned(one: str, other: str, organisation: Organisation) -> bool:
    """Relaxed alignment (RFC 7489, section 3.1): both of one organisational domain."""
    one, other = one.rstrip("."), other.rstrip(".")
    return bool(one and other) and (one == other or organisation(one) == organisation(other))


def _segments(text: str) -> list[list[str]]:
    """The words of each stretch between semicolons; comments (they nest) are left out, quotes are undone and hide what
    they hold, ``=`` is a word of its own, and an empty word stands for white space."""
    segments: list[list[str]] = [[]]
    depth = 0
    for match in _TOKEN.finditer(text):
        token = match.group()
        if token == "(":
            depth += 1
        elif token == ")":
            depth = max(0, depth - 1)
        elif depth:
            continue
        elif token == ";":
            segments.append([])
        elif match.group(1) is not None:
            segments[-1].append(_ESCAPED.sub(r"\1", match.group(1)) or '""')
        else:
            segments[-1].append("" if token.isspace() else token)
    return segments


def split_server(value: str) -> tuple[str, str]:
    """The authserv-id of a header, lower-cased, and the results behind it (RFC 8601, section 2.2)."""
    words = [word for word in _segments(value)[0] if word]
    return (words[0].lower() if words else ""), value[_first_semicolon(value) :].strip()


def _first_semicolon(value: str) -> int:
    """The place behind the first semicolon outside quotes and comments, or the end."""
    depth = 0
    for match in _TOKEN.finditer(value):
        token = match.group()
        depth = max(0, depth + (token == "(") - (token == ")"))
        if token == ";" and not depth:
            return match.end()
    return len(value)


def parse_results(text: str) -> list[Result]:
    """The results of one header, behind its authserv-id; what cannot be read is passed over."""
    found = []
    for words in _segments(text):
        pairs = _pairs(words)
        if pairs:
            properties: dict[str, str] = {}
            for key, value in pairs[1:]:
                properties.setdefault(key, value)
            found.append(Result(pairs[0][0].partition("/")[0], pairs[0][1], properties))
    return found


def _pairs(words: list[str]) -> list[tuple[str, str]]:
    """``key = value`` pairs of one stretch; a value goes on until white space."""
    pairs: list[tuple[str, str]] = []
    at = 0
    while at < len(words):
        if words[at] != "=":
            at += 1
            continue
        before = at - 1
        while before >= 0 and words[before] == "":
            before -= 1
        behind = at + 1
        while behind < len(words) and words[behind] == "":
            behind += 1
        end = behind
        while end < len(words) and words[end] != "":
            end += 1
        if before >= 0:
            pairs.append((words[before].lower(), "".join(words[behind:end]).lower()))
        at = max(end, at + 1)
    return pairs


class Standing(StrEnum):
    """What a believed server's word makes of a message's sender."""

    ABSENT = "absent"
    """It wrote no result for this message."""
    ALIGNED = "aligned"
    """Something passed for the very domain (or organisation) of From."""
    UNALIGNED = "unaligned"
    """It wrote results, and nothing in them speaks for From."""
    FORGED = "forged"
    """From's own domain says that it did not send this."""


@dataclass(frozen=True, slots=True)
class Finding:
    """What was found about a message's sender; ``why`` says in words why it is proven forged."""

    standing: Standing = Standing.ABSENT
    why: str = ""

    @property
    def assured(self) -> bool:
        """Whether what the owner said of this sender may keep the message on the Desk."""
        return self.standing in (Standing.ABSENT, Standing.ALIGNED)


def trusted_results(facts: MessageFacts, confirmed: Iterable[str]) -> list[Result]:
    """The results of the topmost header written by a server the owner confirmed."""
    believed = frozenset(confirmed)
    return next((parse_results(text) for server, text in facts.authentication if server in believed), [])


def leads_back(path: str, facts: MessageFacts, confirmed: Iterable[str], organisation: Organisation) -> bool:
    """Whether what is sent to a message's Return-Path reaches who wrote it, and no third person whose address somebody
    put there: it is of the organisation of From, or a believed server found that its domain sent the message (SPF)."""
    domain = path.rpartition("@")[2]
    if aligned(domain, facts.sender.domain, organisation):
        return True
    return any(
        one.method == "spf" and one.value == "pass" and one.is_for(domain, organisation)
        for one in trusted_results(facts, confirmed)
    )


def judge_sender(
    facts: MessageFacts, confirmed: Iterable[str], organisation: Organisation, *, uses_list: bool = False
) -> Finding:
    """What a believed server's results say of a message's sender.

    ``uses_list`` says that the sender's mail came through this message's list before; where the list's own domain
    passed, what does not speak for the sender then counts as absent.
    """
    results = [one for one in trusted_results(facts, confirmed) if one.method in _CHECKED]
    if not results:
        return Finding()
    domain = facts.sender.domain
    passed = [one for one in results if one.value == "pass"]
    if domain and any(one.is_for(domain, organisation) for one in passed):
        return Finding(Standing.ALIGNED)
    if uses_list and facts.list_id and any(one.is_for(facts.list_id, organisation) for one in passed):
        return Finding()
    failed = [one for one in results if one.value in _FAILED]
    decisive = [one for one in failed if one.method == "dmarc"] or (
        failed if {one.method for one in failed} >= {"spf", "dkim"} else []
    )
    if not decisive:
        return Finding(Standing.UNALIGNED)
    found = ", ".join(f"{one.method}={one.value}" for one in decisive)
    return Finding(Standing.FORGED, f"your mail server found that {domain or 'its sender'} did not send it ({found})")


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
