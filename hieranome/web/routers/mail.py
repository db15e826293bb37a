"""Places, lists and messages."""

from __future__ import annotations

import asyncio
from collections.abc import Sequence
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse, Response

from hieranome.app import lists, pictures, viewing
from hieranome.app.following.due import due_by_now
from hieranome.app.lists import MAX_PAGE, Listing, Order
from hieranome.app.record import LessonRecord
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import Message, dressed, dressed_by_id
from hieranome.core.evidence import Line
from hieranome.core.facts import Correspondent
from hieranome.core.routing import FAIRLY_SURE, QUITE_SURE, bounds
from hieranome.mail.opening import PDF
from hieranome.mail.safe_html import POLICY
from hieranome.web.models.answer import Id
from hieranome.web.models.mail import (
    BoundsOut,
    CheckOut,
    EvidenceOut,
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
    found = [place_out(place) for place in lists.every_place(room)]
    limits = bounds(room.costs)
    return PlacesOut(
        places=found,
        bounds=BoundsOut(ask=limits.ask, desk=limits.desk, quite=QUITE_SURE, fairly=FAIRLY_SURE),
        revision=room.revision,
        due=len(due_by_now(room)),
    )


def rows_out(room: Mailroom, rows: Sequence[Message]) -> list[MessageOut]:
    """Messages as rows of a list, in their order."""
    return [MessageOut.model_validate(one) for one in dressed(room, rows)]


def rows_by_id(room: Mailroom, numbers: Sequence[int]) -> dict[int, MessageOut]:
    """Those of some messages that are here, as rows by their ids."""
    return {row.id: MessageOut.model_validate(row) for row in dressed_by_id(room, numbers)}


def page_out(room: Mailroom, found: lists.Page) -> PageOut:
    """A page of rows as the page takes it."""
    rows = [MessageOut.model_validate(one) for one in found.rows]
    return PageOut(messages=rows, next=found.next, revision=room.revision, shifted=found.shifted)


@router.get("/messages")
def list_messages(
    room: RoomDep,
    place: str,
    order: Order = "importance",
    unread_first: bool = False,
    unread_only: bool = False,
    cursor: str = "",
    limit: Annotated[int, Query(ge=1, le=MAX_PAGE)] = 100,
) -> PageOut:
    """One page of a place; pass ``next`` back as ``cursor`` for the following one."""
    wanted = Listing(place, order, unread_first, unread_only)
    return page_out(room, lists.page(room, wanted, cursor, limit))


@router.get("/messages/{number}")
def open_message(room: RoomDep, number: Id) -> OpenedOut:
    """One message with its text, its evidence and what may be done with it."""
    opened = viewing.open_message(room, number)
    facts = opened.facts
    return OpenedOut(
        message=rows_out(room, [opened.row])[0],
        decided=opened.decided,
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
        refused=opened.refused,
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
    content = viewing.source_of(room, number)
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
    return rows_out(room, viewing.thread_of(room, number))


@router.post("/messages/{number}/opened")
def mark_opened(room: RoomDep, number: Id) -> MessageOut:
    """Mark a message read because it was opened."""
    return rows_out(room, [marks.mark_opened(room, number)])[0]


@router.get("/pictured")
def list_pictured(room: RoomDep) -> PicturedOut:
    """The senders whose pictures are always fetched."""
    return PicturedOut(addresses=pictures.senders(room))


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
