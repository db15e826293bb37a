"""Imports, settings, the demo's delivery."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field, JsonValue

from hieranome.app.owner_settings import Settings as ShownSettings
from hieranome.app.service import Guest
from hieranome.store.vouched import Checker
from hieranome.web.models.answer import Answer


class TroubleOut(Answer):
    """Something that works behind the page and does not now: what it does, how often in a row it failed, and why."""

    name: str
    doing: str
    failures: int
    error: str


class SkippedOut(Answer):
    """A file an import passed over, and why."""

    path: str
    why: str


class ImportOut(Answer):
    """An import job; bytes tell its progress."""

    id: int
    path: str
    started_at: int
    finished_at: int | None
    state: Literal["reading", "weighing", "done", "failed"]
    error: str
    bytes_total: int
    bytes_done: int
    added: int
    known: int
    skipped: list[SkippedOut] = Field(default_factory=list)


class CheckerOut(Answer, of=Checker):
    """A server that checks where mail comes from, and on how many messages its results stand topmost."""


class SettingsOut(Answer, of=ShownSettings):
    """Settings: the addresses the owner receives mail at; the servers whose checks are believed; domains many
    unrelated people write from; whether kin follow a lesson unasked, mail that is looked past teaches, and drafts stand
    in their mailboxes' Drafts too; and the servers seen (not a setting)."""

    checkers: list[CheckerOut]


Name = Annotated[str, Field(min_length=1, max_length=254, pattern=r"^\s*[^\s@]+\s*$")]


class SettingsIn(BaseModel):
    """New settings; what is left out stays as it is."""

    owner_addresses: (
        Annotated[list[Annotated[str, Field(max_length=254, pattern=r"^\s*[^@\s]+@[^@\s]+\s*$")]], Field(max_length=50)]
        | None
    ) = None
    confirmed_checkers: Annotated[list[Name], Field(max_length=20)] | None = None
    shared_domains: Annotated[list[Name], Field(max_length=500)] | None = None
    kin_follow: bool | None = None
    looked_past_teaches: bool | None = None
    drafts_on_server: bool | None = None


class LookOut(Answer):
    """How the page looks and which keys it has, as it says it; null where nothing was changed."""

    appearance: dict[str, JsonValue] | None
    keys: dict[str, JsonValue] | None


class LookIn(BaseModel):
    """How the page looks and which keys it has from now on; what is left out stays as it is."""

    appearance: Annotated[dict[str, JsonValue], Field(max_length=100)] | None = None
    keys: Annotated[dict[str, JsonValue], Field(max_length=300)] | None = None


class DeliveryOut(Answer):
    """The demo's delivery: absent, running or paused, seconds between messages, how many are left."""

    present: bool
    running: bool
    interval: float
    left: int


class DeliveryIn(BaseModel):
    """Run or pause the delivery; seconds between messages."""

    running: bool
    interval: Annotated[float, Field(ge=0.2, le=3600)] = 6.0


class GuestOut(Answer, of=Guest):
    """The demo's mailbox that waits to be connected, at servers on this machine."""


class AboutOut(Answer):
    """What runs here; ``guest`` is a made-up mailbox to connect, in the demo."""

    version: str
    demo: bool
    guest: GuestOut | None
