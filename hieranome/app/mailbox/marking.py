"""Marks and tags of copies, told to the server where they were set or cleared here."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from hieranome.app.mailbox.opened import open_folder
from hieranome.app.mailbox.tags_told import note_taken
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import ConnectionBroken, FolderMissing, WorldError
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, goals, keywords
from hieranome.store.accounts import Folder
from hieranome.store.keywords import ToTag


def tell_marks(room: Mailroom, imap: Imap, account: int) -> int:
    """Tell the server the marks that were set here; how many copies that were."""
    waiting = goals.to_mark(room.reader(), account)
    by_folder = groupby(sorted(waiting, key=lambda w: (w[0].folder, w[1:])), key=lambda w: (w[0].folder, w[1:]))
    for (folder, (seen, answered, flagged)), group in by_folder:
        many = [copy for copy, *_ in group]
        try:
            open_folder(imap, accounts.folder(room.reader(), folder))
        except FolderMissing:
            continue
        imap.mark([one.uid for one in many if one.uid is not None], Flags(seen, answered, flagged))
        with room.change() as db:
            for one in many:
                copies.set_flags(db, one.id, seen=seen, answered=answered, flagged=flagged)
    return len(waiting)


def tell_tags(room: Mailroom, imap: Imap, account: int) -> int:
    """Tell the server the tags that were put on here and taken off; how many copies that were."""
    done = 0
    waiting = keywords.to_tag(room.reader(), account)
    for (folder, *change), group in groupby(waiting, key=lambda one: (one.folder, one.on, one.off)):
        many = list(group)
        if not any(change):
            with room.change() as db:
                keywords.told(db, many)
            continue
        try:
            known = accounts.folder(room.reader(), folder)
            open_folder(imap, known)
        except FolderMissing:
            continue
        done += _tell(room, imap, known, many)
    return done


def _tell(room: Mailroom, imap: Imap, folder: Folder, many: Sequence[ToTag]) -> int:
    """Tell the server the tags of copies in an open folder, all the same change; how many copies. A folder that takes
    no keywords is left as it is, and the tags stay here."""
    on, off = many[0].on, many[0].off
    if not imap.takes(on):
        note_taken(room, folder, False)
        return 0
    try:
        imap.set_keywords([one.uid for one in many], on, off)
    except ConnectionBroken:
        raise
    except WorldError:
        note_taken(room, folder, False)
        return 0
    with room.change() as db:
        keywords.told(db, many)
    return len(many)
