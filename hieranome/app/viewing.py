"""One message opened: what it says, where it stands and why."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hieranome.app.arrive import Examined, examine
from hieranome.app.mailroom import Mailroom
from hieranome.core.authentication import in_words
from hieranome.core.engine import Judgement
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.evidence import Line, explain
from hieranome.core.facts import MessageFacts
from hieranome.core.sure import Reach
from hieranome.core.text import Passage, passages
from hieranome.mail.headers import decode_bytes, header_list
from hieranome.mail.invitation import Invitation, read_invitation
from hieranome.mail.reading import Part, Reading, find_part, leaves, parse, part_bytes, part_type, read
from hieranome.mail.safe_html import SafeHtml
from hieranome.store import lessons, messages, searches, threads
from hieranome.store.lessons import LessonRecord
from hieranome.store.messages import Message


@dataclass(frozen=True, slots=True)
class Check:
    """What a server found about where a message came from, in words, and whether the owner believes that server."""

    server: str
    believed: bool
    words: str


@dataclass(frozen=True, slots=True)
class Opened:
    """A message with everything the reading side shows."""

    row: Message
    facts: MessageFacts
    judgement: Judgement
    evidence: list[tuple[Line, LessonRecord | None]]
    verdict: LessonRecord | None
    passages: list[Passage]
    has_html: bool
    blocked: int
    pictured: bool
    parts: list[Part]
    invitation: Invitation | None
    checks: list[Check]
    reaches: list[Reach]
    vouched: bool
    warnings: list[str]


def open_message(room: Mailroom, number: int) -> Opened:
    """Read a message and explain its score."""
    db = room.reader()
    row = messages.get(db, number)
    raw = messages.raw(db, number)
    reading = read(raw)
    vector = messages.vector(db, number)
    with room.changing:
        judgement = room.engine.judge(vector)
        found = examine(room, db, reading.facts)
        lines = explain(room.engine, vector, reading.facts, found.context(room, threads.has_mine(db, row.thread)))
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
        passages=passages(reading.text),
        has_html=safe is not None,
        blocked=len(safe.remote) if safe else 0,
        pictured=not found.forged and searches.is_pictured(db, reading.facts.sender.address),
        parts=[part for part in reading.parts if part.attached],
        invitation=_invitation(raw, reading),
        checks=[
            Check(server, server in room.confirmed, in_words(results))
            for server, results in reading.facts.authentication
        ],
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


def _invitation(raw: bytes, reading: Reading) -> Invitation | None:
    """The event of the first calendar part, inside or attached."""
    if not reading.facts.invitation and not any(part.media_type == "text/calendar" for part in reading.parts):
        return None
    part = next((part for _, part in leaves(parse(raw)) if part_type(part) == "text/calendar"), None)
    return read_invitation(part_bytes(part)) if part is not None else None


def html_page(room: Mailroom, number: int, *, pictures: bool = False) -> str:
    """The message's HTML, cleaned, as a page for the frame. Raises :class:`NotFound` when it has none.

    Its remote pictures are left out, or with ``pictures`` named by where this server fetches them.
    """
    reading = read(messages.raw(room.reader(), number))
    if not reading.html:
        raise NotFound("This message has no HTML. Its text is shown instead.")
    fetched = (lambda at: f"/api/messages/{number}/pictures/{at}") if pictures else None
    return SafeHtml(reading.html, _inline_pictures(reading, number), fetched).page()


def header_lines(room: Mailroom, number: int) -> list[tuple[str, str]]:
    """The headers of a message in order, decoded: name and value."""
    return header_list(parse(messages.raw(room.reader(), number)))


def part_text(room: Mailroom, number: int, path: str) -> tuple[str, bool]:
    """An attached text as such, and whether it was cut. Raises :class:`CallerError` for what is no text."""
    part = find_part(parse(messages.raw(room.reader(), number)), path)
    if part is None:
        raise NotFound(f"Message {number} has no part {path}.")
    if not part_type(part).startswith("text/"):
        raise CallerError("This attachment is no text. Save it instead.")
    text = decode_bytes(part_bytes(part)[: 4 * MAX_PREVIEW], str(part.get_content_charset() or ""))
    return text[:MAX_PREVIEW], len(text) > MAX_PREVIEW


PDF = "application/pdf"
MAX_PREVIEW = 200_000
"""Characters of an attached text that are shown."""
_RASTER = frozenset({"image/png", "image/jpeg", "image/gif", "image/webp"})


def _inline_pictures(reading: Reading, number: int) -> dict[str, str]:
    return {
        part.content_id: f"/api/messages/{number}/parts/{part.path}"
        for part in reading.parts
        if part.content_id and part.media_type in _RASTER
    }


@dataclass(frozen=True, slots=True)
class FilePart:
    """An attachment as a file; ``inline`` tells whether it may be shown rather than saved: raster pictures, and a PDF
    when it is asked for by itself."""

    content: bytes
    media_type: str
    name: str
    inline: bool


def file_part(room: Mailroom, number: int, path: str, *, view: bool = False) -> FilePart:
    """An attached part. Raises :class:`NotFound`."""
    raw = messages.raw(room.reader(), number)
    part = find_part(parse(raw), path)
    listed = next((p for p in read(raw).parts if p.path == path), None)
    if part is None or listed is None:
        raise NotFound(f"Message {number} has no part {path}.")
    inline = listed.media_type in _RASTER or (view and listed.media_type == PDF)
    kind = listed.media_type if inline else "application/octet-stream"
    return FilePart(part_bytes(part), kind, listed.name or f"part-{path}", inline)


def thread_of(room: Mailroom, number: int) -> list[Message]:
    """The messages of a message's thread, oldest first."""
    db = room.reader()
    return messages.of_thread(db, messages.get(db, number).thread)
