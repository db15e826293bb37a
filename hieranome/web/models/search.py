"""Search: lines, what they mean and find, what completes them."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.app.searching import Instead, Suggestion
from hieranome.core.operators import Takes
from hieranome.core.query import Term
from hieranome.store.searches import Saved
from hieranome.web.models.answer import Answer
from hieranome.web.models.mail import MessageOut


class OperatorOut(Answer):
    """An operator of the search line: its name in a form, what stands behind its colon, the words it knows, an
    example."""

    name: str
    label: str
    takes: Takes
    title: str
    example: str
    choices: list[str]


class TermOut(Answer, of=Term):
    """One condition of a line; the operator is empty for bare words."""


class InsteadOut(Answer, of=Instead):
    """A line that finds something where another does not; ``total`` is exact unless there is more ``beyond`` it."""


class FoundOut(Answer):
    """One page of what a line finds. ``sentence`` says what was understood, ``hints`` what may have been meant;
    ``terms`` are its conditions where they simply hold together. ``total`` is exact unless there is more ``beyond``
    it; only a first page counts."""

    messages: list[MessageOut]
    next: str
    sentence: str
    hints: list[str]
    terms: list[TermOut]
    total: int
    beyond: bool


class UnderstoodOut(Answer):
    """What a line that is being written means so far, or why it cannot be understood; and ways to go on."""

    sentence: str
    problem: str
    hints: list[str]
    terms: list[TermOut]
    suggestions: list[SuggestionOut]


class SuggestionOut(Answer, of=Suggestion):
    """A way to go on: the whole line after it, what is shown, what it is."""


class SavedOut(Answer, of=Saved):
    """A search kept under a name."""


class SavedIn(BaseModel):
    """A line to keep under a name; an older line of that name gives way."""

    name: Annotated[str, Field(min_length=1, max_length=200)]
    line: Annotated[str, Field(min_length=1, max_length=2_000)]


class PicturedIn(BaseModel):
    """A sender whose pictures are always fetched, or no longer."""

    address: Annotated[str, Field(min_length=3, max_length=254)]
    wanted: bool


class PicturedOut(Answer):
    """The senders whose pictures are always fetched."""

    addresses: list[str]
