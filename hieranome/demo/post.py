"""The demo's mail servers: the stand-ins with Maren's account, and a second one that is not connected yet."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from hieranome.core.buckets import SENT
from hieranome.demo.mailgen import Made
from hieranome.demo.world import LEAVING, OWNER, TOURS
from hieranome.mail.imap import Imap
from hieranome.mail.reading import read
from hieranome.mail.servers import Login, Server
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.postbox import INBOX, Postbox
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.standin.unsubscribing import UnsubscribeEndpoint
from hieranome.store.accounts import NewAccount

SECRET = "timpani-in-february"
FILES = {OWNER: "postbox.sqlite3", TOURS: "postbox-tours.sqlite3"}


class DemoPost:
    """Postboxes in the demo's folder, served on ports of 127.0.0.1 until closed."""

    def __init__(self, folder: Path) -> None:
        self.boxes = {address: Postbox(folder / name) for address, name in FILES.items()}
        self.imap = ImapServer({address: Account(box, SECRET) for address, box in self.boxes.items()})
        self.smtp = SmtpSink(dict.fromkeys(FILES, SECRET), self.boxes)
        self.leaving = UnsubscribeEndpoint(LEAVING)
        self.leaving.start()
        self.imap.start()
        self.smtp.start()

    def close(self) -> None:
        """End the servers and close the files."""
        self.leaving.close()
        self.imap.close()
        self.smtp.close()
        for box in self.boxes.values():
            box.close()

    @property
    def box(self) -> Postbox:
        """Maren's postbox."""
        return self.boxes[OWNER]

    def connect(self) -> Imap:
        """A connection to Maren's postbox."""
        return Imap.connect(Server("127.0.0.1", self.imap.port, "plain"), Login(OWNER, SECRET))

    def account(self) -> NewAccount:
        """Maren's mailbox as its owner would describe it."""
        return NewAccount(
            OWNER, "Maren Aldous", OWNER, False,
            "127.0.0.1", self.imap.port, "plain", "127.0.0.1", self.smtp.port, "plain",
        )  # fmt: skip

    def fill(self, mail: Iterable[Made], address: str = OWNER) -> None:
        """Put mail into a postbox as its owner left it: her own in Sent, all else in the inbox."""
        for one in mail:
            marks = [flag for flag, on in (("\\Seen", one.read), ("\\Answered", one.answered)) if on]
            if one.belongs == SENT:
                self.boxes[address].append("Sent", one.raw, ["\\Seen"], one.at)
            else:
                self.boxes[address].append(INBOX, one.raw, marks, one.at)

    def still_comes(self, raw: bytes) -> bool:
        """Whether a message still to come is sent at all: not by a list that was asked to write no more, and obeys."""
        return read(raw).facts.sender.domain not in self.leaving.left

    def deliver(self, raw: bytes) -> None:
        """Let a message arrive now."""
        self.box.append(INBOX, raw)
