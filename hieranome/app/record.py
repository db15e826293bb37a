"""What was done: the journal, what happened to one message, the ledger of lessons, what is new since a time."""

from __future__ import annotations

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.arranged import Thing
from hieranome.store import arranged, journal, lately, lessons, messages
from hieranome.store.journal import Event as Event
from hieranome.store.journal import Step as Step
from hieranome.store.lately import Lately as Lately
from hieranome.store.lessons import ANY
from hieranome.store.lessons import Asked as Asked
from hieranome.store.lessons import LessonRecord as LessonRecord


def step(room: Mailroom, number: int) -> Step:
    """One line of the journal. Raises :class:`hieranome.core.errors.NotFound`."""
    return journal.get(room.reader(), number)


def steps(room: Mailroom, before: int, limit: int) -> list[Step]:
    """Lines of the journal before one (0: from the newest), newest first."""
    return journal.recent(room.reader(), before, limit)


def arranged_by(room: Mailroom, step: int) -> set[Thing]:
    """The kinds of things a step arranged."""
    return arranged.by(room.reader(), step)


def of_message(room: Mailroom, number: int) -> list[Event]:
    """What happened to a message, oldest first. Raises :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    messages.get(db, number)
    return journal.of_message(db, number)


def ledger(room: Mailroom, before: int, limit: int, asked: Asked = ANY) -> list[LessonRecord]:
    """Lessons that are asked for before one (0: from the newest), newest first."""
    return lessons.ledger(room.reader(), before, limit, asked)


def since(room: Mailroom, after: int, at: int) -> Lately:
    """What came after a message, and what was done since a time (Unix seconds)."""
    return lately.happened(room.reader(), after, at)
