"""The owner's addresses."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from hieranome.app.bulk.addresses import Address, Leak
from hieranome.core.addresses import Purpose
from hieranome.web.models.answer import Answer

Mailable = Annotated[str, Field(min_length=1, max_length=320)]
Note = Annotated[str, Field(max_length=1_000)]


class LeakOut(Answer, of=Leak):
    """The first mail to an address that came from somebody it was not given to, or, of one given to many, that was
    unwanted: from which organisation, when (Unix seconds), and the message by its id."""


class AddressOut(Answer, of=Address):
    """An address mail reaches the owner at: whether the owner named it, what it is for, whom it was given to, when it
    was made here (0: elsewhere), how much came, the shares that are noise and that were read (0 to 1), from how many
    organisations, and the first leak."""

    leak: LeakOut | None


class AddressIn(BaseModel):
    """What an address is for, and whom it was given to."""

    address: Mailable
    purpose: Purpose = Purpose.NOTHING_SAID
    given_to: Note = ""


class MakeAddressIn(BaseModel):
    """Which of the owner's addresses gets a tag, and whom it is given to."""

    base: Mailable
    given_to: Note


class ForgetAddressIn(BaseModel):
    """The address of which nothing is to be said any more."""

    address: Mailable
