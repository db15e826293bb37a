"""Leaving a mailbox: its folders kept as they are or emptied back into the inbox, every message looked for on the
server, and only then the mailbox forgotten here."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hieranome.app.access.reaching import connect
from hieranome.app.mailbox.carrying import carry, recover
from hieranome.app.mailbox.elsewhere import explain
from hieranome.app.mailbox.syncing import look
from hieranome.app.mailbox.watching import Watchers
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import Row, dressed
from hieranome.core.errors import Conflict, FolderMissing, HieranomeError
from hieranome.mail.imap import Imap
from hieranome.store import accounts, copies, goals, messages
from hieranome.store.accounts import Folder

ROUNDS = 50
SHOWN = 50
"""Of the messages that are not on the server, so many are shown."""
_LOG = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Accounted:
    """What was found when every message was looked for on the server: how many are there, how many were brought back
    into the inbox, and the ids of those that are not there (they are kept here)."""

    there: int
    brought_back: int
    missing: list[int]


def bring_back(room: Mailroom, imap: Imap, account: int) -> Accounted:
    """Move all mail of the buckets' folders back into the inbox, then look for every message on the server.

    Routing is off from then on. Raises :class:`Conflict` when the server does not let all of it be moved; what was
    moved stays moved, and it can be begun again.
    """
    with room.change() as db:
        accounts.update(db, account, routing=0)
        goals.rest(db, account)
    _catch_up(room, imap, account)
    moved = _empty_buckets(room, imap, account)
    for _ in range(ROUNDS):
        kept = [f for f in accounts.folders(room.reader(), account) if f.role == "bucket" and f.present]
        gone = [_remove(room, imap, folder) for folder in kept]
        if all(gone):
            return account_for(room, imap, account, moved)
        _catch_up(room, imap, account)  # somebody put mail there meanwhile: it goes back as well
        moved += _empty_buckets(room, imap, account)
    raise Conflict("Mail keeps coming into the folders of the buckets. See to it there, then begin again.")


def _empty_buckets(room: Mailroom, imap: Imap, account: int) -> int:
    """Move what stands in the buckets' folders into the inbox until nothing does; how many were moved."""
    moved = 0
    for _ in range(ROUNDS):
        with room.change() as db:
            goals.bring_back(db, account)
        if not goals.waiting(room.reader(), account):
            return moved
        moved += carry(room, imap, account)
        _catch_up(room, imap, account)
    raise Conflict("The server did not let all mail be moved back. See to it there, then begin again.")


def _remove(room: Mailroom, imap: Imap, folder: Folder) -> bool:
    """Remove a bucket's folder; whether it is gone. One that the owner made folders below stays, empty."""
    inside = [f for f in accounts.folders(room.reader(), folder.account) if f.present and f.id != folder.id]
    if any(f.name.startswith((f"{folder.name}/", f"{folder.name}.")) for f in inside):
        return imap.status(folder.name).messages == 0
    try:
        gone = imap.remove(folder.name)
    except FolderMissing:
        gone = True
    if gone:
        with room.change() as db:
            accounts.update_folder(db, folder.id, present=0, validity=0, uidnext=0, modseq=0, messages=0)
    return gone


def _catch_up(room: Mailroom, imap: Imap, account: int) -> None:
    recover(room, imap, account)
    look(room, imap, account)
    explain(room, account)


def account_for(room: Mailroom, imap: Imap, account: int, brought_back: int = 0) -> Accounted:
    """Look for every copy on the server that is recorded here."""
    there = 0
    missing: list[int] = []
    for folder in accounts.folders(room.reader(), account):
        known = copies.in_folder(room.reader(), folder.id)
        if not known:
            continue
        imap.select(folder.name)
        uids = set(imap.uids())
        there += sum(one.uid in uids for one in known)
        missing += [one.message for one in known if one.uid not in uids]
    return Accounted(there, brought_back, sorted(set(missing)))


@dataclass(frozen=True, slots=True)
class Leaving:
    """How far the leaving of a mailbox is: ``state`` is ``busy``, ``done`` or ``failed``, ``error`` why it failed;
    ``left`` is what of ours could not be taken away from the server, or empty."""

    state: Literal["busy", "done", "failed"]
    accounted: Accounted | None = None
    error: str = ""
    left: str = ""


class Leavings:
    """Mailboxes that are being left, each from a thread."""

    def __init__(self, watchers: Watchers, withdraw: Callable[[int], str] = lambda _: "") -> None:
        """``withdraw`` takes away what else of ours is at a mailbox's server, and says what could not be."""
        self._watchers = watchers
        self._withdraw = withdraw
        self._known: dict[int, Leaving] = {}

    def begin(self, account: int, *, back: bool) -> Leaving:
        """Stop watching a mailbox; with ``back``, empty the buckets' folders into the inbox; look for every message.

        Raises :class:`Conflict` when it is being left already."""
        known = self._known.get(account)
        if known is not None and known.state == "busy":
            raise Conflict("This mailbox is being left already.")
        accounts.get(self._watchers.room.reader(), account)
        self._known[account] = Leaving("busy")
        threading.Thread(target=self._run, args=(account, back), name=f"leaving-{account}", daemon=True).start()
        return self._known[account]

    def state(self, account: int) -> Leaving | None:
        """How far it is, or None when nobody wants to leave."""
        return self._known.get(account)

    def missing(self, found: Accounted) -> list[Row]:
        """The first of the messages that are not on the server."""
        room = self._watchers.room
        return dressed(room, messages.get_many(room.reader(), found.missing[:SHOWN]))

    def stay(self, account: int) -> None:
        """The owner stays after all: watch the mailbox again. Raises :class:`hieranome.core.errors.NotFound`."""
        accounts.get(self._watchers.room.reader(), account)
        self._known.pop(account, None)
        self._watchers.watch(account)

    def _run(self, account: int, back: bool) -> None:
        room = self._watchers.room
        try:
            self._watchers.leave(account)
            imap = connect(self._watchers.logins, accounts.get(room.reader(), account), self._watchers.trust)
            try:
                found = bring_back(room, imap, account) if back else keep(room, imap, account)
            finally:
                imap.close()
            self._known[account] = Leaving("done", found, left=self._withdraw(account))
        except HieranomeError as exc:
            self._known[account] = Leaving("failed", error=f"{exc} Nothing is lost; begin again.")
        except Exception:
            _LOG.exception("leaving a mailbox failed")
            self._known[account] = Leaving("failed", error="It failed for a reason of our own. Begin again.")
        room.tell("account", account=account)


def keep(room: Mailroom, imap: Imap, account: int) -> Accounted:
    """Leave the folders as they are: what was begun is seen to its end, and every message is looked for."""
    with room.change() as db:
        accounts.update(db, account, routing=0)
        goals.rest(db, account)
    _catch_up(room, imap, account)
    return account_for(room, imap, account)


def forget(room: Mailroom, account: int) -> None:
    """Forget a mailbox. The messages stay here, and on the server everything stays as it is."""
    with room.change() as db:
        accounts.get(db, account)
        accounts.remove(db, account)
    room.tell("account", account=account)
    room.tell("places")
