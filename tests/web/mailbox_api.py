"""A mailbox connected through the API, at the stand-in or a server of the wild."""

from __future__ import annotations

import ssl
from collections.abc import Callable

from fastapi.testclient import TestClient

from hieranome.app.service import Service
from hieranome.core.errors import FolderMissing
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.web.application import build
from tests.mail.servers import LOGIN, SECRET, USER, MailServer, Standin
from tests.patience import PATIENCE, await_
from tests.support import MARK, NOON, OWNER, RoomCase, crlf, letter, offer


def certificate_of(port: int) -> bytes:
    """The certificate a server on this machine shows, in PEM."""
    return ssl.get_server_certificate(("127.0.0.1", port), timeout=PATIENCE).encode("ascii")


class MailboxApi(RoomCase):
    """A server with a page, and a mail server beside it."""

    def start_server(self) -> MailServer:
        """The mail server of this test."""
        return Standin()

    def setUp(self) -> None:
        super().setUp()
        self.server = self.start_server()
        self.addCleanup(self.server.close)
        self.other = Imap.connect(self.server.server, LOGIN)
        self.addCleanup(self.other.close)
        for number in range(4):
            self.other.append("INBOX", crlf(offer(number)), Flags(), NOON + number)
        self.other.append("INBOX", crlf(letter("Rider")), Flags(seen=True, answered=True), NOON)
        self.sink = SmtpSink({USER: SECRET})
        self.sink.start()
        self.addCleanup(self.sink.close)
        self.served = Service.of(self.room, open_to_all=True, poll=0.3)
        self.client = TestClient(build(self.served, hosts=("testserver",)), headers=MARK)
        self.client.__enter__()
        self.addCleanup(self.client.__exit__, None, None, None)

    def described(self, **changes: object) -> dict[str, object]:
        """The mailbox as its owner would describe it."""
        at = self.server.server
        found: dict[str, object] = {
            "address": OWNER, "name": "Maren", "user": USER, "secret": SECRET, "kept": "file",
            "imap_host": at.host, "imap_port": at.port, "imap_security": at.security,
            "smtp_host": "127.0.0.1", "smtp_port": self.sink.port, "smtp_security": "plain",
        }  # fmt: skip
        return found | changes

    def connect(self) -> int:
        """Connect the mailbox and wait until its history is read; its number."""
        answer = self.client.post("/api/mailboxes", json=self.described())
        self.assertEqual(answer.status_code, 201, answer.text)
        number = int(answer.json()["id"])
        self.await_("the history", lambda: self.mailbox()["state"] == "watching")
        return number

    def mailbox(self) -> dict[str, object]:
        """The one mailbox."""
        found: dict[str, object] = self.client.get("/api/mailboxes").json()["mailboxes"][0]
        return found

    def await_(self, what: str, check: Callable[[], object]) -> None:
        """Wait until something holds."""
        await_(what, check, said=self.mailbox)

    def folder_count(self, name: str) -> int:
        """How many messages a folder holds on the server; none where it is not made yet."""
        try:
            return self.other.status(name).messages
        except FolderMissing:
            return 0
