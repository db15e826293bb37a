"""What the routers share: the mailroom and the workers around it."""

from __future__ import annotations

import ssl
from dataclasses import dataclass, field
from typing import Annotated, Protocol, cast

from fastapi import Depends, Request

from hieranome.app.background import Rebuilder, Rescorer
from hieranome.app.entry import Entry
from hieranome.app.importer import Importer
from hieranome.app.leaving import Leavings
from hieranome.app.mailroom import Mailroom
from hieranome.app.outbox import Outbox
from hieranome.app.pictures import Pictures
from hieranome.app.trial import Trial
from hieranome.app.vault import Vault
from hieranome.app.watching import POLL, Watchers
from hieranome.app.worker import Worker
from hieranome.standin.delivery import Delivery


class Closable(Protocol):
    """Something that runs beside and ends with the application."""

    def close(self) -> None:
        """End it."""


@dataclass(frozen=True, slots=True)
class Guest:
    """The demo's mailbox that waits to be connected, at servers on this machine."""

    address: str
    secret: str
    imap_port: int
    smtp_port: int


@dataclass(slots=True)
class Served:
    """One running application."""

    room: Mailroom
    importer: Importer
    trial: Trial
    pictures: Pictures
    vault: Vault
    entry: Entry
    watchers: Watchers
    outbox: Outbox
    leavings: Leavings
    rescorer: Rescorer
    rebuilder: Rebuilder
    delivery: Delivery | None = None
    demo: bool = False
    guest: Guest | None = None
    beside: list[Closable] = field(default_factory=list)

    @classmethod
    def of(
        cls,
        room: Mailroom,
        delivery: Delivery | None = None,
        *,
        demo: bool = False,
        open_to_all: bool = False,
        trust: ssl.SSLContext | None = None,
        poll: float = POLL,
    ) -> Served:
        """A mailroom with the workers it needs, not yet started. ``open_to_all`` lets everybody on this machine in
        without a password; ``trust`` replaces the system's certificates for mail servers."""
        vault = Vault(room.store.folder)
        watchers = Watchers(room, vault, poll=poll, trust=trust)
        return cls(
            room,
            Importer(room),
            Trial(room),
            Pictures(room),
            vault,
            Entry(room.store.folder, vault, room.clock, open_to_all=open_to_all),
            watchers,
            Outbox(room, vault, trust=trust),
            Leavings(watchers),
            Rescorer(room),
            Rebuilder(room),
            delivery,
            demo,
        )

    @property
    def workers(self) -> list[Worker]:
        """What works behind the page."""
        return [self.rescorer.worker, self.rebuilder.worker, self.importer.worker, self.outbox.worker]

    def close(self) -> None:
        """End what runs beside, and let go of the data folder."""
        for one in self.beside:
            one.close()
        self.room.close()


def served(request: Request) -> Served:
    """The application a request is for."""
    return cast(Served, request.app.state.served)


def room(request: Request) -> Mailroom:
    """The mailroom a request is for."""
    return served(request).room


ServedDep = Annotated[Served, Depends(served)]
RoomDep = Annotated[Mailroom, Depends(room)]
