"""What is found in a folder of a server, taken in; and what is known found again where its UIDs changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import replace

from hieranome.app.arrival.arrive import take_in
from hieranome.app.mailbox import tags_told
from hieranome.app.reading.incoming import Incoming, Placed, digest_of
from hieranome.app.reading.processes import prepared
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import tell_arrived
from hieranome.app.rules.served import explain_filed
from hieranome.core.buckets import SENT
from hieranome.core.deciders import Decider
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Meta
from hieranome.store import accounts, copies, draft_copies, goals, messages
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy, NewCopy

BATCH = 200


BATCH_BYTES = 8_000_000
"""Messages, and bytes of them, fetched by one command."""


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
    account = accounts.get(room.reader(), folder.account)
    read = {
        meta.uid: replace(incoming_of(bodies[meta.uid], meta, folder), account=account.address)
        for meta in batch
        if meta.uid in bodies
    }  # fmt: skip
    if folder.role == "drafts":
        batch = _without_ours(room, folder, batch, read)
    arrived: list[int] = []
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
                copies.compare_marks(db, number)
                tags_told.note_new(room, db, folder, meta.uid, number, meta.flags.keywords)
                if number in arrived and folder.role != "inbox":
                    explain_filed(room, db, number, read[meta.uid], folder)
        if account.routing and folder.role == "inbox":
            goals.aim(db, folder.account, arrived)
        for number in arrived:
            tell_arrived(room, number)
        if arrived:
            room.tell_counts()


def _without_ours(room: Mailroom, folder: Folder, batch: Sequence[Meta], read: dict[int, Incoming]) -> list[Meta]:
    """What was found in Drafts without the versions of our own drafts whose UIDs were not told; they are known now."""
    left = []
    for meta in batch:
        one = read.get(meta.uid)
        ours = one and draft_copies.find(room.reader(), folder.id, one.facts.message_id)
        if ours:
            with room.change() as db:
                draft_copies.put_uid(db, ours, folder.validity, meta.uid)
        else:
            left.append(meta)
    return left


def incoming_of(raw: bytes, meta: Meta, folder: Folder) -> Incoming:
    """A fetched message as it is taken in; what stands in a folder that is not the inbox was filed there."""
    flags = meta.flags
    made = prepared(raw, meta.at, seen=flags.seen, answered=flags.answered, flagged=flags.flagged)
    return replace(made, stands=filed_in(folder))


def filed_in(folder: Folder) -> Placed | None:
    """Where a message stands that was found in a folder; None for the inbox, where it is judged."""
    if folder.role == "inbox":
        return None
    return Placed(folder.place, Decider.OWN if folder.place == SENT else Decider.ELSEWHERE)


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
    for one, digest in zip(known, messages.digests(room.reader(), [one.message for one in known]), strict=True):
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
