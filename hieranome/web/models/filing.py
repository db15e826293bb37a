"""Filing, marks, places of the owner's own."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.app.room.marks import MAX_FILED, Mark
from hieranome.app.room.marks import Filed as ShownFiled
from hieranome.store.places import Rhythm
from hieranome.web.models.answer import Answer, Id

Numbers = Annotated[list[Id], Field(min_length=1, max_length=MAX_FILED)]
Title = Annotated[str, Field(min_length=1, max_length=200)]


class FileIn(BaseModel):
    """Messages and the quiet place they are put in: archive, trash, or a folder."""

    messages: Numbers
    place: str


class BackIn(BaseModel):
    """Filed messages to be put back where they stood."""

    messages: Numbers


class MarkIn(BaseModel):
    """Messages and how they are marked."""

    messages: Numbers
    mark: Mark


class FiledOut(Answer, of=ShownFiled):
    """The step made (0 when nothing had to change) and the messages it changed."""


class FolderIn(BaseModel):
    """A folder to be made."""

    title: Title


class BucketIn(BaseModel):
    """A bucket to be made: whether mail that belongs there deserves attention now."""

    title: Title
    important: bool = False


class PlaceIn(BaseModel):
    """What a place is called, how many messages may wait in it before it is told (0: any number), how often it
    wants to be looked at; what is left out stays."""

    title: Title | None = None
    notice: Annotated[int, Field(ge=0, le=100_000)] | None = None
    rhythm: Rhythm | None = None


class InsteadIn(BaseModel):
    """The bucket that takes the mail of another, which is not used then; empty: it is used itself. ``confirmed`` says
    that what is built on it may break."""

    instead: Annotated[str, Field(max_length=100)]
    confirmed: bool = False


class NumbersOut(Answer):
    """Ids of messages, newest first; ``total`` counts them all, listed or not."""

    messages: list[int]
    total: int
