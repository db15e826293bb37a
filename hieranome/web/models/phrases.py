"""The phrasebook."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.core.phrases import MOST_TEXT
from hieranome.web.models.answer import Answer
from hieranome.web.models.writing import AttachmentOut, DraftOut

Short = Annotated[str, Field(max_length=60)]


class PhraseOut(Answer):
    """Stock text, its short name, the files that go along, and how often it was used."""

    id: int
    short: str
    text: str
    uses: int
    files: list[AttachmentOut]


class PhraseIn(BaseModel):
    """A phrase as its owner writes it."""

    short: Short
    text: Annotated[str, Field(max_length=MOST_TEXT)]


class PutIn(BaseModel):
    """Which phrase is put into a draft, or said by a reply."""

    phrase: Short


class PutOut(Answer):
    """A phrase filled in: its text, the placeholders left in it, and the draft with its files."""

    text: str
    holes: list[str]
    draft: DraftOut


class BookIn(BaseModel):
    """A phrasebook: ``format`` 1 and a list of ``phrases``, each with its ``short`` name and its ``text``."""

    format: int
    phrases: Annotated[list[PhraseIn], Field(max_length=500)]


class BookOut(Answer):
    """All phrases, as they are read in again."""

    format: int
    phrases: list[PhraseIn]


class CountOut(Answer):
    """How many."""

    count: int
