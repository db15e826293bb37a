"""Whether a signature speaks for the headers by which a message may be unsubscribed from (RFC 8058, section 4)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from hieranome.core.authentication import Result

UNSUBSCRIBE, POST = "list-unsubscribe", "list-unsubscribe-post"
BOTH = (UNSUBSCRIBE, POST)
"""What a signature covers that speaks for a request without a page (RFC 8058, section 4)."""
LEAST_MARK = 8
"""Characters of a signature by which a result names it (RFC 6008, section 4)."""


@dataclass(frozen=True, slots=True)
class Signature:
    """A DKIM-Signature (RFC 6376, section 3.5): its domain and selector, the headers it covers as named in ``h=``, each
    as often as it stands there, its mark (``b=``), without white space, all lower-cased; when it expires (``x=``, Unix
    seconds; 0: never)."""

    domain: str
    selector: str
    headers: tuple[str, ...]
    mark: str
    expires: int = 0

    def covers(self, name: str, count: int) -> bool:
        """Whether it speaks for a header that a message has so many times: it is signed, and stands once, or is signed
        more often than it stands, so that none could be added."""
        signed = self.headers.count(name)
        return count > 0 and signed > 0 and (count == 1 or signed > count)


def found_good(signatures: Iterable[Signature], results: Iterable[Result]) -> list[Signature]:
    """The signatures that a believed server found good."""
    every = list(signatures)
    return [
        one for result in results if result.method == "dkim" and result.value == "pass" for one in _named(every, result)
    ]


def covers_all(signature: Signature, counts: Mapping[str, int], names: Iterable[str]) -> bool:
    """Whether a signature covers every one of some headers; ``counts`` says how often each stands in the message."""
    return all(signature.covers(name, counts.get(name, 0)) for name in names)


def _named(signatures: list[Signature], result: Result) -> list[Signature]:
    """The signature a result is about: by its domain and mark (RFC 6008), else the only one of its domain and selector;
    none where that is not told."""
    domain = result.properties.get("header.d") or result.properties.get("header.i", "").rpartition("@")[2]
    of_domain = [one for one in signatures if domain and one.domain == domain]
    mark = result.properties.get("header.b", "")
    if mark:
        return [one for one in of_domain if len(mark) >= LEAST_MARK and one.mark.startswith(mark)]
    selector = result.properties.get("header.s", "")
    alike = [one for one in of_domain if not selector or one.selector == selector]
    return alike if len(alike) == 1 else []
