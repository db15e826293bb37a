"""Sources: the lists and senders whose mail stands in a place."""

from __future__ import annotations

from pydantic import BaseModel

from hieranome.web.models.answer import Answer
from hieranome.web.models.mail import MessageOut


class SourceOut(Answer):
    """A source in a place: its key, what it is called, whether it is a list, how much of its mail stands there and how
    much of that is unread, its newest message there, how many a week came from it lately, and the share of all its mail
    that was read (0 to 1)."""

    key: str
    name: str
    listed: bool
    total: int
    unread: int
    newest: MessageOut
    weekly: float
    read: float


class SourcesOut(Answer):
    """A page of sources, and how many there are."""

    sources: list[SourceOut]
    count: int
    next: str


class SourceVerdictIn(BaseModel):
    """Where all mail of a source in a place belongs; ``always`` for all its mail from now on."""

    source: str
    belongs: str
    always: bool = False
    confirmed: bool = False
