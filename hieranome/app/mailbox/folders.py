"""Which folder of a mailbox stands for which place here."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.core.buckets import ARCHIVE, DESK, DRAFTS, JUNK, PARKED, SENT, TRASH, UNDECIDED
from hieranome.core.errors import CallerError
from hieranome.mail.imap_answers import Listed
from hieranome.store import accounts, places

ROLES = {"inbox": DESK, "sent": SENT, "drafts": DRAFTS, "archive": ARCHIVE, "junk": JUNK, "trash": TRASH}
"""Where the mail of a folder with a role stands here."""


PARENT = "Hieranome"
"""The folder under which the buckets' folders stand."""


MAX_TITLE = 40


def mirror_buckets(db: sqlite3.Connection, account: int, prefix: str, delimiter: str) -> None:
    """A mailbox was added: it is to have a folder for every bucket and own folder, made once something goes there."""
    for place in places.every(db):
        role = _role_of(place)
        if place.name in (DESK, UNDECIDED) or (role != "bucket" and not place.own):
            continue
        accounts.add_folder(db, account, _under(prefix, place.title, delimiter, role), role, place.name, present=False)


def _role_of(place: places.Place) -> str:
    """The role of the folder of a place that is none of the usual ones: ours stand under :data:`PARENT`."""
    return "bucket" if place.band >= 0 or place.name == PARKED else "other"


def mirror_parked(db: sqlite3.Connection) -> None:
    """Let every mailbox that was added before there was parked mail have a folder for it."""
    for account in accounts.every(db):
        if all(folder.place != PARKED for folder in accounts.folders(db, account.id)):
            _mirror(db, account, places.get(db, PARKED))


def _under(prefix: str, title: str, delimiter: str, role: str) -> str:
    clean = title.replace(delimiter, " ") if delimiter else title
    return f"{prefix}{PARENT}{delimiter or ' '}{clean}" if role == "bucket" else f"{prefix}{clean}"


def bucket_of(name: str, prefix: str, delimiter: str) -> str:
    """The title of the bucket a folder of this name stands for; empty where it stands under none of ours."""
    begin = _under(prefix, "", delimiter, "bucket")
    return name.removeprefix(begin) if name.startswith(begin) else ""


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


def add_missing_roles(db: sqlite3.Connection, account: int, prefix: str) -> None:
    """Let a folder be made, once it is needed, for every role no folder of a mailbox has."""
    here = {folder.role for folder in accounts.folders(db, account)}
    for role, place in ROLES.items():
        if role not in here:
            title = places.get(db, place).title
            accounts.add_folder(db, account, f"{prefix}{title}", role, place, present=False)


def mirror_place(db: sqlite3.Connection, place: places.Place) -> None:
    """A place was made here: every mailbox is to have a folder for it, made once something goes there."""
    for account in accounts.every(db):
        _mirror(db, account, place)


def _mirror(db: sqlite3.Connection, account: accounts.Account, place: places.Place) -> None:
    role = _role_of(place)
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
