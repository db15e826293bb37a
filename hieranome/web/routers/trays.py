"""The Desk in trays."""

from __future__ import annotations

from itertools import islice
from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import trays
from hieranome.core.trays import MOST, Tray
from hieranome.web.models.trays import DeskOut, ShownOut, TrayOut, TraysIn
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["trays"])


@router.get("/trays")
def list_trays(room: RoomDep) -> list[TrayOut]:
    """The trays of the Desk in their order; none where it is one list."""
    return [TrayOut.model_validate(one) for one in trays.every(room.reader())]


@router.put("/trays")
def arrange_trays(room: RoomDep, wanted: TraysIn) -> list[TrayOut]:
    """Say which trays there are, and in which order."""
    given = [Tray(**one.model_dump()) for one in wanted.trays]
    return [TrayOut.model_validate(one) for one in trays.put(room, given)]


@router.delete("/trays")
def reset_trays(room: RoomDep) -> list[TrayOut]:
    """Bring the trays back to those that ship."""
    return [TrayOut.model_validate(one) for one in trays.as_they_came(room)]


@router.get("/desk")
def show_desk(
    room: RoomDep,
    since: Annotated[int, Query(ge=0, le=2**40)] = 0,
    whole: Annotated[list[int], Query(max_length=MOST)] = [],  # noqa: B006
) -> DeskOut:
    """What stands in each tray; ``since`` is when the owner was last here, ``whole`` the trays that give all rows."""
    shown, older = trays.show(room, since, whole)
    rows = iter(rows_out(room, [row for one in shown for row in one.messages]))
    return DeskOut(
        trays=[
            ShownOut(
                tray=TrayOut.model_validate(one.tray),
                total=one.total,
                unread=one.unread,
                numbers=one.numbers,
                messages=list(islice(rows, len(one.messages))),
                problem=one.problem,
            )
            for one in shown
        ],
        older=older,
    )
