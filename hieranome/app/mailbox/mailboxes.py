"""Mailboxes on servers: added, changed, routed, left; and which of their folders is which place here."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.app.mailbox.folders import add_missing_roles, file_new_folders, mirror_buckets
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import CallerError, Conflict
from hieranome.mail.imap_answers import Listed
from hieranome.store import accounts, copies, drafts, goals, messages
from hieranome.store.accounts import Account as Account
from hieranome.store.accounts import Folder
from hieranome.store.accounts import NewAccount as NewAccount
from hieranome.store.drafts import Identity

PROPOSED = 500
"""The newest messages of an inbox that are put where they belong once mail is routed; older mail stays."""


@dataclass(frozen=True, slots=True)
class Preview:
    """Where the newest messages of a mailbox's inbox would go: how many to each place, and how many there are."""

    counts: dict[str, int]
    total: int


def add(room: Mailroom, new: NewAccount, listed: Sequence[Listed]) -> Account:
    """Add a mailbox whose folders were listed. Its address becomes one of the owner's. Nothing is read or moved yet.

    Raises :class:`Conflict` when the mailbox is here already.
    """
    address = new.address.strip().lower()
    with room.change() as db:
        if any(one.address == address for one in accounts.every(db)):
            raise Conflict(f"The mailbox of {address} is here already. Change it under Mailboxes.")
        number = accounts.add(db, replace(new, address=address), room.clock())
        drafts.put_identity(db, Identity(address, number, new.name, ""))
        delimiter = next((one.delimiter for one in listed if one.delimiter), "")
        mirror_buckets(db, number, new.prefix, delimiter)
        file_new_folders(db, number, listed)
        add_missing_roles(db, number, new.prefix)
        room.set_owner([*room.owner.addresses, address])
        room.tell("places")
    return accounts.get(room.reader(), number)


def every(room: Mailroom) -> list[Account]:
    """All mailboxes."""
    return accounts.every(room.reader())


def get(room: Mailroom, number: int) -> Account:
    """One mailbox. Raises :class:`hieranome.core.errors.NotFound`."""
    return accounts.get(room.reader(), number)


def known(room: Mailroom, address: str) -> Account | None:
    """The mailbox of an address, as it was typed, if it is here."""
    clean = address.strip().lower()
    return next((one for one in every(room) if one.address == clean), None)


def waiting(room: Mailroom, number: int) -> int:
    """How many moves and marks of a mailbox wait to be made on its server."""
    return goals.waiting(room.reader(), number)


def change(room: Mailroom, number: int, new: NewAccount) -> Account:
    """Change how a mailbox is reached. Raises :class:`hieranome.core.errors.NotFound`."""
    with room.change() as db:
        accounts.change(db, number, new)
        accounts.update(db, number, error="")
    return get(room, number)


def folders(room: Mailroom, number: int) -> list[tuple[Folder, int]]:
    """The folders of a mailbox, and how many messages of each are known. Raises
    :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    accounts.get(db, number)
    return [(one, copies.count(db, one.id)) for one in accounts.folders(db, number)]


def follow(room: Mailroom, number: int, folder: int, *, wanted: bool) -> None:
    """Follow a folder of a mailbox, or leave it alone. Raises :class:`CallerError` for one that is always followed."""
    with room.change() as db:
        found = accounts.folder(db, folder)
        if found.account != number or found.role in ("inbox", "bucket"):
            raise CallerError("The inbox and the buckets are always followed.")
        accounts.update_folder(db, folder, followed=int(wanted))
        if wanted and found.low != 0:
            # Left out while the history was read: what stands in it comes with the next look.
            accounts.update_folder(db, folder, low=0, validity=0, uidnext=0, modseq=0)


_PROTECTED = ("tls", "starttls")
"""Ways to a server on which nobody between reads along."""


def reached_alike(before: NewAccount, new: NewAccount) -> bool:
    """Whether a mailbox is reached by the same servers as before, at the same ports, no less protected, and trusted by
    no other certificate: the secret that was given for it may go there."""
    for kind in ("imap", "smtp"):
        was, now = (
            [getattr(one, f"{kind}_{what}") for what in ("host", "port", "security", "pin")] for one in (before, new)
        )
        weaker = now[2] != was[2] and now[2] not in _PROTECTED
        another_pin = now[3] not in ("", was[3])
        if now[:2] != was[:2] or weaker or another_pin:
            return False
    return True


def preview(room: Mailroom, account: int) -> Preview:
    """Where the newest messages of a mailbox's inbox stand here: where they would go, were mail routed. Raises
    :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    accounts.get(db, account)
    counts: dict[str, int] = {}
    for _, place in copies.newest_in_inbox(db, account, PROPOSED):
        counts[place] = counts.get(place, 0) + 1
    return Preview(counts, sum(counts.values()))


def route(room: Mailroom, account: int, *, on: bool) -> Account:
    """Let mail be moved on the server as it is placed here, or not. Turned on for the first time, the newest of the
    inbox go where they belong, and so does all that was decided on; turned on again, what came since then and all that
    was decided on. Turned off, everything stays where it stands."""
    with room.change() as db:
        before = accounts.get(db, account)
        accounts.update(db, account, routing=int(on))
        if on and not before.routing:
            if before.routed:
                chosen = messages.after(db, before.routed)
            else:
                chosen = [number for number, _ in copies.newest_in_inbox(db, account, PROPOSED)]
                accounts.update(db, account, routed=max(messages.last_id(db), 1))
            goals.aim(db, account, [*chosen, *messages.decided_on(db)])
        elif not on:
            goals.rest(db, account)
    room.tell("account", account=account)
    return accounts.get(room.reader(), account)


def pause(room: Mailroom, account: int, *, on: bool) -> Account:
    """Pause a mailbox, or let it go on where it was."""
    with room.change() as db:
        accounts.get(db, account)
        accounts.update(db, account, paused=int(on))
    room.tell("account", account=account)
    return accounts.get(room.reader(), account)
