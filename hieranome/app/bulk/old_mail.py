"""Old mail: old mail by what it weighs, and putting it in the Trash, with a way back. What there is a reason to
keep (vouched for, flagged, answered, a verdict of the owner's, in an own folder) is told apart and stays, unless asked
for."""

from __future__ import annotations

import sqlite3
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move_as_step
from hieranome.core.buckets import TRASH
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.sizes import sized
from hieranome.core.steps import StepKind
from hieranome.core.vouched import Vouched
from hieranome.mail.organisations import organisation
from hieranome.store import journal, sources, subscriptions, weights
from hieranome.store.weights import Weight

By = Literal["source", "domain"]
AGES = (0, 4, 13, 26, 52, 104, 156, 260, 520)
"""Ages in weeks at which it is told what mail beyond them would free."""
MOST_TOLD = 400
"""Rows that are told, those never opened first, then the heaviest; the others are told together."""
MOST_AT_ONCE = 50_000
"""Messages one step may put in the Trash."""
YEAR = 52


@dataclass(frozen=True, slots=True)
class Row:
    """Mail of a list, sender or domain beyond an age: what it is called, how much may go and its bytes, how much is
    kept apart and its bytes, the shares read and answered of all of it (0 to 1), the first and the last week it came in
    (Unix seconds of their Mondays), and how much a year that is."""

    key: str
    name: str
    free: int
    free_size: int
    kept: int
    kept_size: int
    read: float
    answered: float
    oldest: int
    newest: int
    yearly: float


@dataclass(frozen=True, slots=True)
class Age:
    """What mail beyond an age in weeks would free: messages and bytes."""

    weeks: int
    messages: int
    size: int


@dataclass(frozen=True, slots=True)
class Weighed:
    """Old mail beyond an age: rows, of how many others and what they would free, and what each age would free."""

    rows: list[Row]
    others: int
    others_size: int
    ages: list[Age]


def weigh(room: Mailroom, weeks: int, by: By) -> Weighed:
    """Weigh all mail that is older than so many whole weeks."""
    db = room.reader()
    last = subscriptions.week_of(room.clock()) - weeks
    if by == "domain":
        return _by_domain(room, db, last)
    but = _senders(room.vouched)
    some = _kept_in_lists(db, but, last)
    first, many, size = weights.heaviest(db, last, but, some, MOST_TOLD)
    left = [one for one in some.values() if one.free]
    told = sorted([*first, *left], key=lambda one: _rank([one]))[:MOST_TOLD]
    newest = subscriptions.newest(db, [one.key for one in told])
    rows = [_row(one.key, [one], sources.name_of(db, one.key, newest[one.key])) for one in told]
    size += sum(one.free_size for one in left)
    others_size = size - sum(row.free_size for row in rows)
    return Weighed(rows, many + len(left) - len(rows), others_size, _ages(db, room))


def _by_domain(room: Mailroom, db: sqlite3.Connection, last: int) -> Weighed:
    parts: dict[str, list[Weight]] = defaultdict(list)
    for one in _free(room, db, last):
        parts[_key(one.key, "domain")].append(one)
    order = sorted(parts.items(), key=lambda item: _rank(item[1]))
    told, others = order[:MOST_TOLD], order[MOST_TOLD:]
    rows = [_row(key, part, key.partition(":")[2] or key) for key, part in told]
    return Weighed(rows, len(others), sum(one.free_size for _, part in others for one in part), _ages(db, room))


def _free(room: Mailroom, db: sqlite3.Connection, last: int) -> list[Weight]:
    """The sums of every source of which anything may go, without the mail of those vouched for."""
    but = _senders(room.vouched)
    some = _kept_in_lists(db, but, last)
    return [one for was in weights.table(db, last, but) if (one := some.get(was.key, was)).free]


def _rank(part: Sequence[Weight]) -> tuple[bool, int, str]:
    """What was never opened comes first, then what weighs most."""
    return _read(part) > 0, -sum(one.free_size for one in part), part[0].key


def _key(source: str, by: By) -> str:
    """What a source is weighed under: itself, or the organisation its address or list belongs to."""
    if by == "source":
        return source
    name = source.partition(":")[2].rpartition("@")[2]
    return organisation(name) or name


def _read(part: Sequence[Weight]) -> float:
    total = sum(one.free + one.kept for one in part)
    return 1 - sum(one.unread for one in part) / total


def _row(key: str, part: Sequence[Weight], name: str) -> Row:
    total = sum(one.free + one.kept for one in part)
    first, last = min(one.first for one in part), max(one.last for one in part)
    return Row(
        key,
        name,
        sum(one.free for one in part),
        sum(one.free_size for one in part),
        sum(one.kept for one in part),
        sum(one.kept_size for one in part),
        _read(part),
        sum(one.answered for one in part) / total,
        subscriptions.monday_of(first),
        subscriptions.monday_of(last),
        total / max(1.0, (last - first + 1) / YEAR),
    )


def _senders(vouched: Sequence[Vouched]) -> tuple[list[str], list[str]]:
    """The addresses and the domains the owner vouches for."""
    return [one.key for one in vouched if one.kind == "address"], [one.key for one in vouched if one.kind == "domain"]


def _kept_in_lists(db: sqlite3.Connection, senders: tuple[list[str], list[str]], week: int) -> dict[str, Weight]:
    """The sums of the lists through which mail of some senders came, without that mail: it is kept."""
    through = weights.through_lists(db, *senders, week) if any(senders) else {}
    found = {}
    for one in weights.of_sources(db, week, through):
        count, size = through[one.key]
        found[one.key] = replace(
            one,
            free=one.free - count,
            free_size=one.free_size - size,
            kept=one.kept + count,
            kept_size=one.kept_size + size,
        )
    return found


def _ages(db: sqlite3.Connection, room: Mailroom) -> list[Age]:
    now = subscriptions.week_of(room.clock())
    every = weights.by_week(db)
    told = []
    for age in AGES:
        beyond = [(count, size) for week, count, size in every if week <= now - age]
        told.append(Age(age, sum(count for count, _ in beyond), sum(size for _, size in beyond)))
    return told


def put_away(
    room: Mailroom, keys: Sequence[str], weeks: int, by: By, *, kept: bool = False
) -> tuple[journal.Step, int]:
    """Put the mail of chosen rows that is older than so many weeks in the Trash, as one step; with ``kept`` also what
    is kept apart. The step and the bytes that went. Raises :class:`CallerError` for more than a step covers,
    :class:`Conflict` where nothing is left to go; nothing is changed then."""
    with room.change() as db:
        last = subscriptions.week_of(room.clock()) - weeks
        wanted = set(keys)
        named = (
            [one.key for one in _free(room, db, last) if _key(one.key, by) in wanted] if by == "domain" else list(keys)
        )
        numbers = weights.messages_of(db, named, last, kept=kept, but=_senders(room.vouched), limit=MOST_AT_ONCE + 1)
        if len(numbers) > MOST_AT_ONCE:
            raise CallerError(f"One step covers {MOST_AT_ONCE} messages. Choose fewer rows.")
        if not numbers:
            raise Conflict("Nothing of this may go any more. Load the table again.")
        size = weights.sizes(db, numbers)
        what = "One message" if len(numbers) == 1 else f"{len(numbers):,} messages"
        title = f"{what} to Trash, {sized(size)}"
        return move_as_step(room, db, StepKind.WEIGHED, title, numbers, TRASH, Decider.FILED), size
