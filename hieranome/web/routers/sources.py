"""The mail of a place by source: lists and senders, and verdicts on all of one."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app.teaching.by_source import put_source
from hieranome.store import places, sources
from hieranome.store.listing import MAX_PAGE
from hieranome.store.sources import OFTEN, Source
from hieranome.web.models.mail import MessageOut, PageOut
from hieranome.web.models.sources import Ranked, SourceOut, SourcesOut, SourceVerdictIn
from hieranome.web.models.teaching import OutcomeOut
from hieranome.web.routers.mail import rows_out
from hieranome.web.routers.teaching import outcome_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["sources"])
Key = Annotated[str, Query(max_length=2_000)]
_WEEKS = OFTEN / (7 * 86_400)


@router.get("/places/{name}/sources")
def list_sources(
    room: RoomDep,
    name: str,
    order: Ranked = "total",
    cursor: Annotated[str, Query(max_length=3_000)] = "",
    limit: Annotated[int, Query(ge=1, le=200)] = 60,
) -> SourcesOut:
    """The sources of a place's mail, those with most mail or with the newest first."""
    db = room.reader()
    places.check(db, name)
    found = sources.page(db, name, order, cursor, limit)
    return SourcesOut(sources=[_out(one) for one in found.sources], count=found.count, next=found.next)


def _out(one: Source) -> SourceOut:
    return SourceOut(
        key=one.key,
        name=one.name,
        listed=one.key.startswith("list:"),
        total=one.total,
        unread=one.unread,
        newest=MessageOut.model_validate(one.newest),
        weekly=one.lately / _WEEKS,
        read=one.read,
    )


@router.get("/places/{name}/sources/mail")
def list_mail_of_source(
    room: RoomDep, name: str, source: Key, cursor: str = "", limit: Annotated[int, Query(ge=1, le=MAX_PAGE)] = 100
) -> PageOut:
    """One page of the mail of a source in a place, newest first; pass ``next`` back as ``cursor``."""
    db = room.reader()
    places.check(db, name)
    page = sources.mail(db, name, source, cursor, limit)
    return PageOut(messages=rows_out(room, db, page.messages), next=page.next, revision=room.revision, shifted=False)


@router.post("/places/{name}/sources/verdict")
def give_verdict_on_source(room: RoomDep, name: str, verdict: SourceVerdictIn) -> OutcomeOut:
    """Say where all mail of a source in a place belongs: one lesson, and one step."""
    places.check(room.reader(), name)
    return outcome_out(put_source(room, name, verdict.source, verdict.belongs, always=verdict.always))
