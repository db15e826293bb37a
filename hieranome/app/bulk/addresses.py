"""The owner's addresses: what each brings, what it is for, who has it who should not, and new ones for one party
alone."""

from __future__ import annotations

import secrets
import sqlite3
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.scoring import rescore_in_sight
from hieranome.core.addresses import Purpose, Use, first_leak, first_of, holder, make, named_domain, tag_of
from hieranome.core.buckets import DIGEST, DRAIN, GONE, JUNK, TRASH
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.recurring import reached
from hieranome.mail.organisations import organisation
from hieranome.store import addresses, settings
from hieranome.store.addresses import Reached, Said, Written

NOISE = frozenset({DIGEST, DRAIN, JUNK, TRASH, GONE})
"""Where noise stands."""
UNWANTED = frozenset({DRAIN, JUNK})
MOST_TOLD = 500
"""Addresses that are told; anybody can write to any tag behind a plus."""
MOST_SAID = 5_000
MOST_NOTE = 200
SALT = 3
"""Random bytes in the tag of an address made here."""


@dataclass(frozen=True, slots=True)
class Leak:
    """The first mail to an address that came from somebody it was not given to, or, of an address given to many, the
    first that was unwanted: from which organisation, when (Unix seconds), and the message."""

    organisation: str
    at: int
    message: int


@dataclass(frozen=True, slots=True)
class Address:
    """An address mail reaches the owner at: how much came, the shares of it that are noise and that were read (0 to 1),
    from how many organisations, what it is for, whom it was given to, when it was made here (0 for elsewhere), whether
    it is one of those the owner named, and the first leak."""

    address: str
    own: bool
    purpose: Purpose
    given_to: str
    made_at: int
    total: int
    noise: float
    read: float
    organisations: int
    leak: Leak | None


def find(room: Mailroom) -> list[Address]:
    """All addresses, those with most mail first; where there are too many, those without the owner's word are left
    out from the end."""
    db = room.reader()
    said, sums = addresses.every(db), addresses.reached(db)
    by_address: dict[str, list[Written]] = defaultdict(list)
    for one in addresses.written(db):
        by_address[one.address].append(one)
    keys = {*room.owner.addresses, *said, *by_address}
    found = [_address(room, key, said.get(key), by_address[key], sums.get(key)) for key in keys]
    found.sort(key=lambda one: (-one.total, one.address))
    kept = {one.address for one in found[:MOST_TOLD]}
    return [one for one in found if one.address in kept or one.own or one.address in said]


def _address(room: Mailroom, key: str, said: Said | None, written: Sequence[Written], sums: Reached | None) -> Address:
    total = sum(one.total for one in written)
    return Address(
        key,
        key in room.owner.addresses,
        said.purpose if said else Purpose.NOTHING_SAID,
        said.given_to if said else "",
        said.made_at if said else 0,
        total,
        sum(one.total for one in written if one.place in NOISE) / total if total else 0.0,
        1 - sums.unread / sums.total if sums and sums.total else 0.0,
        len({_organisation(one.domain) for one in written}),
        _leak(key, said, written),
    )


def _organisation(domain: str) -> str:
    return organisation(domain) or domain


def _leak(key: str, said: Said | None, written: Iterable[Written]) -> Leak | None:
    given_to = said.given_to if said else ""
    if given_to or tag_of(key):
        use = first_leak(_uses(written), _named(given_to))
    else:
        use = first_of(_uses(one for one in written if one.place in UNWANTED))
    return Leak(use.organisation, use.first, use.message) if use else None


def _named(given_to: str) -> str:
    """The organisation a note names, or nothing."""
    domain = named_domain(given_to)
    return _organisation(domain) if domain else ""


def _uses(written: Iterable[Written]) -> list[Use]:
    """Who uses an address, organisation by organisation."""
    by_name: dict[str, list[Written]] = defaultdict(list)
    for one in written:
        by_name[_organisation(one.domain)].append(one)
    found = []
    for name, several in by_name.items():
        first = min(several, key=lambda one: (one.first, one.message))
        found.append(Use(name, first.first, first.message))
    return found


def misused(room: Mailroom, facts: MessageFacts) -> Said | None:
    """What was said of the address a message came to, where that was given to somebody else than its sender."""
    db, key = room.reader(), reached(facts, room.owner)
    said = addresses.of(db, key) if key else None
    if said is None or not said.given_to or not facts.sender.domain or room.owner.owns(facts.sender):
        return None
    held_by = _named(said.given_to) or holder(_uses(addresses.written(db, key)), "")
    return said if held_by and _organisation(facts.sender.domain) != held_by else None


def describe(room: Mailroom, address: str, purpose: Purpose, given_to: str) -> Address:
    """Say what an address is for and whom it was given to. Its mail is weighed by that from now on; what stands is
    scored anew, and stays where it is. Raises :class:`NotFound` for an address that is none of the owner's,
    :class:`CallerError` for a note that is too long."""
    key, note = address.strip().lower(), _note(given_to)
    if not room.owner.owns(Correspondent(key)):
        raise NotFound(f"“{address}” is none of your addresses. Name it in the settings first.")
    with room.change() as db:
        was = addresses.of(db, key)
        made_at = was.made_at if was else 0
        if purpose or note or made_at:
            _check_room(room, 0 if was else 1)
            addresses.put(db, Said(key, purpose, note, made_at))
        else:
            addresses.forget(db, key)
        if purpose is not (was.purpose if was else Purpose.NOTHING_SAID):
            _heed(room, db)
    return _one(room, key)


def make_one(room: Mailroom, base: str, given_to: str) -> Address:
    """Make an address for one party alone: one of the owner's with a tag nobody can guess, with a note of whom it is
    given to. Raises :class:`NotFound`, :class:`CallerError`."""
    note = _note(given_to)
    if base.strip().lower() not in room.owner.addresses:
        raise NotFound(f"“{base}” is none of your addresses. Name it in the settings first.")
    if not note:
        raise CallerError("Say whom the address is given to: that is what it is made for.")
    with room.change() as db:
        _check_room(room, 1)
        key = make(base, named_domain(note).partition(".")[0] or note, secrets.token_hex(SALT))
        if addresses.of(db, key):
            raise Conflict("That address was made already. Try again.")
        addresses.put(db, Said(key, Purpose.NOTHING_SAID, note, room.clock()))
    return _one(room, key)


def forget(room: Mailroom, address: str) -> None:
    """Forget what was said of an address; mail to it comes as before. Raises :class:`NotFound`."""
    with room.change() as db:
        was = addresses.of(db, address.strip().lower())
        if was is None:
            raise NotFound(f"Nothing was said of “{address}”. Load the addresses again.")
        addresses.forget(db, was.address)
        if was.purpose:
            _heed(room, db)


def _heed(room: Mailroom, db: sqlite3.Connection) -> None:
    """Within a change, bring the model and the scores in sight to what is said of addresses; the other scores
    follow."""
    room.touch()
    room.engine.say(addresses.purposes(db))
    rescore_in_sight(room, db)
    settings.put(db, settings.SCORED, "")
    room.revision += 1
    room.tell("rescored")


def _one(room: Mailroom, key: str) -> Address:
    db = room.reader()
    return _address(room, key, addresses.of(db, key), addresses.written(db, key), addresses.reached(db).get(key))


def _note(text: str) -> str:
    note = " ".join(text.split())
    if len(note) > MOST_NOTE:
        raise CallerError(f"A note takes up to {MOST_NOTE} characters; this has {len(note)}.")
    return note


def _check_room(room: Mailroom, more: int) -> None:
    if more and len(addresses.every(room.reader())) >= MOST_SAID:
        raise CallerError(f"Of {MOST_SAID} addresses something is said already. Forget some first.")
