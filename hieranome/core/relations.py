"""What was done with a correspondent's mail so far: plain sums, free of order, revertible.

Every observation is a set of counts added to the sums of an address, a domain and a list; taking
the same counts away leaves exactly the sums that never saw it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hieranome.core.facts import MessageFacts, Owner


@dataclass(slots=True)
class Sums:
    """Counts for one correspondent, domain or list.

    ``received`` messages came, ``read`` of them were opened, ``answered`` were answered,
    ``written`` messages went the other way. Of ``timed`` answers it is known how long they took:
    ``waited`` minutes in all.
    """

    received: int = 0
    read: int = 0
    answered: int = 0
    written: int = 0
    timed: int = 0
    waited: int = 0

    def add(self, other: Sums, sign: int = 1) -> None:
        """Add (or, with ``sign=-1``, take away) another observation."""
        self.received += sign * other.received
        self.read += sign * other.read
        self.answered += sign * other.answered
        self.written += sign * other.written
        self.timed += sign * other.timed
        self.waited += sign * other.waited

    @property
    def empty(self) -> bool:
        """Whether nothing is left in the sums."""
        return not (self.received or self.read or self.answered or self.written or self.timed)


def keys_of(facts: MessageFacts) -> Iterator[str]:
    """The sums a received message belongs to: its address, its domain, its list."""
    if facts.sender.address:
        yield f"address:{facts.sender.address}"
        yield f"domain:{facts.sender.domain}"
    if facts.list_id:
        yield f"list:{facts.list_id}"


def time_to_answer(received_at: int, answered_at: int) -> Sums:
    """How long an answer took, from Unix seconds; nothing when a clock was wrong."""
    taken = answered_at - received_at
    return Sums(timed=1, waited=taken // 60) if 0 <= taken < 366 * 86_400 else Sums()


class Relations:
    """Sums per key, kept in memory, fed with observations."""

    def __init__(self) -> None:
        self._sums: dict[str, Sums] = {}

    def __len__(self) -> int:
        return len(self._sums)

    def of(self, key: str) -> Sums:
        """The sums of a key; all zero for one never seen. Not to be changed by the caller."""
        return self._sums.get(key) or Sums()

    def items(self) -> Iterator[tuple[str, Sums]]:
        """All keys with their sums."""
        yield from self._sums.items()

    def add(self, key: str, seen: Sums, sign: int = 1) -> None:
        """Add an observation to one key, or take it away with ``sign=-1``."""
        sums = self._sums.setdefault(key, Sums())
        sums.add(seen, sign)
        if sums.empty:
            del self._sums[key]

    @staticmethod
    def sent(facts: MessageFacts, owner: Owner) -> list[tuple[str, Sums]]:
        """What a message the owner sent adds, per correspondent it went to."""
        people = {c.address: c for c in facts.recipients if c.address and not owner.owns(c)}
        domains = dict.fromkeys(c.domain for c in people.values())
        one = Sums(written=1)
        return [(f"address:{a}", one) for a in people] + [(f"domain:{d}", one) for d in domains if d]

    @staticmethod
    def received(facts: MessageFacts, *, read: bool, answered: bool) -> list[tuple[str, Sums]]:
        """What a received message adds."""
        one = Sums(received=1, read=int(read), answered=int(answered))
        return [(key, one) for key in keys_of(facts)]
