"""Places, lists and messages."""

from __future__ import annotations

import asyncio
import sqlite3
from collections.abc import Sequence
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse, Response

from hieranome.app import pictures, viewing
from hieranome.app.bulk.draining import leaves_at
from hieranome.app.following.due import due_by_now
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.topics.arriving import TOPIC
from hieranome.core.buckets import DRAIN
from hieranome.core.evidence import Line
from hieranome.core.facts import Correspondent
from hieranome.core.routing import FAIRLY_SURE, QUITE_SURE, bounds
from hieranome.mail.opening import PDF
from hieranome.mail.safe_html import POLICY
from hieranome.store import copies, following, listing, messages, places, searches, tags, topics
from hieranome.store.following import Followed
from hieranome.store.lessons import LessonRecord
from hieranome.store.listing import Listing, Order
from hieranome.store.messages import Message
from hieranome.web.models.answer import Id
from hieranome.web.models.mail import (
    BoundsOut,
    CheckOut,
    EvidenceOut,
    FollowedOut,
    HeaderOut,
    InvitationOut,
    LessonOut,
    LowOut,
    MessageOut,
    OpenedOut,
    PageOut,
    PartOut,
    PartTextOut,
    PassageOut,
    PersonOut,
    PlacesOut,
    RuledOut,
)
from hieranome.web.models.search import PicturedIn, PicturedOut
from hieranome.web.routers.filing import place_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["mail"])

PDF_POLICY = "default-src 'none'; object-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'"
"""What a PDF shown by the browser's own viewer may do."""


@router.get("/places")
def list_places(room: RoomDep) -> PlacesOut:
    """All places with their counts, in the order of the flow band."""
    found = [place_out(place) for place in places.every(room.reader())]
    limits = bounds(room.costs)
    return PlacesOut(
        places=found,
        bounds=BoundsOut(ask=limits.ask, desk=limits.desk, quite=QUITE_SURE, fairly=FAIRLY_SURE),
        revision=room.revision,
        due=len(due_by_now(room)),
    )


def followed_out(one: Followed) -> FollowedOut:
    """What is followed through of a message as the page takes it."""
    state = one.state
    return FollowedOut(kind=one.kind, at=state.at, day=state.day, answer=state.answer, since=state.since)


def rows_out(room: Mailroom, db: sqlite3.Connection, rows: Sequence[Message]) -> list[MessageOut]:
    """Rows of a list, each with its mailboxes where there are several, and in the Drain with the day it leaves."""
    held = copies.told_apart(db, [row.id for row in rows])
    found = [MessageOut.model_validate(row) for row in rows]
    carried = tags.of(db, [row.id for row in rows])
    leaves = leaves_at(db, [row.id for row in rows if row.place == DRAIN], room.clock())
    asks = topics.questions(db, [row.id for row in rows if row.decided_by == TOPIC])
    followed: dict[int, list[FollowedOut]] = {}
    for each in following.of(db, [row.id for row in rows]):
        followed.setdefault(each.message, []).append(followed_out(each))
    asked = room.asked_between(db, [row for row in rows if row.id not in asks])
    for one in found:
        one.between = asked.get(one.id, [])
        one.follow = followed.get(one.id, [])
        one.topic = asks.get(one.id, 0)
        one.accounts = held.get(one.id, [])
        one.leaves_at = leaves.get(one.id, 0)
        one.tags = carried.get(one.id, [])
    return found


@router.get("/messages")
def list_messages(
    room: RoomDep,
    place: str,
    order: Order = "importance",
    unread_first: bool = False,
    unread_only: bool = False,
    cursor: str = "",
    limit: Annotated[int, Query(ge=1, le=listing.MAX_PAGE)] = 100,
) -> PageOut:
    """One page of a place; pass ``next`` back as ``cursor`` for the following one."""
    db = room.reader()
    places.check(db, place)
    revision, _, position = cursor.partition("~") if cursor else ("", "", "")
    page = listing.page(db, Listing(place, order, unread_first, unread_only), position, limit)
    return PageOut(
        messages=rows_out(room, db, page.messages),
        next=f"{room.revision}~{page.next}" if page.next else "",
        revision=room.revision,
        shifted=bool(cursor) and order == "importance" and revision != str(room.revision),
    )


@router.get("/messages/{number}")
def open_message(room: RoomDep, number: Id) -> OpenedOut:
    """One message with its text, its evidence and what may be done with it."""
    opened = viewing.open_message(room, number)
    facts = opened.facts
    return OpenedOut(
        message=rows_out(room, room.reader(), [opened.row])[0],
        sender=_person(facts.sender),
        to=[_person(c) for c in facts.to],
        cc=[_person(c) for c in facts.cc],
        log_odds=opened.judgement.log_odds,
        low=[LowOut(place=name, share=share) for name, share in opened.judgement.low.items()],
        evidence=[evidence_out(line, record) for line, record in opened.evidence],
        verdict=_lesson(opened.verdict),
        accounts=opened.accounts,
        edition=opened.edition,
        ruled=[RuledOut(rule=rule.id, name=rule.name, put=hit.put, lost_to=hit.lost_to) for rule, hit in opened.ruled],
        topics=[tag.id for tag in opened.topics],
        passages=[PassageOut.model_validate(one) for one in opened.passages],
        has_html=opened.has_html,
        blocked=opened.blocked,
        pictured=opened.pictured,
        parts=[PartOut.model_validate(part) for part in opened.parts],
        reaches=opened.reaches,
        defects=list(facts.defects),
        invitation=InvitationOut.model_validate(opened.invitation) if opened.invitation else None,
        checks=[CheckOut.model_validate(one) for one in opened.checks],
        vouched=opened.vouched,
        standing=opened.standing,
        warnings=opened.warnings,
    )


@router.get(
    "/messages/{number}/html",
    response_class=Response,
    responses={200: {"content": {"text/html": {"schema": {"type": "string"}}}}},
)
def message_html(room: RoomDep, number: Id, pictures: bool = False) -> HTMLResponse:
    """The message's HTML, made safe, as a page for a frame without scripts; with its remote pictures when asked."""
    return HTMLResponse(viewing.html_page(room, number, pictures=pictures), headers={"content-security-policy": POLICY})


@router.get("/messages/{number}/source", response_class=Response)
def message_source(room: RoomDep, number: Id) -> Response:
    """The bytes of the message as they came, as a download."""
    content = messages.raw(room.reader(), number)
    headers = {"content-disposition": f'attachment; filename="message-{number}.eml"'}
    return Response(content, media_type="application/octet-stream", headers=headers)


@router.get("/messages/{number}/headers")
def message_headers(room: RoomDep, number: Id) -> list[HeaderOut]:
    """The headers of the message in order, decoded."""
    return [HeaderOut(name=name, value=value) for name, value in viewing.header_lines(room, number)]


@router.get("/messages/{number}/pictures/{at}", response_class=Response)
async def message_picture(service: ServiceDep, number: Id, at: Id) -> Response:
    """A remote picture of the message, fetched now."""
    picture = await asyncio.wrap_future(service.pictures.get(number, at))
    return Response(picture.content, media_type=picture.media_type)


@router.get("/messages/{number}/parts/{path}", response_class=Response)
def message_part(room: RoomDep, number: Id, path: str, view: bool = False) -> Response:
    """An attachment: raster pictures as such, a PDF too with ``view``, everything else as a download."""
    part = viewing.file_part(room, number, path, view=view)
    way = "inline" if part.inline else "attachment"
    headers = {"content-disposition": f"{way}; filename*=UTF-8''{quote(part.name)}"}
    if part.media_type == PDF:
        headers["content-security-policy"] = PDF_POLICY
    return Response(part.content, media_type=part.media_type, headers=headers)


@router.get("/messages/{number}/parts/{path}/text")
def message_part_text(room: RoomDep, number: Id, path: str) -> PartTextOut:
    """An attached text, to be shown."""
    text, cut = viewing.part_text(room, number, path)
    return PartTextOut(text=text, cut=cut)


@router.get("/messages/{number}/thread")
def message_thread(room: RoomDep, number: Id) -> list[MessageOut]:
    """The messages of the same thread, oldest first."""
    return [MessageOut.model_validate(m) for m in viewing.thread_of(room, number)]


@router.post("/messages/{number}/opened")
def mark_opened(room: RoomDep, number: Id) -> MessageOut:
    """Mark a message read because it was opened."""
    return MessageOut.model_validate(marks.mark_opened(room, number))


@router.get("/pictured")
def list_pictured(room: RoomDep) -> PicturedOut:
    """The senders whose pictures are always fetched."""
    return PicturedOut(addresses=searches.pictured(room.reader()))


@router.put("/pictured")
def set_pictured(room: RoomDep, wanted: PicturedIn) -> PicturedOut:
    """Fetch a sender's pictures always, or no longer."""
    return PicturedOut(addresses=pictures.set_sender(room, wanted.address, wanted.wanted))


def _person(who: Correspondent) -> PersonOut:
    return PersonOut(name=who.name, address=who.address)


def evidence_out(line: Line, record: LessonRecord | None) -> EvidenceOut:
    """A line of evidence with the lesson it is about."""
    return EvidenceOut(
        kind=line.kind,
        group=line.group,
        text=line.text,
        value=line.value,
        count=line.count,
        search=line.search,
        lesson=_lesson(record),
    )


def _lesson(record: LessonRecord | None) -> LessonOut | None:
    return LessonOut.model_validate(record) if record else None
