"""Getting in."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field, SecretStr

from hieranome.web.models.answer import Answer

Password = Annotated[SecretStr, Field(min_length=1, max_length=1000)]


class EntryOut(Answer):
    """Whether the one who asks is in, and whether the first password is still to be set."""

    signed_in: bool
    first: bool


class SignInIn(BaseModel):
    """The password."""

    password: Password


class FirstIn(BaseModel):
    """The code that was printed where Hieranome was started, and the first password."""

    code: Annotated[str, Field(min_length=1, max_length=100)]
    password: Password


class PasswordIn(BaseModel):
    """The password that holds, and the new one."""

    old: Password
    new: Password
