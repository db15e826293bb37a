"""Our drafts kept in a mailbox's Drafts too, so that other programs show them: each version put there once, and taken
away when the next is there, when it is sent, or when the draft is thrown away.

A version is recorded under its Message-ID before it is put there, so that one cut off is found there again; and what is
recorded is never taken in as another program's draft.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime

from hieranome.app.mailbox.opened import make_folder
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing.drafts import written_so_far
from hieranome.core.errors import CallerError
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.mail.writing import message_of, new_id
from hieranome.store import accounts, draft_copies, drafts, settings
from hieranome.store.accounts import Folder
from hieranome.store.draft_copies import DraftCopy
from hieranome.store.drafts import Draft

QUIET = 15
"""Seconds a draft is left alone after it was changed before it is put there."""


def keep_drafts(room: Mailroom, imap: Imap, account: int) -> int:
    """Bring a mailbox's Drafts to how our drafts stand; how many versions were put there or taken away. Raises what the
    connection raises; what was begun is recorded then."""
    folder = next((f for f in accounts.folders(room.reader(), account) if f.role == "drafts"), None)
    if folder is None:
        return 0
    wanted, until = _wanted(room, account), room.clock() - QUIET
    kept = draft_copies.of_folder(room.reader(), folder.id)
    if not (_due(wanted, kept, until) or _over(wanted, kept) or any(one.uid is None for one in kept)):
        return 0
    folder = make_folder(room, imap, folder)
    there = _found_again(room, imap, kept, imap.select(folder.name).validity)
    due = _due(wanted, draft_copies.of_folder(room.reader(), folder.id), until)
    for draft in due:
        _put(room, imap, folder, draft)
    over = _over(_wanted(room, account), draft_copies.of_folder(room.reader(), folder.id))
    if imap.take_away([there[one.id] for one in over if one.id in there]):
        with room.change() as db:
            draft_copies.remove(db, [one.id for one in over])
    return len(due) + len(over)


def _wanted(room: Mailroom, account: int) -> list[Draft]:
    """The drafts that are to stand in a mailbox's Drafts: where the owner wants that, those written as one of it."""
    db = room.reader()
    if not settings.value(db, settings.DRAFTS_ON_SERVER, False):
        return []
    mine = {one.address for one in drafts.identities(db) if one.account == account}
    return [one for one in drafts.in_state(db, "draft") if one.sender in mine]


def _due(wanted: Sequence[Draft], kept: Sequence[DraftCopy], until: int) -> list[Draft]:
    """Drafts not changed after ``until`` whose latest version is not there."""
    latest = {one.draft: one.version for one in kept}
    return [one for one in wanted if one.changed_at <= until and latest.get(one.id) != one.changed_at]


def _over(wanted: Sequence[Draft], kept: Sequence[DraftCopy]) -> list[DraftCopy]:
    """Versions that are to go: a later one is there, or the draft is to be there no longer."""
    ids = {one.id for one in wanted}
    stay = {one.draft: one.id for one in kept if one.draft in ids}.values()
    return [one for one in kept if one.id not in stay]


def _found_again(room: Mailroom, imap: Imap, kept: Sequence[DraftCopy], validity: int) -> dict[int, int]:
    """The UIDs of our versions in the open folder, by id: as noted, or where that holds no longer, by Message-ID. One
    that was recorded and never came there is forgotten."""
    standing = set(imap.uids())
    found: dict[int, int] = {}
    for one in kept:
        uid = one.uid if one.validity == validity else None
        if uid is None:
            named = imap.with_message_id(one.message_id)
            with room.change() as db:
                if named:
                    uid = named[0]
                    draft_copies.put_uid(db, one.id, validity, uid)
                elif one.uid is None:
                    draft_copies.remove(db, [one.id])
        if uid is not None and uid in standing:
            found[one.id] = uid
    return found


def _put(room: Mailroom, imap: Imap, folder: Folder, draft: Draft) -> None:
    """Put the draft as it stands now into a mailbox's Drafts."""
    message_id = new_id(draft.sender)
    at = datetime.fromtimestamp(draft.changed_at, UTC).astimezone()
    written = written_so_far(room, draft)
    try:
        raw = message_of(written, message_id, at, with_bcc=True)
    except CallerError:
        raw = message_of(replace(written, to=(), cc=(), bcc=()), message_id, at, with_bcc=True)
    with room.change() as db:
        if drafts.get(db, draft.id).state != "draft":
            return
        number = draft_copies.add(db, draft.id, folder.id, draft.changed_at, message_id)
    told = imap.append(folder.name, raw, Flags(seen=True, draft=True), draft.changed_at)
    if told is not None:
        with room.change() as db:
            draft_copies.put_uid(db, number, *told)
