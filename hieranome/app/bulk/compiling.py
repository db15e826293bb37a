"""Editions compiled when they are due, by the clock of this machine; one that was missed is made up once."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.bulk.content import Content, End, Step
from hieranome.app.bulk.delivering import deliver
from hieranome.app.bulk.draining import leaving_within_a_week
from hieranome.app.reading.processes import reading_of
from hieranome.app.reading.usual import usual_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.app.room.zones import local_zone, zone_of
from hieranome.app.searching import matching
from hieranome.core.buckets import DIGEST, UNDECIDED
from hieranome.core.editions import Item, compile_groups
from hieranome.core.errors import CallerError
from hieranome.core.plans import Grouped, Plan, due
from hieranome.store import editions, journal, lately, listing, messages, places, plans, sources
from hieranome.store.messages import Message
from hieranome.store.plans import KeptPlan

MOST_ITEMS = 1_000
"""Messages one edition holds; what is beyond waits for the next."""
LOOK_BACK = 30 * 86_400
"""Seconds after which mail that stood in no edition no longer comes into one."""
BEFORE = 7 * 86_400
"""Seconds before a plan was made from which its first edition takes mail."""
TOLD_STEPS, TOLD_QUESTIONS = 12, 3
_MOVED = ("verdict", "kin", "elsewhere")
"""Kinds of steps that moved mail for a reason an edition tells; what was filed by hand needs none."""
TICK = 20.0
"""Seconds between two looks at the clock: a machine that slept is noticed by them."""


@dataclass(frozen=True, slots=True)
class _Found:
    """A message for an edition with its source, before its text is read."""

    row: Message
    message_id: str
    source: str
    source_name: str


def compiler(room: Mailroom, schedule: Schedule) -> Regular:
    """What compiles editions when they are due; what was missed while nothing ran is made up once it begins."""

    def work() -> None:
        first_plan(room)
        compile_due(room)

    return Regular(room, schedule, "editions", "compiling editions", TICK, work)


def first_plan(room: Mailroom) -> None:
    """Make the plan that ships, where there never was one: all of the Digest, on weekdays at half past seven."""
    if plans.every(room.reader(), removed=True):
        return
    with room.change() as db:
        if plans.every(db, removed=True):
            return
        now = room.clock()
        plans.add(db, Plan("Weekday digest", buckets=(DIGEST,), zone=local_zone()), now - BEFORE, now)


def compile_due(room: Mailroom) -> list[int]:
    """Compile the edition of every plan that is due, of several that were missed the last; their numbers. Raises
    :class:`CallerError` for a plan that can no longer be carried out, after the others."""
    now = room.clock()
    made, failed = [], []
    for kept in plans.every(room.reader()):
        try:
            missed = due(kept.plan, zone_of(kept.plan.zone), kept.upto, now) if kept.plan.enabled else []
            number = compile_one(room, kept, missed[-1]) if missed else 0
        except CallerError as exc:  # its search names a bucket that is gone, say: the other plans go on
            failed.append(CallerError(f"The edition “{kept.plan.name}” cannot be compiled. {exc} Change its plan."))
        else:
            made += [number] if number else []
    if failed:
        raise failed[0]
    return made


def compile_one(room: Mailroom, kept: KeptPlan, at: int) -> int:
    """Compile the edition of a plan for a time; its number, or 0 where there is no mail for it, or the plan was changed
    meanwhile."""
    db = room.reader()
    found, left_over = _candidates(room, db, kept, at)
    content = _content(db, kept, found, at, left_over) if found else None
    with room.change() as db:
        if plans.every(db).count(kept) != 1:
            return 0
        plans.set_upto(db, kept.id, at)
        if content is None:
            return 0
        items = [one.message for one in content.entries]
        number = editions.add(db, kept.id, at, room.clock(), content.name, content.kept(), items)
        if kept.plan.delivered:
            deliver(room, db, number, content)
    room.tell("editions")
    return number


def _candidates(room: Mailroom, db: sqlite3.Connection, kept: KeptPlan, at: int) -> tuple[list[_Found], int]:
    """The mail for an edition, newest first, and how much more there is than it holds."""
    plan = kept.plan
    since = max(kept.since, at - LOOK_BACK)
    found = matching(room, plan.search, MOST_ITEMS) if plan.search.strip() else []
    rows = editions.candidates(
        db, kept.id, buckets=plan.buckets, sources=plan.sources, found=found, since=since, limit=2 * MOST_ITEMS
    )
    out = plans.left_out(db) | _taken_by_name(db, kept)
    names: dict[str, str] = {}
    told = []
    for row, message_id, source in rows:
        if source not in out:
            if source not in names:
                names[source] = sources.name_of(db, source, row)
            told.append(_Found(row, message_id, source, names[source]))
    return told[:MOST_ITEMS], max(0, len(told) - MOST_ITEMS)


def _taken_by_name(db: sqlite3.Connection, kept: KeptPlan) -> set[str]:
    """The sources that other plans name: they stand in those alone, unless this plan names them too."""
    others = {s for one in plans.every(db) if one.id != kept.id and one.plan.enabled for s in one.plan.sources}
    return others.difference(kept.plan.sources)


def _content(db: sqlite3.Connection, kept: KeptPlan, found: Sequence[_Found], at: int, left_over: int) -> Content:
    plan = kept.plan
    read = set(_to_read(found, plan))
    items = [_item(db, one, with_text=one.row.id in read) for one in found]
    usual = {one.source: usual_of(db, one.source, one.message) for one in items if one.message in read}
    groups = compile_groups(items, plan.grouped, plan.length, usual)
    since = editions.latest_due(db, kept.id) or max(kept.since, at - 7 * 86_400)
    return Content(plan.name, at, plan.zone, groups, _end(db, since, at), left_over)


def _to_read(found: Sequence[_Found], plan: Plan) -> list[int]:
    """The messages whose text is needed: all where they are grouped by topic, else the newest of each group."""
    if plan.grouped is Grouped.TOPIC:
        return [one.row.id for one in found]
    newest: dict[str, int] = {}
    for one in found:
        newest.setdefault(one.row.sender_address if plan.grouped is Grouped.SENDER else one.source, one.row.id)
    return list(newest.values())


def _item(db: sqlite3.Connection, one: _Found, *, with_text: bool) -> Item:
    row = one.row
    facts = reading_of(messages.raw(db, row.id)).facts if with_text else None
    return Item(
        row.id,
        one.source,
        one.source_name,
        row.sender_name or row.sender_address,
        row.sender_address,
        row.subject,
        row.time,
        row.place,
        facts.text if facts else "",
        one.message_id,
        row.score,
    )


def _end(db: sqlite3.Connection, since: int, at: int) -> End:
    titles = {place.name: place.title for place in places.every(db)}
    steps = [one for one in journal.between(db, since, at) if one.kind in _MOVED and one.messages and not one.undone_at]
    waiting = listing.page(db, listing.Listing(UNDECIDED), "", TOLD_QUESTIONS).messages
    return End(
        since,
        tuple((titles[name], count) for name, count in lately.came_between(db, since, at)),
        tuple(Step(one.at, one.title, one.messages) for one in steps[:TOLD_STEPS]),
        max(0, len(steps) - TOLD_STEPS),
        lately.lessons_between(db, since, at),
        places.get(db, UNDECIDED).total,
        tuple(f"{row.sender_name or row.sender_address}: {row.subject}" for row in waiting),
        leaving_within_a_week(db, at),
    )
