"""Filing: mail put away, put back, marked. Moves and marks in the journal, never lessons."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.app.background import build_apart, take_over
from hieranome.app.mailboxes import free_name, mirror_place, unmirror_place
from hieranome.app.mailroom import Mailroom
from hieranome.core.buckets import ARCHIVE, DESK, DRAFTS, JUNK, SENT, TRASH, Bucket
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.relations import Sums
from hieranome.store import journal, messages, places
from hieranome.store.messages import Message

Mark = Literal["read", "unread", "flagged", "unflagged"]
MAX_FILED = 10_000
"""Messages one step may file or mark."""

_MARKS: dict[Mark, tuple[str, bool]] = {
    "read": ("seen", True),
    "unread": ("seen", False),
    "flagged": ("flagged", True),
    "unflagged": ("flagged", False),
}


@dataclass(frozen=True, slots=True)
class Filed:
    """What one step did: its number (0 when nothing had to change) and the messages it changed."""

    step: int
    messages: list[int]


def file_away(room: Mailroom, numbers: Sequence[int], place: str) -> Filed:
    """Put messages into Archive, Trash or a folder of the owner's. What is there already stays.

    Raises :class:`CallerError` when mail cannot be filed there, :class:`NotFound` for what does not exist;
    nothing is changed then.
    """
    with room.change() as db:
        target = places.get(db, place)
        if target.band >= 0:
            raise CallerError(f"{target.title} is a bucket: putting mail there is a verdict, which the model learns.")
        if not (target.own or target.name in (ARCHIVE, JUNK, TRASH)):
            raise CallerError(f"Mail cannot be filed in {target.title}: only what you write comes to stand there.")
        rows = [row for row in _rows(db, numbers) if row.place != place]
        if not rows:
            return Filed(0, [])
        step = journal.begin(db, room.clock(), "filed", f"{_what(rows)} to {target.title}")
        for row in rows:
            decided_by = row.decided_by if row.decided_by == "own" else "filed"
            _move(db, step, row, place, decided_by)
        return _told(room, step, rows)


def put_back(room: Mailroom, numbers: Sequence[int]) -> Filed:
    """Put filed mail back to where it stood before; to the Desk, or Sent, where that is not known."""
    with room.change() as db:
        quiet = {place.name for place in places.every(db) if place.band < 0}
        rows = [row for row in _rows(db, numbers) if row.place in quiet - {SENT, DRAFTS}]
        if not rows:
            raise CallerError("None of these messages is filed away, so there is nothing to put back.")
        step = journal.begin(db, room.clock(), "back", f"{_what(rows)} put back")
        for row in rows:
            way = journal.way_back(db, row.id, row.place)
            origin, decided_by = (way.origin, way.origin_decided_by) if way else _first_place(row)
            _move(db, step, row, origin, decided_by)
        return _told(room, step, rows)


def mark(room: Mailroom, numbers: Sequence[int], wanted: Mark) -> Filed:
    """Mark messages, as a step of the journal; what is read counts for its sender's sums."""
    name, value = _MARKS[wanted]
    with room.change() as db:
        rows = [row for row in _rows(db, numbers) if getattr(row, name) != value]
        if not rows:
            return Filed(0, [])
        step = journal.begin(db, room.clock(), "marked", f"{_what(rows)} marked {wanted}")
        changed = set_marks(room, db, [row.id for row in rows], name, value)
        journal.add_marks(db, step, changed, name, value)
        return _told(room, step, rows)


def mark_opened(room: Mailroom, number: int) -> Message:
    """Mark a message read because it was opened: no step of the journal."""
    with room.change() as db:
        messages.get(db, number)
        changed = set_marks(room, db, [number], "seen", True)
    if changed:
        room.tell("seen", message=number, seen=True)
        room.tell_counts()
    return messages.get(room.reader(), number)


def set_marks(room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int], name: str, wanted: bool) -> list[int]:
    """Set or clear a mark within the caller's transaction; returns the messages that changed."""
    changed = messages.mark(db, numbers, name, wanted)
    if name == "seen":
        sums = []
        for number in changed:
            counted = messages.set_counted(db, number) if wanted else True
            one = Sums(received=int(not counted), read=1 if wanted else -1)
            sums += [(key, one) for key in messages.keys_for_sums(db, number)]
        room.count(db, sums)
    return changed


def add_folder(room: Mailroom, title: str) -> places.Place:
    """A folder for filing."""
    with room.change() as db:
        name = _add_place(db, title, "folder").name
        room.tell("places")
    return places.get(room.reader(), name)


def add_bucket(room: Mailroom, title: str, important: bool) -> places.Place:
    """A bucket of the owner's own, behind those of the band; the model can route to it from now on.

    The model that knows it is built beforehand, so that nobody waits for that. Raises :class:`Conflict` when another
    bucket was added meanwhile.
    """
    reader = room.reader()
    clean, name = _fresh_title(reader, title), free_name(places.every(reader), "bucket")
    engine = build_apart(room, [*places.buckets(reader), Bucket(name, clean, important)])
    with room.change() as db:
        made = _add_place(db, title, "bucket", important)
        if engine is None or engine.buckets != places.buckets(db):
            raise Conflict("Another bucket was added or renamed meanwhile. Try once more.")
        take_over(room, db, engine)
        room.tell("places")
    return places.get(room.reader(), made.name)


def _add_place(db: sqlite3.Connection, title: str, kind: str, important: bool = False) -> places.Place:
    clean = _fresh_title(db, title)
    every = places.every(db)
    name = free_name(every, kind)
    last = max(place.band for place in every)
    places.add(db, name, clean, last + 1 if kind == "bucket" else -1, important)
    made = places.get(db, name)
    mirror_place(db, made)
    return made


def remove_place(room: Mailroom, name: str) -> None:
    """Take an own folder away; it must be empty, and nothing may have been taught of it."""
    with room.change() as db:
        place = places.get(db, name)
        if not place.own or place.band >= 0:
            raise CallerError(f"{place.title} stays: only folders you made can be taken away.")
        if place.total:
            raise CallerError(f"{place.title} holds {place.total} messages. Move them elsewhere first.")
        used = db.execute("SELECT 1 FROM moves WHERE ? IN (origin, target) LIMIT 1", (name,)).fetchone()
        if used:
            raise CallerError(f"{place.title} stands in the journal, whose steps may yet be undone, so it stays.")
        unmirror_place(db, place)
        places.remove(db, name)
    room.tell("places")


def describe_place(
    room: Mailroom, name: str, *, title: str | None, notice: int | None, rhythm: places.Rhythm | None
) -> places.Place:
    """Change what a place is called or when it wants to be looked at; what is None stays."""
    with room.change() as db:
        place = places.get(db, name)
        clean = place.title if title is None or title.strip() == place.title else _fresh_title(db, title)
        places.describe(
            db,
            name,
            clean,
            place.notice if notice is None else notice,
            place.rhythm if rhythm is None else rhythm,
        )
    room.tell("places")
    return places.get(room.reader(), name)


def look(room: Mailroom, name: str) -> places.Place:
    """Note that the owner looks at a place now."""
    with room.change() as db:
        places.check(db, name)
        places.note_look(db, name, room.clock())
    return places.get(room.reader(), name)


def _fresh_title(db: sqlite3.Connection, title: str) -> str:
    clean = " ".join(title.split())
    if not clean or len(clean) > 40:
        raise CallerError("A name has 1 to 40 characters.")
    if clean.lower() in {word for place in places.every(db) for word in (place.title.lower(), place.name)}:
        raise CallerError(f"There is a place called “{clean}” already. Choose another name.")
    return clean


def _rows(db: sqlite3.Connection, numbers: Sequence[int]) -> list[Message]:
    wanted = list(dict.fromkeys(numbers))
    if not wanted or len(wanted) > MAX_FILED:
        raise CallerError(f"One step covers 1 to {MAX_FILED} messages; {len(wanted)} were given.")
    rows = messages.get_many(db, wanted)
    if len(rows) < len(wanted):
        messages.get(db, next(number for number in wanted if number not in {row.id for row in rows}))
    return rows


def _first_place(row: Message) -> tuple[str, str]:
    return (SENT, "own") if row.decided_by == "own" else (DESK, "filed")


def _move(db: sqlite3.Connection, step: int, row: Message, place: str, decided_by: str) -> None:
    journal.add_move(db, step, journal.Move(row.id, row.place, row.decided_by, place))
    messages.move(db, row.id, place, decided_by)


def _what(rows: Sequence[Message]) -> str:
    return f"“{rows[0].subject[:80] or '(no subject)'}”" if len(rows) == 1 else f"{len(rows)} messages"


def _told(room: Mailroom, step: int, rows: Sequence[Message]) -> Filed:
    numbers = [row.id for row in rows]
    room.tell_moved(step, numbers)
    return Filed(step, numbers)
