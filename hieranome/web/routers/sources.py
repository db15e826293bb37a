"""The mail of a place by source: lists and senders, and verdicts on all of one."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import lists
from hieranome.app.lists import MAX_PAGE, Ranked, Source
from hieranome.app.teaching.by_source import put_source
from hieranome.web.models.mail import MessageOut, PageOut
from hieranome.web.models.sources import SourceOut, SourcesOut, SourceVerdictIn
from hieranome.web.models.teaching import OutcomeOut
from hieranome.web.routers.mail import page_out, rows_out
from hieranome.web.routers.teaching import outcome_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["sources"])
Key = Annotated[str, Query(max_length=2_000)]


@router.get("/places/{name}/sources")
def list_sources(
    room: RoomDep,
    name: str,
    order: Ranked = "total",
    cursor: Annotated[str, Query(max_length=3_000)] = "",
    limit: Annotated[int, Query(ge=1, le=200)] = 60,
) -> SourcesOut:
    """The sources of a place's mail, those with most mail or with the newest first."""
    found = lists.by_source(room, name, order, cursor, limit)
    newest = rows_out(room, [one.newest for one in found.sources])
    shown = [_out(one, row) for one, row in zip(found.sources, newest, strict=True)]
    return SourcesOut(sources=shown, count=found.count, next=found.next)


def _out(one: Source, newest: MessageOut) -> SourceOut:
    return SourceOut(
        key=one.key,
        name=one.name,
        listed=one.key.startswith("list:"),
        total=one.total,
        unread=one.unread,
        newest=newest,
        weekly=one.lately / lists.SEEN_WEEKS,
        read=one.read,
    )


@router.get("/places/{name}/sources/mail")
def list_mail_of_source(
    room: RoomDep, name: str, source: Key, cursor: str = "", limit: Annotated[int, Query(ge=1, le=MAX_PAGE)] = 100
) -> PageOut:
    """One page of the mail of a source in a place, newest first; pass ``next`` back as ``cursor``."""
    return page_out(room, lists.of_source(room, name, source, cursor, limit))


@router.post("/places/{name}/sources/verdict")
def give_verdict_on_source(room: RoomDep, name: str, verdict: SourceVerdictIn) -> OutcomeOut:
    """Say where all mail of a source in a place belongs: one lesson, and one step."""
    return outcome_out(
        room,
        put_source(room, name, verdict.source, verdict.belongs, always=verdict.always, confirmed=verdict.confirmed),
    )
