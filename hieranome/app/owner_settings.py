"""The owner's settings, read and changed together."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import looking, vouching
from hieranome.app.writing import drafts
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError
from hieranome.store import settings, vouched
from hieranome.store.vouched import Checker as Checker

MAX_LOOK = 20_000
"""Bytes of what a page may say of its appearance, or of its keys."""


@dataclass(frozen=True, slots=True)
class Look:
    """How the page looks and which keys it has, as it says it; None where nothing was changed."""

    appearance: dict[str, Any] | None
    keys: dict[str, Any] | None


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


def look(room: Mailroom) -> Look:
    """How the page looks, and its keys."""
    db = room.reader()
    return Look(settings.value(db, settings.APPEARANCE, None), settings.value(db, settings.KEYS, None))


def arrange_look(
    room: Mailroom, appearance: Mapping[str, Any] | None = None, keys: Mapping[str, Any] | None = None
) -> Look:
    """Keep how the page looks, or its keys; what is None stays. Each is a step. Raises :class:`CallerError` for what is
    more than a page has to say."""
    for wanted, thing, key, title in (
        (appearance, Thing.APPEARANCE, settings.APPEARANCE, "Appearance changed"),
        (keys, Thing.KEYS, settings.KEYS, "Keys changed"),
    ):
        if wanted is None:
            continue
        if len(json.dumps(wanted)) > MAX_LOOK:
            raise CallerError(f"That is more than {MAX_LOOK:,} bytes, which no page has to say. Nothing was changed.")
        with arranging(room, thing, title, [key]) as it:
            settings.put(it.db, key, wanted)
    return look(room)
