"""The short of mail, and where things stand with somebody."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app.following.briefing import briefing
from hieranome.app.following.due import told
from hieranome.app.following.short import short_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import Message
from hieranome.core.short import Line
from hieranome.web.models.answer import Id
from hieranome.web.models.mail import MessageOut, PartOut
from hieranome.web.models.short import BriefingOut, DatedOut, FileOut, LineOut, PromisedOut, ShortPartOut
from hieranome.web.routers.following import owed_out
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["short"])


@router.get("/messages/{number}/short")
def get_short(room: RoomDep, number: Id, thread: bool = False) -> list[ShortPartOut]:
    """The sentences that carry a message, or all of its thread, with what each asks, promises and dates."""
    parts = short_of(room, number, thread=thread)
    shown = _by_id(room, [one.message for one in parts])
    return [
        ShortPartOut(
            message=shown[one.message.id],
            own=one.own,
            lines=[_line(line) for line in one.lines],
        )
        for one in parts
    ]


def _line(line: Line) -> LineOut:
    dates = [said.words.rstrip(".,;:!?…") for said in line.dates]
    return LineOut(text=line.text, asks=line.asks, promises=line.promises, dates=dates)


@router.get("/standing")
def get_standing(room: RoomDep, address: Annotated[str, Query(min_length=1, max_length=254)]) -> BriefingOut:
    """Where things stand with who writes from an address: open questions both ways, and since the owner last wrote to
    them what they promised, times to come and files."""
    found = briefing(room, address)
    rows = [found.last] if found.last else []
    rows += [one.message for one in found.promised] + [one.message for one in found.dates]
    shown = _by_id(room, rows + [one.message for one in found.files])
    return BriefingOut(
        address=found.address,
        name=found.name,
        last=shown[found.last.id] if found.last else None,
        since=found.since,
        you=owed_out(room, found.you),
        they=owed_out(room, found.they),
        promised=[PromisedOut(message=shown[one.message.id], sentence=one.sentence) for one in found.promised],
        dates=[
            DatedOut(
                message=shown[one.message.id],
                sentence=one.sentence,
                at=one.moment.at,
                day=one.moment.day,
                shown=told(room, one.moment),
            )
            for one in found.dates
        ],
        files=[FileOut(message=shown[one.message.id], part=PartOut.model_validate(one.part)) for one in found.files],
    )


def _by_id(room: Mailroom, rows: Sequence[Message]) -> dict[int, MessageOut]:
    known = {row.id: row for row in rows}
    return dict(zip(known, rows_out(room, list(known.values())), strict=True))
