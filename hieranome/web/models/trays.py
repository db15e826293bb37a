"""The Desk in trays."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.core.query import MAX_LINE
from hieranome.core.trays import MAX_DAYS, MAX_NAME, MAX_ROWS, Kind, Order, Tray
from hieranome.web.models.answer import Answer
from hieranome.web.models.mail import MessageOut


class TrayIn(BaseModel):
    """A tray: what it takes (a search ``line`` for the kind *line*), how many rows it shows and in which order, whether
    it is folded, after how many days read mail is dealt with, and whether it stands beside the band."""

    kind: Kind
    name: Annotated[str, Field(max_length=4 * MAX_NAME)]
    line: Annotated[str, Field(max_length=MAX_LINE)] = ""
    order: Order = "importance"
    rows: Annotated[int, Field(ge=1, le=MAX_ROWS)] = 20
    folded: bool = False
    days: Annotated[int, Field(ge=1, le=MAX_DAYS)] = 3
    beside: bool = False


class TraysIn(BaseModel):
    """All trays in their order; none makes the Desk one list."""

    trays: Annotated[list[TrayIn], Field(max_length=50)]


class TrayOut(Answer, of=Tray):
    """A tray."""


class ShownOut(Answer):
    """A tray with what stands in it: how many messages, the ids of all in order, the rows that are shown. ``problem``
    says why its line takes nothing (empty: it does)."""

    tray: TrayOut
    total: int
    unread: int
    numbers: list[int]
    messages: list[MessageOut]
    problem: str


class DeskOut(Answer):
    """The Desk in trays, in order, and how many older messages stand on it that no tray looks at."""

    trays: list[ShownOut]
    older: int
