"""Queues: kept, shown by state, worked through."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from hieranome.app.queues import keeping, working
from hieranome.core.queues import Queue, State
from hieranome.web.models.answer import Id
from hieranome.web.models.filing import FiledOut
from hieranome.web.models.queues import (
    BringIn,
    QueueColumnOut,
    QueuedOut,
    QueueIn,
    QueueOut,
    QueueShownOut,
    QueueStateOut,
    StepOnIn,
    SteppedOut,
)
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["queues"])


def _out(queue: Queue, counts: list[int]) -> QueueOut:
    states = [
        QueueStateOut(name=one.name, tag=one.tag, total=count) for one, count in zip(queue.states, counts, strict=True)
    ]
    return QueueOut(id=queue.id, name=queue.name, of=queue.of, target=queue.target, states=states)


def _queue(wanted: QueueIn, number: int = 0) -> Queue:
    states = tuple(State(one.name, one.tag) for one in wanted.states)
    return Queue(number, wanted.name, wanted.of, wanted.target, states)


@router.get("/queues")
def list_queues(room: RoomDep) -> list[QueueOut]:
    """All queues, with how many messages stand in each state."""
    return [_out(queue, counts) for queue, counts in working.counts(room)]


@router.post("/queues", status_code=201)
def add_queue(room: RoomDep, wanted: QueueIn) -> QueueShownOut:
    """Keep a new queue."""
    return show_queue(room, keeping.keep(room, _queue(wanted)).id)


@router.put("/queues/{number}")
def change_queue(room: RoomDep, number: Id, wanted: QueueIn) -> QueueShownOut:
    """Change a queue; the tags of its states are renamed with them."""
    return show_queue(room, keeping.keep(room, _queue(wanted, number)).id)


@router.delete("/queues/{number}", status_code=204)
def remove_queue(room: RoomDep, number: Id) -> None:
    """Take a queue out; its states go on as tags."""
    keeping.remove(room, number)


@router.get("/queues/{number}")
def show_queue(room: RoomDep, number: Id) -> QueueShownOut:
    """What stands in each state of a queue."""
    told = working.show(room, number)
    shown = []
    for one in told.columns:
        messages = rows_out(room, [row.message for row in one.rows])
        rows = [QueuedOut(message=row, since=at.since) for row, at in zip(messages, one.rows, strict=True)]
        shown.append(QueueColumnOut(name=one.state.name, tag=one.state.tag, total=one.total, rows=rows))
    return QueueShownOut(id=told.queue.id, name=told.queue.name, problem=told.problem, columns=shown)


@router.post("/queues/{number}/bring")
def bring_to_state(room: RoomDep, number: Id, wanted: BringIn) -> FiledOut:
    """Bring messages of a queue to one of its states, as one step."""
    return FiledOut.model_validate(working.bring(room, number, wanted.messages, wanted.state))


@router.post("/queued/step")
def step_on(room: RoomDep, wanted: StepOnIn) -> SteppedOut:
    """Bring messages to the next state of the queue they pass through, or back, as one step."""
    filed, state = working.step_on(room, wanted.messages, -1 if wanted.back else 1)
    return SteppedOut.model_validate({**asdict(filed), "state": state})
