"""Rows of mail as every list, event, thread and result shows them: the one place where a message is dressed."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass, fields

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import DRAIN
from hieranome.core.deciders import Decider
from hieranome.core.times import DAY
from hieranome.store import copies, draining, following, messages, tags, topics
from hieranome.store.messages import Message as Message


@dataclass(frozen=True, slots=True)
class Follow:
    """What is followed through of a message: its due date, until when it is parked, whose answer is waited for, that it
    came back. ``at`` is when it is time (Unix seconds, 0: by no time), ``day`` that a whole day is meant, ``answer``
    that an answer is what it waits for, or what brought it back, ``since`` when it was noted, or parked."""

    kind: following.Kind
    at: int
    day: bool
    answer: bool
    since: int


@dataclass(frozen=True, slots=True)
class Row(Message):
    """A message with what a row shows besides. ``accounts`` are the mailboxes it stands in, where there are several;
    ``leaves_at`` is when it leaves the Drain at the earliest (Unix seconds, 0 where it does not); ``tags`` are those
    it carries; ``topic`` is the one that asks whether it belongs (0: none does); ``between`` are the two places a
    question is between; ``follow`` is what is followed through."""

    accounts: list[str]
    leaves_at: int
    tags: list[int]
    topic: int
    between: list[str]
    follow: list[Follow]


_PLAIN = tuple(one.name for one in fields(Message))


def dressed(room: Mailroom, rows: Sequence[Message]) -> list[Row]:
    """Messages as rows, in their order."""
    db = room.reader()
    numbers = [row.id for row in rows]
    held = copies.told_apart(db, numbers)
    carried = tags.of(db, numbers)
    drained = [row.id for row in rows if row.place == DRAIN]
    leaves = _leaves_at(db, drained, room.clock()) if drained else {}
    by_topic = [row.id for row in rows if row.decided_by == Decider.TOPIC]
    asks = topics.questions(db, by_topic) if by_topic else {}
    between = room.asked_between(db, [row for row in rows if row.id not in asks])
    followed: dict[int, list[Follow]] = {}
    for each in following.of(db, numbers):
        followed.setdefault(each.message, []).append(follow_of(each))
    return [
        Row(
            **{name: getattr(row, name) for name in _PLAIN},
            accounts=held.get(row.id, []),
            leaves_at=leaves.get(row.id, 0),
            tags=carried.get(row.id, []),
            topic=asks.get(row.id, 0),
            between=between.get(row.id, []),
            follow=followed.get(row.id, []),
        )
        for row in rows
    ]


def dressed_by_id(room: Mailroom, numbers: Sequence[int]) -> list[Row]:
    """Those of some messages that are here, as rows."""
    return dressed(room, messages.get_many(room.reader(), list(numbers)))


def follow_of(one: following.Followed) -> Follow:
    """What is followed through, as a row shows it."""
    state = one.state
    return Follow(one.kind, state.at, state.day, state.answer, state.since)


def _leaves_at(db: sqlite3.Connection, numbers: Sequence[int], now: int) -> dict[int, int]:
    """When each of some messages of the Drain leaves it at the earliest; nothing where it keeps its mail for good."""
    days = draining.kept_days(db)
    since = draining.since(db, numbers) if days else {}
    return {number: (at or now) + days * DAY for number, at in since.items()}


def tell_arrived(room: Mailroom, number: int) -> None:
    """Publish that a message arrived, as its row."""
    [row] = dressed(room, [messages.get(room.reader(), number)])
    room.tell("arrived", message=asdict(row))
