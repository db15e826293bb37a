"""Topics: described, answered about, run."""

from __future__ import annotations

from fastapi import APIRouter

from hieranome.app.topics import answering, learning
from hieranome.app.topics.learning import Kept
from hieranome.app.topics.telling import Question, tell
from hieranome.core.gaussian import logistic
from hieranome.core.groups import GROUPS
from hieranome.web.models.answer import Id
from hieranome.web.models.filing import FiledOut
from hieranome.web.models.mail import MessageOut
from hieranome.web.models.topics import (
    ReasonOut,
    TopicAnswerIn,
    TopicIn,
    TopicOut,
    TopicQuestionOut,
    TopicToldOut,
    TopicTurnIn,
)
from hieranome.web.routers.mail import rows_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["topics"])
_HEADINGS = {group.name: group.heading for group in GROUPS} | {"said": "What you said"}


def _out(kept: Kept) -> TopicOut:
    ranked = sorted(kept.weights, key=lambda word: (-kept.weights[word], word))
    return TopicOut(
        id=kept.id,
        tag=kept.tag,
        said=kept.said,
        words=ranked,
        beside=list(kept.beside),
        bucket=kept.bucket,
        enabled=kept.enabled,
    )


def _question(one: Question, row: MessageOut) -> TopicQuestionOut:
    return TopicQuestionOut(
        message=row,
        likely=logistic(one.score),
        reasons=[
            ReasonOut(group=r.group, heading=_HEADINGS[r.group], texts=list(r.texts), amount=r.amount)
            for r in one.reasons
        ],
        drawn=one.drawn,
    )


@router.get("/topics")
def list_topics(room: RoomDep) -> list[TopicOut]:
    """The tags that find their mail."""
    return [_out(one) for one in learning.every(room)]


@router.post("/topics")
def describe_topic(room: RoomDep, wanted: TopicIn) -> TopicOut:
    """Say which mail a tag is for, in words; a new tag is made where none is named."""
    return _out(answering.describe(room, wanted.said, wanted.name, wanted.tag))


@router.get("/topics/{number}")
def read_topic(room: RoomDep, number: Id) -> TopicToldOut:
    """A topic, how it does, and what it asks next."""
    told = tell(room, number)
    low, high = told.right.interval
    rows = rows_out(room, [one.message for one in told.asks])
    return TopicToldOut(
        topic=_out(told.kept),
        belongs=told.belongs,
        others=told.others,
        members=told.members,
        doubtful=told.doubtful,
        weeks=told.weeks,
        right=told.right.part,
        checked=told.right.whole,
        low=low,
        high=high,
        asks=[_question(one, row) for one, row in zip(told.asks, rows, strict=True)],
    )


@router.post("/topics/{number}/answers")
def answer_topic(room: RoomDep, number: Id, wanted: TopicAnswerIn) -> FiledOut:
    """Say of messages whether they belong, in one undoable step."""
    return FiledOut.model_validate(answering.answer(room, number, wanted.messages, wanted.belongs, drawn=wanted.drawn))


@router.put("/topics/{number}/running")
def turn_topic(room: RoomDep, number: Id, wanted: TopicTurnIn) -> TopicOut:
    """Let a topic tag mail as it arrives, put it in a bucket too, or rest."""
    return _out(answering.turn(room, number, wanted.enabled, wanted.bucket))


@router.post("/topics/{number}/find", status_code=202)
def find_topic(service: ServiceDep, number: Id) -> None:
    """Tag what a topic holds for its own of all mail that is here, in one undoable step; how far it is is told by
    events."""
    service.runner.find(number)


@router.delete("/topics/{number}", status_code=204)
def rest_topic(room: RoomDep, number: Id) -> None:
    """Let a tag learn no more; the tag and what it is on stay."""
    answering.rest(room, number)
