"""Queues."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.core.queues import MAX_STATES, Of
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.filing import FiledOut, Numbers
from hieranome.web.models.mail import MessageOut

Name = Annotated[str, Field(max_length=200)]


class StateIn(BaseModel):
    """A state by its name, and the tag it is (0: a new one, or the first, which needs none)."""

    name: Name
    tag: Id = 0


class QueueIn(BaseModel):
    """A queue: what passes through it (of a bucket, a tag by its number, or a tray by its name), and its states in
    order."""

    name: Name
    of: Of
    target: Annotated[str, Field(max_length=80)]
    states: Annotated[list[StateIn], Field(max_length=MAX_STATES)]


class QueueStateOut(Answer):
    """A state, the tag it is (0: the first), and how many messages stand in it."""

    name: str
    tag: int
    total: int


class QueueOut(Answer):
    """A queue."""

    id: int
    name: str
    of: Of
    target: str
    states: list[QueueStateOut]


class QueuedOut(Answer):
    """A message in a queue, and since when it stands in its state (Unix seconds)."""

    message: MessageOut
    since: int


class QueueColumnOut(Answer):
    """A state with what stands in it, longest first; of ``total`` so many are shown."""

    name: str
    tag: int
    total: int
    rows: list[QueuedOut]


class QueueShownOut(Answer):
    """What stands in each state of a queue; ``problem`` is why nothing can (empty: it can)."""

    id: int
    name: str
    problem: str
    columns: list[QueueColumnOut]


class BringIn(BaseModel):
    """Messages of a queue, and the state they are brought to, counted from 0."""

    messages: Numbers
    state: Annotated[int, Field(ge=0, le=100)]


class StepOnIn(BaseModel):
    """Messages that go to the next state of the queue they pass through, or back to the one before."""

    messages: Numbers
    back: bool = False


class SteppedOut(FiledOut):
    """What was done, and the state the first came to."""

    state: str
