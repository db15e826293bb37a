"""Verdicts, kin, undo, the journal and the ledger of lessons."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import record
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.teaching import correct, looking
from hieranome.app.teaching.for_good import correct_asked
from hieranome.web.models.answer import Id
from hieranome.web.models.mail import LessonOut
from hieranome.web.models.teaching import (
    ChangeOut,
    ContraryOut,
    CountOut,
    EffectOut,
    EventOut,
    HeededOut,
    JournalOut,
    KinIn,
    KinOut,
    LatelyOut,
    LedgerOut,
    LookedPastIn,
    OutcomeOut,
    PromiseOut,
    StepOut,
    UndoneOut,
    VerdictIn,
    WeighingIn,
)
from hieranome.web.routers.mail import evidence_out, rows_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["teaching"])

Limit = Annotated[int, Query(ge=1, le=200)]
Before = Annotated[Id, Query()]


@router.post("/verdicts")
def give_verdict(room: RoomDep, verdict: VerdictIn) -> OutcomeOut:
    """Say where messages belong; answers with the effect and the kin that would follow."""
    given = correct_asked(
        room, verdict.messages, verdict.belongs, verdict.reach, follow=verdict.follow, confirmed=verdict.confirmed,
        instead=verdict.instead,
    )  # fmt: skip
    return outcome_out(room, given)


@router.post("/weighings")
def weigh_anew(room: RoomDep, wanted: WeighingIn) -> OutcomeOut:
    """Say that messages matter more or less; they stay where they stand, and the model learns."""
    return outcome_out(room, correct.weigh_anew(room, wanted.messages, up=wanted.up))


@router.post("/looked-past")
def look_past(room: RoomDep, report: LookedPastIn) -> HeededOut:
    """Say which messages were looked past and left where they stand; answers how many of them taught something."""
    return HeededOut(heeded=looking.look_past(room, [(one.message, one.place) for one in report.seen]))


def outcome_out(room: Mailroom, outcome: correct.Outcome) -> OutcomeOut:
    """What follows from a verdict, as the page takes it."""
    rows = rows_out(room, [one.message for one in outcome.kin])
    return OutcomeOut(
        step=outcome.step,
        effects=[EffectOut.model_validate(e) for e in outcome.effects],
        kin=[
            KinOut(message=row, target=k.target, sureness=k.sureness) for row, k in zip(rows, outcome.kin, strict=True)
        ],
        kin_total=outcome.kin_total,
        contrary=[ContraryOut.model_validate(one) for one in outcome.contrary],
        changed=[ChangeOut(line=evidence_out(one.line, one.lesson), before=one.before) for one in outcome.changed],
        moved=outcome.moved,
        followed=outcome.followed,
        rule=outcome.rule,
        promise=PromiseOut.model_validate(outcome.promise) if outcome.promise else None,
    )


@router.post("/steps/{step}/kin")
def pull_kin(room: RoomDep, step: Id, kin: KinIn) -> StepOut:
    """Let kin of a lesson follow, in one undoable step."""
    return StepOut.model_validate(record.step(room, correct.pull(room, step, kin.messages)))


@router.get("/messages/{number}/journal")
def show_what_happened(room: RoomDep, number: Id) -> list[EventOut]:
    """What happened to one message, oldest first."""
    return [EventOut.model_validate(one) for one in record.of_message(room, number)]


@router.get("/lately")
def show_lately(
    room: RoomDep, after: Annotated[Id, Query()], since: Annotated[int, Query(ge=0, le=2**40)]
) -> LatelyOut:
    """What came after a message, and what was done since a time (Unix seconds)."""
    found = record.since(room, after, since)
    return LatelyOut(
        newest=found.newest,
        came=found.came,
        places=[CountOut(place=place, messages=count) for place, count in found.places],
        asked=found.asked,
        lessons=found.lessons,
        followed=found.followed,
    )


@router.post("/steps/{step}/undo")
def undo_step(service: ServiceDep, step: Id) -> UndoneOut:
    """Undo one step of the journal."""
    return _undone(service, step)


@router.post("/undo")
def undo_latest(service: ServiceDep) -> UndoneOut:
    """Undo the latest step that stands."""
    return _undone(service)


def _undone(service: Service, step: int | None = None) -> UndoneOut:
    undone, problems = service.undo(step)
    return UndoneOut(**StepOut.model_validate(undone).model_dump(), problems=problems)


@router.get("/steps")
def list_steps(room: RoomDep, before: Before = 0, limit: Limit = 50) -> JournalOut:
    """The journal, newest first."""
    found = record.steps(room, before, limit)
    return JournalOut(steps=[StepOut.model_validate(s) for s in found], next=found[-1].id if len(found) == limit else 0)


@router.get("/lessons")
def list_lessons(
    room: RoomDep,
    before: Before = 0,
    limit: Limit = 50,
    text: Annotated[str, Query(max_length=200)] = "",
    belongs: Annotated[str, Query(max_length=100)] = "",
    standing: bool = False,
    lesson: Before = 0,
) -> LedgerOut:
    """The ledger of lessons, newest first: those with a text in subject, sender or key, those that say a bucket, only
    those that stand, or one alone."""
    found = record.ledger(room, before, limit, record.Asked(text, belongs, standing, lesson))
    return LedgerOut(
        lessons=[LessonOut.model_validate(one) for one in found], next=found[-1].id if len(found) == limit else 0
    )
