"""The short of mail, and where things stand with somebody."""

from __future__ import annotations

from hieranome.web.models.answer import Answer
from hieranome.web.models.following import OwedOut
from hieranome.web.models.mail import MessageOut, PartOut


class LineOut(Answer):
    """A sentence as it was written, whether it asks or promises something, and the times to come it names, in its own
    words."""

    text: str
    asks: bool
    promises: bool
    dates: list[str]


class ShortPartOut(Answer):
    """The lines of one message; ``own`` says that the owner wrote it."""

    message: MessageOut
    own: bool
    lines: list[LineOut]


class DatedOut(Answer):
    """A time to come that somebody named: the sentence, when (Unix seconds; of a whole day its first), how it reads."""

    message: MessageOut
    sentence: str
    at: int
    day: bool
    shown: str


class PromisedOut(Answer):
    """Something somebody said they would do."""

    message: MessageOut
    sentence: str


class FileOut(Answer):
    """A file that came with a message."""

    message: MessageOut
    part: PartOut


class BriefingOut(Answer):
    """Where things stand with somebody: what the owner wrote to them last (null: nothing), how many messages they wrote
    since, what is asked of the owner or was promised by them (``you``), what the owner asked (``they``), what they
    promised, times to come and files since then."""

    address: str
    name: str
    last: MessageOut | None
    since: int
    you: list[OwedOut]
    they: list[OwedOut]
    promised: list[PromisedOut]
    dates: list[DatedOut]
    files: list[FileOut]
