"""Facts and relations into features: numbers, and vectors of them.

A feature is an unsigned 32-bit number: its group in the top bits, the hash of its text in the lower
:data:`HASH_BITS`. A vector is an array of them; values follow from how many features each group has,
so that a long text weighs no more than a short one. The groups are those of :mod:`hieranome.core.groups`.
"""

from __future__ import annotations

import zlib

import numpy as np
from numpy.typing import NDArray

from hieranome.core.facts import MessageFacts
from hieranome.core.groups import ALL_CARRY, GROUPS, Context, Seen

FEATURE_VERSION = 4
"""Raised whenever the meaning of a stored vector changes."""

HASH_BITS = 19
SLOTS = 1 << HASH_BITS
_MASK = SLOTS - 1

Vector = NDArray[np.uint32]

_NUMBER = {group.name: number for number, group in enumerate(GROUPS)}
PRIOR_VARIANCE = np.array([g.sd**2 for g in GROUPS])
_MASS = np.array([g.mass for g in GROUPS])


def feature(group: str, text: str) -> int:
    """The number of one named feature."""
    number = _NUMBER[group]
    return number << HASH_BITS | (zlib.crc32(f"{group} {text}".encode("utf-8", "replace")) & _MASK)


def slot_of(group: str, text: str) -> int:
    """The weight slot of one named feature."""
    return feature(group, text) & _MASK


def extract(facts: MessageFacts, context: Context) -> Vector:
    """The vector of a message: sorted, without repeats."""
    seen = Seen(facts, context)
    found: set[int] = set()
    for number, group in enumerate(GROUPS):
        top = number << HASH_BITS
        prefix = zlib.crc32(f"{group.name} ".encode())
        for token in group.extract(seen):
            found.add(top | (zlib.crc32(token.encode("utf-8", "replace"), prefix) & _MASK))
    return np.array(sorted(found), dtype=np.uint32)


def groups_of(vector: Vector) -> NDArray[np.intp]:
    """The group number of each feature."""
    return (vector >> np.uint32(HASH_BITS)).astype(np.intp)


def slots_of(vector: Vector) -> NDArray[np.intp]:
    """The weight slot of each feature."""
    return (vector & np.uint32(_MASK)).astype(np.intp)


def values_of(groups: NDArray[np.intp], row: NDArray[np.intp] | None = None) -> NDArray[np.float64]:
    """The value of each feature: its group's mass spread evenly in length over the group.

    ``row`` tells to which of several stacked vectors each feature belongs; without it there is one.
    """
    cell = groups if row is None else row * len(GROUPS) + groups
    counts = np.bincount(cell)
    result: NDArray[np.float64] = _MASS[groups] / np.sqrt(counts[cell])
    return result


def pack(vector: Vector) -> bytes:
    """The stored form: little-endian 32-bit numbers."""
    return vector.astype("<u4").tobytes()


_LEFT_OUT = np.array(sorted(feature("headers", name) for name in ALL_CARRY), dtype=np.uint32)


def unpack(stored: bytes) -> Vector:
    """A vector from its stored form, without features that were looked at once and are not any more."""
    vector = np.frombuffer(stored, dtype="<u4").astype(np.uint32)
    at = vector.searchsorted(_LEFT_OUT)
    found = vector.take(at, mode="clip") == _LEFT_OUT if len(vector) else at < 0
    return np.delete(vector, at[found]) if found.any() else vector


def relation_features(facts: MessageFacts, context: Context) -> Vector:
    """The relation features alone; ``facts`` needs only sender and list."""
    group = GROUPS[_NUMBER["relation"]]
    fresh = {feature(group.name, token) for token in group.extract(Seen(facts, context))}
    return np.array(sorted(fresh), dtype=np.uint32)


def with_relation(vector: Vector, relation: Vector) -> Vector:
    """The vector with its relation features replaced."""
    kept = vector[groups_of(vector) != _NUMBER["relation"]]
    renewed = np.concatenate([kept, relation])
    renewed.sort()
    return renewed
