"""The short of a message or of its thread, from what was written alone."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import datetime

from hieranome.app.reading.processes import reading_of
from hieranome.app.reading.usual import usual_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.deciders import Decider
from hieranome.core.short import CARRIED, CARRIED_IN_THREAD, Line, short
from hieranome.store import messages
from hieranome.store.messages import Message

MOST = 40
"""Messages of a thread that are looked at: the newest."""
LONGEST = 2_000
"""Messages of a thread among which they are the newest."""


@dataclass(frozen=True, slots=True)
class Part:
    """The lines of one message."""

    message: Message
    own: bool
    lines: list[Line]


def short_of(room: Mailroom, number: int, *, thread: bool) -> list[Part]:
    """The lines of a message, or of all of its thread, oldest first. Raises :class:`NotFound`."""
    db = room.reader()
    row = messages.get(db, number)
    rows = messages.of_thread(db, row.thread, LONGEST)[-MOST:] if thread else [row]
    count = CARRIED if len(rows) == 1 else CARRIED_IN_THREAD
    parts = [_part(room, db, one, count) for one in rows if one.readable]
    return [one for one in parts if one.lines]


def _part(room: Mailroom, db: sqlite3.Connection, row: Message, count: int) -> Part:
    text = reading_of(messages.raw(db, row.id)).facts.text
    sent = datetime.fromtimestamp(row.time, room.zone)
    usual = usual_of(db, f"list:{row.list_id}" if row.list_id else f"address:{row.sender_address}", row.id)
    lines = short(text, row.subject, sent, room.now(), count=count, usual=usual)
    return Part(row, row.decided_by == Decider.OWN, lines)
