"""Subscriptions: found among the sources of all mail, told with what is known of each, decided once for always."""

from __future__ import annotations

import sqlite3
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from operator import attrgetter

from hieranome.app.bulk.unsubscribing import RELAPSE
from hieranome.app.reading.placement import examine
from hieranome.app.reading.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import MAX_FILED
from hieranome.app.teaching.correct import MAX_AT_ONCE, Outcome
from hieranome.app.teaching.for_good import correct_asked
from hieranome.core.authentication import Standing
from hieranome.core.buckets import DESK
from hieranome.core.errors import CallerError
from hieranome.core.recurring import Habits, Sign, family, sign_of
from hieranome.core.sure import Reach
from hieranome.mail.opening import list_description
from hieranome.mail.reading import read
from hieranome.store import messages, places, sources, subscriptions, unsubscribed, vouched
from hieranome.store.messages import Message
from hieranome.store.subscriptions import Written

WEEKS = 26
"""Weeks of which it is told how much came in each."""
LATELY = 4
"""Weeks over which it is told how often a subscription writes."""
FRESH = 7 * 86_400
"""Seconds up to which standing mail follows a subscription to the Desk: older mail does not come back there."""
HABIT_TIMES = 30


@dataclass(frozen=True, slots=True)
class Subscription:
    """A recurring bulk sender. ``keys`` are its sources, that with most mail first; ``read`` is the share of its mail
    that was read (0 to 1); times are Unix seconds, ``last_read`` that of the newest message that was read (0 for none);
    ``weeks`` tells how much came in each of the last :data:`WEEKS` weeks, oldest first; ``belongs`` is the bucket the
    owner decided on for always, empty while that is open."""

    keys: tuple[str, ...]
    sign: Sign
    name: str
    newest: Message
    total: int
    size: int
    read: float
    first_seen: int
    last_read: int
    weeks: tuple[int, ...]
    weekly: float
    addresses: tuple[str, ...]
    belongs: str
    unsubscribed: int
    came_back: int

    @property
    def key(self) -> str:
        """What it is asked for by."""
        return self.keys[0]


@dataclass(frozen=True, slots=True)
class About:
    """What a subscription is: how its own headers describe it, the domain it comes from, whether a believed server
    found that its newest message comes from there, and its two newest messages."""

    description: str
    domain: str
    standing: Standing
    recent: tuple[Message, ...]


def find(room: Mailroom) -> list[Subscription]:
    """All subscriptions, those with most mail first."""
    db = room.reader()
    signs, likely = {}, subscriptions.likely(db)
    written = subscriptions.written_to(db, (one.key for one in likely))
    for one in likely:
        sign = sign_of(_habits(db, one, written.get(one.key, 0)))
        if sign is not None:
            signs[one.key] = sign
    newest = subscriptions.newest(db, signs)
    families: dict[str, list[Written]] = defaultdict(list)
    for one in likely:
        if one.key in newest:
            last = newest[one.key]
            families[family(one.key, last.sender_address, last.sender_name)].append(one)
    known = _Known.of(db, room.clock(), newest)
    found = [_told(db, known, signs[many[0].key], many) for many in map(_most_first, families.values())]
    return sorted(found, key=lambda one: (-one.total, one.key))


def _most_first(many: list[Written]) -> list[Written]:
    return sorted(many, key=lambda one: (-one.total, one.key))


def _habits(db: sqlite3.Connection, one: Written, written: int) -> Habits:
    habits = Habits(one.key, one.total, one.weeks, one.bulk, one.automatic, one.answered, written)
    if sign_of(habits) is not None or one.key.startswith("list:"):
        return habits
    return Habits(
        one.key, one.total, one.weeks, one.bulk, one.automatic, one.answered, written,
        subscriptions.times(db, one.key, HABIT_TIMES),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Known:
    """What is known of sources, by key, looked up at once for all."""

    week: int
    newest: Mapping[str, Message]
    oldest: Mapping[str, Message]
    read: Mapping[str, Message]
    by_week: Mapping[str, Mapping[int, int]]
    addresses: Mapping[str, list[str]]
    decided: Mapping[tuple[Reach, str], str]
    """What was said for always, vouching included."""
    unsubscribed: Mapping[str, int]

    @classmethod
    def of(cls, db: sqlite3.Connection, now: int, newest: Mapping[str, Message]) -> _Known:
        week = subscriptions.week_of(now)
        return cls(
            week,
            newest,
            subscriptions.oldest(db, newest),
            subscriptions.newest(db, newest, read=True),
            subscriptions.by_week(db, newest, week - WEEKS + 1),
            subscriptions.addresses(db, newest),
            {(Reach(one.kind), one.key): DESK for one in vouched.every(db)} | subscriptions.decided(db),
            unsubscribed.held(db),
        )


def _told(db: sqlite3.Connection, known: _Known, sign: Sign, many: Sequence[Written]) -> Subscription:
    keys = tuple(one.key for one in many)
    newest = max((known.newest[key] for key in keys), key=attrgetter("time", "id"))
    total = sum(one.total for one in many)
    asked = max((known.unsubscribed.get(key, 0) for key in keys), default=0)
    weeks = [0] * WEEKS
    for key in keys:
        for week, count in known.by_week.get(key, {}).items():
            if week <= known.week:
                weeks[week - known.week - 1] += count
    return Subscription(
        keys,
        sign,
        sources.name_of(db, keys[0], newest),
        newest,
        total,
        sum(one.size for one in many),
        1 - sum(one.unread for one in many) / total,
        min(known.oldest[key].time for key in keys),
        max((known.read[key].time for key in keys if key in known.read), default=0),
        tuple(weeks),
        sum(weeks[-LATELY:]) / LATELY,
        tuple(dict.fromkeys(address for key in keys for address in known.addresses.get(key, ()))),
        _decided(known, newest),
        asked,
        sum(unsubscribed.came_since(db, key, asked + RELAPSE) for key in keys) if asked else 0,
    )


def _decided(known: _Known, newest: Message) -> str:
    """The bucket said for always of a source, by the most specific of what was said."""
    said = [(Reach.ADDRESS, newest.sender_address), (Reach.LIST, newest.list_id)]
    said.append((Reach.DOMAIN, newest.sender_address.rpartition("@")[2]))
    return next((known.decided[one] for one in said if one in known.decided), "")


def about(room: Mailroom, key: str) -> About:
    """What the newest message of a source says the source is. Raises :class:`NotFound`."""
    db = room.reader()
    newest = subscriptions.newest_of_all(db, [key])[key]
    raw = messages.raw(db, newest.id)
    description = guarded(list_description, raw)
    found = examine(room, db, guarded(read, raw).facts, newest.id).finding
    recent = subscriptions.recent(db, key, 2)
    domain = newest.sender_address.rpartition("@")[2]
    return About(description, domain, found.standing, tuple(recent))


def decide(
    room: Mailroom, keys: Sequence[str], belongs: str, *, confirmed: bool = True, several: bool = False
) -> Outcome:
    """Decide where all mail of subscriptions belongs from now on: one step, one lesson each. Their mail that stands in
    the band follows, to the Desk only what is of the last week; what the owner decided on message by message stays.
    Where it is not ``confirmed``, the owner may be asked first; ``several`` says that nobody chose them one by one.

    Raises :class:`NotFound` where there is no such source, :class:`CallerError` for more than a step covers, and what
    :func:`hieranome.app.teaching.correct.correct` raises; nothing is changed then.
    """
    wanted = list(dict.fromkeys(keys))
    with room.change() as db:
        newest = subscriptions.newest_of_all(db, wanted)
        if len(wanted) > MAX_AT_ONCE:
            raise CallerError(f"One step decides on {MAX_AT_ONCE} subscriptions; {len(wanted)} were given.")
        since = room.clock() - FRESH if belongs == DESK else 0
        along = subscriptions.standing(db, wanted, since, MAX_FILED)
        taught = [newest[key].id for key in wanted]
        what = sources.named(db, newest, "subscriptions")
        title = f"{what} to {places.get(db, places.bound_for(db, belongs)).title}, always"
        return correct_asked(
            room, taught, belongs, None, stay=True, title=title, along=along, follow=False, confirmed=confirmed,
            several=several,
        )  # fmt: skip
