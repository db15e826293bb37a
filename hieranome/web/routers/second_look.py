"""A second look at what stands."""

from __future__ import annotations

from fastapi import APIRouter

from hieranome.app import second_look
from hieranome.web.models.second_look import OfferedIn, SecondLookOut
from hieranome.web.models.teaching import StepOut
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["second look"])


@router.get("/second-look")
def list_offers(room: RoomDep) -> list[SecondLookOut]:
    """What the model would put elsewhere by now."""
    return [
        SecondLookOut(place=one.place, target=one.target, lessons=one.lessons, messages=rows_out(room, one.messages))
        for one in second_look.offers(room)
    ]


@router.post("/second-look/moved")
def accept_offers(room: RoomDep, wanted: OfferedIn) -> StepOut:
    """Move offered messages to where they look like belonging, in one undoable step."""
    return StepOut.model_validate(second_look.accept(room, wanted.messages))


@router.post("/second-look/left", status_code=204)
def leave_standing(room: RoomDep, wanted: OfferedIn) -> None:
    """Let messages stand where they stand; they are not offered again."""
    second_look.leave(room, wanted.messages)
