"""Authorisations of mailboxes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, SecretStr

from hieranome.web.models.answer import Answer

Url = Annotated[str, Field(min_length=1, max_length=2000, pattern=r"^[\x21-\x7e]+$")]


class AuthoriseIn(BaseModel):
    """Where the owner authorises a mailbox, where its tokens are had, as which client (with its secret, if it has one),
    and for what."""

    authorise_url: Url
    token_url: Url
    client_id: Annotated[str, Field(min_length=1, max_length=500, pattern=r"^[\x20-\x7e]+$")]
    client_secret: Annotated[SecretStr, Field(max_length=1000)] | None = None
    scope: Annotated[str, Field(max_length=1000, pattern=r"^[\x20-\x7e]*$")] = ""


class AuthorisedIn(BaseModel):
    """The whole address the browser came back to."""

    returned: Annotated[str, Field(max_length=8000)]


class AuthorisationOut(Answer):
    """An authorisation: by what it is known, the address to open in a browser, how far it is, and why it was
    refused."""

    id: str
    url: str
    state: Literal["waiting", "granted", "refused"]
    error: str
