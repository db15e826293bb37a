"""The Desk in trays: which there are, and what stands in each."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace

from hieranome.app.following.due import heads
from hieranome.app.following.owing import owed_among
from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.searching import understand
from hieranome.core.arranged import Thing
from hieranome.core.buckets import DESK
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.features import feature
from hieranome.core.trays import SHIPPED, Standing, Tray, check, is_dealt_with, parted
from hieranome.store import desk, places, search, settings
from hieranome.store.messages import Message, get_many

SCOPE = 2_000
"""The newest messages of the Desk that are put in trays; what is older is told by how many, and listed by itself."""
WHOLE = 500
"""Rows of a tray that is opened whole."""
_QUESTION = feature("cues", "question")


@dataclass(frozen=True, slots=True)
class Shown:
    """A tray as it is shown: how many messages stand in it and are unread, all their ids in order, and the rows that
    are shown. ``problem`` says why its line takes nothing, where it cannot be understood."""

    tray: Tray
    total: int
    unread: int
    numbers: list[int]
    messages: list[Message]
    problem: str


def every(db: sqlite3.Connection) -> list[Tray]:
    """The trays in their order; none where the Desk is one list."""
    kept = settings.value(db, settings.TRAYS, None)
    return list(SHIPPED) if kept is None else [Tray(**one) for one in kept]


def put(room: Mailroom, trays: Sequence[Tray]) -> list[Tray]:
    """Say which trays there are, in which order; none makes the Desk one list. What is due stands first and *Dealt
    with* last, whatever is said. Raises :class:`CallerError` for trays that hide mail, and for a line that cannot be
    understood."""
    clean = [replace(one, name=" ".join(one.name.split()), line=one.line.strip()) for one in trays]
    clean.sort(key=lambda one: (one.kind != "due", one.kind == "dealt"))
    check(clean)
    for one in clean:
        if one.kind == "line":
            try:
                understand(room, one.line)
            except HieranomeError as exc:
                raise CallerError(f"“{one.name}”: {exc}") from exc
    with arranging(room, Thing.TRAYS, "Trays arranged" if clean else "The Desk made one list", [settings.TRAYS]) as it:
        settings.put(it.db, settings.TRAYS, [asdict(one) for one in clean])
    return clean


def as_they_came(room: Mailroom) -> list[Tray]:
    """Bring the trays back to those that ship."""
    return put(room, SHIPPED)


def show(room: Mailroom, since: int, whole: Sequence[int] = ()) -> tuple[list[Shown], int]:
    """What stands in each tray, and how many messages of the Desk are older than what trays look at. ``since`` is when
    the owner was last here (Unix seconds, 0: not known); the trays that stand at ``whole`` give all their rows."""
    db = room.reader()
    trays = every(db)
    if not trays:
        return [], 0
    rows = desk.newest(db, DESK, SCOPE)
    asks = _asks(room, db, [row[0] for row in rows]) if any(t.kind == "waits" for t in trays) else {}
    first = heads(room) if any(tray.kind == "due" for tray in trays) else []
    beyond = desk.of(db, sorted(set(first) - {row[0] for row in rows}))
    mail = [Standing._make((*row, asks.get(row[0], False))) for row in [*rows, *beyond]]
    found, problems = _found(room, db, trays, [one.id for one in mail])
    domains = frozenset(one.rpartition("@")[2] for one in room.owner.addresses) - room.shared
    upheld = _upheld(room, db, trays, mail)
    parts = parted(trays, mail, found, now=room.clock(), since=since, domains=domains, heads=first, upheld=upheld)
    shown = []
    wide = _rows(db, trays, parts, whole)
    for at, (tray, those) in enumerate(zip(trays, parts, strict=True)):
        numbers = [one.id for one in those]
        unread = sum(not one.seen for one in those)
        problem = problems.get(at, "")
        shown.append(Shown(tray, len(those), unread, numbers, wide[at], problem))
    return shown, max(0, places.get(db, DESK).total - len(rows))


def _upheld(room: Mailroom, db: sqlite3.Connection, trays: Sequence[Tray], mail: Sequence[Standing]) -> frozenset[int]:
    """What is not dealt with although it was read and left, or answered: what the owner put there by hand and has not
    read since, and what they owe an answer."""
    days = next((one.days for one in trays if one.kind == "dealt"), 0)
    if not days:
        return frozenset()
    raised = frozenset(desk.raised(db))
    left = [one.id for one in mail if not one.answered and is_dealt_with(one, room.clock(), days, raised)]
    return raised | owed_among(room, left)


def _rows(
    db: sqlite3.Connection, trays: Sequence[Tray], parts: Sequence[Sequence[Standing]], whole: Sequence[int]
) -> list[list[Message]]:
    """The rows of each tray that are shown, read all at once."""
    most = [WHOLE if at in whole else 0 if tray.folded else tray.rows for at, tray in enumerate(trays)]
    wanted = [[one.id for one in those[:count]] for those, count in zip(parts, most, strict=True)]
    found = {row.id: row for row in get_many(db, [number for part in wanted for number in part])}
    return [[found[number] for number in part if number in found] for part in wanted]


def _asks(room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, bool]:
    """Whether each of some messages asks something: looked up once, since what a message says stays as it is."""
    known = room.vectors.asking
    fresh = [number for number in numbers if number not in known]
    if fresh:
        found = desk.asking(db, fresh, _QUESTION)
        kept = {number: known[number] for number in numbers if number in known}
        known = room.vectors.asking = kept | {number: number in found for number in fresh}
    return known


def _found(
    room: Mailroom, db: sqlite3.Connection, trays: Sequence[Tray], numbers: Sequence[int]
) -> tuple[dict[int, frozenset[int]], dict[int, str]]:
    """What the line of each tray that has one finds among some messages, and why a line finds nothing."""
    found: dict[int, frozenset[int]] = {}
    problems: dict[int, str] = {}
    for at, tray in enumerate(trays):
        if tray.kind == "line":
            try:
                found[at] = frozenset(search.among(db, understand(room, tray.line).node, numbers))
            except HieranomeError as exc:
                problems[at] = str(exc)
    return found, problems
