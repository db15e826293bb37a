"""What subscriptions are found by: the sums of mail by source and week, and what the owner decided for always."""

from __future__ import annotations

import json
import sqlite3
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from hieranome.core.errors import NotFound
from hieranome.core.recurring import LEAST_MAIL, LEAST_WEEKS
from hieranome.core.sure import ALWAYS, Reach
from hieranome.store import places
from hieranome.store.always import HOLDS
from hieranome.store.messages import Message, get_many

WEEK = 604_800
_MONDAY = 259_200
"""Seconds by which weeks that begin on Monday are ahead of those that begin with the first of January 1970."""


@dataclass(frozen=True, slots=True)
class Written:
    """How much mail came from a source, over all time: in how many weeks it did, how much is unread, was answered, says
    that it is bulk, was made by a machine, and its bytes."""

    key: str
    total: int
    weeks: int
    unread: int
    answered: int
    size: int
    bulk: int
    automatic: int


def week_of(at: int) -> int:
    """The number of the week of a time in Unix seconds, as the sums count them."""
    return (max(at, 0) + _MONDAY) // WEEK


def monday_of(week: int) -> int:
    """When a week began, in Unix seconds (UTC)."""
    return week * WEEK - _MONDAY


def likely(db: sqlite3.Connection) -> list[Written]:
    """The sources that may be subscriptions: lists, those whose mail says that it is bulk, and those that wrote often
    enough to have habits."""
    rows = db.execute(
        "SELECT source, sum(total), count(DISTINCT week), sum(unread), sum(answered), sum(size), sum(bulk),"
        " sum(automatic) FROM weekly GROUP BY source HAVING source GLOB 'list:*' OR sum(bulk) > 0"
        " OR (sum(total) >= ? AND count(DISTINCT week) >= ? AND source <> 'address:')",
        (LEAST_MAIL, LEAST_WEEKS),
    )
    return [Written(*row) for row in rows]


def written_to(db: sqlite3.Connection, keys: Iterable[str]) -> dict[str, int]:
    """How much the owner wrote to each source, where that is anything."""
    rows = db.execute(
        "SELECT key, written FROM sums WHERE written > 0 AND key IN (SELECT value FROM json_each(?))", (_json(keys),)
    )
    return {row[0]: row[1] for row in rows}


def newest(db: sqlite3.Connection, keys: Iterable[str], *, read: bool = False) -> dict[str, Message]:
    """The newest message of each source, or the newest that was read, where there is one; own mail and junk aside."""
    found = _ends(db, keys, "DESC", " AND seen = 1" if read else "")
    return {key: max(rows, key=lambda row: (row.time, row.id)) for key, rows in found.items()}


def newest_of_all(db: sqlite3.Connection, keys: Sequence[str]) -> dict[str, Message]:
    """The newest message of every one of some sources. Raises :class:`NotFound` where one has none, or there are no
    sources."""
    found = newest(db, keys)
    if not keys or len(found) < len(set(keys)):
        raise NotFound("No mail of one of these senders and lists is here any more. Load them again.")
    return found


def oldest(db: sqlite3.Connection, keys: Iterable[str]) -> dict[str, Message]:
    """The oldest message of each source."""
    found = _ends(db, keys, "ASC", "")
    return {key: min(rows, key=lambda row: (row.time, row.id)) for key, rows in found.items()}


def _ends(db: sqlite3.Connection, keys: Iterable[str], order: str, where: str) -> dict[str, list[Message]]:
    """The first message of each source in each place, in an order of time."""
    ends = db.execute(
        f"SELECT k.value, (SELECT id FROM messages WHERE place = p.name AND source = k.value AND summed >= 0{where}"
        f" ORDER BY time {order}, id {order} LIMIT 1) AS id FROM json_each(?) AS k, places AS p",
        (_json(keys),),
    )
    by_id = {row[1]: row[0] for row in ends if row[1] is not None}
    found: dict[str, list[Message]] = defaultdict(list)
    for row in get_many(db, list(by_id)):
        found[by_id[row.id]].append(row)
    return found


def times(db: sqlite3.Connection, key: str, limit: int) -> list[int]:
    """When the latest mail of a source came."""
    return [one.time for one in recent(db, key, limit)]


def recent(db: sqlite3.Connection, key: str, limit: int) -> list[Message]:
    """The newest mail of a source, newest first; own mail and junk aside."""
    rows = db.execute(
        "SELECT id FROM messages WHERE place IN (SELECT name FROM places) AND source = ? AND summed >= 0"
        " ORDER BY time DESC, id DESC LIMIT ?",
        (key, limit),
    )
    return get_many(db, [row[0] for row in rows])


def by_week(db: sqlite3.Connection, keys: Iterable[str], since: int) -> dict[str, dict[int, int]]:
    """How much came from each source in each week from ``since`` on, where anything did."""
    rows = db.execute(
        "SELECT source, week, sum(total) FROM weekly WHERE week >= ? AND source IN (SELECT value FROM json_each(?))"
        " GROUP BY source, week",
        (since, _json(keys)),
    )
    found: dict[str, dict[int, int]] = defaultdict(dict)
    for source, week, total in rows:
        found[source][week] = total
    return found


def addresses(db: sqlite3.Connection, keys: Iterable[str]) -> dict[str, list[str]]:
    """Through which of the owner's addresses each source came, that with most of it first."""
    rows = db.execute(
        "SELECT source, reached FROM weekly WHERE reached <> '' AND source IN (SELECT value FROM json_each(?))"
        " GROUP BY source, reached ORDER BY sum(total) DESC, reached",
        (_json(keys),),
    )
    found: dict[str, list[str]] = defaultdict(list)
    for source, reached in rows:
        found[source].append(reached)
    return found


def decided(db: sqlite3.Connection) -> dict[tuple[Reach, str], str]:
    """The bucket of all that was said for always and stands, by reach and key."""
    marks = ", ".join("?" * len(ALWAYS))
    rows = db.execute(
        f"SELECT reach, key, belongs FROM lessons AS l WHERE reach IN ({marks}) AND {HOLDS} ORDER BY id",
        [reach.value for reach in ALWAYS],
    )
    off = places.switched_off(db)
    return {(Reach(row[0]), row[1]): off.get(row[2], row[2]) for row in rows}


def standing(db: sqlite3.Connection, keys: Sequence[str], since: int, limit: int) -> list[int]:
    """The newest mail of sources that stands in the band and came after ``since`` (Unix seconds), but for what the
    owner decided on message by message."""
    rows = db.execute(
        "SELECT id FROM messages WHERE place IN (SELECT name FROM places WHERE band >= 0)"
        " AND source IN (SELECT value FROM json_each(?)) AND time >= ? AND summed IN (0, 2)"
        " AND decided_by NOT IN ('verdict', 'filed') ORDER BY time DESC, id DESC LIMIT ?",
        (_json(keys), since, limit),
    )
    return [row[0] for row in rows]


def _json(keys: Iterable[str]) -> str:
    return json.dumps(list(keys))


def reached(db: sqlite3.Connection, message: int) -> str:
    """The owner's address a message came to; empty where none is known."""
    row = db.execute("SELECT reached FROM messages WHERE id = ?", (message,)).fetchone()
    return str(row[0]) if row else ""
