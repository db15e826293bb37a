"""Editions in the inbox on the server: there once, whatever breaks; moved by another program they teach nothing."""

from __future__ import annotations

from hieranome.app.bulk import planning
from hieranome.app.bulk.compiling import compile_due
from hieranome.app.filing import file_away
from hieranome.app.mailbox.edition_copies import put_editions
from hieranome.core.errors import ConnectionBroken
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.mail.imap_answers import Flags
from hieranome.store import copies, editions, messages
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import Dovecot, MailServer
from tests.support import letter

DAY = 86_400


class EditionCase(MailboxCase):
    """A mailbox with a plan for every morning."""

    def setUp(self) -> None:
        super().setUp()
        planning.make(self.room, Plan("Daily", buckets=("digest",), days=EVERY_DAY))
        self.issue = 0

    def compiled(self) -> int:
        """An edition of the next day; the message that stands for it."""
        self.issue += 1
        number = self.take(
            letter(f"Issue {self.issue}", sender="news@bell.example", at=self.clock.now, Precedence="bulk")
        )
        with self.room.change() as db:
            messages.move_all(db, [number], "digest", "model")
        self.clock.now += DAY
        made = compile_due(self.room)
        self.assertEqual(len(made), 1)
        message = editions.get(self.room.reader(), made[0])[0].message
        assert message is not None
        return message

    def look(self) -> None:
        """What the watcher does with editions, then looks."""
        put_editions(self.room, self.imap, self.account)
        self.settle()

    def there(self) -> list[str]:
        """The Message-IDs of the editions in the inbox."""
        self.other.select("INBOX")
        ids = [editions.message_id(self.room.reader(), one) for one in self.every()]
        return [one for one in ids for _ in self.other.with_message_id(one)]

    def every(self) -> list[int]:
        """The messages of all editions, oldest first."""
        rows = self.room.reader().execute("SELECT message FROM editions ORDER BY id")
        return [row[0] for row in rows]

    def life(self) -> None:
        """Put there, moved by another program, brought back, archived here."""
        before = self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0]
        number = self.compiled()
        self.look()
        self.look()
        self.assertEqual(len(self.there()), 1)
        self.assertEqual(self.folder_of(number), ["INBOX"])
        for name in ("shelf", "archive"):
            if self.bucket(name) not in {one.name for one in self.other.folders()}:
                self.other.create(self.bucket(name))
        self.settle()
        self.move_elsewhere(number, self.bucket("shelf"))
        self.settle()
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("shelf", "edition"))
        self.move_elsewhere(number, "INBOX")
        self.settle()
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("desk", "edition"))
        file_away(self.room, [number], "archive")
        self.settle()
        self.assertEqual(self.folder_of(number), [self.bucket("archive")])
        self.assertEqual(self.lessons(), [])
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0], before + 2)


class TestEditions(EditionCase):
    """At the stand-in."""

    def test_its_life(self) -> None:
        """There once, follows what is done with it, and teaches nothing."""
        self.life()

    def test_without_a_told_uid(self) -> None:
        """A server that tells no UID of what is put there."""
        self.standin.offer(("UIDPLUS",))
        self.imap = self.connect()
        self.life()

    def test_a_connection_that_breaks_at_any_command(self) -> None:
        """In the end each edition is there once, and none was taken in as mail."""
        for command in ("APPEND", "SELECT", "UID SEARCH"):
            for faults in ("drop_before", "drop_behind"):
                with self.subTest(command=command, faults=faults):
                    self.compiled()
                    getattr(self.standin.imap.faults, faults).add(command)
                    for _ in range(4):
                        try:
                            self.look()
                        except ConnectionBroken:
                            self.imap = self.connect()
                    getattr(self.standin.imap.faults, faults).discard(command)
                    self.look()
                    self.assertEqual(len(self.there()), self.issue)
        kinds = self.room.reader().execute("SELECT count(*) FROM messages WHERE decided_by = 'edition'").fetchone()[0]
        self.assertEqual(kinds, self.issue)
        self.assertEqual([one for one in self.every() if len(copies.of_message(self.room.reader(), one)) != 1], [])

    def test_archived_before_it_was_put_there(self) -> None:
        """It is put nowhere."""
        number = self.compiled()
        file_away(self.room, [number], "archive")
        self.look()
        self.assertEqual((self.there(), editions.to_put(self.room.reader())), ([], []))

    def test_another_message_with_its_id(self) -> None:
        """What a stranger sends with the Message-ID of an edition is mail like any other."""
        number = self.compiled()
        self.look()
        posed = letter("Daily", sender="m@x.example", message_id=editions.message_id(self.room.reader(), number))
        other = self.arrive(posed)
        self.assertNotEqual(other, number)
        self.assertNotEqual(self.row(other).decided_by, "edition")

    def test_read_there_it_is_read_here(self) -> None:
        """The mark follows like any other, and the edition no longer waits to be read."""
        number = self.compiled()
        self.look()
        self.other.select("INBOX")
        copy = copies.of_message(self.room.reader(), number)[0]
        self.other.mark([copy.uid or 0], Flags(seen=True))
        self.settle()
        self.assertTrue(self.row(number).seen)
        self.assertEqual(editions.unread(self.room.reader()), 0)


class TestEditionsAtDovecot(EditionCase):
    """The same at a server of the wild."""

    def start_server(self) -> MailServer:
        return Dovecot()

    def test_its_life(self) -> None:
        """There once, follows what is done with it, and teaches nothing."""
        self.life()
