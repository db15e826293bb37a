"""Editions and their plans."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Response

from hieranome.app.bulk import planning
from hieranome.app.bulk.planning import KeptPlan
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.zones import local_zone, zone_of
from hieranome.core.editions import Entry
from hieranome.core.plans import Plan, next_due
from hieranome.web.models.answer import Id
from hieranome.web.models.editions import (
    CameOut,
    EditionEntryOut,
    EditionOut,
    EditionsOut,
    EndOut,
    GroupOut,
    LeaveOutIn,
    LeftOutOut,
    OpenedEditionOut,
    PlanIn,
    PlanOut,
    PlansOut,
)
from hieranome.web.models.teaching import StepOut
from hieranome.web.state import RoomDep

router = APIRouter(tags=["editions"])


@router.get("/plans")
def list_plans(room: RoomDep) -> PlansOut:
    """All edition plans, and what stands in no edition."""
    out = planning.left_out(room)
    told = [LeftOutOut(source=one, name=name) for one, name in zip(out, planning.names(room, out), strict=True)]
    return PlansOut(plans=[_plan_out(room, one) for one in planning.every(room)], left_out=told, zone=local_zone())


def _plan_out(room: Mailroom, one: KeptPlan) -> PlanOut:
    due = next_due(one.plan, zone_of(one.plan.zone), room.clock())
    names = planning.names(room, one.plan.sources)
    return PlanOut.model_validate({**asdict(one.plan), "id": one.id, "names": names, "next_due": due})


def _plan(given: PlanIn) -> Plan:
    return Plan(
        given.name.strip(),
        given.enabled,
        tuple(given.buckets),
        tuple(given.sources),
        given.search,
        given.days,
        tuple(given.times),
        given.zone or local_zone(),
        given.grouped,
        given.length,
        given.delivered,
    )


@router.post("/plans")
def make_plan(room: RoomDep, given: PlanIn) -> PlanOut:
    """Make a plan; its first edition takes mail of the week before."""
    return _plan_out(room, planning.make(room, _plan(given)))


@router.put("/plans/{number}")
def change_plan(room: RoomDep, number: Id, given: PlanIn) -> PlanOut:
    """Describe a plan anew, from the next time it is due."""
    return _plan_out(room, planning.change(room, number, _plan(given)))


@router.delete("/plans/{number}", status_code=204)
def remove_plan(room: RoomDep, number: Id) -> None:
    """Compile no more editions of a plan; those there are stay."""
    planning.remove(room, number)


@router.post("/left-out")
def leave_out(room: RoomDep, given: LeaveOutIn) -> StepOut:
    """Let lists and senders stand in no edition, as a step."""
    return StepOut.model_validate(planning.leave_out(room, given.sources))


@router.delete("/left-out", status_code=204)
def leave_in(room: RoomDep, source: Annotated[str, Query(max_length=2_000)]) -> None:
    """Let a list or sender stand in editions again."""
    planning.leave_in(room, source)


@router.get("/editions")
def list_editions(
    room: RoomDep, before: Annotated[Id, Query()] = 0, limit: Annotated[int, Query(ge=1, le=200)] = 50
) -> EditionsOut:
    """Editions, newest first."""
    found, more = planning.recent(room, before, limit)
    shown = [EditionOut.model_validate(one) for one in found]
    return EditionsOut(editions=shown, next=found[-1].id if more else 0, unread=planning.unread(room))


@router.get("/editions/{number}")
def open_edition(room: RoomDep, number: Id) -> OpenedEditionOut:
    """An edition to be read."""
    edition, content = planning.opened(room, number)
    stands = planning.standing(room, content)

    def entry(one: Entry) -> EditionEntryOut:
        place, seen = stands.get(one.message, ("trash", True))
        values = {name: value for name, value in asdict(one).items() if name != "message_id"}
        return EditionEntryOut.model_validate({**values, "place": place, "seen": seen})

    groups = [
        GroupOut(title=one.title, newest=entry(one.newest), others=[entry(other) for other in one.others])
        for one in content.groups
    ]
    told = {name: getattr(edition, name) for name in EditionOut.model_fields}
    came = [CameOut(title=title, count=count) for title, count in content.end.came]
    end = EndOut.model_validate({**asdict(content.end), "came": came})
    return OpenedEditionOut(**told, groups=groups, end=end, left_over=content.left_over)


@router.post("/editions/{number}/read", status_code=204)
def read_edition(room: RoomDep, number: Id) -> None:
    """Note that an edition was read."""
    planning.read(room, number)


@router.get("/editions/{number}/file")
def edition_as_file(room: RoomDep, number: Id, form: planning.Form = "html") -> Response:
    """An edition as a file to keep: HTML, Markdown or plain text."""
    text, name = planning.written_out(room, number, form)
    way = f"attachment; filename*=UTF-8''{quote(name)}"
    return Response(
        text,
        media_type=planning.FORMS[form][0],
        headers={"content-disposition": way, "content-security-policy": "sandbox"},
    )
