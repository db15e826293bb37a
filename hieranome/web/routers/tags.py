"""Tags: put on and taken off, made and changed."""

from __future__ import annotations

from fastapi import APIRouter

from hieranome.app import shaping_tags, tagging
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.tags import Tag
from hieranome.web.models.answer import Id
from hieranome.web.models.filing import FiledOut
from hieranome.web.models.tags import (
    AdoptIn,
    ForeignOut,
    MergeIn,
    TagChangeIn,
    TaggedIn,
    TagIn,
    TagOut,
    TagsOut,
    UntaggedIn,
)
from hieranome.web.models.teaching import StepOut
from hieranome.web.state import RoomDep

router = APIRouter(tags=["tags"])


def _out(room: Mailroom, number: int) -> TagOut:
    return _tag(*tagging.get(room, number))


def _tag(tag: Tag, depth: int) -> TagOut:
    return TagOut(**{name: getattr(tag, name) for name in tag.__dataclass_fields__}, depth=depth)


@router.get("/tags")
def list_tags(room: RoomDep) -> TagsOut:
    """All tags, each followed by those below it."""
    found = tagging.listed(room)
    return TagsOut(
        tags=[_tag(tag, depth) for tag, depth in found.tags],
        foreign=[ForeignOut(keyword=word, messages=count) for word, count in found.foreign],
        kept_here=found.kept_here,
    )


@router.post("/tags")
def make_tag(room: RoomDep, wanted: TagIn) -> TagOut:
    """Make a tag."""
    return _out(room, shaping_tags.make(room, wanted.name, parent=wanted.parent, tone=wanted.tone).id)


@router.patch("/tags/{number}")
def change_tag(room: RoomDep, number: Id, wanted: TagChangeIn) -> TagOut:
    """Rename a tag, let it stand below another, or change how it looks."""
    if wanted.name is not None:
        shaping_tags.rename(room, number, wanted.name)
    if wanted.parent is not None:
        shaping_tags.put_below(room, number, wanted.parent)
    if wanted.tone is not None or wanted.shown is not None:
        shaping_tags.show(room, number, tone=wanted.tone, shown=wanted.shown)
    return _out(room, number)


@router.post("/tags/{number}/merge")
def merge_tag(room: RoomDep, number: Id, wanted: MergeIn) -> StepOut:
    """Let another tag take the place of one, in one undoable step."""
    return StepOut.model_validate(shaping_tags.merge(room, number, wanted.into))


@router.delete("/tags/{number}")
def delete_tag(room: RoomDep, number: Id, confirmed: bool = False) -> StepOut:
    """Take a tag off all its messages and away, in one undoable step; where something is built on it, once that is
    ``confirmed``."""
    return StepOut.model_validate(shaping_tags.delete(room, number, confirmed=confirmed))


@router.post("/tags/adopted")
def adopt_keyword(room: RoomDep, wanted: AdoptIn) -> TagOut:
    """Make a tag of a keyword another program set."""
    return _out(room, shaping_tags.adopt(room, wanted.keyword, wanted.name).id)


@router.post("/tagged")
def tag_messages(room: RoomDep, wanted: TaggedIn) -> FiledOut:
    """Put a tag on messages, in one undoable step."""
    tag = wanted.name if wanted.tag is None else wanted.tag
    return FiledOut.model_validate(tagging.put_on(room, wanted.messages, tag, away=wanted.away))


@router.post("/tagged/off")
def untag_messages(room: RoomDep, wanted: UntaggedIn) -> FiledOut:
    """Take a tag off messages, in one undoable step."""
    return FiledOut.model_validate(tagging.take_off(room, wanted.messages, wanted.tag))
