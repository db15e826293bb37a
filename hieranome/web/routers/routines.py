"""Routines: kept, tried on a message, done."""

from __future__ import annotations

from fastapi import APIRouter

from hieranome.app import viewing
from hieranome.app.routines import keeping, running
from hieranome.app.routines.keeping import Kept
from hieranome.core.routines import DOINGS, Action, Routine
from hieranome.web.models.answer import Id
from hieranome.web.models.routines import (
    RanRoutineOut,
    RefusedOut,
    RoutineActionOut,
    RoutineDoingOut,
    RoutineIn,
    RoutineOut,
    RoutinesOut,
    RunRoutineIn,
    TriedOut,
    TriedRoutineOut,
    TryRoutineIn,
)
from hieranome.web.state import RoomDep

router = APIRouter(tags=["routines"])


def _out(kept: Kept) -> RoutineOut:
    one = kept.routine
    actions = [RoutineActionOut.model_validate(action) for action in one.actions]
    return RoutineOut(id=one.id, name=one.name, key=one.key, actions=actions, broken=kept.broken)


def _routine(wanted: RoutineIn, number: int = 0) -> Routine:
    return Routine(number, wanted.name, wanted.key, tuple(Action(one.verb, one.target) for one in wanted.actions))


@router.get("/routines")
def list_routines(room: RoomDep) -> RoutinesOut:
    """All routines, and what they can do."""
    doings = [RoutineDoingOut.model_validate(one) for one in DOINGS]
    return RoutinesOut(routines=[_out(one) for one in keeping.every(room)], doings=doings)


@router.post("/routines", status_code=201)
def add_routine(room: RoomDep, wanted: RoutineIn) -> RoutineOut:
    """Keep a new routine."""
    return _out(keeping.keep(room, _routine(wanted)))


@router.put("/routines/{number}")
def change_routine(room: RoomDep, number: Id, wanted: RoutineIn) -> RoutineOut:
    """Change a routine."""
    return _out(keeping.keep(room, _routine(wanted, number)))


@router.delete("/routines/{number}", status_code=204)
def remove_routine(room: RoomDep, number: Id) -> None:
    """Take a routine out; what it did stands."""
    keeping.remove(room, number)


@router.post("/routines/try")
def try_routine(room: RoomDep, wanted: TryRoutineIn) -> TriedRoutineOut:
    """What a routine would do to a message; nothing is done."""
    actions = [Action(one.verb, one.target) for one in wanted.actions]
    lines, refused = keeping.tried(room, actions, wanted.message)
    subject = viewing.subjects(room, [wanted.message])[wanted.message]
    return TriedRoutineOut(subject=subject, lines=[TriedOut.model_validate(one) for one in lines], refused=refused)


@router.post("/routines/{number}/run")
def run_routine(room: RoomDep, number: Id, wanted: RunRoutineIn) -> RanRoutineOut:
    """Do a routine to messages, as one step. Where it cannot be done to some, nothing is done and they are told, unless
    they are left as they are."""
    done = running.run(room, number, wanted.messages, leaving=wanted.leaving)
    named = viewing.subjects(room, list(done.refused))
    refused = [RefusedOut(message=one, subject=named.get(one, ""), why=why) for one, why in done.refused.items()]
    return RanRoutineOut(step=done.step, messages=done.messages, drafts=done.drafts, refused=refused)
