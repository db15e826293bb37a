"""The owner vouches for senders, and says whose checks of where mail comes from are believed."""

from __future__ import annotations

import re
from collections.abc import Iterable

from hieranome.app.reading.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.vouched import Vouched
from hieranome.store import messages, settings, vouched

_DOMAIN = re.compile(r"(?:[^\W_](?:[\w-]{0,61}[^\W_])?\.)+[^\W_][\w-]*[^\W_]", re.UNICODE)
MAX_VOUCHED = 5000


def vouch(room: Mailroom, kind: str, key: str, name: str = "") -> Vouched:
    """Vouch for an address or a domain: its mail goes to the Desk from now on unless it proves forged.

    Raises :class:`CallerError` for what is neither, and for a domain many unrelated people write from.
    """
    one = Vouched(kind, key.strip().lower().lstrip("@" if kind == "domain" else ""), name.strip())
    local, at, domain = one.key.rpartition("@")
    if not _DOMAIN.fullmatch(domain) or (kind == "address") != bool(at and local):
        raise CallerError(f"“{key.strip()}” is no {kind}. Write it like {_LIKE[kind]}.")
    if kind == "domain" and one.key in room.shared:
        raise CallerError(
            f"Many unrelated people write from {one.key}, so it cannot be vouched for as a whole. "
            "Vouch for the address instead."
        )
    with room.change() as db:
        if len(room.vouched) >= MAX_VOUCHED:
            raise CallerError(f"{MAX_VOUCHED} senders are vouched for already. Remove some first.")
        vouched.add(db, one, room.clock())
        room.load_sure(db)
    return one


_LIKE = {"address": "ilse@hall.example", "domain": "hall.example"}


def vouch_for_sender(room: Mailroom, number: int, kind: str) -> Vouched:
    """Vouch for the sender of a message, or for its domain."""
    sender = reading_of(messages.raw(room.reader(), number)).facts.sender
    return vouch(room, kind, sender.address if kind == "address" else sender.domain, sender.name)


def remove(room: Mailroom, kind: str, key: str) -> None:
    """Vouch no longer. Raises :class:`NotFound` when it was not vouched for."""
    with room.change() as db:
        if not vouched.remove(db, kind, key.strip().lower()):
            raise NotFound(f"Nobody vouches for “{key}”. Load the list again.")
        room.load_sure(db)


def set_names(room: Mailroom, key: str, wanted: Iterable[str]) -> None:
    """Set the servers whose checks are believed, or the domains many people share."""
    with room.change() as db:
        settings.set_names(db, key, wanted)
        room.load_sure(db)


def set_kin_follow(room: Mailroom, wanted: bool) -> None:
    """Say whether kin follow a lesson unasked."""
    with room.change() as db:
        settings.put(db, settings.KIN_FOLLOW, wanted)
        room.load_sure(db)
