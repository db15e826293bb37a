"""A message arrives: it is read, threaded, scored, routed and stored, in one transaction with its sums."""

from __future__ import annotations

import hashlib
import sqlite3
import zlib
from dataclasses import asdict, dataclass, replace

from hieranome.app.mailroom import Mailroom
from hieranome.core.buckets import DESK, SENT
from hieranome.core.engine import Judgement
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector, extract
from hieranome.core.relations import Sums
from hieranome.core.routing import route, settle
from hieranome.core.sure import Reach, binding_keys, strongest
from hieranome.core.threads import bare_subject
from hieranome.mail.reading import Reading, correspondents_text, read
from hieranome.store import lessons, messages, threads

COMPRESSION = 6


@dataclass(frozen=True, slots=True)
class Incoming:
    """One message as it comes from a source, read but not yet judged."""

    raw: bytes
    digest: bytes
    compressed: bytes
    reading: Reading
    seen: bool = False
    answered: bool = False
    flagged: bool = False


@dataclass(frozen=True, slots=True)
class Placed:
    """Where a message was put and by what."""

    place: str
    decided_by: str
    ask_value: float = 0.0


def digest_of(raw: bytes) -> bytes:
    """What tells one message from another: the SHA-256 of its bytes."""
    return hashlib.sha256(raw).digest()


def prepare(raw: bytes, arrived: int, *, seen: bool = False, answered: bool = False, flagged: bool = False) -> Incoming:
    """Read and compress; ``arrived`` (Unix seconds) stands in for a date that cannot be read."""
    reading = read(raw)
    if not reading.facts.sent_at:
        reading.facts = replace(reading.facts, sent_at=arrived)
    return Incoming(raw, digest_of(raw), zlib.compress(raw, COMPRESSION), reading, seen, answered, flagged)


def receive(room: Mailroom, raw: bytes) -> int | None:
    """Take in one message that arrives now; returns its id, or None when it is here already."""
    incoming = prepare(raw, room.clock())
    with room.changing:
        with room.store.atomic() as db:
            number = take_in(room, db, incoming, history=False)
        if number is not None:
            row = messages.get(room.reader(), number)
            room.events.publish("arrived", message=asdict(row))
            room.tell_counts()
    return number


def take_in(room: Mailroom, db: sqlite3.Connection, incoming: Incoming, *, history: bool) -> int | None:
    """Store one message within the caller's transaction.

    Mail of the history is never asked about here, and all of it counts in the sums; arriving mail
    counts when it stands on the Desk, or once it is read.
    """
    if messages.known(db, incoming.digest):
        return None
    facts = incoming.reading.facts
    mine = room.owner.owns(facts.sender)
    thread = threads.assign(db, facts, room.owner, mine)
    context = room.context(threads.has_mine(db, thread))
    vector = extract(facts, context)
    judgement = room.engine.judge(vector)
    answered = incoming.answered or _answered_before(db, facts)
    placed = _place(room, db, facts, thread, judgement, history=history)
    counted = not mine and (history or placed.place not in judgement.low)
    number = _store(db, incoming, facts, thread, vector, judgement, placed, answered, counted)
    if mine:
        room.count(db, room.relations.sent(facts, room.owner))
        _note_answer(room, db, facts)
    elif counted:
        room.count(db, room.relations.received(facts, read=incoming.seen or answered, answered=answered))
    return number


def known_placement(db: sqlite3.Connection, facts: MessageFacts, thread: int) -> Placed | None:
    """Where sure knowledge puts a message that has no verdict of its own, or None."""
    bucket = lessons.binding_bucket(db, Reach.THREAD, str(thread))
    if bucket is not None:
        return Placed(bucket, Reach.THREAD.value)
    binding = strongest(lessons.bindings(db, binding_keys(facts)))
    return Placed(binding.bucket, binding.reach.value) if binding else None


def _place(
    room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, thread: int, judgement: Judgement, *, history: bool
) -> Placed:
    if room.owner.owns(facts.sender):
        return Placed(SENT, "own")
    if not facts.readable:
        return Placed(DESK, "unreadable")
    sure = known_placement(db, facts, thread)
    if sure is not None:
        return sure
    if history:
        return Placed(settle(judgement, room.costs)[0], "model")
    decision = route(judgement, room.costs, room.asking)
    return Placed(decision.place, "model", decision.ask_value)


def _store(
    db: sqlite3.Connection,
    incoming: Incoming,
    facts: MessageFacts,
    thread: int,
    vector: Vector,
    judgement: Judgement,
    placed: Placed,
    answered: bool,
    counted: bool,
) -> int:
    low, high = judgement.band
    new = messages.NewMessage(
        digest=incoming.digest,
        message_id=facts.message_id,
        thread=thread,
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
        score=judgement.importance,
        low_edge=low,
        high_edge=high,
        certainty=judgement.certainty,
        likely=judgement.likely,
        ask_value=placed.ask_value,
        counted=counted,
    )
    people = correspondents_text((facts.sender, *facts.recipients))
    return messages.add(db, new, incoming.compressed, vector, people, incoming.reading.text)


def _answered_before(db: sqlite3.Connection, facts: MessageFacts) -> bool:
    if not facts.message_id:
        return False
    return db.execute("SELECT 1 FROM answers WHERE message_id = ?", (facts.message_id,)).fetchone() is not None


def _note_answer(room: Mailroom, db: sqlite3.Connection, facts: MessageFacts) -> None:
    """The owner's own message answers another: mark that one, now or when it comes."""
    if not facts.in_reply_to:
        return
    db.execute("INSERT OR IGNORE INTO answers VALUES (?)", (facts.in_reply_to,))
    row = db.execute(
        "SELECT id, sender_address, sender_domain, list_id, seen, counted FROM messages"
        " WHERE message_id = ? AND answered = 0 AND place <> 'sent'",
        (facts.in_reply_to,),
    ).fetchone()
    if row is None:
        return
    db.execute("UPDATE messages SET answered = 1, seen = 1, counted = 1 WHERE id = ?", (row["id"],))
    one = Sums(int(not row["counted"]), int(not row["seen"] or not row["counted"]), 1)
    room.count(db, [(key, one) for key in messages.sum_keys(row)])
