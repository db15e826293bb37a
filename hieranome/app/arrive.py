"""A message arrives: it is read, threaded, scored, routed and stored, in one transaction with its sums."""

from __future__ import annotations

import hashlib
import sqlite3
import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.app.mailroom import Mailroom
from hieranome.core.authentication import forged
from hieranome.core.buckets import DESK, SENT, SHELF
from hieranome.core.engine import Judgement
from hieranome.core.errors import InternalError
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector, extract
from hieranome.core.groups import Context
from hieranome.core.relations import Sums, time_to_answer
from hieranome.core.routing import route
from hieranome.core.sure import Binding, Reach, binding_keys, strongest
from hieranome.core.threads import bare_subject
from hieranome.core.vouched import Vouched, look_alike
from hieranome.mail.reading import correspondents_text, read
from hieranome.store import lessons, messages, threads
from hieranome.store import vouched as vouching

COMPRESSION = 6


@dataclass(frozen=True, slots=True)
class Placed:
    """Where a message was put and by what."""

    place: str
    decided_by: str
    ask_value: float = 0.0


@dataclass(frozen=True, slots=True)
class Incoming:
    """One message read and compressed; for mail of the history its vector is made beforehand. ``stands`` is where
    somebody filed it already, which nothing here changes."""

    digest: bytes
    compressed: bytes
    facts: MessageFacts
    text: str
    seen: bool = False
    answered: bool = False
    flagged: bool = False
    vector: Vector | None = None
    stands: Placed | None = None


@dataclass(frozen=True, slots=True)
class Weighed:
    """What was found out about a message: its thread, vector and place; no judgement while it waits."""

    thread: int
    vector: Vector
    judgement: Judgement | None
    placed: Placed


WAITING = Placed(SHELF, "waiting")
"""Where mail of the history waits until it is weighed."""


def digest_of(raw: bytes) -> bytes:
    """What tells one message from another: the SHA-256 of its bytes."""
    return hashlib.sha256(raw).digest()


def prepare(raw: bytes, arrived: int, *, seen: bool = False, answered: bool = False, flagged: bool = False) -> Incoming:
    """Read and compress; ``arrived`` (Unix seconds) stands in for a date that cannot be read."""
    reading = read(raw)
    facts = reading.facts if reading.facts.sent_at else replace(reading.facts, sent_at=arrived)
    return Incoming(digest_of(raw), zlib.compress(raw, COMPRESSION), facts, reading.text, seen, answered, flagged)


def receive(room: Mailroom, raw: bytes) -> int | None:
    """Take in one message that arrives now; returns its id, or None when it is here already."""
    incoming = prepare(raw, room.clock())
    with room.changing:
        with room.store.atomic() as db:
            number = take_in(room, db, incoming)
        if number is not None:
            room.tell_arrived(messages.get(room.reader(), number))
            room.tell_counts()
    return number


def take_in(room: Mailroom, db: sqlite3.Connection, incoming: Incoming) -> int | None:
    """Judge, route and store one arriving message within the caller's transaction; None when it is here already.

    It counts in the sums of its sender when it stands on the Desk, or once it is read.
    """
    if messages.known(db, incoming.digest):
        return None
    facts = incoming.facts
    thread = threads.assign(db, facts, room.owner, room.owner.owns(facts.sender))
    found = examine(room, db, facts)
    vector = extract(facts, found.context(room, threads.has_mine(db, thread)))
    judgement = room.engine.judge(vector)
    placed = incoming.stands or certain_placement(room, db, facts, thread, found)
    if placed is None:
        decision = route(judgement, room.costs, room.asking)
        placed = Placed(decision.place, "model", decision.ask_value)
    counted = placed.place not in judgement.low
    number, added = _keep(room, db, incoming, Weighed(thread, vector, judgement, placed), counted)
    room.count(db, added)
    vouching.note_checkers(db, [facts])
    messages.index(db, [number])
    return number


def take_in_history(room: Mailroom, db: sqlite3.Connection, batch: Sequence[Incoming]) -> int:
    """Store mail of the history within the caller's transaction; returns how many were not here yet.

    All of it counts in the sums. It waits on the Shelf until the whole history is known and it is weighed.
    """
    known = messages.known_among(db, [one.digest for one in batch])
    fresh = [one for one in {one.digest: one for one in batch}.values() if one.digest not in known]
    numbers: list[int] = []
    sums: list[tuple[str, Sums]] = []
    for incoming in fresh:
        if incoming.vector is None:
            raise InternalError("mail of the history comes with its vector")
        facts = incoming.facts
        thread = threads.assign(db, facts, room.owner, room.owner.owns(facts.sender))
        placed = incoming.stands or certain_placement(room, db, facts, thread, examine(room, db, facts)) or WAITING
        number, added = _keep(room, db, incoming, Weighed(thread, incoming.vector, None, placed), counted=True)
        numbers.append(number)
        sums += added
    room.count(db, sums)
    vouching.note_checkers(db, [one.facts for one in fresh])
    messages.index(db, numbers)
    return len(fresh)


def _keep(
    room: Mailroom,
    db: sqlite3.Connection,
    incoming: Incoming,
    weighed: Weighed,
    counted: bool,
) -> tuple[int, list[tuple[str, Sums]]]:
    """Store a message; returns its id and what it adds to the sums."""
    facts = incoming.facts
    mine = weighed.placed.place == SENT
    answered = incoming.answered or _answered_before(db, facts)
    number = _store(db, incoming, weighed, answered, counted and not mine)
    if mine:
        return number, room.relations.sent(facts, room.owner) + _note_answer(db, facts)
    if counted:
        return number, room.relations.received(facts, read=incoming.seen or answered, answered=answered)
    return number, []


@dataclass(frozen=True, slots=True)
class Examined:
    """What was found out about a message's sender: why it is proven forged (or an empty string), and whom
    vouched for it only looks like."""

    forged: str = ""
    alike: Vouched | None = None

    def context(self, room: Mailroom, thread_has_mine: bool) -> Context:
        """What the features of the message may look at."""
        return room.context(thread_has_mine, forged=bool(self.forged), alike=self.alike is not None)


def examine(room: Mailroom, db: sqlite3.Connection, facts: MessageFacts) -> Examined:
    """Look whether the sender is who it says."""
    why = ""
    if room.confirmed and facts.authentication:
        why = forged(facts, room.confirmed)
        if why and facts.list_id and messages.came_through(db, facts.sender.address, facts.list_id):
            why = forged(facts, room.confirmed, uses_list=True)
    return Examined(why, look_alike(facts, room.vouched) if room.vouched else None)


def certain_placement(
    room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, thread: int, found: Examined
) -> Placed | None:
    """Where a message goes whatever the model says: the owner's own, the unreadable, the surely known; or None."""
    if room.owner.owns(facts.sender) and not found.forged:
        return Placed(SENT, "own")
    if not facts.readable:
        return Placed(DESK, "unreadable")
    return known_placement(room, db, facts, thread, found) if room.bindings else None


def known_placement(
    room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, thread: int, found: Examined
) -> Placed | None:
    """Where sure knowledge puts a message that has no verdict of its own, or None."""
    genuine = not found.forged and "several senders" not in facts.defects
    bucket = lessons.binding_bucket(db, Reach.THREAD, str(thread)) if genuine else None
    if bucket is not None:
        return Placed(bucket, Reach.THREAD.value)
    said = lessons.bindings(db, binding_keys(facts))
    said += [Binding(Reach(v.kind), v.key, DESK, vouched=True) for v in room.vouched if v.covers(facts.sender)]
    binding = strongest(said, genuine=genuine)
    if binding is None:
        return None
    return Placed(binding.bucket, "vouched" if binding.vouched else binding.reach.value)


def _store(
    db: sqlite3.Connection,
    incoming: Incoming,
    weighed: Weighed,
    answered: bool,
    counted: bool,
) -> int:
    facts, judgement, placed = incoming.facts, weighed.judgement, weighed.placed
    low, high = judgement.band if judgement else (0.0, 1.0)
    new = messages.NewMessage(
        digest=incoming.digest,
        message_id=facts.message_id,
        thread=weighed.thread,
        bare_subject=bare_subject(facts.subject)[:200],
        time=facts.sent_at,
        sender_address=facts.sender.address,
        sender_name=facts.sender.name,
        sender_domain=facts.sender.domain,
        list_id=facts.list_id,
        subject=facts.subject,
        snippet=" ".join(facts.text[:1000].split())[: messages.SNIPPET],
        size=facts.size,
        attachments=sum(1 for a in facts.attachments if a.media_type != "text/calendar" or a.name),
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
        ask_value=placed.ask_value,
        counted=counted,
    )
    words = messages.Words(
        facts.subject,
        correspondents_text((facts.sender,)),
        correspondents_text(facts.recipients),
        facts.list_id,
        incoming.text,
    )
    return messages.add(db, new, incoming.compressed, weighed.vector, words)


def _answered_before(db: sqlite3.Connection, facts: MessageFacts) -> bool:
    if not facts.message_id:
        return False
    return db.execute("SELECT 1 FROM answers WHERE message_id = ?", (facts.message_id,)).fetchone() is not None


def _note_answer(db: sqlite3.Connection, facts: MessageFacts) -> list[tuple[str, Sums]]:
    """The owner's own message answers another: mark that one, now or when it comes; what that adds to the sums."""
    if not facts.in_reply_to:
        return []
    db.execute("INSERT OR IGNORE INTO answers VALUES (?)", (facts.in_reply_to,))
    row = db.execute(
        "SELECT id, sender_address, sender_domain, list_id, seen, counted, time FROM messages"
        " WHERE message_id = ? AND answered = 0 AND place <> 'sent'",
        (facts.in_reply_to,),
    ).fetchone()
    if row is None:
        return []
    db.execute("UPDATE messages SET answered = 1, seen = 1, counted = 1 WHERE id = ?", (row["id"],))
    one = Sums(int(not row["counted"]), int(not row["seen"] or not row["counted"]), 1)
    one.add(time_to_answer(row["time"], facts.sent_at))
    return [(key, one) for key in messages.sum_keys(row)]
