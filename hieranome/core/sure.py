"""What the owner has said for sure, and in which order it beats the model.

This message's own verdict comes first, then its thread's, then what was said always, by a lesson, by vouching or by a
rule: for an address, for a list, for a domain, the more specific first; of two equally specific the one that keeps mail
on the Desk. A rule that names no sender comes behind them. Only then the model is asked.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from hieranome.core.buckets import DESK
from hieranome.core.errors import CallerError
from hieranome.core.facts import MessageFacts


class Reach(StrEnum):
    """How far a lesson goes."""

    MESSAGE = "message"
    THREAD = "thread"
    LEARN = "learn"
    ADDRESS = "address"
    LIST = "list"
    DOMAIN = "domain"


ALWAYS = (Reach.ADDRESS, Reach.LIST, Reach.DOMAIN)
"""Reaches that bind all mail of a sender, most specific first."""

TEACHES = frozenset({Reach.LEARN, *ALWAYS})
"""Reaches the model learns from as well."""


@dataclass(frozen=True, slots=True)
class Binding:
    """One thing said for sure: its reach (None: of no sender in particular, below a domain), the key it binds (address,
    list or domain), the bucket, and whether it was said by vouching, or by which rule (0: by none)."""

    reach: Reach | None
    key: str
    bucket: str
    vouched: bool = False
    rule: int = 0

    @property
    def said(self) -> str:
        """Of which address, list or domain it was said, as ``address:`` and the address."""
        return f"{self.reach}:{self.key}"


def key_for(reach: Reach, facts: MessageFacts, shared: frozenset[str]) -> str:
    """What a lesson of that reach binds in this message; ``shared`` are domains many unrelated people write from.
    Raises :class:`CallerError` when it cannot."""
    if reach is Reach.ADDRESS:
        if not facts.sender.address:
            raise CallerError(
                "This message names no sender address, so nothing can be said of its sender for always. "
                "Choose the reach 'learn from it' or 'this message only'."
            )
        return facts.sender.address
    if reach is Reach.LIST:
        if not facts.list_id:
            raise CallerError("This message came through no mailing list. Choose another reach.")
        return facts.list_id
    if reach is Reach.DOMAIN:
        domain = facts.sender.domain
        if not domain:
            raise CallerError("This message names no sender domain. Choose another reach.")
        if domain in shared:
            raise CallerError(
                f"Many unrelated people write from {domain}, so it cannot be decided for as a whole. "
                "Choose 'always this sender' instead."
            )
        return domain
    return ""


def binding_keys(facts: MessageFacts) -> list[tuple[Reach, str]]:
    """The (reach, key) pairs that could bind a message, most specific first."""
    keys = []
    if facts.sender.address:
        keys.append((Reach.ADDRESS, facts.sender.address))
    if facts.list_id:
        keys.append((Reach.LIST, facts.list_id))
    if facts.sender.domain:
        keys.append((Reach.DOMAIN, facts.sender.domain))
    return keys


def strongest(bindings: Iterable[Binding], *, genuine: bool = True) -> Binding | None:
    """The binding that holds among those that apply to one message.

    Of mail that is not ``genuine`` (proven forged, with several senders, or checked by a believed server without
    anything that speaks for its sender), nothing said of its sender keeps it on the Desk.
    """
    rank: dict[Reach | None, int] = {reach: number for number, reach in enumerate((*ALWAYS, None))}
    held = (b for b in bindings if genuine or b.bucket != DESK or b.reach in (Reach.LIST, None))
    return min(held, key=lambda b: (rank[b.reach], b.bucket != DESK), default=None)
