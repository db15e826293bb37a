"""Carrying out on the server what was decided here: copies moved, marks set.

Every move is recorded before it is begun, together with how its target stood, so that a connection or a process that
ends in the middle of it leaves something to look up: :func:`recover` finds out what happened, and goes on from there.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from itertools import groupby

from hieranome.app.mailbox.marking import tell_marks, tell_tags
from hieranome.app.mailbox.opened import make_folder, open_folder
from hieranome.app.reading.incoming import digest_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import ConnectionBroken, FolderMissing, WorldError
from hieranome.mail.imap import Imap
from hieranome.store import accounts, copies, emptying, goals, messages
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy

AT_ONCE = 100
"""Copies moved by one command."""


def carry(room: Mailroom, imap: Imap, account: int) -> int:
    """Move and mark on the server what is to be moved and marked; how many copies that were.

    Raises what the connection raises; what was begun is recorded then.
    """
    done = 0
    waiting = [one for one in goals.to_move(room.reader(), account) if one.tries < 3]
    for (source, goal), group in groupby(waiting, key=lambda one: (one.folder, one.goal)):
        assert goal is not None
        many = list(group)
        for start in range(0, len(many), AT_ONCE):
            done += _move(room, imap, source, goal, many[start : start + AT_ONCE])
    done += tell_marks(room, imap, account) + tell_tags(room, imap, account)
    return done + _remove(room, imap, account)


def recover(room: Mailroom, imap: Imap, account: int) -> int:
    """Find out what became of moves that were begun and not seen to end, and see them to their end; how many."""
    begun = goals.under_way(room.reader(), account)
    for (source, target, stage), group in groupby(begun, key=lambda one: (one.folder, one.target, one.stage)):
        assert target is not None
        many = list(group)
        if stage == "moving":
            _recover_moving(room, imap, source, target, many)
        elif stage == "copying":
            _recover_copying(room, imap, source, target, many)
        elif stage == "removing":
            _recover_removing(room, imap, source, many)
        else:
            _remove_from_source(room, imap, accounts.folder(room.reader(), source), many)
    return len(begun)


def _move(room: Mailroom, imap: Imap, source: int, goal: int, many: Sequence[Copy]) -> int:
    """Move copies of one folder into another; how many were moved."""
    db = room.reader()
    origin = accounts.folder(db, source)
    target = make_folder(room, imap, accounts.folder(db, goal))
    try:
        before = imap.status(target.name)
        open_folder(imap, origin)
    except FolderMissing:
        # The next look finds out which folder it was; nothing was begun.
        return 0
    plain = not imap.offers("MOVE")
    numbers = [one.id for one in many]
    with room.change() as writer:
        # The owner may have put some elsewhere since they were read.
        still = {one.id for one in goals.to_move(writer, origin.account) if one.goal == goal}
        many = [one for one in many if one.id in still]
        numbers = [one.id for one in many]
        goals.begin(writer, numbers, "copying" if plain else "moving", goal, before.validity, before.uidnext)
    if not many:
        return 0
    uids = [one.uid for one in many if one.uid is not None]
    try:
        made = imap.copy(uids, target.name) if plain else imap.move(uids, target.name)
    except ConnectionBroken:
        raise
    except WorldError:
        with room.change() as writer:
            goals.give_up(writer, numbers)
        raise
    at_target = {one.id: made[one.uid] for one in many if one.uid in made}
    fresh = [_begun(room.reader(), one) for one in many]
    if len(at_target) < len(many) and not imap.offers("UIDPLUS"):
        at_target = _found_at_target(room, imap, target, fresh)
        imap.select(origin.name)
    if plain:
        _note_copied(room, fresh, at_target)
        _remove_from_source(room, imap, origin, [_begun(room.reader(), one) for one in many if one.id in at_target])
    else:
        _note_landed(room, fresh, at_target)
    return len(at_target)


def _begun(db: sqlite3.Connection, copy: Copy) -> Copy:
    """A copy as it is stored now."""
    return next(one for one in copies.of_message(db, copy.message) if one.id == copy.id)


def _note_copied(room: Mailroom, many: Sequence[Copy], at_target: dict[int, int]) -> None:
    """Copies stand at their target as well; those that do not were gone from their folder before."""
    with room.change() as db:
        goals.copied(db, at_target.items())
        copies.lose(db, [one.id for one in many if one.id not in at_target])


def _note_landed(room: Mailroom, many: Sequence[Copy], at_target: dict[int, int]) -> None:
    with room.change() as db:
        for number, uid in at_target.items():
            goals.land(db, number, uid)
        copies.lose(db, [one.id for one in many if one.id not in at_target])


def _recover_moving(room: Mailroom, imap: Imap, source: int, target: int, many: Sequence[Copy]) -> None:
    """MOVE moves a message or leaves it (RFC 6851, section 3.3): what still stands was not moved."""
    there = _still_there(room, imap, source, many)
    moved = [one for one in many if one.id not in there]
    at_target = _found_at_target(room, imap, accounts.folder(room.reader(), target), moved)
    with room.change() as db:
        goals.give_up(db, there)
    _note_landed(room, moved, at_target)


def _recover_copying(room: Mailroom, imap: Imap, source: int, target: int, many: Sequence[Copy]) -> None:
    """A copy found at the target was made; what is not found was not copied."""
    at_target = _found_at_target(room, imap, accounts.folder(room.reader(), target), many)
    there = _still_there(room, imap, source, many)
    with room.change() as db:
        goals.give_up(db, [one.id for one in many if one.id not in at_target and one.id in there])
        copies.lose(db, [one.id for one in many if one.id not in at_target and one.id not in there])
        goals.copied(db, at_target.items())
    made = [_begun(room.reader(), one) for one in many if one.id in at_target]
    _remove_from_source(room, imap, accounts.folder(room.reader(), source), made)


def _still_there(room: Mailroom, imap: Imap, source: int, many: Sequence[Copy]) -> set[int]:
    """The ids of those that stand where they stood. Raises :class:`Renumbered`."""
    try:
        open_folder(imap, accounts.folder(room.reader(), source))
    except FolderMissing:
        return set()
    uids = set(imap.uids())
    return {one.id for one in many if one.uid in uids}


def _remove_from_source(room: Mailroom, imap: Imap, origin: Folder, many: Sequence[Copy]) -> None:
    """Take away what was copied from where it stood. Without UIDPLUS nothing is expunged while another program's
    mark for removal stands in the folder: the copies then wait, marked, for the next time."""
    if not many:
        return
    try:
        open_folder(imap, origin)
        there = set(imap.uids())
    except FolderMissing:
        there = set()
    if not imap.take_away([one.uid for one in many if one.uid is not None and one.uid in there]):
        return
    _note_landed(room, many, {one.id: one.target_uid for one in many})


def _found_at_target(room: Mailroom, imap: Imap, target: Folder, many: Sequence[Copy]) -> dict[int, int]:
    """The UIDs at the target of copies whose new UIDs were not told: by EMAILID, else by size, date and bytes."""
    if not many:
        return {}
    try:
        status = imap.select(target.name)
    except FolderMissing:
        return {}
    same = status.validity == many[0].target_validity
    first = min(one.target_uidnext for one in many) if same else 1
    taken = set(copies.uids(room.reader(), target.id)) if target.validity in (0, status.validity) else set()
    candidates = [meta for meta in imap.metas(imap.uids(first - 1)) if meta.uid not in taken]
    found: dict[int, int] = {}
    for one in many:
        for meta in candidates:
            alike = meta.email_id == one.email_id if one.email_id and meta.email_id else False
            if not alike and not (one.email_id and meta.email_id) and (meta.size, meta.at) == (one.size, one.at):
                wanted = messages.digests(room.reader(), [one.message])
                alike = [digest_of(imap.bodies([meta.uid]).get(meta.uid, b""))] == wanted
            if alike:
                found[one.id] = meta.uid
                candidates.remove(meta)
                break
    return found


def _remove(room: Mailroom, imap: Imap, account: int) -> int:
    """Remove from the server's Trash what the owner took out of it for good; how many copies."""
    if not emptying.going(room.reader()):
        return 0
    with room.change() as db:
        emptying.let_stay(db)
    done = 0
    waiting = [one for one in emptying.to_remove(room.reader(), account) if one.tries < 3]
    for number, group in groupby(waiting, key=lambda one: one.folder):
        many = list(group)
        for start in range(0, len(many), AT_ONCE):
            done += _remove_from(room, imap, number, many[start : start + AT_ONCE])
    return done


def _remove_from(room: Mailroom, imap: Imap, folder: int, many: Sequence[Copy]) -> int:
    try:
        open_folder(imap, accounts.folder(room.reader(), folder))
    except FolderMissing:
        return 0
    with room.change() as db:
        # The owner may have put some elsewhere since they were read: what was is not removed.
        still = {one.id for one in emptying.to_remove(db, accounts.folder(db, folder).account)}
        many = [one for one in many if one.id in still]
        goals.begin(db, [one.id for one in many], "removing", folder, 0, 0)
    try:
        gone = imap.take_away([one.uid for one in many if one.uid is not None])
    except ConnectionBroken:
        raise
    except WorldError:
        with room.change() as db:
            goals.give_up(db, [one.id for one in many])
        raise
    with room.change() as db:
        if gone:
            _forget(room, db, many)
        else:
            goals.give_up(db, [one.id for one in many])
    return len(many) if gone else 0


def _recover_removing(room: Mailroom, imap: Imap, folder: int, many: Sequence[Copy]) -> None:
    """What still stands was not removed, and is tried again."""
    there = _still_there(room, imap, folder, many)
    with room.change() as db:
        goals.give_up(db, there)
        _forget(room, db, [one for one in many if one.id not in there])


def _forget(room: Mailroom, db: sqlite3.Connection, many: Sequence[Copy]) -> None:
    for one in many:
        copies.forget(db, one.id)
    room.tell("emptying")
