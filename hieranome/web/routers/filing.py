"""Filing and marks, folders and buckets of the owner's own."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from hieranome.app import arranging, filing, lists
from hieranome.app.lists import Place
from hieranome.app.room import marks
from hieranome.app.teaching.correct import MAX_AT_ONCE
from hieranome.core.buckets import UNDECIDED
from hieranome.web.models.filing import (
    BackIn,
    BucketIn,
    FiledOut,
    FileIn,
    FolderIn,
    InsteadIn,
    MarkIn,
    NumbersOut,
    PlaceIn,
)
from hieranome.web.models.mail import PlaceOut
from hieranome.web.models.teaching import StepOut
from hieranome.web.state import RoomDep

router = APIRouter(tags=["filing"])


def place_out(place: Place) -> PlaceOut:
    """A place as the page takes it; mail is put in buckets alone by a verdict, and never in Your call."""
    fields = {name: getattr(place, name) for name in place.__dataclass_fields__}
    return PlaceOut(**fields, takes=place.band >= 0 and place.name != UNDECIDED and not place.instead)


@router.post("/filed")
def file_messages(room: RoomDep, wanted: FileIn) -> FiledOut:
    """Put messages into Archive, Trash or a folder, in one undoable step."""
    return FiledOut.model_validate(filing.file_away(room, wanted.messages, wanted.place))


@router.post("/filed/back")
def put_back(room: RoomDep, wanted: BackIn) -> FiledOut:
    """Put filed messages back where they stood."""
    return FiledOut.model_validate(filing.put_back(room, wanted.messages))


@router.post("/marks")
def mark_messages(room: RoomDep, wanted: MarkIn) -> FiledOut:
    """Mark messages read, unread, flagged or not, in one undoable step."""
    return FiledOut.model_validate(marks.mark(room, wanted.messages, wanted.mark))


@router.get("/places/{name}/messages")
def list_numbers(
    room: RoomDep,
    name: str,
    sender: str = "",
    source: str = "",
    unread_only: bool = False,
    limit: Annotated[int, Query(ge=1, le=marks.MAX_FILED)] = MAX_AT_ONCE,
) -> NumbersOut:
    """The ids of a place's newest messages, of one sender or source where one is named: what *select all* takes."""
    found, total = lists.numbers(room, name, sender=sender, source=source, unread_only=unread_only, limit=limit)
    return NumbersOut(messages=found, total=total)


@router.post("/folders")
def add_folder(room: RoomDep, wanted: FolderIn) -> PlaceOut:
    """Make a folder for filing."""
    return place_out(arranging.add_folder(room, wanted.title))


@router.post("/buckets")
def add_bucket(room: RoomDep, wanted: BucketIn) -> PlaceOut:
    """Make a bucket; the model can route to it from now on."""
    return place_out(arranging.add_bucket(room, wanted.title, wanted.important))


@router.put("/places/{name}")
def describe_place(room: RoomDep, name: str, wanted: PlaceIn) -> PlaceOut:
    """Change what a place is called or when it wants to be looked at."""
    return place_out(
        arranging.describe_place(room, name, title=wanted.title, notice=wanted.notice, rhythm=wanted.rhythm)
    )


@router.get("/places/{name}/moved-off")
def moved_off(room: RoomDep, name: str) -> StepOut | None:
    """The step by which the mail of a bucket that was switched off went elsewhere; null where there is none."""
    step = arranging.moved_off(room, name)
    return None if step is None else StepOut.model_validate(step)


@router.put("/places/{name}/instead")
def use_place(room: RoomDep, name: str, wanted: InsteadIn) -> PlaceOut:
    """Switch a bucket off, so that another takes its mail, or on again."""
    if wanted.instead:
        return place_out(arranging.switch_off(room, name, wanted.instead, confirmed=wanted.confirmed))
    return place_out(arranging.switch_on(room, name))


@router.delete("/places/{name}", status_code=204)
def remove_place(room: RoomDep, name: str, confirmed: bool = False) -> None:
    """Take an empty folder of the owner's away; where something is built on it, once that is ``confirmed``."""
    arranging.remove_place(room, name, confirmed=confirmed)


@router.post("/places/{name}/visit")
def visit_place(room: RoomDep, name: str) -> PlaceOut:
    """Note that the owner looks at a place now."""
    return place_out(arranging.visit(room, name))
