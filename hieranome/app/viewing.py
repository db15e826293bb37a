"""One message opened: what it says, where it stands and why."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.app.bulk import addresses
from hieranome.app.reading.placement import Examined, bound_by, examine
from hieranome.app.reading.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.authentication import Standing, in_words
from hieranome.core.buckets import DRAIN, PARKED
from hieranome.core.deciders import DECIDERS, NEVER_TAUGHT, Decider
from hieranome.core.errors import MessageUnreadable
from hieranome.core.evidence import Line, explain
from hieranome.core.facts import MessageFacts
from hieranome.core.features import extract
from hieranome.core.judgement import Judgement
from hieranome.core.rules import Rule
from hieranome.core.sure import Reach
from hieranome.core.tags import Tag
from hieranome.core.text import Passage, passages
from hieranome.core.vouched import posed_address
from hieranome.mail import opening
from hieranome.mail.invitation import Invitation
from hieranome.mail.opening import FilePart, View
from hieranome.mail.reading import Part, read_as_source
from hieranome.store import copies, editions, lessons, messages, rules, searches, tags, threads, topics
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
    """A message with everything the reading side shows; ``edition`` is the one it stands for, or 0; ``ruled`` are the
    rules that took it, ``topics`` the tags of the topics that found it as it arrived, or ask about it; ``refused`` is
    the sender, list or domain (as ``kind:key``) whose mail goes to the Drain for always, where it stands elsewhere."""

    row: Message
    facts: MessageFacts
    judgement: Judgement
    evidence: list[tuple[Line, LessonRecord | None]]
    verdict: LessonRecord | None
    accounts: list[str]
    passages: list[Passage]
    has_html: bool
    blocked: int
    pictured: bool
    parts: list[Part]
    invitation: Invitation | None
    checks: list[Check]
    reaches: list[Reach]
    vouched: bool
    standing: Standing
    warnings: list[str]
    edition: int
    ruled: list[tuple[Rule, rules.Hit]]
    topics: list[Tag]
    refused: str

    @property
    def decided(self) -> str:
        """Why it stands where it stands, in words; empty where the score says it."""
        return "It is parked." if self.row.place == PARKED else DECIDERS[self.row.decided_by].words


def open_message(room: Mailroom, number: int) -> Opened:
    """Read a message and explain its score."""
    db = room.reader()
    row = messages.get(db, number)
    seen = _view(messages.raw(db, number), row)
    reading = seen.reading
    with room.steady():
        found = examine(room, db, reading.facts, number)
        context = found.context(room, threads.has_mine(db, row.thread))
        # An edition is not weighed; what would be said of it is not shown.
        kept = messages.vectors(db, [number]).get(number)
        vector = extract(reading.facts, context) if kept is None else kept
        judgement = room.engine.judge(vector)
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
    return Opened(
        row=row,
        facts=reading.facts,
        judgement=judgement,
        evidence=evidence,
        verdict=lessons.of_message(db, number),
        accounts=copies.accounts_of(db, [number]).get(number, []),
        passages=passages(reading.text),
        has_html=bool(reading.html),
        blocked=seen.remote,
        pictured=found.assured and searches.is_pictured(db, reading.facts.sender.address),
        parts=[part for part in reading.parts if part.attached],
        invitation=seen.invitation,
        checks=[
            Check(server, server in room.confirmed, in_words(results))
            for server, results in reading.facts.authentication
        ],
        reaches=_reaches(reading.facts, room.shared),
        vouched=found.assured and _trusted(room, reading.facts),
        standing=found.finding.standing,
        warnings=_warnings(room, reading.facts, found, own=row.decided_by in NEVER_TAUGHT),
        edition=editions.of_message(db, number) if row.decided_by == Decider.EDITION else 0,
        ruled=rules.of_message(db, number),
        topics=[tags.get(db, tag) for tag in topics.of_message(db, number)],
        refused=_refused(room, db, row, reading.facts),
    )


def _refused(room: Mailroom, db: sqlite3.Connection, row: Message, facts: MessageFacts) -> str:
    """What of a message is refused for always although it stands elsewhere than in the Drain; empty where nothing
    is."""
    bound = bound_by(room, db, facts) if row.place != DRAIN else None
    return bound.said if bound is not None and bound.bucket == DRAIN else ""


def _view(raw: bytes, row: Message) -> View:
    """The message read; as its source where it could not be read, when it came or now."""
    if row.readable:
        with contextlib.suppress(MessageUnreadable):
            return guarded(opening.view, raw)
    return View(read_as_source(raw), 0, None)


def _warnings(room: Mailroom, facts: MessageFacts, found: Examined, *, own: bool) -> list[str]:
    """What the owner should know of the sender before believing the message."""
    said = []
    if not facts.readable:
        said.append("This message could not be read. It was kept whole; what you see is its source.")
    if found.forged:
        said.append(f"Forged: {found.finding.why}. What you said of this sender does not count for it.")
    if found.alike is not None and found.single:
        said.append(
            f"This sender looks like {found.alike.name or found.alike.key}, whom you vouch for, but writes from "
            f"{facts.sender.address or 'no address'}."
        )
    if not facts.headers_whole:
        said.append(
            "Not all headers of this message could be read, and they may say something else than you see. What you "
            "said of its sender does not count for it, and nothing is sent by itself because of it."
        )
    elif not found.single:
        said.append(
            "This message does not name exactly one sender, so it counts as nobody's: what you said of any of them "
            "does not count for it."
        )
    posed = posed_address(facts.sender)
    if posed and facts.sender.address:
        said.append(f"The name shown is an address, {posed}, but the sender's address is {facts.sender.address}.")
    if found.finding.standing is Standing.UNALIGNED and _trusted(room, facts):
        said.append(
            f"Your mail server found nothing that shows that {facts.sender.domain or 'its sender'} sent this, so what "
            "you said of this sender does not count for it."
        )
    given = None if own else addresses.misused(room, facts)
    if given is not None:
        said.append(
            f"This came to {given.address}, which you gave to {given.given_to}, from {facts.sender.domain}: somebody "
            "passed it on, or it was taken."
        )
    if room.owner.owns(facts.sender) and not own:
        said.append("This message bears your own address, and nothing shows that you wrote it.")
    return said


def _trusted(room: Mailroom, facts: MessageFacts) -> bool:
    return any(one.covers(facts.sender) for one in room.vouched)


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


def html_page(room: Mailroom, number: int, *, pictures: bool = False) -> str:
    """The message's HTML, cleaned, as a page for the frame, its remote pictures left out or with ``pictures`` fetched
    by this server. Raises :class:`NotFound` when it has none."""
    raw = messages.raw(room.reader(), number)
    return guarded(opening.html_page, raw, f"/api/messages/{number}", pictures=pictures)


def header_lines(room: Mailroom, number: int) -> list[tuple[str, str]]:
    """The headers of a message in order, decoded: name and value."""
    return guarded(opening.header_lines, messages.raw(room.reader(), number))


def part_text(room: Mailroom, number: int, path: str) -> tuple[str, bool]:
    """An attached text as such, and whether it was cut. Raises :class:`NotFound`, and :class:`CallerError` for what is
    no text."""
    return guarded(opening.part_text, messages.raw(room.reader(), number), path)


def file_part(room: Mailroom, number: int, path: str, *, view: bool = False) -> FilePart:
    """An attached part. Raises :class:`NotFound`."""
    return guarded(opening.file_part, messages.raw(room.reader(), number), path, to_view=view)


def thread_of(room: Mailroom, number: int) -> list[Message]:
    """The messages of a message's thread, oldest first."""
    db = room.reader()
    return messages.of_thread(db, messages.get(db, number).thread)


def source_of(room: Mailroom, number: int) -> bytes:
    """The bytes of a message as they came. Raises :class:`hieranome.core.errors.NotFound`."""
    return messages.raw(room.reader(), number)


def subjects(room: Mailroom, numbers: Sequence[int]) -> dict[int, str]:
    """The subjects of those of some messages that are here."""
    return {row.id: row.subject for row in messages.get_many(room.reader(), list(numbers))}
