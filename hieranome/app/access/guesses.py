"""A limit on wrong passwords: for each place they come from, so that nobody can lock the owner out from elsewhere."""

from __future__ import annotations

import ipaddress
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass

from hieranome.core.errors import TooOften

FREE_GUESSES = 5
FIRST_DELAY, LAST_DELAY = 2, 900
"""Seconds until the next guess is heard, after the free ones: doubled with each that is wrong."""
FORGOTTEN_AFTER = 86_400
"""Seconds without a guess after which a place begins anew."""
MAX_PLACES = 10_000
"""Places that are remembered; when there are more, the one that was quiet longest gives way."""


@dataclass(slots=True)
class _Place:
    wrong: int = 0
    heard_from: int = 0
    last: int = 0


def place_of(address: str) -> str:
    """The place a network address belongs to: itself, or for IPv6 its network of 64 bits, since one guest has them
    all."""
    try:
        one = ipaddress.ip_address(address.partition("%")[0])
    except ValueError:
        return address[:100]
    if isinstance(one, ipaddress.IPv6Address):
        if one.ipv4_mapped is not None:
            return str(one.ipv4_mapped)
        return str(ipaddress.ip_network((int(one) >> 64 << 64, 64)))
    return str(one)


class Guesses:
    """Counts guesses by place. A guess counts as wrong from the moment it begins, so that many at once are many."""

    def __init__(self, clock: Callable[[], int]) -> None:
        self._clock = clock
        self._places: OrderedDict[str, _Place] = OrderedDict()
        self._lock = threading.Lock()

    def begin(self, place: str) -> None:
        """Take a guess from a place; it counts as wrong until :meth:`right` is told. Raises :class:`TooOften`."""
        with self._lock:
            now = self._clock()
            one = self._places.setdefault(place, _Place())
            self._places.move_to_end(place)
            if now - one.last > FORGOTTEN_AFTER:
                one.wrong, one.heard_from = 0, 0
            left = one.heard_from - now
            if left > 0:
                raise TooOften(f"Too many wrong passwords. Try again in {left} seconds.")
            one.last = now
            one.wrong += 1
            if one.wrong > FREE_GUESSES:
                one.heard_from = now + min(FIRST_DELAY * 2 ** min(one.wrong - FREE_GUESSES - 1, 20), LAST_DELAY)
            while len(self._places) > MAX_PLACES:
                self._places.popitem(last=False)

    def right(self, place: str) -> None:
        """The last guess of a place was right: it begins anew."""
        with self._lock:
            self._places.pop(place, None)
