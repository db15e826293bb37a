"""The nodes of the tree of counts a message stands under: its kind, its sender, its list, its subject, the words of
that, the addresses it reached. Each is named by a number of 64 bits, made of the features of the message."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import get_args

import numpy as np
from numpy.typing import NDArray

from hieranome.core.features import HASH_BITS, SLOTS, feature, slot_of
from hieranome.core.gaussian import Rows
from hieranome.core.groups import GROUPS, Reached
from hieranome.core.tally import SAYS

KeyArray = NDArray[np.uint64]
At = NDArray[np.intp]

SINGLE = ("kind", "domain", "address", "list", "list_sender", "skeleton")
"""Branches of which a message has one node at most. The skeleton is the source with all words of the subject; the
source of a message is its list, or else its sender's address."""
KIND = (
    "list",
    "discussion list",
    "announcements",
    "unsubscribe",
    "precedence bulk",
    "precedence list",
    "precedence junk",
    "automatic",
    "html only",
    "invitation",
    "reply",
    "replies elsewhere",
    "no reply wanted",
    "priority 1",
    "priority -1",
)
"""What of how a message was sent makes its kind."""
_GROUP = {group.name: number for number, group in enumerate(GROUPS)}
_HOW, _SUBJECT = _GROUP["how"], _GROUP["subject"]
_COLUMNS = ("how", "domain", "address", "list", "list_sender", "subject")
_TO = ("addressed", "own_address")
_USED = np.array([group.name in (*_COLUMNS, *_TO) for group in GROUPS])
_REACHED = np.array([group.name in _TO for group in GROUPS])
_OF_KIND = np.zeros(SLOTS, dtype=np.bool_)
_OF_KIND[[slot_of("how", text) for text in KIND]] = True


def _mixed(numbers: NDArray[np.intp] | KeyArray, salt: int = 0) -> KeyArray:
    """Numbers spread over 64 bits (the finaliser of splitmix64: Steele, Lea and Flood 2014)."""
    x = numbers.astype(np.uint64) + np.uint64(salt * 0x9E3779B97F4A7C15 & 0xFFFFFFFFFFFFFFFF)
    x = (x ^ x >> np.uint64(30)) * np.uint64(0xBF58476D1CE4E5B9)
    x = (x ^ x >> np.uint64(27)) * np.uint64(0x94D049BB133111EB)
    return np.asarray(x ^ x >> np.uint64(31))


@dataclass(frozen=True, slots=True)
class Keys:
    """The nodes messages stand under. ``single`` has one column a branch of :data:`SINGLE`, 0 where a message has none;
    of words, and of addresses it reached, there are any number, with the message and the weight slot of each;
    ``source`` tells the list of each message, or else its sender."""

    single: KeyArray
    source: KeyArray
    word: tuple[At, KeyArray, At]
    reached: tuple[At, KeyArray, At]

    def __len__(self) -> int:
        return len(self.source)

    def each(self) -> Iterator[Keys]:
        """The messages one by one."""
        of_words, reached = (_each(several, len(self)) for several in (self.word, self.reached))
        for at, (words, to) in enumerate(zip(of_words, reached, strict=True)):
            yield Keys(self.single[at : at + 1], self.source[at : at + 1], words, to)

    @classmethod
    def of(cls, rows: Rows) -> Keys:
        """The nodes of vectors made ready."""
        count, group = len(rows.starts), rows.groups
        used = _USED[group] & ((group != _HOW) | _OF_KIND[rows.slots]) & ((group != _SUBJECT) | SAYS[rows.slots])
        at = np.flatnonzero(used)
        row = np.searchsorted(rows.starts, at, side="right") - 1
        group, slots = group[at], rows.slots[at]
        mixed = _mixed(slots + (group << HASH_BITS))
        sums = np.zeros((count, len(GROUPS)), dtype=np.uint64)
        np.add.at(sums, (row, group), mixed)
        how, domain, address, listed, list_sender, subject = (sums[:, _GROUP[name]] for name in _COLUMNS)
        source = np.where(listed > 0, listed, address)
        skeleton = _mixed(source, 1) + subject
        words, to = np.flatnonzero(group == _SUBJECT), np.flatnonzero(_REACHED[group])
        return cls(
            np.stack([_mixed(how, 2), domain, address, listed, list_sender, skeleton], axis=1),
            source,
            (row[words], _mixed(source[row[words]] + mixed[words], 3), slots[words]),
            (row[to], mixed[to], slots[to]),
        )


def _each(several: tuple[At, KeyArray, At], count: int) -> Iterator[tuple[At, KeyArray, At]]:
    """Nodes of which a message has any number, message by message."""
    row, keys, slots = several
    edges = np.searchsorted(row, np.arange(count + 1)).tolist()
    for at, (first, end) in enumerate(pairwise(edges)):
        yield row[first:end] - at, keys[first:end], slots[first:end]


def keys_of_address(address: str) -> list[int]:
    """The nodes of an address, however mail names it."""
    features = [feature(group, f"{how} {address}") for group in _TO for how in get_args(Reached)]
    return [int(key) for key in _mixed(np.array(features, dtype=np.intp))]
