"""Routines."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.app.routines.keeping import Told
from hieranome.core.doings import Takes
from hieranome.core.routines import MAX_ACTIONS, Verb
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.filing import Numbers


class RoutineActionIn(BaseModel):
    """One thing a routine does: what, and the place, time, tag or phrase (by its id) it needs."""

    verb: Verb
    target: Annotated[str, Field(max_length=320)] = ""


class RoutineIn(BaseModel):
    """A routine: ``key`` is the one it is done by (empty: none)."""

    name: Annotated[str, Field(max_length=400)]
    key: Annotated[str, Field(max_length=8)] = ""
    actions: Annotated[list[RoutineActionIn], Field(max_length=MAX_ACTIONS)]


class RoutineActionOut(Answer):
    """One thing a routine does."""

    verb: Verb
    target: str


class RoutineOut(Answer):
    """A routine as it stands; ``broken`` is why it cannot be done (empty: it can)."""

    id: int
    name: str
    key: str
    actions: list[RoutineActionOut]
    broken: str


class RoutineDoingOut(Answer):
    """Something a routine can do, what it needs to know, and whether it says where mail goes."""

    verb: Verb
    title: str
    takes: Takes
    places: bool


class RoutinesOut(Answer):
    """All routines, and what they can do."""

    routines: list[RoutineOut]
    doings: list[RoutineDoingOut]


class TryRoutineIn(BaseModel):
    """A routine that is not kept yet, and the message it is tried on."""

    actions: Annotated[list[RoutineActionIn], Field(max_length=MAX_ACTIONS)]
    message: Id


class TriedOut(Answer, of=Told):
    """What one thing of a routine would do: in words, and the text it would write (empty: none)."""


class TriedRoutineOut(Answer):
    """What a routine would do to a message, and why it cannot be done to it (empty: it can)."""

    subject: str
    lines: list[TriedOut]
    refused: str


class RunRoutineIn(BaseModel):
    """The messages a routine is done to; ``leaving`` says that those it cannot be done to are left as they are."""

    messages: Numbers
    leaving: bool = False


class RefusedOut(Answer):
    """A message a routine cannot be done to, and why."""

    message: int
    subject: str
    why: str


class RanRoutineOut(Answer):
    """What a routine did: its step (0: nothing was done), the messages it was done to, the drafts it began, and the
    messages it could not be done to."""

    step: int
    messages: list[int]
    drafts: list[int]
    refused: list[RefusedOut]
