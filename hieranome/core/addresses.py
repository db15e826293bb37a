"""The owner's addresses: what each is for, which of them was given to one party alone, and who else uses it."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from hieranome.core.buckets import DRAIN, Bucket
from hieranome.core.errors import CallerError

MOST_TAG = 40
"""Characters of the tag behind the plus of an address: the whole before the ``@`` may have 64 (RFC 5321, 4.5.3.1.1)."""
MOST_LOCAL = 64
_NOT_IN_TAG = re.compile(r"[^a-z0-9]+")
_DOMAIN = re.compile(r"(?:[^\W_](?:[\w-]{0,61}[^\W_])?\.)+[^\W\d_][\w-]*[^\W_]")


class Purpose(StrEnum):
    """What the owner says an address is for."""

    NOTHING_SAID = ""
    PEOPLE = "people"
    SHOPS = "shops"
    GIVEN_UP = "given up"


LESSONS = 4.0
"""As how many lessons about the mail of an address it counts what the address is said to be for."""
NONE_SAID: Mapping[str, Purpose] = {}


@dataclass(frozen=True, slots=True)
class Use:
    """Who uses an address: the organisation that writes to it, and when first (Unix seconds), with which message."""

    organisation: str
    first: int
    message: int


def takes(purpose: Purpose, bucket: Bucket) -> bool:
    """Whether mail to an address for this may belong in a bucket: for people where mail is important, for shops where
    it is not, but wanted, and given up in the Drain."""
    if bucket.name == DRAIN:
        return purpose is Purpose.GIVEN_UP
    return purpose is not Purpose.GIVEN_UP and bucket.important == (purpose is Purpose.PEOPLE)


def untagged(address: str) -> str:
    """An address without the tag behind a plus (RFC 5233)."""
    local, _, domain = address.rpartition("@")
    return f"{local.partition('+')[0]}@{domain}"


def tag_of(address: str) -> str:
    """The tag behind the plus of an address, or an empty string."""
    return address.rpartition("@")[0].partition("+")[2]


def make(base: str, given_to: str, salt: str) -> str:
    """An address for one party alone: ``base`` with a tag made of whom it is given to and of ``salt``, which nobody can
    guess. Raises :class:`CallerError` where no tag can be made."""
    local, at, domain = untagged(base.strip().lower()).rpartition("@")
    if not (local and at and domain):
        raise CallerError(f"“{base}” is no address. Choose one of yours.")
    words = _NOT_IN_TAG.sub("-", given_to.lower()).strip("-")
    room = min(MOST_TAG, MOST_LOCAL - len(local) - 1) - len(salt)
    if room < 1:
        raise CallerError(f"{base} is so long that no tag fits behind it. Choose a shorter address.")
    word = words[: room - 1].strip("-")
    return f"{local}+{f'{word}-' if word else ''}{salt}@{domain}"


def named_domain(note: str) -> str:
    """The domain a note names, lower-cased, as in ``Corvane, corvane.example``; empty where it names none."""
    found = _DOMAIN.search(note.lower())
    return found[0] if found else ""


def first_of(uses: Iterable[Use]) -> Use | None:
    """The first use of an address; None where there is none."""
    return min(uses, key=lambda one: (one.first, one.message), default=None)


def holder(uses: Iterable[Use], given_to: str) -> str:
    """The organisation that an address was given to: the one named in ``given_to``, or else whoever used it first."""
    first = first_of(uses)
    return given_to or (first.organisation if first else "")


def first_leak(uses: Sequence[Use], given_to: str) -> Use | None:
    """The first use of an address that was given to one organisation by another one; None where there is none."""
    held_by = holder(uses, given_to)
    return first_of(one for one in uses if one.organisation != held_by)
