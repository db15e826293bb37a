"""The tree of counts: where mail of a kind, a domain, a sender, a list, a subject was put so far.

Each node counts, bucket by bucket, the lessons about its mail, and silences by a share. It estimates where such mail
belongs from its own counts and its parent's estimate, p = (n + KAPPA p_parent) / (N + KAPPA) (m-estimate, Cestnik
1990), and adds to the log-odds what it says beyond its parent: a node no lesson was about adds nothing. Counts are
whole numbers free of order, so what was counted is taken back by counting it down. What the owner says an address is
for counts as so many lessons about its mail, beside those counted.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import repeat

import numpy as np
from numpy.typing import NDArray

from hieranome.core.addresses import LESSONS, Purpose, takes
from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF, Bucket
from hieranome.core.gaussian import Floats
from hieranome.core.keys import SINGLE, At, KeyArray, Keys, keys_of_address

KAPPA = 1.0
"""How many lessons a parent's estimate weighs as much as."""
ROOT = 4.0
"""How many lessons the shares that ship weigh as much as."""
SHIPPED = {DESK: 0.15, SHELF: 0.45, DIGEST: 0.2, DRAIN: 0.2}
SHIPPED_OWN = 0.05
"""Shares of the buckets before any lesson; one of the owner's own takes its share from those of its kind."""
UNKNOWN = 0.1
"""Of mail whose source no lesson was about, the share that matters whatever else speaks against it: senders differ by
more than can be told before. Mail that looks like the Drain is none of it."""
UNKNOWN_AFTER = 30
"""Lessons after which all of it is added: until then what ships is not surer than it should be."""
FAR = 60.0
"""Log-odds beyond which a chance is one or none."""
UNIT = 1000
"""One lesson, as it is counted: shares of it stay whole numbers, and taking back is exact."""

SHARES = {
    "domain": 0.26,
    "address": 0.35,
    "list": 0.35,
    "list_sender": 0.35,
    "skeleton": 0.35,
    "word": 0.35,
    "reached": 0.5,
}
"""With what share the log-odds of each branch are added; words stand below the source. What reached an address of the
owner's stands below the kind, and speaks only where the owner said what the address is for."""
_KIND, _DOMAIN, _ADDRESS, _LIST, _LIST_SENDER, _SKELETON, _SOURCE = range(len(SINGLE) + 1)
_CHAIN = ((_DOMAIN, _KIND), (_ADDRESS, _DOMAIN), (_LIST, _KIND), (_LIST_SENDER, _LIST), (_SKELETON, _SOURCE))
"""Branches that speak, and their parents."""
_OF_SOURCE = [_ADDRESS, _LIST, _LIST_SENDER, _SKELETON]
"""Branches under which no mail of other senders and lists stands."""


@dataclass(frozen=True, slots=True)
class Added:
    """What the counts add, per message: to the log-odds of importance, and to those of each low and each important
    bucket among its like (messages x buckets)."""

    importance: Floats
    low: Floats
    high: Floats


@dataclass(frozen=True, slots=True)
class Node:
    """One node that speaks of a message: its branch, how many lessons put its mail in each bucket, the bucket most of
    what it counted stood in (silences by their shares), the log-odds of importance it adds, and for a word or an
    address its weight slot."""

    branch: str
    lessons: dict[str, int]
    most: str
    value: float
    slot: int | None = None


@dataclass(frozen=True, slots=True)
class _Spoken:
    """What the nodes of one branch add: the message each is about, its place in the table, and its additions."""

    branch: str
    row: At
    at: At
    added: Floats
    slots: At | None


class Counts:
    """The tree over the buckets of one engine."""

    def __init__(self, buckets: Sequence[Bucket]) -> None:
        self._buckets = list(buckets)
        self._names = [bucket.name for bucket in buckets]
        self._high = np.array([bucket.important for bucket in buckets])
        shares = np.array([SHIPPED.get(name, SHIPPED_OWN) for name in self._names])
        high = shares[self._high].sum()
        desk = SHIPPED[DESK]
        self._shipped = ROOT * shares * np.where(self._high, desk / high, (1.0 - desk) / (shares.sum() - high))
        self._at: dict[int, int] = {}
        # Row 0 stays empty: what was never counted.
        self._lessons = np.zeros((64, len(buckets)), dtype=np.int32)
        self._left = np.zeros((64, len(buckets)), dtype=np.int64)
        self._total = np.zeros(len(buckets), dtype=np.int64)
        self._said: dict[int, NDArray[np.bool_]] = {}
        """By the nodes of addresses of which something was said the buckets their mail may belong in."""

    def say(self, purposes: Mapping[str, Purpose]) -> None:
        """Heed what the owner says addresses are for, and no longer what was said before. Nothing that was counted
        changes by it."""
        self._said = {
            key: self._taking(purpose) for address, purpose in purposes.items() for key in keys_of_address(address)
        }

    def _taking(self, purpose: Purpose) -> NDArray[np.bool_]:
        """The buckets mail to an address for this may belong in; where none of them is in use, those like them."""
        taking = np.array([takes(purpose, bucket) for bucket in self._buckets])
        return taking if taking.any() else self._high == (purpose is Purpose.PEOPLE)

    def count(self, keys: Keys, belongs: str, sign: int = 1) -> None:
        """Count the lesson about one message, or with ``sign=-1`` take it back."""
        bucket = self._names.index(belongs)
        at = self._places([*keys.single[0].tolist(), *keys.word[1].tolist(), *keys.reached[1].tolist()])
        self._lessons[at, bucket] += sign
        self._total[bucket] += sign * UNIT

    def count_left(self, keys: Keys, place: str, share: float, sign: int = 1) -> None:
        """Count one message left in a place for a share of a lesson, or with ``sign=-1`` take the same back: in the
        nodes of its own sender, list and subject alone."""
        at = self._places([*keys.single[0, _OF_SOURCE].tolist(), *keys.word[1].tolist()])
        self._left[at, self._names.index(place)] += sign * round(UNIT * share)

    def _places(self, nodes: Sequence[int]) -> list[int]:
        """Where some nodes stand in the tables, each once; 0 is none."""
        at = [self._at.setdefault(key, len(self._at) + 1) for key in set(nodes) if key]
        while len(self._at) >= len(self._left):
            self._lessons = np.concatenate([self._lessons, np.zeros_like(self._lessons)])
            self._left = np.concatenate([self._left, np.zeros_like(self._left)])
        return at

    def _counted(self, at: At) -> Floats:
        """What some nodes counted by bucket, in lessons."""
        return np.asarray(self._lessons[at] + self._left[at] / UNIT)

    def weigh(self, keys: Keys) -> Added:
        """What the tree says of each of many messages."""
        added = np.zeros((len(keys), 1 + len(self._names)))
        for spoken in self._speak(keys):
            np.add.at(added, spoken.row, spoken.added)
        return Added(added[:, 0], added[:, 1:][:, ~self._high], added[:, 1:][:, self._high])

    def importance_of(self, keys: Keys) -> float:
        """What the tree adds to the log-odds of importance of one message, but for what was said of addresses: as
        :meth:`weigh` has it, in a tenth of the time, for every lesson and silence asks."""
        total = int(self._total.sum())
        if not self._at:
            return 0.0
        single, words = keys.single[0].tolist(), keys.word[1].tolist()
        known = [self._at.get(key, 0) for key in single]
        known += [at for key in words if (at := self._at.get(key, 0))]
        counted = self._counted(np.array(known))
        whole: list[float] = counted.sum(axis=1).tolist()
        high: list[float] = counted[:, self._high].sum(axis=1).tolist()

        def estimate(node: int, above: float) -> float:
            return (high[node] + KAPPA * above) / (whole[node] + KAPPA)

        shipped = float(self._shipped[self._high].sum())
        root = (int(self._total[self._high].sum()) / UNIT + shipped) / (total / UNIT + ROOT)
        kind = estimate(_KIND, root)
        domain, listed = estimate(_DOMAIN, kind), estimate(_LIST, kind)
        address, list_sender = estimate(_ADDRESS, domain), estimate(_LIST_SENDER, listed)
        source = listed if single[_LIST] else address
        skeleton = estimate(_SKELETON, source)
        chain = [_logit(one) for one in (kind, domain, address, listed, list_sender, skeleton, source)]
        added = sum(SHARES[SINGLE[child]] * (chain[child] - chain[parent]) for child, parent in _CHAIN if whole[child])
        heard = [node for node in range(len(single), len(known)) if whole[node]]
        said = [_logit(estimate(node, source)) - chain[_SOURCE] for node in heard]
        return added + SHARES["word"] * max(said, key=abs, default=0.0)

    def of_unknown(self, keys: Keys, lessons: int, log_odds: Floats, drained: Floats) -> Floats:
        """What is added to the log-odds of importance of each of many messages because none of the ``lessons`` taken in
        was about its list, or else its sender: p becomes p + u (1 - p), with u the share of :data:`UNKNOWN` that is not
        ``drained``, squared. ``log_odds`` are those of p, ``drained`` the shares of the Drain among the low buckets."""
        known = self._lessons[self._find(keys.source)].any(axis=1)
        share = UNKNOWN * min(1.0, lessons / UNKNOWN_AFTER) * (1.0 - drained) ** 2
        added = np.log1p(share * np.exp(-np.clip(log_odds, -FAR, FAR))) - np.log1p(-share)
        return np.where(known, 0.0, added)

    def lessons_about(self, keys: Keys) -> Floats:
        """How many lessons were about the source of each of many messages; what the owner said of an address it came to
        counts as some."""
        found: Floats = self._lessons[self._find(keys.source)].sum(axis=1).astype(np.float64)
        row, reached, _ = keys.reached
        if self._said:
            said = np.array([key in self._said for key in reached.tolist()], dtype=np.bool_)
            found[np.unique(row[said])] += LESSONS
        return found

    def taught(self, keys: Keys) -> dict[str, int]:
        """How many lessons put mail of the source of one message in each bucket: of its sender on its list where there
        are any, else of its list, or else of its sender."""
        own = self._lessons[self._find(keys.single[:, _LIST_SENDER])][0]
        found = own if own.any() else self._lessons[self._find(keys.source)][0]
        return {name: count for name, count in zip(self._names, found.tolist(), strict=True) if count}

    def nodes(self, keys: Keys) -> list[Node]:
        """The nodes that speak of one message, each with what it adds to its importance."""
        found = []
        for spoken in self._speak(keys):
            most_of = self._counted(spoken.at).argmax(axis=1).tolist()
            for number, (at, added) in enumerate(zip(spoken.at.tolist(), spoken.added, strict=True)):
                lessons = {name: n for name, n in zip(self._names, self._lessons[at].tolist(), strict=True) if n}
                slot = None if spoken.slots is None else int(spoken.slots[number])
                found.append(Node(spoken.branch, lessons, self._names[most_of[number]], float(added[0]), slot))
        return found

    def _speak(self, keys: Keys) -> Iterator[_Spoken]:
        if not self._at and not self._said:
            return
        at = self._find(keys.single).reshape(keys.single.shape)
        counted = self._counted(at)
        whole = counted.sum(axis=2)

        def estimate(branch: int, above: Floats) -> Floats:
            return _estimate(counted[:, branch], whole[:, branch], above)

        root = (self._total / UNIT + self._shipped) / (self._total.sum() / UNIT + ROOT)
        kind = estimate(_KIND, root)
        domain, listed = estimate(_DOMAIN, kind), estimate(_LIST, kind)
        address, list_sender = estimate(_ADDRESS, domain), estimate(_LIST_SENDER, listed)
        source = np.where(keys.single[:, _LIST, np.newaxis] > 0, listed, address)
        skeleton = estimate(_SKELETON, source)
        chain = self._log_odds(np.stack([kind, domain, address, listed, list_sender, skeleton, source]))
        for child, parent in _CHAIN:
            seen = np.flatnonzero(whole[:, child] > 0)
            if seen.size:
                branch = SINGLE[child]
                added = SHARES[branch] * (chain[child, seen] - chain[parent, seen])
                yield _Spoken(branch, seen, at[seen, child], added, None)
        row, found, slots = keys.word
        at = self._find(found)
        counted = self._counted(at)
        whole = counted.sum(axis=1)
        seen = np.flatnonzero(whole > 0)
        if seen.size:
            row = row[seen]
            here = self._log_odds(_estimate(counted[seen], whole[seen], source[row]))
            added = SHARES["word"] * (here - chain[_SOURCE, row])
            yield _most_telling(_Spoken("word", row, at[seen], added, slots[seen]))
        if self._said:
            yield from self._heed(keys, kind)

    def _heed(self, keys: Keys, kind: Floats) -> Iterator[_Spoken]:
        """What the addresses of which something was said add, beside the estimates of their kinds. Among the buckets
        their mail may belong in it is shared out as mail of their kinds is."""
        row, found, slots = keys.reached
        seen = np.flatnonzero([key in self._said for key in found.tolist()])
        if seen.size:
            at, above = self._find(found[seen]), kind[row[seen]]
            said = above * [self._said[key] for key in found[seen].tolist()]
            counted = self._counted(at) + LESSONS * said / said.sum(axis=1, keepdims=True)
            here = self._log_odds(_estimate(counted, counted.sum(axis=1), above))
            added = SHARES["reached"] * (here - self._log_odds(above))
            yield _most_telling(_Spoken("reached", row[seen], at, added, slots[seen]))

    def _find(self, keys: KeyArray) -> At:
        """The place of each node in the table, 0 of one that was never counted."""
        return np.fromiter(map(self._at.get, keys.ravel().tolist(), repeat(0)), np.intp, keys.size)

    def _log_odds(self, shares: Floats) -> Floats:
        """Log-odds of importance, then of each bucket the log of its share among its like."""
        high = shares[..., self._high].sum(axis=-1, keepdims=True)
        low = 1.0 - high
        among = np.where(self._high, high, low)
        return np.concatenate([np.log(high / low), np.log(shares / among)], axis=-1)


def _logit(share: float) -> float:
    return math.log(share / (1.0 - share))


def _estimate(counted: Floats, whole: Floats, above: Floats) -> Floats:
    """Where mail of nodes belongs, by their counts and the estimates of their parents."""
    return np.asarray((counted + KAPPA * above) / (whole + KAPPA)[:, np.newaxis])


def _most_telling(spoken: _Spoken) -> _Spoken:
    """Of the nodes of each message the one that says most of its importance."""
    order = np.lexsort((-np.abs(spoken.added[:, 0]), spoken.row))
    row = spoken.row[order]
    kept = order[np.searchsorted(row, row) == np.arange(len(row))]
    slots = None if spoken.slots is None else spoken.slots[kept]
    return _Spoken(spoken.branch, spoken.row[kept], spoken.at[kept], spoken.added[kept], slots)
