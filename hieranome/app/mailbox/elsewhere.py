"""What other programs did to mail on the server, and what it means.

A copy that went from one folder and appeared in another was moved by somebody. Between the inbox, the buckets and Junk
that is a lesson; to the Archive, the Trash or a folder of the owner's it only tells where the message stands. Our own
moves never come here: they are known by what was recorded before them.
"""

from __future__ import annotations

import contextlib
import sqlite3
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.following.parking import parked_elsewhere
from hieranome.app.mailbox.tags_told import note_moved
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import Row, dressed
from hieranome.app.teaching.correct import correct
from hieranome.core.buckets import ARCHIVE, DESK, DRAIN, JUNK, PARKED, TRASH, UNDECIDED
from hieranome.core.deciders import NEVER_TAUGHT, Decider
from hieranome.core.errors import CallerError
from hieranome.core.relations import Sums
from hieranome.store import accounts, copies, counted, foreign, goals, marked, messages
from hieranome.store.accounts import Folder
from hieranome.store.copies import Copy

MOST_LESSONS = 20
"""Moves of one look that are learned one by one; more are proposed together."""
LOOKS = 2
"""Looks that must miss a copy everywhere before it counts as deleted: a move may straddle one."""
_BUCKETS = ("inbox", "bucket")
FIRST = 5
"""Of moves that wait for an answer, so many messages are shown."""


@dataclass(frozen=True, slots=True)
class Moved:
    """A copy that somebody moved: as it was, where it stands now. ``governs`` says that the message stands where its
    copy stood, and no other copy in the same mailbox does: only then the message follows."""

    copy: Copy
    origin: Folder
    target: Folder
    appeared: Copy
    governs: bool

    @property
    def lesson(self) -> str:
        """The bucket this move teaches, or an empty string."""
        if not self.governs or PARKED in (self.origin.place, self.target.place):
            return ""
        if self.target.role == "junk":
            return "" if self.origin.role in ("sent", "drafts") else DRAIN
        between = self.target.role in _BUCKETS and self.origin.role in (*_BUCKETS, "junk")
        return self.target.place if between else ""


def explain(room: Mailroom, account: int) -> bool:
    """Think about all that appeared and went since the last time; whether there was anything."""
    db = room.reader()
    unexplained = copies.to_explain(db, account)
    if not unexplained:
        return False
    folders = {folder.id: folder for folder in accounts.folders(db, account)}
    moved, deleted, appeared = _pair(db, unexplained, folders)
    teaching = [one for one in moved if one.lesson and _is_news(messages.get(db, one.copy.message), one.lesson)]
    many = len(teaching) > MOST_LESSONS
    if many:
        _ask(room, teaching)
    for one in moved:
        _follow(room, one, teach=not many and one in teaching)
    for copy in deleted:
        _miss(room, copy)
    for copy in appeared:
        _appear(room, copy, folders[copy.folder])
    room.tell_counts()
    return True


def _pair(
    db: sqlite3.Connection, unexplained: Sequence[Copy], folders: dict[int, Folder]
) -> tuple[list[Moved], list[Copy], list[Copy]]:
    """What was moved, what went without a trace so far, what appeared without coming from anywhere."""
    fresh: dict[int, list[Copy]] = defaultdict(list)
    for one in unexplained:
        if one.uid is not None:
            fresh[one.message].append(one)
    moved, deleted = [], []
    for one in unexplained:
        if one.uid is not None:
            continue
        candidates = fresh[one.message] or _twins(db, one, folders)
        if candidates:
            to = candidates[0]
            if to in fresh[one.message]:
                fresh[one.message].remove(to)
            governs = _governs(db, one, to, folders)
            moved.append(Moved(one, folders[one.folder], folders[to.folder], to, governs))
        else:
            deleted.append(one)
    return moved, deleted, [one for many in fresh.values() for one in many]


def _governs(db: sqlite3.Connection, lost: Copy, found: Copy, folders: dict[int, Folder]) -> bool:
    """Whether a message stands where a lost copy of it stood, and nowhere else in the same mailbox."""
    others = [
        one
        for one in copies.of_message(db, lost.message)
        if one.id not in (lost.id, found.id) and one.uid is not None and one.folder in folders
    ]
    if not others:
        return True
    place = _home(messages.get(db, lost.message).place)
    return folders[lost.folder].place == place and all(folders[one.folder].place != place for one in others)


def _home(place: str) -> str:
    """The place of the folder in which a message of some place stands."""
    return DESK if place == UNDECIDED else place


def _twins(db: sqlite3.Connection, lost: Copy, folders: dict[int, Folder]) -> list[Copy]:
    """Copies that appeared beside the lost one while it stood: a move made as a copy and a removal."""
    return [
        one
        for one in copies.of_message(db, lost.message)
        if one.twin and one.uid is not None and one.id > lost.id and one.folder in folders
    ]


def _is_news(row: messages.Message, lesson: str) -> bool:
    """Whether a move says something else than where the message was put here. What the owner wrote, and editions, teach
    nothing."""
    if row.decided_by in NEVER_TAUGHT:
        return False
    return _home(row.place) != lesson


def _follow(room: Mailroom, moved: Moved, *, teach: bool) -> None:
    """The message stands where it was moved; the move is learned where it teaches."""
    with room.change() as db:
        note_moved(room, db, moved.copy, moved.appeared)
        copies.forget(db, moved.copy.id)
        copies.explained(db, moved.appeared.id)
        if not moved.governs:
            return
        place = moved.target.place
        row = messages.get(db, moved.copy.message)
        beside = _goals_beside(db, row.id, moved.origin.account)
        if teach:
            correct(room, [row.id], moved.lesson, found=place)
        elif place != _home(row.place):
            messages.move(db, row.id, place, row.decided_by if row.decided_by in NEVER_TAUGHT else Decider.ELSEWHERE)
            _signal(room, db, row.id, place)
            if place == PARKED:
                parked_elsewhere(room, db, row.id)
            room.tell_moved(0, [row.id])
        goals.set_goals(db, beside)


def _goals_beside(db: sqlite3.Connection, message: int, account: int) -> list[tuple[int, int | None]]:
    """Where the copies of a message in a mailbox were to go. Somebody moved one of them: the others stay where they
    were put, while those in other mailboxes follow as they follow a verdict."""
    mine = {folder.id for folder in accounts.folders(db, account)}
    return [(one.id, one.goal) for one in copies.of_message(db, message) if one.folder in mine]


def _signal(room: Mailroom, db: sqlite3.Connection, number: int, place: str) -> None:
    """Mail that was put away or thrown away was dealt with: it counts in the sums of its sender."""
    if place in (ARCHIVE, TRASH) and not counted.set_counted(db, number):
        read = messages.get(db, number).seen and bool(marked.read_as_habit(db, [number]))
        one = Sums(received=1, read=int(read or place == ARCHIVE))
        room.count(db, [(key, one) for key in counted.keys_for_sums(db, number)])


def _miss(room: Mailroom, copy: Copy) -> None:
    """A copy was found nowhere. After enough looks its message, if it stands nowhere else, goes to the Trash here."""
    with room.change() as db:
        if copy.missing + 1 < LOOKS:
            copies.missed(db, copy.id)
            return
        account = accounts.folder(db, copy.folder).account
        copies.forget(db, copy.id)
        row = messages.get(db, copy.message)
        left = [accounts.folder(db, one.folder).place for one in copies.of_message(db, row.id) if one.uid is not None]
        place = TRASH if not left else row.place if _home(row.place) in left else left[-1]
        if place != row.place:
            beside = _goals_beside(db, row.id, account)
            messages.move(db, row.id, place, row.decided_by if row.decided_by in NEVER_TAUGHT else Decider.ELSEWHERE)
            goals.set_goals(db, beside)
            _signal(room, db, row.id, place)
            room.tell_moved(0, [row.id])


def _appear(room: Mailroom, copy: Copy, folder: Folder) -> None:
    """A copy appeared that came from nowhere: a second copy of a message, or one that was gone and is back."""
    with room.change() as db:
        others = [one for one in copies.of_message(db, copy.message) if one.id != copy.id]
        copies.explained(db, copy.id, twin=bool(others))
        row = messages.get(db, copy.message)
        back = not others and row.place in (TRASH, ARCHIVE, JUNK) and row.place != folder.place
        if back and row.decided_by == Decider.ELSEWHERE:
            messages.move(db, row.id, folder.place, Decider.ELSEWHERE)
            room.tell_moved(0, [row.id])


# --- many at once -------------------------------------------------------------------------


def _ask(room: Mailroom, moved: Sequence[Moved]) -> None:
    """Keep moves that are too many to be learned unasked, by where they went."""
    with room.change() as db:
        by_bucket: dict[str, list[Moved]] = defaultdict(list)
        for one in moved:
            by_bucket[one.lesson].append(one)
        for bucket, many in by_bucket.items():
            stood = [(one.copy.message, messages.get(db, one.copy.message).place) for one in many]
            foreign.ask(db, room.clock(), bucket, stood)
    room.tell("elsewhere")


@dataclass(frozen=True, slots=True)
class Waiting:
    """Moves another program made that are too many to be learned unasked: when they were seen, where they went, how
    many they are, and the first of them."""

    id: int
    at: int
    belongs: str
    total: int
    first: list[Row]


def waiting(room: Mailroom) -> list[Waiting]:
    """All that waits for an answer."""
    db = room.reader()
    return [
        Waiting(
            one.id, one.at, one.belongs, len(one.messages), dressed(room, messages.get_many(db, one.messages[:FIRST]))
        )
        for one in foreign.waiting(db)
    ]


def answer(room: Mailroom, number: int, *, learn: bool) -> int:
    """Learn the moves of a question, or leave them unlearned; the messages stay where they stand. How many lessons.

    Raises :class:`NotFound`, and :class:`Conflict` for one that was answered.
    """
    with room.change() as db:
        asked = foreign.answer(db, number, learn=learn)
        given = 0
        for message in asked.messages if learn else ():
            with contextlib.suppress(CallerError):
                correct(room, [message], asked.belongs, stay=True, elsewhere=True)
                given += 1
    room.tell("elsewhere")
    room.tell_counts()
    return given
