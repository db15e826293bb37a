"""One look at a mailbox: what is new in its folders, what is gone, which marks changed.

A look goes through the folders whose status changed, stores what it finds, and only then notes how far it read, so
that a look cut off anywhere is made again from there. What the findings mean is thought about afterwards
(:mod:`hieranome.app.elsewhere`).
"""

from __future__ import annotations

import sqlite3
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace

from hieranome.app.arrive import take_in
from hieranome.app.carrying import Renumbered, carry, recover
from hieranome.app.elsewhere import explain
from hieranome.app.filing import set_marks
from hieranome.app.incoming import Incoming, Placed, digest_of
from hieranome.app.mailboxes import file_new_folders
from hieranome.app.mailroom import Mailroom
from hieranome.app.readers import prepared
from hieranome.core.buckets import SENT
from hieranome.core.errors import FolderMissing
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags, Listed, Meta, Status
from hieranome.store import accounts, copies, messages
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy, NewCopy

SAMPLE = 100
"""Messages by which a folder is known again under another name."""
BATCH = 200
BATCH_BYTES = 8_000_000
"""Messages, and bytes of them, fetched by one command."""


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
        if not copies.refused(db, account):
            accounts.update(db, account, error="")
    return changed


def _settled(room: Mailroom, imap: Imap, account: int) -> int:
    """See begun moves to their end, after folders whose UIDs changed are known again."""
    begun = copies.under_way(room.reader(), account)
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
    known = set(copies.uids(room.reader(), folder.id))
    here, flags = _standing(imap, folder, status, known)
    gone = [one.id for one in copies.at(room.reader(), folder.id, known - here)]
    new = sorted(here - known - copies.expected(room.reader(), folder.id))
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
    changed = [
        uid
        for uid, flags in told.items()
        if uid in before and before[uid] != (flags.seen, flags.answered, flags.flagged)
    ]
    return [(one, told[one.uid]) for one in copies.at(db, folder.id, changed) if one.uid is not None]


def note_flags(room: Mailroom, db: sqlite3.Connection, copy: Copy, told: Flags) -> None:
    """Another program changed the marks of a copy: what it changed holds here too."""
    for name in ("seen", "answered", "flagged"):
        wanted = getattr(told, name)
        if getattr(copy, name) != wanted:
            set_marks(room, db, [copy.message], name, wanted)
    copies.set_flags(db, copy.id, seen=told.seen, answered=told.answered, flagged=told.flagged)


def batches(imap: Imap, uids: Sequence[int]) -> Iterator[list[Meta]]:
    """Messages of the open folder in the order given, in portions that are not too large."""
    order = {uid: at for at, uid in enumerate(uids)}
    for start in range(0, len(uids), BATCH * 5):
        portion: list[Meta] = []
        size = 0
        for meta in sorted(imap.metas(uids[start : start + BATCH * 5]), key=lambda one: order[one.uid]):
            if portion and (len(portion) >= BATCH or size + meta.size > BATCH_BYTES):
                yield portion
                portion, size = [], 0
            portion.append(meta)
            size += meta.size
        if portion:
            yield portion


def take_in_found(room: Mailroom, imap: Imap, folder: Folder, batch: Sequence[Meta]) -> None:
    """Store messages that appeared in a folder: those not here yet arrive, all have a copy there now."""
    by_id = {meta.uid: copies.by_email_id(room.reader(), folder.account, meta.email_id) for meta in batch}
    bodies = imap.bodies([meta.uid for meta in batch if by_id[meta.uid] is None])
    read = {
        meta.uid: incoming_of(bodies[meta.uid], meta, folder)
        for meta in batch
        if meta.uid in bodies
    }  # fmt: skip
    arrived: list[int] = []
    routing = accounts.get(room.reader(), folder.account).routing
    with room.change() as db:
        for meta in batch:
            number = by_id[meta.uid]
            if number is None and meta.uid in read:
                number = take_in(room, db, read[meta.uid])
                if number is None:
                    digest = read[meta.uid].digest
                    number = copies.by_digest(db, [digest])[digest]
                else:
                    arrived.append(number)
            if number is not None:
                copies.add(db, [copy_of(folder, meta, number, news=True)])
        if routing and folder.role == "inbox":
            copies.aim(db, folder.account, arrived)
        for row in messages.get_many(db, arrived):
            room.tell_arrived(row)
        if arrived:
            room.tell_counts()


def incoming_of(raw: bytes, meta: Meta, folder: Folder) -> Incoming:
    """A fetched message as it is taken in; what stands in a folder that is not the inbox was filed there."""
    flags = meta.flags
    made = prepared(raw, meta.at, seen=flags.seen, answered=flags.answered, flagged=flags.flagged)
    return replace(made, stands=filed_in(folder))


def filed_in(folder: Folder) -> Placed | None:
    """Where a message stands that was found in a folder; None for the inbox, where it is judged."""
    if folder.role == "inbox":
        return None
    return Placed(folder.place, "own" if folder.place == SENT else "elsewhere")


def copy_of(folder: Folder, meta: Meta, message: int, *, news: bool) -> NewCopy:
    """The copy of a message found in a folder."""
    flags = meta.flags
    return NewCopy(
        folder.id,
        meta.uid,
        message,
        flags.seen,
        flags.answered,
        flags.flagged,
        meta.at,
        meta.size,
        meta.email_id,
        news,
    )


def renumber(room: Mailroom, imap: Imap, folder: Folder) -> None:
    """The UIDs of a folder mean something else now: find the known copies again, by EMAILID or by their bytes. What
    is not found is gone; what else is there is new, and comes with the next look."""
    status = imap.select(folder.name)
    known = copies.in_folder(room.reader(), folder.id)
    by_email: dict[str, list[Copy]] = defaultdict(list)
    by_digest: dict[bytes, list[Copy]] = defaultdict(list)
    for one, digest in zip(known, _digests(room.reader(), known), strict=True):
        if one.email_id:
            by_email[one.email_id].append(one)
        by_digest[digest].append(one)
    found: list[tuple[int, int]] = []
    for batch in batches(imap, imap.uids()):
        unknown = []
        for meta in batch:
            if meta.email_id and by_email.get(meta.email_id):
                found.append((by_email[meta.email_id].pop(0).id, meta.uid))
            else:
                unknown.append(meta.uid)
        taken = {number for number, _ in found}
        for uid, raw in imap.bodies(unknown).items():
            candidates = [one for one in by_digest.get(digest_of(raw), ()) if one.id not in taken]
            if candidates:
                found.append((candidates[0].id, uid))
                taken.add(candidates[0].id)
    kept = {number for number, _ in found}
    with room.change() as db:
        copies.lose(db, [one.id for one in known if one.id not in kept and one.stage == ""])
        copies.unnumber(db, [one.id for one in known if one.id not in kept and one.stage != ""])
        copies.renumber(db, found)
        accounts.update_folder(db, folder.id, validity=status.validity, uidnext=0, modseq=0, messages=-1)


def _digests(db: sqlite3.Connection, many: Sequence[Copy]) -> list[bytes]:
    return [bytes(db.execute("SELECT digest FROM messages WHERE id = ?", (one.message,)).fetchone()[0]) for one in many]
