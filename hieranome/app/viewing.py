"""One message opened: what it says, where it stands and why."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hieranome.app.arrive import Examined, examine
from hieranome.app.mailroom import Mailroom
from hieranome.core.engine import Judgement
from hieranome.core.errors import NotFound
from hieranome.core.evidence import Line, explain
from hieranome.core.facts import MessageFacts
from hieranome.core.relations import Sums
from hieranome.core.sure import Reach
from hieranome.mail.reading import Part, Reading, find_part, parse, part_bytes, read
from hieranome.mail.safe_html import SafeHtml
from hieranome.store import lessons, messages, threads
from hieranome.store.lessons import LessonRecord
from hieranome.store.messages import Message


@dataclass(frozen=True, slots=True)
class Opened:
    """A message with everything the reading side shows."""

    row: Message
    facts: MessageFacts
    judgement: Judgement
    evidence: list[tuple[Line, LessonRecord | None]]
    verdict: LessonRecord | None
    text: str
    has_html: bool
    blocked: int
    parts: list[Part]
    reaches: list[Reach]
    vouched: bool
    warnings: list[str]


def open_message(room: Mailroom, number: int) -> Opened:
    """Read a message and explain its score."""
    db = room.reader()
    row = messages.get(db, number)
    reading = read(messages.raw(db, number))
    vector = messages.vector(db, number)
    with room.changing:
        judgement = room.engine.judge(vector)
        found = examine(room, db, reading.facts)
        context = found.context(room, threads.has_mine(db, row.thread))
        lines = explain(room.engine, vector, reading.facts, context)
    low_edge, high_edge = judgement.band
    row = replace(
        row,
        score=judgement.importance,
        low_edge=low_edge,
        high_edge=high_edge,
        certainty=judgement.certainty,
        likely=judgement.likely,
    )
    evidence = [(line, lessons.record(db, line.lesson) if line.lesson else None) for line in lines]
    safe = SafeHtml(reading.html) if reading.html else None
    return Opened(
        row=row,
        facts=reading.facts,
        judgement=judgement,
        evidence=evidence,
        verdict=lessons.of_message(db, number),
        text=reading.text,
        has_html=safe is not None,
        blocked=safe.blocked if safe else 0,
        parts=[part for part in reading.parts if part.attached],
        reaches=_reaches(reading.facts, room.shared),
        vouched=any(one.covers(reading.facts.sender) for one in room.vouched),
        warnings=_warnings(reading.facts, found),
    )


def _warnings(facts: MessageFacts, found: Examined) -> list[str]:
    """What the owner should know of the sender before believing the message."""
    said = []
    if found.forged:
        said.append(f"Forged: {found.forged}. What you said of this sender does not count for it.")
    if found.alike is not None:
        said.append(
            f"This sender looks like {found.alike.name or found.alike.key}, whom you vouch for, but writes from "
            f"{facts.sender.address or 'no address'}."
        )
    if "several senders" in facts.defects:
        said.append("This message names several senders, so what you said of any of them does not count for it.")
    return said


def _reaches(facts: MessageFacts, shared: frozenset[str]) -> list[Reach]:
    """The reaches a lesson about this message may have."""
    found = [Reach.MESSAGE, Reach.THREAD, Reach.LEARN]
    if facts.sender.address:
        found.append(Reach.ADDRESS)
    if facts.list_id:
        found.append(Reach.LIST)
    if facts.sender.domain and facts.sender.domain not in shared:
        found.append(Reach.DOMAIN)
    return found


def html_page(room: Mailroom, number: int) -> str:
    """The message's HTML, cleaned, as a page for the frame. Raises :class:`NotFound` when it has none."""
    reading = read(messages.raw(room.reader(), number))
    if not reading.html:
        raise NotFound("This message has no HTML. Its text is shown instead.")
    return SafeHtml(reading.html, _inline_pictures(reading, number)).page()


_RASTER = frozenset({"image/png", "image/jpeg", "image/gif", "image/webp"})


def _inline_pictures(reading: Reading, number: int) -> dict[str, str]:
    return {
        part.content_id: f"/api/messages/{number}/parts/{part.path}"
        for part in reading.parts
        if part.content_id and part.media_type in _RASTER
    }


@dataclass(frozen=True, slots=True)
class FilePart:
    """An attachment as a file; ``inline`` tells whether it may be shown rather than saved."""

    content: bytes
    media_type: str
    name: str
    inline: bool


def file_part(room: Mailroom, number: int, path: str) -> FilePart:
    """An attached part. Raises :class:`NotFound`."""
    raw = messages.raw(room.reader(), number)
    part = find_part(parse(raw), path)
    listed = next((p for p in read(raw).parts if p.path == path), None)
    if part is None or listed is None:
        raise NotFound(f"Message {number} has no part {path}.")
    inline = listed.media_type in _RASTER
    kind = listed.media_type if inline else "application/octet-stream"
    return FilePart(part_bytes(part), kind, listed.name or f"part-{path}", inline)


def mark_seen(room: Mailroom, number: int, seen: bool) -> Message:
    """Mark a message read or unread; what is read counts for its sender's sums."""
    with room.changing:
        with room.store.atomic() as db:
            row = messages.get(db, number)
            if messages.mark_seen(db, [number], seen):
                counted = messages.set_counted(db, number)
                one = Sums(received=int(seen and not counted), read=1 if seen else -1)
                room.count(db, [(key, one) for key in messages.keys_for_sums(db, number)])
        changed = row.seen != seen
    if changed:
        room.events.publish("seen", message=number, seen=seen)
        room.tell_counts()
    return messages.get(room.reader(), number)


def thread_of(room: Mailroom, number: int) -> list[Message]:
    """The messages of a message's thread, oldest first."""
    db = room.reader()
    return messages.of_thread(db, messages.get(db, number).thread)
