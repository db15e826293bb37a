"""Where things stand with somebody: what is open both ways, and what they wrote since the owner last wrote to them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import datetime

from hieranome.app.following.owing import Owed, open_with
from hieranome.app.reading.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import CallerError
from hieranome.core.short import lines
from hieranome.core.times import DAY
from hieranome.core.when import Moment
from hieranome.mail.reading import Part
from hieranome.store import messages, owing
from hieranome.store.messages import Message

LONGEST = 90 * DAY
"""How far back is looked where the owner never wrote (seconds)."""
MOST = 40
"""Messages since then that are looked at: the newest."""


@dataclass(frozen=True, slots=True)
class Dated:
    """A time to come somebody named: the sentence, when that is, in which message."""

    message: Message
    sentence: str
    moment: Moment


@dataclass(frozen=True, slots=True)
class Promised:
    """Something they said they would do: the sentence, in which message."""

    message: Message
    sentence: str


@dataclass(frozen=True, slots=True)
class File:
    """A file that came: in which message, and which part of it."""

    message: Message
    part: Part


@dataclass(frozen=True, slots=True)
class Briefing:
    """Where things stand with somebody: how they are called, what the owner wrote to them last (None: nothing), how
    many messages they wrote since; what they ask and the owner promised (``you``), what the owner asked (``they``),
    what they promised, times to come, files."""

    address: str
    name: str
    last: Message | None
    since: int
    you: list[Owed]
    they: list[Owed]
    promised: list[Promised]
    dates: list[Dated]
    files: list[File]


def briefing(room: Mailroom, address: str) -> Briefing:
    """Where things stand with who writes from an address. Raises :class:`CallerError` for somebody unknown."""
    wanted = "".join(one for one in address if one.isprintable()).strip().lower()
    with room.steady() as db:
        last = owing.last_written_to(db, wanted)
        after = last.time if last else room.clock() - LONGEST
        numbers = owing.received_from(db, wanted, after, MOST)
        if last is None and not numbers and not owing.names(db, [wanted]):
            raise CallerError(f"Nobody with the address “{wanted[:80]}” wrote to you, or was written to.")
        they, you = open_with(room, wanted)
        promised, dates, files = _said(room, db, numbers)
        name = owing.names(db, [wanted]).get(wanted, wanted)
        return Briefing(wanted, name, last, len(numbers), you, they, promised, dates, files)


def _said(room: Mailroom, db: sqlite3.Connection, numbers: list[int]) -> tuple[list[Promised], list[Dated], list[File]]:
    """What messages promise, which times to come they name, and what files came with them; the newest first."""
    promised: list[Promised] = []
    dates: dict[Moment, Dated] = {}
    files: list[File] = []
    for row in sorted(messages.get_many(db, numbers), key=lambda one: -one.time):
        if not row.readable:
            continue
        reading = reading_of(messages.raw(db, row.id))
        sent = datetime.fromtimestamp(row.time, room.zone)
        for one in lines(reading.facts.text, sent, room.now()):
            if one.promises:
                promised.append(Promised(row, one.text))
            for said in one.dates:
                dates.setdefault(said.moment, Dated(row, one.text, said.moment))
        files += [File(row, part) for part in reading.parts if part.attached]
    return promised, sorted(dates.values(), key=lambda one: one.moment.at), files
