"""Mailboxes on servers: added, changed, routed, left; and which of their folders is which place here."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.app.mailroom import Mailroom
from hieranome.core.buckets import ARCHIVE, DESK, DRAFTS, JUNK, SENT, TRASH, UNDECIDED
from hieranome.core.errors import CallerError, Conflict
from hieranome.mail.imap_answers import Listed
from hieranome.store import accounts, copies, letters, places
from hieranome.store.accounts import Account, NewAccount
from hieranome.store.letters import Identity

ROLES = {"inbox": DESK, "sent": SENT, "drafts": DRAFTS, "archive": ARCHIVE, "junk": JUNK, "trash": TRASH}
"""Where the mail of a folder with a role stands here."""
PROPOSED = 500
"""The newest messages of an inbox that are put where they belong once mail is routed; older mail stays."""
PARENT = "Hieranome"
"""The folder under which the buckets' folders stand."""
MAX_TITLE = 40


@dataclass(frozen=True, slots=True)
class Proposal:
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
        letters.put_identity(db, Identity(address, number, new.name, ""))
        delimiter = next((one.delimiter for one in listed if one.delimiter), "")
        _mirror_buckets(db, number, new.prefix, delimiter)
        file_new_folders(db, number, listed)
        _roles_without_folder(db, number, new.prefix)
        room.set_owner([*room.owner.addresses, address])
        room.tell("places")
    return accounts.get(room.reader(), number)


def _mirror_buckets(db: sqlite3.Connection, account: int, prefix: str, delimiter: str) -> None:
    for place in places.every(db):
        if place.name in (DESK, UNDECIDED) or (place.band < 0 and not place.own):
            continue
        role = "bucket" if place.band >= 0 else "other"
        accounts.add_folder(db, account, _under(prefix, place.title, delimiter, role), role, place.name, present=False)


def _under(prefix: str, title: str, delimiter: str, role: str) -> str:
    clean = title.replace(delimiter, " ") if delimiter else title
    return f"{prefix}{PARENT}{delimiter or ' '}{clean}" if role == "bucket" else f"{prefix}{clean}"


def file_new_folders(db: sqlite3.Connection, account: int, listed: Sequence[Listed]) -> None:
    """Store folders found on a server: those with a role stand for a place, others become one."""
    known = {folder.name: folder for folder in accounts.folders(db, account)}
    taken = {folder.role for folder in known.values() if folder.present}
    for one in listed:
        if one.name in known:
            accounts.update_folder(db, known[one.name].id, present=1)
            continue
        role = one.role if one.role in ROLES and one.role not in taken else "other"
        waiting = next((f for f in known.values() if f.role == role != "other" and not f.present), None)
        if waiting is not None:
            accounts.update_folder(db, waiting.id, name=one.name, present=1, low=waiting.low)
        else:
            place = ROLES[role] if role in ROLES else _place_for(db, account, one)
            number = accounts.add_folder(db, account, one.name, role, place)
            accounts.update_folder(db, number, followed=int(not one.virtual))
            if accounts.get(db, account).state == "watching":
                accounts.update_folder(db, number, low=0)
        taken.add(role)


def _place_for(db: sqlite3.Connection, account: int, one: Listed) -> str:
    """The place of an ordinary folder: the one of that name that no folder of this mailbox stands for, or a new one."""
    every = places.every(db)
    used = {folder.place for folder in accounts.folders(db, account)}
    title = one.name[-MAX_TITLE:]
    same = next((p for p in every if p.own and p.band < 0 and p.title == title and p.name not in used), None)
    if same is not None:
        return same.name
    titles = {word for p in every for word in (p.title.lower(), p.name)}
    number = 2
    clean = title
    while clean.lower() in titles:
        clean = f"{title[: MAX_TITLE - 5]} ({number})"
        number += 1
    name = free_name(every, "folder")
    places.add(db, name, clean, -1, important=False)
    return name


def free_name(every: Sequence[places.Place], kind: str) -> str:
    """A name for a new place that no other has."""
    taken = {place.name for place in every}
    return next(made for n in range(1, len(taken) + 2) if (made := f"{kind}-{n}") not in taken)


def _roles_without_folder(db: sqlite3.Connection, account: int, prefix: str) -> None:
    here = {folder.role for folder in accounts.folders(db, account)}
    for role, place in ROLES.items():
        if role not in here:
            title = places.get(db, place).title
            accounts.add_folder(db, account, f"{prefix}{title}", role, place, present=False)


def mirror_place(db: sqlite3.Connection, place: places.Place) -> None:
    """A place was made here: every mailbox is to have a folder for it, made once something goes there."""
    for account in accounts.every(db):
        role = "bucket" if place.band >= 0 else "other"
        delimiter = next((c for f in accounts.folders(db, account.id) for c in "/." if c in f.name), "/")
        name = _under(account.prefix, place.title, delimiter, role)
        names = {folder.name for folder in accounts.folders(db, account.id)}
        while name in names:
            name += "+"
        accounts.add_folder(db, account.id, name, role, place.name, present=False)


def unmirror_place(db: sqlite3.Connection, place: places.Place) -> None:
    """A place is taken away: forget the folders that stood for it. Raises :class:`CallerError` for one that a server
    still has."""
    for account in accounts.every(db):
        for folder in accounts.folders(db, account.id):
            if folder.place != place.name:
                continue
            if folder.present:
                raise CallerError(
                    f"{place.title} is a folder of the mailbox {account.address}. Take it away there, in any mail "
                    "program, and then here."
                )
            accounts.remove_folder(db, folder.id)


def proposal(room: Mailroom, account: int) -> Proposal:
    """Where the newest messages of a mailbox's inbox stand here: where they would go, were mail routed."""
    counts: dict[str, int] = {}
    for _, place in _newest_in_inbox(room.reader(), account):
        counts[place] = counts.get(place, 0) + 1
    return Proposal(counts, sum(counts.values()))


def _newest_in_inbox(db: sqlite3.Connection, account: int) -> list[tuple[int, str]]:
    rows = db.execute(
        """
        SELECT m.id, m.place FROM copies AS c JOIN folders AS f ON f.id = c.folder
            JOIN messages AS m ON m.id = c.message
        WHERE f.account = ? AND f.role = 'inbox' AND c.uid IS NOT NULL ORDER BY m.time DESC LIMIT ?
        """,
        (account, PROPOSED),
    )
    return [(row[0], row[1]) for row in rows]


def route(room: Mailroom, account: int, *, on: bool) -> Account:
    """Let mail be moved on the server as it is placed here, or not. Turned on for the first time, the newest of the
    inbox go where they belong, and so does all that was decided on; turned on again, what came since then and all that
    was decided on. Turned off, everything stays where it stands."""
    with room.change() as db:
        before = accounts.get(db, account)
        accounts.update(db, account, routing=int(on))
        if on and not before.routing:
            if before.routed:
                chosen = [row[0] for row in db.execute("SELECT id FROM messages WHERE id > ?", (before.routed,))]
            else:
                chosen = [number for number, _ in _newest_in_inbox(db, account)]
                newest = int(db.execute("SELECT coalesce(max(id), 0) FROM messages").fetchone()[0])
                accounts.update(db, account, routed=max(newest, 1))
            rows = db.execute("SELECT id FROM messages WHERE decided_by IN ('verdict', 'kin', 'filed')")
            copies.aim(db, account, [*chosen, *(row[0] for row in rows)])
        elif not on:
            copies.rest(db, account)
    room.tell("account", account=account)
    return accounts.get(room.reader(), account)


def pause(room: Mailroom, account: int, *, on: bool) -> Account:
    """Pause a mailbox, or let it go on where it was."""
    with room.change() as db:
        accounts.get(db, account)
        accounts.update(db, account, paused=int(on))
    room.tell("account", account=account)
    return accounts.get(room.reader(), account)
