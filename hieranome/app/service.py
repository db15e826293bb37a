"""One running application: the mailroom and everything that works beside it, put together, begun and ended."""

from __future__ import annotations

import ssl
from dataclasses import dataclass, field
from typing import Protocol

from hieranome.app import record
from hieranome.app.access.authorising import Authorisations
from hieranome.app.access.entry import Entry
from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.arrival.importer import Importer
from hieranome.app.at_server.placing import AtServer
from hieranome.app.away import keeping
from hieranome.app.bulk.compiling import compiler
from hieranome.app.bulk.draining import drainage
from hieranome.app.bulk.looking_through import LookingThrough
from hieranome.app.bulk.unsubscribing import Unsubscriber
from hieranome.app.emptying import Emptier
from hieranome.app.following.returning import returner
from hieranome.app.mailbox.leaving import Leavings
from hieranome.app.mailbox.watching import POLL, Watchers
from hieranome.app.pictures import Pictures
from hieranome.app.reading import processes
from hieranome.app.record import Step
from hieranome.app.renewing import Renewer
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.app.room.worker import Worker
from hieranome.app.rules.running import Runner, ageing
from hieranome.app.second_look import SecondLook
from hieranome.app.sending.outbox import Outbox
from hieranome.app.teaching import undoing
from hieranome.app.trial.trial import Trial
from hieranome.core.arranged import Thing
from hieranome.mail.finding import Finder
from hieranome.mail.oauth import TokenServer


class Deliverer(Protocol):
    """What brings the demo's mail, message by message."""

    @property
    def running(self) -> bool:
        """Whether it delivers now."""

    @property
    def interval(self) -> float:
        """Seconds between two messages."""

    @property
    def left(self) -> int:
        """How many messages are still to come."""

    def start(self, *, running: bool) -> None:
        """Begin, delivering or waiting to be told to."""

    def set(self, *, running: bool, interval: float) -> None:
        """Go on or wait, sooner or later."""

    def deliver_now(self) -> bool:
        """Deliver the next message at once; whether there was one."""

    def close(self) -> None:
        """End it."""


class Closable(Protocol):
    """Something that runs beside and ends with the application."""

    def close(self) -> None:
        """End it."""


class Working(Protocol):
    """What works behind the page, in a thread of its own or in the one for what is done regularly."""

    @property
    def worker(self) -> Worker:
        """What tells how it is."""

    def start(self) -> None:
        """Begin to work."""

    def close(self) -> None:
        """End after the work at hand."""


@dataclass(frozen=True, slots=True)
class Guest:
    """The demo's mailbox that waits to be connected, at servers on this machine."""

    address: str
    secret: str
    imap_port: int
    smtp_port: int


@dataclass(slots=True)
class Service:
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
    renewer: Renewer
    looking_through: LookingThrough
    compiler: Regular
    drainage: Regular
    emptier: Emptier
    runner: Runner
    ageing: Regular
    second_look: SecondLook
    returner: Regular
    at_server: AtServer
    unsubscriber: Unsubscriber
    schedule: Schedule
    logins: Logins
    authorisations: Authorisations
    delivery: Deliverer | None = None
    demo: bool = False
    guest: Guest | None = None
    finder: Finder = field(default_factory=Finder)
    beside: list[Closable] = field(default_factory=list)

    @classmethod
    def of(
        cls,
        room: Mailroom,
        delivery: Deliverer | None = None,
        *,
        demo: bool = False,
        open_to_all: bool = False,
        trust: ssl.SSLContext | None = None,
        poll: float = POLL,
    ) -> Service:
        """A mailroom with the workers it needs, not yet started. ``open_to_all`` lets everybody on this machine in
        without a password; ``trust`` replaces the system's certificates for mail servers."""
        vault = Vault(room.store.folder)
        servers = TokenServer(room.clock, trust=trust)
        logins = Logins(vault, servers)
        watchers = Watchers(room, logins, poll=poll, trust=trust)
        schedule = Schedule()
        at_server = AtServer(room, logins, schedule, trust=trust)
        return cls(
            room,
            Importer(room),
            Trial(room),
            Pictures(room),
            vault,
            Entry(room.store.folder, vault, room.clock, open_to_all=open_to_all),
            watchers,
            Outbox(room, logins, trust=trust),
            Leavings(watchers, at_server.leave),
            Rescorer(room),
            Rebuilder(room),
            Renewer(room),
            LookingThrough(room, schedule),
            compiler(room, schedule),
            drainage(room, schedule),
            Emptier(room),
            Runner(room),
            ageing(room, schedule),
            SecondLook(room),
            returner(room, schedule),
            at_server,
            Unsubscriber(room),
            schedule,
            logins,
            Authorisations(room.clock, servers),
            delivery,
            demo,
            finder=Finder(trust=trust),
        )

    @property
    def _followers(self) -> tuple[Working, ...]:
        return (
            self.rescorer, self.rebuilder, self.renewer, self.importer, self.outbox, self.looking_through,
            self.compiler, self.drainage, self.emptier, self.runner, self.ageing, self.second_look, self.returner,
            self.at_server.regular,
        )  # fmt: skip

    @property
    def workers(self) -> list[Worker]:
        """What works behind the page."""
        return [one.worker for one in self._followers]

    def start(self) -> None:
        """Begin all that works behind the page."""
        processes.warm_up()
        for one in self._followers:
            one.start()
        self.watchers.start()
        self.schedule.start()

    def stop(self) -> None:
        """End all that works behind the page; what was begun is gone on with after the next start."""
        self.schedule.close()
        self.watchers.close()
        if self.delivery is not None:
            self.delivery.close()
        self.trial.stop()
        self.pictures.close()
        for one in self._followers:
            one.close()

    def undo(self, step: int | None = None) -> tuple[Step, list[str]]:
        """Undo a step (the latest standing one when none is named), and let the servers that send the away notice know
        where it did something with that; the step, and why a server could not be told. Raises as
        :func:`hieranome.app.teaching.undoing.undo` does."""
        undone = undoing.undo(self.room, step)
        if Thing.AWAY not in record.arranged_by(self.room, undone.id):
            return undone, []
        called = {one.account: one.address for one in self.at_server.answering()}
        problems = self.at_server.answer_anew(keeping.notice(self.room).on)
        return undone, [f"{called[account]}: {why}" for account, why in problems.items()]

    def close(self) -> None:
        """End what runs beside, and let go of the data folder."""
        for one in self.beside:
            one.close()
        self.room.close()
