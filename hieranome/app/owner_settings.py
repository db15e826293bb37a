"""The owner's settings, read and changed together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import looking, vouching
from hieranome.app.writing import drafts
from hieranome.store import settings, vouched
from hieranome.store.vouched import Checker as Checker


@dataclass(frozen=True, slots=True)
class Settings:
    """How the owner wants it: their addresses, whose findings about senders are believed, which domains many unrelated
    people write from, whether similar mail follows a lesson unasked, whether looking past mail teaches, whether drafts
    are kept on the server; and the servers that were found to check senders."""

    owner_addresses: list[str]
    confirmed_checkers: list[str]
    shared_domains: list[str]
    kin_follow: bool
    looked_past_teaches: bool
    drafts_on_server: bool
    checkers: list[Checker]


def current(room: Mailroom) -> Settings:
    """The settings as they are."""
    db = room.reader()
    return Settings(
        sorted(room.owner.addresses),
        sorted(room.confirmed),
        sorted(settings.names(db, settings.SHARED)),
        room.kin_follow,
        looking.teaches(db),
        bool(settings.value(db, settings.DRAFTS_ON_SERVER, False)),
        vouched.checkers(db),
    )


def change(
    room: Mailroom,
    *,
    owner_addresses: Sequence[str] | None = None,
    confirmed_checkers: Sequence[str] | None = None,
    shared_domains: Sequence[str] | None = None,
    kin_follow: bool | None = None,
    looked_past_teaches: bool | None = None,
    drafts_on_server: bool | None = None,
) -> None:
    """Change the settings that are given, all or none."""
    with room.change():
        if owner_addresses is not None:
            room.set_owner(owner_addresses)
        if confirmed_checkers is not None:
            vouching.set_names(room, settings.CONFIRMED, confirmed_checkers)
        if shared_domains is not None:
            vouching.set_names(room, settings.SHARED, shared_domains)
        if kin_follow is not None:
            vouching.set_kin_follow(room, kin_follow)
        if looked_past_teaches is not None:
            looking.set_teaches(room, looked_past_teaches)
        if drafts_on_server is not None:
            drafts.keep_on_server(room, drafts_on_server)
