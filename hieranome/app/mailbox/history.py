"""Reading the history of a mailbox: newest first, in the background, to be paused and resumed at any message."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from hieranome.app.arrival.arrive import take_in_history
from hieranome.app.arrival.importing import PROCESSES
from hieranome.app.arrival.weighing import weigh_again
from hieranome.app.mailbox.tags_told import note_new
from hieranome.app.mailbox.taking_in import batches, copy_of, filed_in
from hieranome.app.reading.incoming import Incoming
from hieranome.app.reading.processes import BulkReading
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import FolderMissing
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Meta
from hieranome.mail.sources import Item
from hieranome.store import accounts, copies, goals, messages
from hieranome.store.accounts import Folder

PARALLEL_FROM = 300
"""Messages from which processes beside this one read."""


@dataclass(frozen=True, slots=True)
class Progress:
    """How far the history of a mailbox is read: messages read, and in all."""

    done: int
    total: int


def progress(room: Mailroom, account: int) -> Progress:
    """How far the history is read."""
    db = room.reader()
    done, total = 0, 0
    for folder in accounts.folders(db, account):
        if folder.followed and folder.present:
            known = copies.count(db, folder.id)
            done += known
            total += max(folder.messages, known)
    return Progress(done, total)


def read_history(room: Mailroom, imap: Imap, account: int, stopped: Callable[[], bool] = lambda: False) -> bool:
    """Read what is not read yet of a mailbox's history, then weigh it; False when it was stopped before.

    What is read is stored a batch at a time, with the place to go on from.
    """
    if accounts.get(room.reader(), account).state == "new":
        with room.change() as db:
            first = messages.last_id(db) + 1
            accounts.update(db, account, state="reading", first_message=first)
    if accounts.get(room.reader(), account).state == "reading":
        if not _read(room, imap, account, stopped):
            return False
        with room.change() as db:
            accounts.update(db, account, state="weighing")
    if accounts.get(room.reader(), account).state == "weighing":
        room.tell("account", account=account)
        weigh_again(room, accounts.get(room.reader(), account).first_message)
        with room.change() as db:
            # That a message was answered may be known from Sent alone: the owner's marks stay as they are there.
            goals.keep_marks(db, account)
            accounts.update(db, account, state="watching")
        room.tell("account", account=account)
        room.tell_counts()
    return True


def _read(room: Mailroom, imap: Imap, account: int, stopped: Callable[[], bool]) -> bool:
    _note_totals(room, imap, account)
    portions = _Portions(room, imap, account, stopped)
    many = progress(room, account)
    processes = PROCESSES if many.total - many.done >= PARALLEL_FROM else 0
    with BulkReading(room.owner, room.clock, processes=processes) as reading:
        for _, incoming in reading.read(iter(portions)):
            portions.store(incoming)
            told = progress(room, account)
            room.tell("account", account=account, done=told.done, total=told.total)
    return not portions.cut_short


def _note_totals(room: Mailroom, imap: Imap, account: int) -> None:
    told = {one.name: one.status for one in imap.folders()}
    with room.change() as db:
        for folder in accounts.folders(db, account):
            status = told.get(folder.name)
            if status is not None:
                accounts.update_folder(db, folder.id, messages=status.messages)


@dataclass(slots=True)
class _Portion:
    """A batch on its way: its folder, what the server said of each message, how far the folder is read behind it."""

    folder: Folder
    metas: list[Meta]
    low: int


class _Portions:
    """Fetches batch after batch while others are read and stored."""

    def __init__(self, room: Mailroom, imap: Imap, account: int, stopped: Callable[[], bool]) -> None:
        self._room, self._imap, self._account, self._stopped = room, imap, account, stopped
        self._waiting: deque[_Portion] = deque()
        self.cut_short = False

    def __iter__(self) -> Iterator[list[Item]]:
        for folder in accounts.folders(self._room.reader(), self._account):
            if folder.followed and folder.present and folder.low != 0:
                yield from self._folder(folder)
                if self.cut_short:
                    return

    def _folder(self, folder: Folder) -> Iterator[list[Item]]:
        room, imap = self._room, self._imap
        try:
            status = imap.select(folder.name)
        except FolderMissing:
            return
        if folder.low == -1 or folder.validity != status.validity:
            with room.change() as db:
                copies.lose(db, [one.id for one in copies.in_folder(db, folder.id)])
                accounts.update_folder(
                    db, folder.id, validity=status.validity, uidnext=status.uidnext, modseq=status.modseq,
                    messages=status.messages, low=max(status.uidnext, 1),
                )  # fmt: skip
            folder = accounts.folder(room.reader(), folder.id)
        below = [uid for uid in imap.uids() if uid < folder.low]
        for metas in batches(imap, below[::-1]):
            if self._stopped():
                self.cut_short = True
                return
            yield from self._fetched(folder, metas)
        self._waiting.append(_Portion(folder, [], 0))
        yield []

    def _fetched(self, folder: Folder, metas: list[Meta]) -> Iterator[list[Item]]:
        bodies = self._imap.bodies([meta.uid for meta in metas])
        kept = [meta for meta in metas if meta.uid in bodies]
        self._waiting.append(_Portion(folder, kept, metas[-1].uid))
        yield [Item(bodies[m.uid], m.flags.seen, m.flags.answered, m.flags.flagged, m.at, folder.name, 0) for m in kept]

    def store(self, incoming: Sequence[Incoming]) -> None:
        """Store the next batch that was read, with its copies and the place to go on from."""
        portion = self._waiting.popleft()
        stands = filed_in(portion.folder)
        with self._room.change() as db:
            if incoming:
                take_in_history(self._room, db, [replace(one, stands=stands) for one in incoming])
                numbers = copies.by_digest(db, [one.digest for one in incoming])
                copies.add(
                    db,
                    [
                        copy_of(portion.folder, meta, numbers[one.digest], news=False)
                        for meta, one in zip(portion.metas, incoming, strict=True)
                    ],
                )
                for meta, one in zip(portion.metas, incoming, strict=True):
                    if meta.flags.keywords:
                        number = numbers[one.digest]
                        note_new(self._room, db, portion.folder, meta.uid, number, meta.flags.keywords)
            accounts.update_folder(db, portion.folder.id, low=portion.low)
