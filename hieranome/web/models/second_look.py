"""Mail that stands elsewhere than today's model would put it."""

from __future__ import annotations

from pydantic import BaseModel

from hieranome.web.models.answer import Answer
from hieranome.web.models.filing import Numbers
from hieranome.web.models.mail import MessageOut


class SecondLookOut(Answer):
    """Messages of one sender, or one list, that stand in one place and look like another now, the surest and oldest
    first; so many ``lessons`` put mail of that sender or list on that side of the Desk (0: what was taught of other
    mail speaks for it)."""

    place: str
    target: str
    lessons: int
    messages: list[MessageOut]


class OfferedIn(BaseModel):
    """Offered messages that are moved, or left standing."""

    messages: Numbers
