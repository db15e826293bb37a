"""The weigh-in: old mail by what it weighs, and putting it in the Trash, with a way back. What there is a reason to
keep (vouched for, flagged, answered, a verdict of the owner's, in an own folder) is told apart and stays, unless asked
for."""

from __future__ import annotations

import sqlite3
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.app.arrival.organisations import organisation
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move_as_step
from hieranome.core.buckets import TRASH
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.sizes import sized
from hieranome.core.vouched import Vouched
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
    """The weigh-in beyond an age: rows, of how many others and what they would free, and what each age would free."""

    rows: list[Row]
    others: int
    others_size: int
    ages: list[Age]


def weigh(room: Mailroom, weeks: int, by: By) -> Weighed:
    """Weigh all mail that is older than so many whole weeks."""
    db = room.reader()
    last = subscriptions.week_of(room.clock()) - weeks
    free = _without_vouched(db, room.vouched, weights.table(db, last), last)
    parts: dict[str, list[Weight]] = defaultdict(list)
    for one in free:
        parts[_key(one.key, by)].append(one)
    order = sorted(parts.values(), key=lambda part: (_read(part) > 0, -sum(one.free_size for one in part), part[0].key))
    told, others = order[:MOST_TOLD], order[MOST_TOLD:]
    newest = subscriptions.newest(db, [part[0].key for part in told]) if by == "source" else {}
    names = {key: sources.name_of(db, key, row) for key, row in newest.items()}
    rows = [_row(_key(part[0].key, by), part, names) for part in told]
    rest = [one for part in others for one in part]
    return Weighed(rows, len(others), sum(one.free_size for one in rest), _ages(db, room))


def _key(source: str, by: By) -> str:
    """What a source is weighed under: itself, or the organisation its address or list belongs to."""
    if by == "source":
        return source
    name = source.partition(":")[2].rpartition("@")[2]
    return organisation(name) or name


def _read(part: Sequence[Weight]) -> float:
    total = sum(one.free + one.kept for one in part)
    return 1 - sum(one.unread for one in part) / total


def _row(key: str, part: Sequence[Weight], names: dict[str, str]) -> Row:
    total = sum(one.free + one.kept for one in part)
    first, last = min(one.first for one in part), max(one.last for one in part)
    return Row(
        key,
        names.get(key, key.partition(":")[2] or key),
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


def _without_vouched(
    db: sqlite3.Connection, vouched: Sequence[Vouched], table: list[Weight], week: int
) -> list[Weight]:
    """The sums without the mail of those vouched for: it is kept."""
    addresses, domains = _senders(vouched)
    if not vouched:
        return table
    through = weights.through_lists(db, addresses, domains, week)
    left = []
    for one in table:
        address = one.key.partition(":")[2]
        if one.key.startswith("address:") and (address in addresses or address.rpartition("@")[2] in domains):
            continue
        count, size = through.get(one.key, (0, 0))
        if one.free > count:
            left.append(
                Weight(
                    one.key, one.free - count, one.free_size - size, one.kept + count, one.kept_size + size, one.unread,
                    one.answered, one.first, one.last,
                )
            )  # fmt: skip
    return left


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
            [one.key for one in weights.table(db, last) if _key(one.key, by) in wanted]
            if by == "domain"
            else list(keys)
        )
        numbers = weights.messages_of(db, named, last, kept=kept, but=_senders(room.vouched), limit=MOST_AT_ONCE + 1)
        if len(numbers) > MOST_AT_ONCE:
            raise CallerError(f"One step covers {MOST_AT_ONCE} messages. Choose fewer rows.")
        if not numbers:
            raise Conflict("Nothing of this may go any more. Load the table again.")
        size = weights.sizes(db, numbers)
        what = "One message" if len(numbers) == 1 else f"{len(numbers):,} messages"
        title = f"{what} to Trash, {sized(size)}"
        return move_as_step(room, db, "weighed", title, numbers, TRASH, "filed"), size
