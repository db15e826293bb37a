"""Editions put into the inbox of a mailbox, so that they are read anywhere. What was begun is noted before, and found
again by its Message-ID: none is put there twice."""

from __future__ import annotations

from collections.abc import Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, editions, messages
from hieranome.store.accounts import Folder
from hieranome.store.copies import NewCopy


def put_editions(room: Mailroom, imap: Imap, account: int) -> int:
    """Put what waits into the inbox of a mailbox, where it is the one that editions go to; how many. Raises what the
    connection raises; what was begun is noted then."""
    waiting = editions.to_put(room.reader())
    first = next((one for one in accounts.every(room.reader()) if one.routing), None)
    if not waiting or first is None or first.id != account:
        return 0
    inbox = next((one for one in accounts.folders(room.reader(), account) if one.role == "inbox"), None)
    if inbox is None:
        return 0
    begun = [one for one in waiting if one[2] == "begun"]
    there = _there(room, imap, inbox, [message for _, message, _ in begun]) if begun else set()
    for number, message, _ in waiting:
        if message in there:
            _done(room, number)
        else:
            _put(room, imap, inbox, number, message)
    return len(waiting)


def _there(room: Mailroom, imap: Imap, inbox: Folder, numbers: Sequence[int]) -> set[int]:
    """Which of some messages stand in the inbox already."""
    imap.select(inbox.name)
    named = {number: editions.message_id(room.reader(), number) for number in numbers}
    return {number for number, message_id in named.items() if imap.with_message_id(message_id)}


def _put(room: Mailroom, imap: Imap, inbox: Folder, number: int, message: int) -> None:
    """Put one into the inbox, unless it stands on the Desk no more."""
    row, raw = messages.get(room.reader(), message), messages.raw(room.reader(), message)
    if row.place != inbox.place:
        _done(room, number)
        return
    with room.change() as db:
        editions.set_put(db, number, "begun")
    told = imap.append(inbox.name, raw, Flags(seen=row.seen), row.time)
    with room.change() as db:
        editions.set_put(db, number, "done")
        if told is not None and told[0] == inbox.validity and not copies.of_message(db, message):
            copy = NewCopy(inbox.id, told[1], message, row.seen, False, False, row.time, len(raw), "")
            copies.add(db, [copy])


def _done(room: Mailroom, number: int) -> None:
    with room.change() as db:
        editions.set_put(db, number, "done")
