"""Tags, and the keywords of other programs that may become tags."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.core.tags import MAX_NAME, TONES
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.filing import Numbers

Name = Annotated[str, Field(min_length=1, max_length=4 * MAX_NAME)]
Tone = Annotated[int, Field(ge=0, lt=TONES)]


class TagOut(Answer):
    """A tag. ``tone`` is a number below twelve, ``parent`` the tag it stands below (0: none), ``depth`` how deep it
    stands, ``keyword`` what it is on servers, ``total`` how many messages carry it."""

    id: int
    name: str
    tone: int
    parent: int
    depth: int
    shown: bool
    keyword: str
    total: int


class ForeignOut(Answer):
    """A keyword another program set, and how many messages have it."""

    keyword: str
    messages: int


class TagsOut(Answer):
    """All tags in the order they are shown, each followed by those below it; keywords of other programs that may become
    tags; and the mailboxes whose server takes no keywords, so that tags stay here."""

    tags: list[TagOut]
    foreign: list[ForeignOut]
    kept_here: list[str]


class TagIn(BaseModel):
    """A tag to be made, below another where one is named; without a tone the least used one is taken."""

    name: Name
    parent: Id = 0
    tone: Tone | None = None


class TagChangeIn(BaseModel):
    """What is changed of a tag; what is left out stays. The first two are steps of the journal."""

    name: Name | None = None
    parent: Id | None = None
    tone: Tone | None = None
    shown: bool | None = None


class MergeIn(BaseModel):
    """The tag that takes another's place."""

    into: Id


class AdoptIn(BaseModel):
    """A keyword that becomes a tag, and what that is called; empty: as the keyword is."""

    keyword: Annotated[str, Field(min_length=1, max_length=200)]
    name: Annotated[str, Field(max_length=4 * MAX_NAME)] = ""


class TaggedIn(BaseModel):
    """Messages that are tagged, by a tag's id, or by a name that is made a tag where there is none; ``away`` puts them
    in the Archive as well."""

    messages: Numbers
    tag: Id | None = None
    name: Annotated[str, Field(max_length=4 * MAX_NAME)] = ""
    away: bool = False


class UntaggedIn(BaseModel):
    """Messages and the tag that is taken off them."""

    messages: Numbers
    tag: Id
