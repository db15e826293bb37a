"""Old mail put in the Trash on the server too, and back: byte for byte as it was."""

from __future__ import annotations

from collections.abc import Mapping
from unittest import mock

from hieranome.app.bulk import old_mail
from hieranome.app.filing import file_away
from hieranome.app.mailbox import mailboxes
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.mail.imap_answers import Flags
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import Dovecot, MailServer
from tests.support import NOON, crlf, letter

MANY = 250


class TestWeighIn(MailboxCase):
    """A mailbox full of old notices, at the stand-in."""

    MADE: Mapping[str, str] = {}

    def history(self) -> None:
        for number in range(MANY):
            at = NOON - (60 + number) * 604_800
            raw = letter(f"Notice {number}", sender="Meter <meter@room.example>", at=at, **self.MADE)
            self.other.append("INBOX", crlf(raw), Flags(seen=True), NOON - number)

    def test_gone_and_back(self) -> None:
        """All of it goes in one step, on the server too; undone, every folder holds the same bytes again."""
        before = self.on_server()
        step, _ = old_mail.put_away(self.room, ["address:meter@room.example"], 52, "source")
        self.settle()
        self.assertEqual(step.messages, MANY)
        self.assertEqual(len(self.on_server()[self.bucket("trash")]), MANY)
        undo(self.room, step.id)
        self.settle()
        self.assertEqual(self.on_server(), before)

    def test_undone_before_it_was_carried_out(self) -> None:
        """Nothing is moved on the server at all."""
        before = self.on_server()
        step, _ = old_mail.put_away(self.room, ["address:meter@room.example"], 52, "source")
        undo(self.room, step.id)
        self.settle()
        self.assertEqual(self.on_server(), before)

    def test_taught_put_away_and_both_undone(self) -> None:
        """Home is where it stood at first, however often it was moved since."""
        before = self.on_server()
        number = self.room.reader().execute("SELECT min(id) FROM messages").fetchone()[0]
        taught = correct(self.room, [number], "shelf", follow=False)
        self.settle()
        filed = file_away(self.room, [number], "trash")
        self.settle()
        undo(self.room, filed.step)
        self.settle()
        undo(self.room, taught.step)
        self.settle()
        self.assertEqual(self.on_server(), before)


class TestWeighInOfTheInbox(TestWeighIn):
    """The same where most mail stays in the inbox there, wherever it stands here: only the newest is moved when routing
    begins."""

    MADE: Mapping[str, str] = {"Precedence": "bulk", "Auto_Submitted": "auto-generated"}

    def setUp(self) -> None:
        with mock.patch.object(mailboxes, "PROPOSED", 40):
            super().setUp()
        self.assertGreater(len(self.on_server()["INBOX"]), MANY / 2)
        self.assertLess(self.standing_in("desk"), 10)

    def test_a_verdict_is_no_way_back(self) -> None:
        """What is put where it stood before by the owner's word goes to the folder of that place."""
        number = self.room.reader().execute("SELECT max(id) FROM messages").fetchone()[0]
        place = self.row(number).place
        file_away(self.room, [number], "trash")
        self.settle()
        correct(self.room, [number], place, follow=False)
        self.settle()
        self.assertEqual(self.folder_of(number), [self.bucket(place)])


class TestWeighInOfTheInboxAtDovecot(TestWeighInOfTheInbox):
    """And that at a server of the wild."""

    def start_server(self) -> MailServer:
        return Dovecot()


class TestWeighInAtDovecot(TestWeighIn):
    """The same at a server of the wild."""

    def start_server(self) -> MailServer:
        return Dovecot()
