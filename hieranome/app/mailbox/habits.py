"""What was found in a mailbox, told before anything is done in it: addresses that are the owner's, who is answered,
which lists write."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.relations import Sums
from hieranome.store import searches

LOOKED_AT = 3_000
"""The newest received messages whose recipients are looked at."""
LEAST_SHARE = 0.03
LEFT = 0.5
"""Whoever is left unread at least so often is told as one who is."""
_ADDRESS = re.compile(r"(?<![\w.+'-])[\w.+'-]{1,64}@[\w-]{1,63}(?:\.[\w-]{1,63}){1,10}")


@dataclass(frozen=True, slots=True)
class Person:
    """A correspondent: how many messages came, were read and were answered, and the usual time to an answer in
    minutes (0 where none is known)."""

    address: str
    received: int
    read: int
    answered: int
    minutes: int


@dataclass(frozen=True, slots=True)
class Habits:
    """What the history tells: addresses that may be the owner's with the number of messages each got, who is answered
    most, who is left unread most, and how many lists write."""

    addresses: list[tuple[str, int]]
    answered: list[Person]
    unread: list[Person]
    lists: int


def habits_of(room: Mailroom, most: int = 6) -> Habits:
    """What the history tells so far."""
    people = [
        _person(key.removeprefix("address:"), sums)
        for key, sums in room.relations.items()
        if key.startswith("address:")
    ]
    lists = searches.count_lists(room.reader())
    return Habits(
        _maybe_own(room),
        sorted((p for p in people if p.answered), key=lambda p: (-p.answered, p.address))[:most],
        sorted((p for p in people if _is_left(p)), key=lambda p: (p.read - p.received, p.address))[:most],
        lists,
    )


def _person(address: str, sums: Sums) -> Person:
    return Person(
        address, sums.received, sums.read, sums.answered, round(sums.waited / sums.timed) if sums.timed else 0
    )


def _is_left(one: Person) -> bool:
    unread = one.received - one.read
    return unread > 2 and unread >= LEFT * one.received


def _maybe_own(room: Mailroom) -> list[tuple[str, int]]:
    """Addresses that much of the received mail is addressed to and that are not known as the owner's."""
    lines = searches.newest_recipients(room.reader(), LOOKED_AT)
    counts: Counter[str] = Counter()
    for line in lines:
        counts.update({address.lower() for address in _ADDRESS.findall(line)})
    least = max(3, LEAST_SHARE * len(lines))
    return [
        (address, count)
        for address, count in counts.most_common(8)
        if count >= least and address not in room.owner.addresses
    ]
