"""The first round: after a history was read, the few messages whose answers put most of it right.

A source (a list, or else a sender) is worth asking about by what its mail costs as the model would put it now, all of
its messages together. Of the source whose mail costs most the message most like its others is asked about, and the kin
of the answer follow; then the model has learned, and the next is chosen anew.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Sequence
from dataclasses import dataclass

from hieranome.app.mailbox.mailboxes import PROPOSED
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.buckets import QUIET_PLACES
from hieranome.core.gaussian import Rows, likeness
from hieranome.core.keys import Keys
from hieranome.core.routing import costs_of
from hieranome.store import accounts, copies, messages, standing
from hieranome.store.messages import Message

ANSWERS = 10
"""So many lessons end the first round."""
COMPARED = 30
"""Of a source so many of its newest messages are compared."""


@dataclass(frozen=True, slots=True)
class Question:
    """A message to be asked about, and how many of the newest are of its sender or list."""

    message: Message
    alike: int


@dataclass(frozen=True, slots=True)
class Round:
    """How many answers were given so far, and the next question; None where nothing is left to ask."""

    answered: int
    question: Question | None


def first_round(room: Mailroom, account: int | None = None, skipped: Collection[int] = ()) -> Round:
    """Where the first round stands, about the newest of the inbox of a mailbox, or without one about the newest of all
    mail. ``skipped`` are messages the owner was asked about and passed over: their senders and lists are not asked
    about again. Raises :class:`hieranome.core.errors.NotFound` for a mailbox that is none."""
    with room.steady() as db:
        if account is not None:
            accounts.get(db, account)
        answered = len(room.engine)
        if answered >= ANSWERS:
            return Round(answered, None)
        free = room.having_vectors(db, _newest(room, db, account))
        if not free:
            return Round(answered, None)
        rows = Rows.stacked(room.vectors.of(db, free))
        costs = costs_of(room.engine.weigh(rows), room.costs).tolist()
        of_source: dict[int, list[int]] = {}
        worth: dict[int, float] = {}
        for number, source, cost in zip(free, Keys.of(rows).source.tolist(), costs, strict=True):
            of_source.setdefault(source, []).append(number)
            worth[source] = worth.get(source, 0.0) + cost
        for source, its in of_source.items():
            if room.engine.attention.was_corrected(source) or not set(its).isdisjoint(skipped):
                del worth[source]
        if not worth:
            return Round(answered, None)
        its = of_source[max(worth, key=lambda source: worth[source])]
        return Round(answered, Question(messages.get(db, _most_typical(room, db, its)), len(its)))


def _newest(room: Mailroom, db: sqlite3.Connection, account: int | None) -> list[int]:
    """The newest messages that the model put where they stand in the buckets; of all mail none of the owner's own."""
    if account is None:
        return standing.newest_left_to_the_model(db, PROPOSED, room.owner.addresses, QUIET_PLACES)
    newest = [number for number, _ in copies.newest_in_inbox(db, account, PROPOSED)]
    kept = {number for number, place in standing.left_to_the_model(db, newest) if place not in QUIET_PLACES}
    return [number for number in newest if number in kept]


def _most_typical(room: Mailroom, db: sqlite3.Connection, numbers: Sequence[int]) -> int:
    """Of the newest of some messages, the one most like the others."""
    some = list(numbers[:COMPARED])
    vectors = room.vectors.of(db, some)
    rows = Rows.stacked(vectors)
    alike = [float(likeness(rows, vector).sum()) for vector in vectors]
    return some[alike.index(max(alike))]
