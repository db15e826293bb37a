"""Whom the owner writes as, and whom they write to."""

from __future__ import annotations

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import CallerError
from hieranome.store import accounts, drafts, searches
from hieranome.store.drafts import Identity as Identity


def offered(room: Mailroom, start: str, limit: int) -> list[tuple[str, str]]:
    """Names and addresses of people with a word that begins so, those the owner writes to first."""
    found = searches.correspondents(room.reader(), start, limit * 3)
    written = {address: room.relations.of(f"address:{address}").written for _, address in found}
    return sorted(found, key=lambda one: -written[one[1]])[:limit]


def identities(room: Mailroom) -> list[Identity]:
    """Whom the owner writes as."""
    return drafts.identities(room.reader())


def put_identity(room: Mailroom, one: Identity) -> None:
    """Write as somebody, or change the name and signature. Raises :class:`hieranome.core.errors.NotFound` where there
    is no such mailbox."""
    address = one.address.strip().lower()
    with room.change() as db:
        accounts.get(db, one.account)
        drafts.put_identity(db, Identity(address, one.account, " ".join(one.name.split()), one.signature))
        room.set_owner([*room.owner.addresses, address])


def remove_identity(room: Mailroom, address: str) -> None:
    """Write as somebody no longer. Raises :class:`CallerError` for the address of a mailbox, which stays."""
    with room.change() as db:
        if any(one.address == address for one in accounts.every(db)):
            raise CallerError("This is the address of a mailbox, so you go on writing as it.")
        drafts.remove_identity(db, address)
