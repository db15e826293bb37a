"""Places, lists and messages."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query
from fastapi.responses import HTMLResponse, Response

from hieranome.app import viewing
from hieranome.core.buckets import UNDECIDED
from hieranome.core.facts import Correspondent
from hieranome.core.routing import bounds
from hieranome.mail.safe_html import POLICY
from hieranome.store import messages, places
from hieranome.store.lessons import LessonRecord
from hieranome.store.messages import Order
from hieranome.web.models.mail import (
    BoundsOut,
    EvidenceOut,
    LessonOut,
    LowOut,
    MessageOut,
    OpenedOut,
    PageOut,
    PartOut,
    PersonOut,
    PlaceOut,
    PlacesOut,
    SeenIn,
)
from hieranome.web.state import RoomDep

router = APIRouter(tags=["mail"])

LETTERS = "asdfg"
"""Letters that put a message in the places of the band, in its order, Your call left out."""


@router.get("/places")
def list_places(room: RoomDep) -> PlacesOut:
    """All places with their counts, in the order of the flow band."""
    letters = iter(LETTERS)
    found = []
    for place in places.every(room.reader()):
        takes = place.band >= 0 and place.name != UNDECIDED
        key = next(letters, "") if takes else ""
        found.append(PlaceOut(**{n: getattr(place, n) for n in place.__dataclass_fields__}, key=key))
    limits = bounds(room.costs)
    return PlacesOut(places=found, bounds=BoundsOut(ask=limits.ask, desk=limits.desk), revision=room.revision)


@router.get("/messages")
def list_messages(
    room: RoomDep,
    place: str,
    order: Order = "importance",
    cursor: str = "",
    limit: Annotated[int, Query(ge=1, le=messages.MAX_PAGE)] = 100,
) -> PageOut:
    """One page of a place; pass ``next`` back as ``cursor`` for the following one."""
    db = room.reader()
    places.check(db, place)
    revision, _, position = cursor.partition("~") if cursor else ("", "", "")
    page = messages.page(db, place, order, position, limit)
    return PageOut(
        messages=[MessageOut.model_validate(m) for m in page.messages],
        next=f"{room.revision}~{page.next}" if page.next else "",
        revision=room.revision,
        shifted=bool(cursor) and order == "importance" and revision != str(room.revision),
    )


@router.get("/messages/{number}")
def open_message(room: RoomDep, number: int) -> OpenedOut:
    """One message with its text, its evidence and what may be done with it."""
    opened = viewing.open_message(room, number)
    facts = opened.facts
    return OpenedOut(
        message=MessageOut.model_validate(opened.row),
        sender=_person(facts.sender),
        to=[_person(c) for c in facts.to],
        cc=[_person(c) for c in facts.cc],
        log_odds=opened.judgement.log_odds,
        low=[LowOut(place=name, share=share) for name, share in opened.judgement.low.items()],
        evidence=[
            EvidenceOut(
                kind=line.kind,
                group=line.group,
                text=line.text,
                value=line.value,
                count=line.count,
                lesson=_lesson(record),
            )
            for line, record in opened.evidence
        ],
        verdict=_lesson(opened.verdict),
        text=opened.text,
        has_html=opened.has_html,
        blocked=opened.blocked,
        parts=[PartOut.model_validate(part) for part in opened.parts],
        reaches=opened.reaches,
        defects=list(facts.defects),
        authentication=[f"{server}: {results}" for server, results in facts.authentication],
        vouched=opened.vouched,
        warnings=opened.warnings,
    )


@router.get("/messages/{number}/html", response_class=HTMLResponse)
def message_html(room: RoomDep, number: int) -> HTMLResponse:
    """The message's HTML, made safe, as a page for a frame without scripts."""
    return HTMLResponse(viewing.html_page(room, number), headers={"content-security-policy": POLICY})


@router.get("/messages/{number}/source", response_class=Response)
def message_source(room: RoomDep, number: int) -> Response:
    """The bytes of the message as they came, as a download."""
    content = messages.raw(room.reader(), number)
    headers = {"content-disposition": f'attachment; filename="message-{number}.eml"'}
    return Response(content, media_type="application/octet-stream", headers=headers)


@router.get("/messages/{number}/parts/{path}", response_class=Response)
def message_part(room: RoomDep, number: int, path: str) -> Response:
    """An attachment: raster pictures as such, everything else as a download."""
    part = viewing.file_part(room, number, path)
    way = "inline" if part.inline else "attachment"
    headers = {"content-disposition": f"{way}; filename*=UTF-8''{quote(part.name)}"}
    return Response(part.content, media_type=part.media_type, headers=headers)


@router.get("/messages/{number}/thread")
def message_thread(room: RoomDep, number: int) -> list[MessageOut]:
    """The messages of the same thread, oldest first."""
    return [MessageOut.model_validate(m) for m in viewing.thread_of(room, number)]


@router.put("/messages/{number}/seen")
def set_seen(room: RoomDep, number: int, wanted: SeenIn) -> MessageOut:
    """Mark a message read or unread."""
    return MessageOut.model_validate(viewing.mark_seen(room, number, wanted.seen))


def _person(who: Correspondent) -> PersonOut:
    return PersonOut(name=who.name, address=who.address)


def _lesson(record: LessonRecord | None) -> LessonOut | None:
    return LessonOut.model_validate(record) if record else None
