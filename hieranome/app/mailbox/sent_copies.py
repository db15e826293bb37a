"""Copies of sent messages, put into the Sent folder on the server."""

from __future__ import annotations

from hieranome.app.mailbox.opened import make_folder
from hieranome.app.room.mailroom import Mailroom
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, drafts


def file_sent(room: Mailroom, imap: Imap, account: int) -> int:
    """Put the copies of sent messages into the mailbox's Sent folder, each once; how many.

    A copy is looked for by its Message-ID first, so that one cut off while it was put there is not doubled.
    """
    waiting = drafts.to_file(room.reader(), account)
    if not waiting:
        return 0
    folder = next((f for f in accounts.folders(room.reader(), account) if f.role == "sent"), None)
    if folder is None:
        return 0
    make_folder(room, imap, folder)
    imap.select(folder.name)
    for one in waiting:
        if not imap.with_message_id(one.message_id):
            imap.append(folder.name, drafts.raw(room.reader(), one.id), Flags(seen=True), room.clock())
        with room.change() as db:
            drafts.update(db, one.id, filed=1, raw=None)
    room.tell("drafts")
    return len(waiting)
