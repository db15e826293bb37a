"""Buckets and what it costs to be wrong about them."""

from __future__ import annotations

from dataclasses import dataclass

DESK = "desk"
UNDECIDED = "undecided"
SHELF = "shelf"
DIGEST = "digest"
DRAIN = "drain"

ARCHIVE = "archive"
SENT = "sent"
PARKED = "parked"
"""Out of sight until a time, or until somebody answers."""
DRAFTS = "drafts"
JUNK = "junk"
TRASH = "trash"
GONE = "gone"
"""Where the row of a message stands that was taken out of the Trash for good: shown nowhere."""
QUIET_PLACES = (SENT, DRAFTS, PARKED, ARCHIVE, JUNK, TRASH)
"""Places mail can stand in without being weighed: looked for, not lived in."""


@dataclass(frozen=True, slots=True)
class Bucket:
    """A place the engine may route to.

    ``name`` is the stable key, ``title`` what the owner reads; ``important`` says whether mail
    that belongs here counts as deserving attention now.
    """

    name: str
    title: str
    important: bool = False


def inside(bucket: Bucket) -> str:
    """Where mail stands, as one says it: on the Desk, in the Digest, in Paperwork."""
    if bucket.name in (DESK, SHELF):
        return f"on the {bucket.title}"
    return f"in the {bucket.title}" if bucket.name in (DIGEST, DRAIN) else f"in {bucket.title}"


BUILT_IN: tuple[Bucket, ...] = (
    Bucket(DESK, "Desk", important=True),
    Bucket(SHELF, "Shelf"),
    Bucket(DIGEST, "Digest"),
    Bucket(DRAIN, "Drain"),
)


@dataclass(frozen=True, slots=True)
class Costs:
    """What each kind of mistake costs the owner, in units of one unimportant message on the Desk."""

    buried: float = 5.0
    drained_important: float = 10.0
    noise: float = 1.0
    wrong_low: float = 0.5
    drained_good: float = 3.0
    asking: float = 0.5

    def of(self, belongs: str, put: str, important: frozenset[str] = frozenset({DESK})) -> float:
        """The cost of a message that belongs in ``belongs`` standing in ``put``."""
        if put == UNDECIDED:
            return self.asking
        if belongs == put:
            return 0.0
        if belongs in important:
            if put in important:
                return self.wrong_low
            return self.drained_important if put == DRAIN else self.buried
        if put in important:
            return self.noise
        return self.drained_good if put == DRAIN else self.wrong_low
