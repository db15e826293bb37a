"""What tests of writing stand on: a mailbox with a submission server."""

from __future__ import annotations

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.sending.outbox import Outbox
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.app.writing.drafts import Changed
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import accounts, drafts
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import SECRET, USER
from tests.support import OWNER

ILSE = "Ilse Vann <vann@northpier.example>"


class SendingCase(MailboxCase):
    """A mailbox with a submission server."""

    def setUp(self) -> None:
        super().setUp()
        self.sink = SmtpSink({USER: SECRET})
        self.sink.start()
        self.addCleanup(self.sink.close)
        with self.room.store.atomic() as db:
            accounts.update(db, self.account, smtp_port=self.sink.port)
        self.vault = Vault(self.room.store.folder)
        self.vault.put(OWNER, SECRET, "file")
        self.outbox = Outbox(self.room, Logins(self.vault))

    def write(self, **values: str) -> int:
        """A letter, kept as a draft; its id."""
        made = beginning.begin(self.room, "new")
        fields = {
            "sender": OWNER,
            "recipients": ILSE,
            "cc": "",
            "bcc": "",
            "subject": "Rider",
            "body": "Yes.\n",
        }
        writing.change(self.room, made.id, Changed(**{**fields, **values}))
        return made.id

    def sent(self, number: int) -> drafts.Draft:
        """Send a letter once its time has come; as it stands then."""
        writing.send(self.room, number)
        self.clock.now += writing.WAY_BACK
        self.outbox.send_due()
        return drafts.get(self.room.reader(), number)
