"""Keywords another program set or cleared on a server, heeded as tags."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import tell_following
from hieranome.core.tags import DUE
from hieranome.store import accounts, following, keywords, tags
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy


def note_taken(room: Mailroom, folder: Folder, taken: bool) -> None:
    """Note whether a folder takes keywords of ours."""
    if folder.keywords != taken:
        with room.change() as db:
            accounts.update_folder(db, folder.id, keywords=taken)
        room.tell("account", account=folder.account)


def note_new(
    room: Mailroom, db: sqlite3.Connection, folder: Folder, uid: int, message: int, told: Iterable[str]
) -> None:
    """Heed the keywords of a copy that appeared: what another program set that no other copy of its message in this
    mailbox has holds here too."""
    copy = keywords.at(db, folder.id, uid)
    if copy is None:
        return
    words = frozenset(word.lower() for word in told)
    keywords.put(db, copy, told)
    _heed(room, db, message, words - keywords.of_others(db, copy), frozenset())
    keywords.compare(db, copy)


def note_change(room: Mailroom, db: sqlite3.Connection, copy: Copy, told: frozenset[str]) -> None:
    """Another program changed the keywords of a copy: what it changed holds here too."""
    before, now = keywords.of_copy(db, copy.id), frozenset(word.lower() for word in told)
    if before != now:
        keywords.put(db, copy.id, told)
        _heed(room, db, copy.message, now - before, before - now)


def note_moved(room: Mailroom, db: sqlite3.Connection, lost: Copy, appeared: Copy) -> None:
    """Another program moved a copy: what it cleared before it did holds here too."""
    off = keywords.of_copy(db, lost.id) - keywords.of_copy(db, appeared.id)
    _heed(room, db, lost.message, frozenset(), off)


def _heed(room: Mailroom, db: sqlite3.Connection, message: int, on: frozenset[str], off: frozenset[str]) -> None:
    for tag in tags.every(db) if on or off else ():
        word = tag.keyword.lower()
        if word in on | off:
            tags.set_on(db, message, tag.id, word in on, room.clock())
            room.tell("tags")
    if DUE in off and following.get(db, "due", message) is not None:
        # Another program took the keyword off: it is done.
        following.set_state(db, "due", message, None)
        tell_following(room, [message])
