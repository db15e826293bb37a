"""A room with a mailbox on a server, and another program that works in the same mailbox."""

from __future__ import annotations

from dataclasses import replace

from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.syncing import sync
from hieranome.core.buckets import Costs
from hieranome.core.errors import ConnectionBroken, ServerUnreachable
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies
from hieranome.store.accounts import NewAccount
from tests.mail.servers import LOGIN, MailServer, Standin
from tests.patience import PATIENCE
from tests.support import NOON, OWNER, RoomCase, crlf

ALL_TO_THE_DESK = Costs(buried=1000.0, drained_important=1000.0, noise=0.001, asking=1000.0)
"""Costs by which the model leaves all mail in the inbox."""


def account_at(server: MailServer, address: str = OWNER) -> NewAccount:
    """What the owner would say of a mailbox at a test's server."""
    at = server.server
    return NewAccount(address, "Maren", LOGIN.user, False, at.host, at.port, at.security, at.host, 25, "plain")


class MailboxCase(RoomCase):
    """A mailbox at the stand-in, its history read, routing on."""

    def start_server(self) -> MailServer:
        """The server of this test."""
        self.standin = Standin()
        return self.standin

    def history(self) -> None:
        """Put what stands in the mailbox before Hieranome comes."""

    def setUp(self) -> None:
        super().setUp()
        self.server = self.start_server()
        self.addCleanup(self.server.close)
        self.other = self.connect()
        self.history()
        self.imap = self.connect()
        new = replace(account_at(self.server), prefix=self.imap.personal())
        self.account = mailboxes.add(self.room, new, self.imap.folders()).id
        read_history(self.room, self.imap, self.account)
        mailboxes.route(self.room, self.account, on=True)
        self.settle()

    def connect(self) -> Imap:
        """A connection that is closed at the end."""
        made = Imap.connect(self.server.server, LOGIN, timeout=PATIENCE)
        self.addCleanup(made.close)
        return made

    def settle(self, looks: int = 12) -> None:
        """Look until nothing changes any more, connecting anew where the connection broke."""
        quiet = 0
        for _ in range(looks):
            try:
                changed = sync(self.room, self.imap, self.account)
            except (ConnectionBroken, ServerUnreachable):
                self.imap = self.connect()
                continue
            quiet = 0 if changed else quiet + 1
            if quiet == 2:
                return
        self.fail("the mailbox does not come to rest")

    def put(self, raw: bytes, folder: str = "INBOX", flags: Flags | None = None) -> None:
        """Another program, or the world, puts a message into a folder."""
        self.other.append(folder, crlf(raw), flags or Flags(), NOON)

    def arrive(self, raw: bytes, folder: str = "INBOX") -> int:
        """A message arrives and is looked at; its id."""
        self.put(raw, folder)
        self.settle()
        return int(self.room.reader().execute("SELECT max(id) FROM messages").fetchone()[0])

    def move_elsewhere(self, number: int, target: str) -> None:
        """Another program moves a message (all its copies that stand in one folder)."""
        for copy in copies.of_message(self.room.reader(), number):
            if copy.uid is not None:
                self.move_there(accounts.folder(self.room.reader(), copy.folder).name, [copy.uid], target)
                return
        self.fail(f"message {number} has no copy")

    def move_there(self, folder: str, uids: list[int], target: str) -> None:
        """Another program moves messages of a folder, by MOVE where that is offered."""
        self.other.select(folder)
        if self.other.offers("MOVE"):
            self.other.move(uids, target)
            return
        self.other.copy(uids, target)
        self.other.set_deleted(uids)
        self.other.expunge_all()

    def bucket(self, name: str) -> str:
        """The folder of a place on the server."""
        return next(f.name for f in accounts.folders(self.room.reader(), self.account) if f.place == name)

    def on_server(self) -> dict[str, list[bytes]]:
        """The bytes of every message in every folder, as another program sees them."""
        found = {}
        for one in self.other.folders():
            self.other.select(one.name)
            bodies = self.other.bodies(self.other.uids())
            if bodies:
                found[one.name] = sorted(bodies.values())
        return found

    def folder_of(self, number: int) -> list[str]:
        """The folders that hold a message, as recorded."""
        return [
            accounts.folder(self.room.reader(), copy.folder).name
            for copy in copies.of_message(self.room.reader(), number)
            if copy.uid is not None
        ]

    def lessons(self) -> list[tuple[int, str]]:
        """(message, where it belongs) of every lesson that stands."""
        rows = self.room.reader().execute("SELECT message, belongs FROM lessons WHERE undone = 0 ORDER BY id")
        return [(row[0], row[1]) for row in rows]
