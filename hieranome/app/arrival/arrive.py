"""A message arrives: it is threaded, scored, routed and stored, in one transaction with its sums.

Whatever is raised for one message, that message is kept whole as one that cannot be read, on the Desk, told in the
journal, and the next is taken. Only what is wrong with the store itself goes further.
"""

from __future__ import annotations

import sqlite3
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from hieranome.app.away.noticing import AwayNotice
from hieranome.app.following.returning import Answers
from hieranome.app.reading.incoming import Incoming, Placed, unreadable, words_of
from hieranome.app.reading.listening import Arriving, Listener
from hieranome.app.reading.placement import certain_placement, examine, is_own
from hieranome.app.reading.processes import prepared
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import tell_arrived
from hieranome.app.rules.applying import Rules
from hieranome.app.topics.arriving import Topics
from hieranome.core.actors import HABITS, Actor
from hieranome.core.buckets import SENT, SHELF, UNDECIDED
from hieranome.core.deciders import Decider
from hieranome.core.errors import HieranomeError, InternalError
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.groups import Context
from hieranome.core.judgement import Judgement
from hieranome.core.recurring import by_machine, reached, says_bulk
from hieranome.core.relations import Relations, Sums, time_to_answer
from hieranome.core.routing import route
from hieranome.core.steps import StepKind
from hieranome.core.threads import bare_subject
from hieranome.core.vouched import shown_name
from hieranome.store import answers, counted, journal, messages, threads
from hieranome.store import vouched as vouching

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Decided:
    """What was found out about a message: its thread, vector and place, whether its sender is assured; no judgement
    while it waits."""

    thread: int
    vector: Vector
    judgement: Judgement | None
    placed: Placed
    assured: bool


LISTENERS: tuple[type[Listener], ...] = (Rules, Topics, AwayNotice, Answers)
"""What listens to arriving mail, in its order: each is asked where a message goes before it is stored, and is told once
it is."""
WAITING = Placed(SHELF, Decider.WAITING)
"""Where mail of the history waits until it is weighed."""


def receive(room: Mailroom, raw: bytes) -> int | None:
    """Take in one message that arrives now; returns its id, or None when it is here already."""
    incoming = prepared(raw, room.clock())
    with room.change() as db:
        number = take_in(room, db, incoming)
        if number is not None:
            tell_arrived(room, number)
            room.tell_counts()
    return number


def take_in(room: Mailroom, db: sqlite3.Connection, incoming: Incoming) -> int | None:
    """Judge, route and store one arriving message within the caller's transaction; None when it is here already.

    It counts in the sums of its sender when it stands on the Desk, or once it is read.
    """
    if messages.known(db, incoming.digest):
        return None
    return _kept_at_all(room, db, incoming, lambda one: _take_in(room, db, one))


def _kept_at_all(room: Mailroom, db: sqlite3.Connection, incoming: Incoming, keep: Callable[[Incoming], T]) -> T:
    """Store a message by ``keep``; when that raises for what the message holds, store it as one that cannot be read."""
    room.touch()
    asked = room.asking.copy()
    try:
        with room.part(db):
            return keep(incoming)
    except (sqlite3.OperationalError, HieranomeError):
        raise  # the store's trouble, or ours; the caller's transaction undoes it all
    except Exception as exc:
        room.asking = asked
        why = f"{type(exc).__name__}: {exc}".encode("utf-8", "replace").decode()[:300]
    return keep(_as_unreadable(incoming, why))


def _as_unreadable(incoming: Incoming, why: str) -> Incoming:
    whole = unreadable(
        zlib.decompress(incoming.compressed),
        incoming.facts.sent_at,
        why,
        seen=incoming.seen,
        answered=incoming.answered,
        flagged=incoming.flagged,
    )
    return replace(whole, stands=incoming.stands)


def _take_in(room: Mailroom, db: sqlite3.Connection, incoming: Incoming) -> int:
    facts = incoming.facts
    found = examine(room, db, facts)
    mine = is_own(room, incoming, found)
    thread = threads.assign(db, facts, room.owner, mine)
    vector = extract(facts, found.context(room, threads.has_mine(db, thread)))
    judgement = room.engine.judge(vector)
    placed = incoming.stands or certain_placement(room, db, facts, thread, found, mine)
    one = Arriving(room, db, incoming, found, mine, thread, vector, judgement, placed)
    listeners = [listener() for listener in LISTENERS]
    for listener in listeners:
        listener.place(one)
    if one.placed is None:
        one.placed = Placed(route(judgement, room.costs, room.asking), Decider.MODEL)
    elif one.placed.place != SENT:
        room.asking.note(one.placed.place == UNDECIDED)
    counted = one.placed.place not in judgement.low
    decided = Decided(thread, vector, judgement, one.placed, found.assured)
    one.number, added = _keep(room, db, incoming, decided, counted)
    for listener in listeners:
        listener.stored(one)
    vouching.note_checkers(db, [facts])
    messages.index(db, [one.number])
    room.count(db, added)
    return one.number


def take_in_history(room: Mailroom, db: sqlite3.Connection, batch: Sequence[Incoming], *, mine: bool = False) -> int:
    """Store mail of the history within the caller's transaction; returns how many were not here yet.

    ``mine`` is the owner's word that what bears their address in it is theirs. All of it counts in the sums.
    It waits on the Shelf until the whole history is known and it is weighed.
    """
    known = messages.known_among(db, [one.digest for one in batch])
    fresh = [one for one in {one.digest: one for one in batch}.values() if one.digest not in known]
    numbers: list[int] = []
    sums: list[tuple[str, Sums]] = []
    for incoming in fresh:
        number, added = _kept_at_all(room, db, incoming, lambda one: _take_in_old(room, db, one, mine))
        numbers.append(number)
        sums += added
    vouching.note_checkers(db, [one.facts for one in fresh])
    messages.index(db, numbers)
    room.count(db, sums)
    return len(fresh)


def _take_in_old(
    room: Mailroom, db: sqlite3.Connection, incoming: Incoming, word: bool
) -> tuple[int, list[tuple[str, Sums]]]:
    """Store one message of the history; its id and what it adds to the sums."""
    facts = incoming.facts
    vector = incoming.vector
    if vector is None:
        if not incoming.trouble:
            raise InternalError("mail of the history comes with its vector")
        vector = extract(facts, Context(room.owner, Relations()))
    found = examine(room, db, facts)
    mine = is_own(room, incoming, found, word=word)
    thread = threads.assign(db, facts, room.owner, mine)
    placed = incoming.stands or certain_placement(room, db, facts, thread, found, mine) or WAITING
    return _keep(room, db, incoming, Decided(thread, vector, None, placed, found.assured), counted=True)


def _keep(
    room: Mailroom,
    db: sqlite3.Connection,
    incoming: Incoming,
    decided: Decided,
    counted: bool,
) -> tuple[int, list[tuple[str, Sums]]]:
    """Store a message; returns its id and what it adds to the sums. One that could not be read is told in the
    journal."""
    facts = incoming.facts
    mine = decided.placed.place == SENT
    answered = incoming.answered or answers.noted(db, facts.message_id)
    number = _store(db, incoming, decided, answered, counted and not mine, room.owner)
    if incoming.trouble:
        _tell_trouble(room, db, number, decided.placed, incoming)
    if mine:
        # What a machine sent in the owner's name tells nothing of whom they write to.
        return number, [] if by_machine(facts) else room.relations.sent(facts, room.owner) + _note_answer(db, facts)
    if counted:
        return number, room.relations.received(facts, read=incoming.seen or answered, answered=answered)
    return number, []


def _tell_trouble(room: Mailroom, db: sqlite3.Connection, number: int, placed: Placed, incoming: Incoming) -> None:
    title = f"A message of {incoming.facts.size} bytes could not be read and was kept whole ({incoming.trouble})"
    step = journal.begin(db, room.clock(), StepKind.UNREADABLE, title, Actor.MODEL)
    journal.add_move(db, step, journal.Move(number, placed.place, placed.decided_by, placed.place))


def _store(
    db: sqlite3.Connection,
    incoming: Incoming,
    decided: Decided,
    answered: bool,
    counted: bool,
    owner: Owner,
) -> int:
    facts, judgement, placed = incoming.facts, decided.judgement, decided.placed
    low, high = judgement.band if judgement else (0.0, 1.0)
    new = messages.NewMessage(
        digest=incoming.digest,
        message_id=facts.message_id,
        thread=decided.thread,
        bare_subject=bare_subject(facts.subject)[:200],
        time=facts.sent_at,
        sender_address=facts.sender.address,
        sender_name=shown_name(facts.sender),
        sender_domain=facts.sender.domain,
        list_id=facts.list_id,
        subject=facts.subject,
        snippet=" ".join(facts.text[:1000].split())[: messages.SNIPPET],
        size=facts.size,
        attachments=facts.attached,
        readable=facts.readable,
        seen=incoming.seen or placed.place == SENT,
        answered=answered,
        flagged=incoming.flagged,
        place=placed.place,
        decided_by=placed.decided_by,
        score=judgement.importance if judgement else 0.0,
        low_edge=low,
        high_edge=high,
        certainty=judgement.certainty if judgement else 0.0,
        likely=judgement.likely if judgement else SHELF,
        asked=placed.place == UNDECIDED,
        counted=counted,
        assured=decided.assured,
        bulk=says_bulk(facts),
        automatic=by_machine(facts),
        reached=reached(facts, owner),
    )
    return messages.add(db, new, incoming.compressed, decided.vector, words_of(facts, incoming.text))


def _note_answer(db: sqlite3.Connection, facts: MessageFacts) -> list[tuple[str, Sums]]:
    """The owner's own message answers another: mark that one, now or when it comes; what that adds to the sums."""
    if not facts.in_reply_to:
        return []
    row = answers.note(db, facts.in_reply_to)
    if row is None:
        return []
    read = row["seen"] and row["counted"] and row["seen_by"] in HABITS
    one = Sums(int(not row["counted"]), int(not read), 1)
    one.add(time_to_answer(row["time"], facts.sent_at))
    return [(key, one) for key in counted.sum_keys(row)]
