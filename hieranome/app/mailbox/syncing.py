"""One look at a mailbox: what is new in its folders, what is gone, which marks changed.

A look goes through the folders whose status changed, stores what it finds, and only then notes how far it read, so
that a look cut off anywhere is made again from there. What the findings mean is thought about afterwards
(:mod:`hieranome.app.mailbox.elsewhere`).
"""

from __future__ import annotations

import sqlite3
from bisect import bisect_left, bisect_right
from collections.abc import Sequence

from hieranome.app.mailbox import tags_told
from hieranome.app.mailbox.carrying import carry, recover
from hieranome.app.mailbox.elsewhere import explain
from hieranome.app.mailbox.folders import file_new_folders
from hieranome.app.mailbox.opened import Renumbered
from hieranome.app.mailbox.taking_in import batches, renumber, take_in_found
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import set_marks
from hieranome.core.actors import Actor
from hieranome.core.errors import FolderMissing
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags, Listed, Status
from hieranome.store import accounts, copies, draft_copies, goals, keywords
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy

SAMPLE = 100
"""Messages by which a folder is known again under another name."""


def sync(room: Mailroom, imap: Imap, account: int, *, thorough: bool = True) -> bool:
    """See what was begun to its end, look, think about what was found, and carry out what is to be done; whether
    anything changed. Without ``thorough``, where the server keeps no mod-sequences, flags are looked at in the inbox
    and the buckets alone."""
    changed = bool(_settled(room, imap, account))
    changed = look(room, imap, account, thorough=thorough) or changed
    changed = explain(room, account) or changed
    try:
        changed = bool(carry(room, imap, account)) or changed
    except Renumbered:
        changed = True
    with room.change() as db:
        accounts.update(db, account, synced_at=room.clock())
        if not goals.refused(db, account):
            accounts.update(db, account, error="")
    return changed


def _settled(room: Mailroom, imap: Imap, account: int) -> int:
    """See begun moves to their end, after folders whose UIDs changed are known again."""
    begun = goals.under_way(room.reader(), account)
    for number in sorted({n for one in begun for n in (one.folder, one.target) if n is not None}):
        folder = accounts.folder(room.reader(), number)
        try:
            status = imap.status(folder.name)
        except FolderMissing:
            continue
        if folder.validity not in (0, status.validity):
            renumber(room, imap, folder)
    return recover(room, imap, account)


def look(room: Mailroom, imap: Imap, account: int, *, thorough: bool = True) -> bool:
    """Look at every folder that is followed and changed; whether there was anything new."""
    listed = imap.folders()
    changed = _folders_follow(room, imap, account, listed)
    told = {one.name: one.status for one in listed}
    for folder in accounts.folders(room.reader(), account):
        status = told.get(folder.name)
        if status is None or not folder.followed or folder.low != 0:
            continue
        if as_known(folder, status) and (imap.condstore or not _flags_due(folder, thorough)):
            continue
        changed = look_into(room, imap, folder) or changed
    return changed


def as_known(folder: Folder, status: Status) -> bool:
    """Whether a folder stands as it did when it was last read to its end."""
    return (folder.validity, folder.uidnext, folder.messages, folder.modseq) == (
        status.validity,
        status.uidnext,
        status.messages,
        status.modseq,
    )


def _flags_due(folder: Folder, thorough: bool) -> bool:
    return thorough or folder.role in ("inbox", "bucket")


def _folders_follow(room: Mailroom, imap: Imap, account: int, listed: Sequence[Listed]) -> bool:
    """Bring the known folders to what is listed: new, renamed and removed ones; whether anything changed."""
    db = room.reader()
    known = {folder.name: folder for folder in accounts.folders(db, account)}
    names = {one.name for one in listed}
    fresh = [one for one in listed if one.name not in known or not known[one.name].present]
    gone = [folder for folder in known.values() if folder.present and folder.name not in names]
    if not fresh and not gone:
        return False
    successors = _successors(db, imap, gone, fresh)
    with room.change() as writer:
        for folder in gone:
            successor = successors.get(folder.id)
            if successor is None:
                _folder_gone(writer, folder)
                continue
            fresh.remove(successor)
            waiting = known.get(successor.name)
            if waiting is not None:
                accounts.remove_folder(writer, waiting.id)
            accounts.update_folder(writer, folder.id, name=successor.name)
        for one in fresh:
            if one.name in known:
                accounts.update_folder(writer, known[one.name].id, present=1, low=0, validity=0, uidnext=0, modseq=0)
        file_new_folders(writer, account, [one for one in fresh if one.name not in known])
    room.tell("places")
    return True


def _successors(
    db: sqlite3.Connection, imap: Imap, gone: Sequence[Folder], fresh: Sequence[Listed]
) -> dict[int, Listed]:
    """The new folders that are known ones under another name, by the known one's id: same UIDVALIDITY, no lower next
    UID, and the same messages in it, whatever happened in it meanwhile."""
    found: dict[int, Listed] = {}
    left = [one for one in fresh if one.status is not None]
    for folder in gone:
        for one in left:
            if _is_renamed(db, imap, folder, one):
                found[folder.id] = one
                left.remove(one)
                break
    return found


def _is_renamed(db: sqlite3.Connection, imap: Imap, folder: Folder, one: Listed) -> bool:
    status = one.status
    if status is None or folder.validity != status.validity or status.uidnext < folder.uidnext:
        return False
    known = {copy.uid: copy for copy in copies.in_folder(db, folder.id)[-SAMPLE:]}
    if not known:
        return folder.uidnext == status.uidnext and folder.messages == status.messages
    imap.select(one.name)
    there = imap.metas(sorted(uid for uid in known if uid is not None))
    alike = [meta for meta in there if (known[meta.uid].size, known[meta.uid].at) == (meta.size, meta.at)]
    return len(alike) == len(there) > 0


def _folder_gone(db: sqlite3.Connection, folder: Folder) -> None:
    copies.lose(db, [one.id for one in copies.in_folder(db, folder.id)])
    accounts.update_folder(db, folder.id, present=0, validity=0, uidnext=0, modseq=0, messages=0)


def look_into(room: Mailroom, imap: Imap, folder: Folder) -> bool:
    """Look at one folder; whether there was anything new in it."""
    try:
        status = imap.select(folder.name)
    except FolderMissing:
        return False
    if folder.validity not in (0, status.validity):
        renumber(room, imap, folder)
        folder = accounts.folder(room.reader(), folder.id)
        status = imap.select(folder.name)
    tags_told.note_taken(room, folder, imap.takes(("a",)))
    known = set(copies.uids(room.reader(), folder.id))
    here, flags = _standing(imap, folder, status, known)
    gone = [one.id for one in copies.at(room.reader(), folder.id, known - here)]
    ours = goals.expected(room.reader(), folder.id) | draft_copies.uids(room.reader(), folder.id, status.validity)
    new = sorted(here - known - ours)
    changed = _changed(room.reader(), folder, flags)
    if gone or changed:
        with room.change() as db:
            copies.lose(db, gone)
            for one, told in changed:
                note_flags(room, db, one, told)
            room.tell_moved(0, [one.message for one, _ in changed])
    for batch in batches(imap, new):
        take_in_found(room, imap, folder, batch)
    with room.change() as db:
        accounts.update_folder(
            db,
            folder.id,
            validity=status.validity,
            uidnext=status.uidnext,
            modseq=status.modseq,
            messages=status.messages,
        )
    return bool(gone or changed or new)


def _standing(imap: Imap, folder: Folder, status: Status, known: set[int]) -> tuple[set[int], dict[int, Flags]]:
    """The UIDs that stand in the open folder, and the marks that were told of them."""
    if not (imap.condstore and folder.modseq and status.modseq):
        flags = imap.changes(0).flags
        return set(flags), flags
    found = imap.changes(folder.modseq)
    if found.gone is None:
        return set(imap.uids()), found.flags
    here = _without(known, found.gone) | set(imap.uids(max(folder.uidnext - 1, 0)))
    if len(here) != status.messages:
        here = set(imap.uids())
    return here, found.flags


def _without(known: set[int], gone: Sequence[range]) -> set[int]:
    """What is left of known UIDs when spans of them, of whatever length, are gone."""
    order = sorted(known)
    left = set(known)
    for span in gone:
        low, high = min(span[0], span[-1]), max(span[0], span[-1])
        left.difference_update(order[bisect_left(order, low) : bisect_right(order, high)])
    return left


def _changed(db: sqlite3.Connection, folder: Folder, told: dict[int, Flags]) -> list[tuple[Copy, Flags]]:
    """The copies whose marks the server tells otherwise than before."""
    before = copies.marks(db, folder.id) if told else {}
    words = keywords.in_folder(db, folder.id) if told else {}
    none: frozenset[str] = frozenset()
    changed = [
        uid
        for uid, flags in told.items()
        if uid in before
        and (
            before[uid] != (flags.seen, flags.answered, flags.flagged)
            or words.get(uid, none) != {word.lower() for word in flags.keywords}
        )
    ]
    return [(one, told[one.uid]) for one in copies.at(db, folder.id, changed) if one.uid is not None]


def note_flags(room: Mailroom, db: sqlite3.Connection, copy: Copy, told: Flags) -> None:
    """Another program changed the marks of a copy: what it changed holds here too."""
    for name in ("seen", "answered", "flagged"):
        wanted = getattr(told, name)
        if getattr(copy, name) != wanted:
            set_marks(room, db, [copy.message], name, wanted, Actor.ELSEWHERE)
    copies.set_flags(db, copy.id, seen=told.seen, answered=told.answered, flagged=told.flagged)
    tags_told.note_change(room, db, copy, told.keywords)
