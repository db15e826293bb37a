"""The Trash emptied on the server too: what goes is gone there, nothing else is, whatever breaks."""

from __future__ import annotations

from hieranome.app import emptying
from hieranome.app.filing import file_away, put_back
from hieranome.app.mailbox import mailboxes
from hieranome.core.errors import ConnectionBroken, WorldError
from hieranome.mail.imap_answers import Flags
from hieranome.store import goals, messages
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import Dovecot, MailServer
from tests.support import NOON, crlf, letter

MANY = 130


class Emptying(MailboxCase):
    """A mailbox with old notices in the inbox and others in its Trash."""

    def history(self) -> None:
        for number in range(MANY):
            raw = letter(f"Notice {number}", sender="Meter <meter@room.example>", at=NOON - number)
            self.other.append("INBOX", crlf(raw), Flags(seen=True), NOON - number)

    def setUp(self) -> None:
        super().setUp()
        rows = self.room.reader().execute("SELECT id FROM messages ORDER BY id").fetchall()
        self.numbers = [row[0] for row in rows]
        self.emptier = emptying.Emptier(self.room)
        self.addCleanup(self.emptier.close)

    def trashed(self, count: int = MANY - 10) -> list[bytes]:
        """The first so many notices are put in the Trash, there too; the bytes of the others."""
        gone = self.numbers[:count]
        left = [messages.raw(self.room.reader(), number) for number in self.numbers[count:]]
        file_away(self.room, gone, "trash")
        self.settle()
        self.assertEqual(len(self.on_server()[self.bucket("trash")]), count)
        return sorted(left)

    def empty(self) -> None:
        """Empty it of what can go."""
        emptying.empty(self.room, emptying.look(self.room).messages)

    def again(self) -> None:
        """Connect anew, as the watcher does."""
        self.imap = self.connect()
        with self.room.change() as db:
            goals.try_again(db, self.account)

    def see_through(self) -> None:
        """Look until the mailbox rests, and take out here what is gone there."""
        self.settle(30)
        self.emptier.work()

    def left(self) -> list[bytes]:
        """All that stands anywhere on the server."""
        return sorted(raw for many in self.on_server().values() for raw in many)

    def gone(self) -> int:
        """How many messages are gone here."""
        return int(self.room.reader().execute("SELECT count(*) FROM messages WHERE place = 'gone'").fetchone()[0])


class TestEmptying(Emptying):
    def test_gone_there_and_here(self) -> None:
        """First there, then here; the rest stays as it was, also at later looks."""
        left = self.trashed()
        self.empty()
        self.emptier.work()
        self.assertEqual((self.gone(), emptying.look(self.room).going), (0, MANY - 10), "not before the server did it")
        self.see_through()
        self.assertEqual(self.left(), left)
        self.assertEqual((self.gone(), emptying.look(self.room)), (MANY - 10, emptying.Trash(0, 0, 0, 0)))
        self.see_through()
        self.assertEqual((self.left(), messages.how_many(self.room.reader())), (left, 10))

    def test_what_is_not_there_yet_stays(self) -> None:
        """What was put in the Trash but not yet moved there cannot be emptied; once it is, it can."""
        file_away(self.room, self.numbers[:3], "trash")
        self.assertEqual(emptying.look(self.room), emptying.Trash(0, 0, 3, 0))
        self.settle()
        self.assertEqual(emptying.look(self.room).messages, 3)

    def test_where_nothing_is_moved_nothing_is_removed(self) -> None:
        """A mailbox that is only read keeps its mail, wherever it stands here."""
        mailboxes.route(self.room, self.account, on=False)
        file_away(self.room, self.numbers[:3], "trash")
        self.assertEqual(emptying.look(self.room), emptying.Trash(0, 0, 3, 0))

    def test_no_longer_moved_in_time(self) -> None:
        """Where the owner says meanwhile that nothing is to be moved in a mailbox, nothing is removed there either."""
        self.trashed()
        before = self.on_server()
        self.empty()
        mailboxes.route(self.room, self.account, on=False)
        self.see_through()
        self.assertEqual((self.on_server(), self.gone()), (before, 0))
        self.assertEqual(emptying.look(self.room), emptying.Trash(0, 0, MANY - 10, 0))

    def test_put_back_in_time(self) -> None:
        """What is put back before the server is told stays, there and here."""
        self.trashed()
        before = messages.raw(self.room.reader(), self.numbers[0])
        self.empty()
        put_back(self.room, self.numbers[:1])
        self.see_through()
        self.assertEqual(self.gone(), MANY - 11)
        self.assertIn(before, self.on_server()["INBOX"])

    def test_taken_elsewhere_by_another_program(self) -> None:
        """What another program takes out of the Trash in time is not gone, and stands where it was put."""
        self.trashed()
        self.empty()
        self.move_elsewhere(self.numbers[0], "INBOX")
        self.see_through()
        self.see_through()
        self.assertEqual(self.gone(), MANY - 11)
        self.assertEqual(self.row(self.numbers[0]).place, "desk")
        self.assertEqual(emptying.look(self.room).going, 0)

    def test_removed_there_by_another_program(self) -> None:
        """What another program emptied meanwhile is gone here as well."""
        self.trashed()
        self.empty()
        self.other.select(self.bucket("trash"))
        self.other.set_deleted(self.other.uids())
        self.other.expunge_all()
        self.see_through()
        self.see_through()
        self.assertEqual((self.gone(), emptying.look(self.room).going), (MANY - 10, 0))


class TestEmptyingAtTheStandin(Emptying):
    def test_a_connection_that_breaks_at_any_command(self) -> None:
        """In the end what was to go is gone on both sides, and nothing else."""
        left = self.trashed(120)
        faults = self.standin.imap.faults
        emptied = 0
        for command in ("SELECT", "UID STORE", "UID EXPUNGE"):
            for kind in ("drop_before", "drop_behind"):
                with self.subTest(command=command, kind=kind):
                    if not emptied:
                        self.empty()
                    emptied += 1
                    getattr(faults, kind).add(command)
                    try:
                        self.settle(1)
                    except (ConnectionBroken, AssertionError):
                        self.again()
                    getattr(faults, kind).discard(command)
                    self.emptier.work()
        self.see_through()
        self.assertEqual((self.left(), self.gone()), (left, 120))
        self.assertEqual(messages.how_many(self.room.reader()), MANY - 120)

    def test_without_uidplus(self) -> None:
        """Another program's mark for removal in the Trash keeps all waiting: only what the owner named is expunged."""
        self.standin.offer(("UIDPLUS",))
        self.imap = self.connect()
        left = self.trashed()
        self.put(letter("Theirs"), self.bucket("trash"))
        self.settle()
        theirs = int(self.room.reader().execute("SELECT max(id) FROM messages").fetchone()[0])
        put_back(self.room, [theirs])
        self.settle()
        self.empty()
        self.other.append(self.bucket("trash"), crlf(letter("Marked")), Flags(), NOON)
        self.other.select(self.bucket("trash"))
        self.other.set_deleted(self.other.uids()[-1:])
        self.settle()
        self.emptier.work()
        self.assertEqual(self.gone(), 0)
        self.other.expunge_all()
        self.again()
        self.see_through()
        self.see_through()
        self.assertEqual(self.gone(), MANY - 10)
        self.assertLessEqual(set(left), set(self.left()))

    def test_a_server_that_refuses(self) -> None:
        """What it says is told; the mail stays in the Trash, and goes when it is allowed."""
        left = self.trashed()
        self.empty()
        self.standin.imap.faults.refuse["UID STORE"] = "NO [NOPERM] not yours"
        for _ in range(5):
            try:
                self.settle(2)
            except (WorldError, AssertionError):
                continue
        self.emptier.work()
        self.assertEqual((self.gone(), emptying.look(self.room).going), (0, MANY - 10))
        self.standin.imap.faults.refuse.clear()
        self.again()
        self.see_through()
        self.assertEqual((self.left(), self.gone()), (left, MANY - 10))

    def test_the_folder_numbered_anew(self) -> None:
        """What is known again under other numbers is removed by those."""
        left = self.trashed()
        self.empty()
        self.standin.renumber(self.bucket("trash"))
        self.other = self.connect()
        self.again()
        self.see_through()
        self.see_through()
        self.assertEqual((self.left(), self.gone()), (left, MANY - 10))


class TestEmptyingAtDovecot(TestEmptying):
    """The same at a server of the wild."""

    def start_server(self) -> MailServer:
        return Dovecot()
