"""What the next message of a sender or list will do, said after a verdict on one of its messages."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from hieranome.app.reading.placement import bound_by
from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import DESK
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.features import relation_features, with_relation
from hieranome.core.promise import foretell
from hieranome.store import rules, sources, subscriptions
from hieranome.store.messages import Message

JUDGED = 12
"""The newest messages of a source that are judged as if they arrived now."""
Why = Literal["", "always", "vouched", "answered", "written", "depends"]


@dataclass(frozen=True, slots=True)
class Promise:
    """Where the next message of a source goes: who that is, whether it is a list, the ``place`` (empty: it depends on
    what the message says), where one ``like`` the corrected goes (empty: it would be asked about), and why. ``count``
    is how many of the source's messages the owner answered, or how many they wrote to it; ``said`` is of which address,
    list or domain it was said for always, where it was (say, ``address:`` and the address)."""

    name: str
    listed: bool
    place: str
    like: str
    why: Why
    count: int = 0
    said: str = ""


def promise_of(room: Mailroom, db: sqlite3.Connection, rows: Sequence[Message], belongs: str) -> Promise | None:
    """What the next message does of the one source that some messages are of, by what the model and what was said for
    sure are now; None where they are of several, or the source is not known. Its newest messages are judged as if they
    came from it now (:mod:`hieranome.core.promise`); a promise that comes close to failing is not made."""
    keys = {key_of(row) for row in rows}
    if len(keys) != 1 or "" in keys:
        return None
    key, row = keys.pop(), rows[-1]
    name, listed = sources.name_of(db, key, row), bool(row.list_id)
    facts = MessageFacts(sender=Correspondent(row.sender_address), list_id=row.list_id)
    bound = bound_by(room, db, facts)
    if bound is not None:
        why: Why = "vouched" if bound.vouched else "always"
        return Promise(name, listed, bound.bucket, bound.bucket, why, said=bound.said)
    numbers = [row.id, *(one.id for one in subscriptions.recent(db, key, JUDGED) if one.id != row.id)][:JUDGED]
    now = relation_features(facts, room.context(False))
    vectors = [with_relation(vector_of(room, db, number), now) for number in numbers]
    found = foretell(room.engine.judge_all(vectors), room.costs)
    if not found.sure or any(rules.placing(db, number) for number in numbers):  # a rule may take the next one too
        return Promise(name, listed, "", found.first, "depends")
    if found.place == belongs or found.place != DESK:
        return Promise(name, listed, found.place, found.first, "")
    sums = room.relations.of(f"address:{row.sender_address}")
    if sums.answered:
        return Promise(name, listed, found.place, found.first, "answered", sums.answered)
    return Promise(name, listed, found.place, found.first, "written" if sums.written else "", sums.written)


def key_of(row: Message) -> str:
    """The list of a message, or else its sender; empty where it names neither."""
    if row.list_id:
        return f"list:{row.list_id}"
    return f"address:{row.sender_address}" if row.sender_address else ""
