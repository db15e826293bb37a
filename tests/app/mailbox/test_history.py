"""The history of a mailbox is read newest first, stops and goes on at any message, and is placed once it is known."""

from __future__ import annotations

import statistics
import tempfile
from pathlib import Path

from fastapi.testclient import TestClient

from hieranome.app.arrival.arrive import receive
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.first_round import ANSWERS, first_round
from hieranome.app.mailbox.habits import habits_of
from hieranome.app.mailbox.history import progress, read_history
from hieranome.app.mailbox.mailboxes import PROPOSED
from hieranome.app.mailbox.syncing import sync
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.teaching.correct import correct
from hieranome.core.buckets import QUIET_PLACES
from hieranome.core.deciders import Decider
from hieranome.core.errors import ConnectionBroken, NotFound
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, messages
from hieranome.web.application import build
from tests.app.mailbox.case import account_at
from tests.mail.servers import LOGIN, Standin
from tests.patience import PATIENCE
from tests.support import NOON, RoomCase, crlf, letter, offer

COUNT = 450


class AfterImport(RoomCase):
    """The first round about all mail, wherever it came from."""

    def test_after_an_import_all_mail_is_asked_about(self) -> None:
        """Without a mailbox the newest of all mail is: what stands in buckets, of whoever; never what is dealt with,
        nor what the owner wrote; of a mailbox that is none nothing is."""
        before = self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0]
        self.assertEqual((before, first_round(self.room).question), (0, None))
        for one in mailgen.generate(120, 5):
            receive(self.room, one.raw)
        self.room.set_owner(OWNER_ADDRESSES)
        mine = [
            row[0] for row in self.room.reader().execute("SELECT sender_address FROM messages WHERE place = 'shelf'")
        ]
        self.assertTrue(set(mine) & set(OWNER_ADDRESSES), "there is mail of the owner's that came as others' does")
        asked, skipped = list[str](), list[int]()
        while (found := first_round(self.room, skipped=skipped).question) is not None:
            self.assertIn(found.message.decided_by, ("model", "kin"))
            self.assertNotIn(found.message.place, QUIET_PLACES)
            self.assertNotIn(found.message.sender_address, OWNER_ADDRESSES)
            asked.append(found.message.list_id or found.message.sender_address)
            skipped.append(found.message.id)
        self.assertEqual(len(set(asked)), len(asked))
        self.assertGreater(len(asked), ANSWERS)
        with self.assertRaises(NotFound):
            first_round(self.room, 10**6)

    def test_much_that_is_dealt_with_hides_nothing(self) -> None:
        """However much of the newest stands in the Archive, what stands in buckets behind it is asked about."""
        number = receive(self.room, letter("An old question", at=NOON))
        with self.room.change() as db:
            for at in range(PROPOSED + 1):
                late = receive(self.room, letter(f"Dealt with {at}", at=NOON + 60 * (at + 1))) or 0
                messages.move(db, late, "archive", Decider.MODEL)
        found = first_round(self.room).question
        assert found is not None
        self.assertEqual(found.message.id, number)

    def test_ten_answers_help_after_imports(self) -> None:
        """In the mean of several mailboxes ten answers put eight of a hundred more where they belong."""
        gained = []
        for seed in (3, 8, 11):
            with tempfile.TemporaryDirectory() as folder:
                room = Mailroom(Path(folder))
                self.addCleanup(room.close)
                room.set_owner(OWNER_ADDRESSES)
                truths = {}
                for one in mailgen.generate(300, seed):
                    if one.kind and (number := receive(room, one.raw)):
                        truths[number] = one.belongs
                before = self.right(room, truths)
                while (found := first_round(room).question) is not None:
                    correct(room, [found.message.id], truths[found.message.id], follow=True)
                gained.append(self.right(room, truths) - before)
        self.assertGreater(statistics.mean(gained), 0.08)

    @staticmethod
    def right(room: Mailroom, truths: dict[int, str]) -> float:
        """The share of mail that stands where it belongs."""
        rows = messages.get_many(room.reader(), list(truths))
        return sum(row.place == truths[row.id] for row in rows) / len(rows)


class Reading(RoomCase):
    """A mailbox with a history, not read yet."""

    def setUp(self) -> None:
        super().setUp()
        self.standin = Standin()
        self.addCleanup(self.standin.close)
        for number, one in enumerate(mailgen.generate(COUNT, 3)):
            folder = "Sent" if one.belongs == "sent" else "Archive" if number % 9 == 0 else "INBOX"
            marks = ["\\Seen"] if one.read else []
            self.standin.box.append(folder, one.raw, marks, one.at)
        self.total = sum(len(self.standin.box.uids(f.name)) for f in self.standin.box.folders())
        self.imap = self.connect()
        self.account = mailboxes.add(self.room, account_at(self.standin), self.imap.folders()).id

    def connect(self) -> Imap:
        """A connection that is closed at the end."""
        made = Imap.connect(self.standin.server, LOGIN, timeout=PATIENCE)
        self.addCleanup(made.close)
        return made

    def count(self) -> int:
        """Messages stored here."""
        return int(self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0])

    def state_of(self) -> str:
        """The state of the mailbox."""
        return accounts.get(self.room.reader(), self.account).state

    def test_ten_answers_put_most_of_what_is_wrong_right(self) -> None:
        """The first round asks what costs most, each sender or list once; kin follow; after ten answers it is over."""
        read_history(self.room, self.imap, self.account)
        truths = {one.message_id: one.belongs for one in mailgen.generate(COUNT, 3)}
        before = self.share_right(truths)
        asked: list[str] = []
        while (found := first_round(self.room, self.account).question) is not None:
            self.assertEqual(found.message.decided_by in ("model", "kin"), True)
            asked.append(found.message.list_id or found.message.sender_address)
            self.assertEqual(first_round(self.room, self.account).question, found)
            correct(self.room, [found.message.id], truths[self.identity(found.message.id)], follow=True)
        self.assertEqual((len(asked), len(set(asked))), (ANSWERS, ANSWERS))
        self.assertEqual(first_round(self.room, self.account).answered, ANSWERS)
        self.assertGreater(before, 0.65)  # what ships about junk knows much before the first answer
        self.assertGreater(self.share_right(truths), 0.73)

    def test_what_was_passed_over_is_not_asked_again(self) -> None:
        """Neither it nor other mail of its sender or list; ids that are nothing here change nothing."""
        self.assertIsNone(first_round(self.room, self.account).question)
        read_history(self.room, self.imap, self.account)
        first = first_round(self.room, self.account).question
        assert first is not None
        self.assertEqual(first_round(self.room, self.account, [10**9]).question, first)
        second = first_round(self.room, self.account, [first.message.id]).question
        assert second is not None
        of_first, of_second = (q.message.list_id or q.message.sender_address for q in (first, second))
        self.assertNotEqual(of_first, of_second)
        skipped = [first.message.id]
        while (found := first_round(self.room, self.account, skipped).question) is not None:
            self.assertNotIn(found.message.id, skipped)
            skipped.append(found.message.id)
        self.assertGreater(len(skipped), 10)
        self.assertEqual(first_round(self.room, self.account, skipped).answered, 0)

    def identity(self, number: int) -> str:
        """The Message-ID of a message."""
        row = self.room.reader().execute("SELECT message_id FROM messages WHERE id = ?", (number,)).fetchone()
        return str(row[0])

    def share_right(self, truths: dict[str, str]) -> float:
        """The share of the newest in the inbox that stands where it belongs."""
        newest = copies.newest_in_inbox(self.room.reader(), self.account, 500)
        return sum(place == truths[self.identity(number)] for number, place in newest) / len(newest)

    def test_only_who_is_mostly_left_unread_is_told_so(self) -> None:
        """Seven unread of sixty-eight are no habit."""
        for number in range(68):
            self.standin.box.append(
                "INBOX", crlf(letter(f"Read {number}", sender="often@hall.example")), ["\\Seen"] if number > 6 else []
            )
        for number in range(8):
            self.standin.box.append(
                "INBOX", crlf(letter(f"Left {number}", sender="seldom@hall.example")), ["\\Seen"] if number > 5 else []
            )
        read_history(self.room, self.imap, self.account)
        told = [one.address for one in habits_of(self.room, 100).unread]
        self.assertIn("seldom@hall.example", told)
        self.assertNotIn("often@hall.example", told)

    def test_all_of_it_stands_where_it_stood(self) -> None:
        """Every message has one copy; filed mail is where it was filed; nothing waits; nothing was moved."""
        before = {f.name: self.standin.box.uids(f.name) for f in self.standin.box.folders()}
        self.assertTrue(read_history(self.room, self.imap, self.account))
        self.assertEqual(self.count(), self.total)
        self.assertEqual(progress(self.room, self.account).done, self.total)
        rows = self.room.reader().execute("SELECT count(*) FROM messages WHERE decided_by = 'waiting'").fetchone()
        self.assertEqual(rows[0], 0)
        rows = self.room.reader().execute(
            "SELECT count(*) FROM messages AS m JOIN copies AS c ON c.message = m.id"
            " JOIN folders AS f ON f.id = c.folder WHERE f.role = 'archive' AND m.place <> 'archive'"
        )
        self.assertEqual(rows.fetchone()[0], 0)
        self.assertFalse(sync(self.room, self.imap, self.account))
        self.assertEqual({f.name: self.standin.box.uids(f.name) for f in self.standin.box.folders()}, before)

    def test_it_stops_and_goes_on_newest_first(self) -> None:
        """Stopped after a batch, what is there is the newest of the inbox; then it goes on to the end."""
        looks = [0]

        def stopped() -> bool:
            looks[0] += 1
            return looks[0] > 1

        self.assertFalse(read_history(self.room, self.imap, self.account, stopped))
        inbox = next(f for f in accounts.folders(self.room.reader(), self.account) if f.role == "inbox")
        known = copies.uids(self.room.reader(), inbox.id)
        self.assertEqual(known, self.standin.box.uids("INBOX")[-len(known) :])
        self.assertLess(len(known), len(self.standin.box.uids("INBOX")))
        self.assertEqual(self.state_of(), "reading")
        self.reopen()
        self.assertTrue(read_history(self.room, self.imap, self.account))
        self.assertEqual(self.count(), self.total)

    def test_a_connection_that_breaks_anywhere_costs_nothing(self) -> None:
        """Broken again and again at other bytes, everything is read once in the end."""
        broken = 0
        for byte in range(120_000, 4_000_000, 250_000):
            self.standin.imap.faults.drop_after = byte
            try:
                if read_history(self.room, self.imap, self.account):
                    break
            except ConnectionBroken:
                broken += 1
                self.imap.cut()
                self.standin.imap.faults.drop_after = None
                self.imap = self.connect()
        self.assertGreater(broken, 0)
        self.assertEqual(self.state_of(), "watching")
        self.assertEqual(self.count(), self.total)
        self.assertEqual(progress(self.room, self.account).done, self.total)

    def test_what_arrives_while_it_is_read_is_routed_afterwards(self) -> None:
        """Mail of that time is no history: it arrives."""
        read_history(self.room, self.imap, self.account, lambda: True)
        self.standin.box.append("INBOX", crlf(letter("Meanwhile", at=NOON)))
        self.assertTrue(read_history(self.room, self.imap, self.account))
        self.assertEqual(self.count(), self.total)
        self.assertTrue(sync(self.room, self.imap, self.account))
        row = (
            self.room.reader().execute("SELECT place, decided_by FROM messages WHERE subject = 'Meanwhile'").fetchone()
        )
        self.assertEqual(row["decided_by"], "model")

    def test_it_tells_who_is_answered(self) -> None:
        """Own addresses that are not known as such, and correspondents, are found."""
        read_history(self.room, self.imap, self.account)
        told = habits_of(self.room)
        self.assertTrue(told.answered)
        self.assertIn("tours@quillmark.example", [address for address, _ in told.addresses])
        self.assertGreater(told.lists, 3)


class TwoMailboxes(RoomCase):
    """Two accounts, one Desk."""

    def test_the_same_message_in_both_is_one_and_moves_in_both(self) -> None:
        """It is judged once and has a copy in each; a verdict moves both, each within its own mailbox."""
        standins = [Standin(), Standin()]
        imaps = []
        numbers = []
        for standin, address in zip(standins, ("maren@quillmark.example", "tours@quillmark.example"), strict=True):
            self.addCleanup(standin.close)
            imap = Imap.connect(standin.server, LOGIN)
            self.addCleanup(imap.close)
            imap.append("INBOX", crlf(offer(1)), Flags(), NOON)
            account = mailboxes.add(self.room, account_at(standin, address), imap.folders()).id
            read_history(self.room, imap, account)
            mailboxes.route(self.room, account, on=True)
            imaps.append(imap)
            numbers.append(account)
        (message,) = [row[0] for row in self.room.reader().execute("SELECT id FROM messages")]
        correct(self.room, [message], "digest")
        for imap, account in zip(imaps, numbers, strict=True):
            for _ in range(3):
                sync(self.room, imap, account)
        for standin in standins:
            self.assertEqual(len(standin.box.uids("Hieranome/Digest")), 1)
            self.assertEqual(standin.box.uids("INBOX"), [])
        self.assertEqual(len(copies.of_message(self.room.reader(), message)), 2)
        both = ["maren@quillmark.example", "tours@quillmark.example"]
        self.assertEqual(copies.accounts_of(self.room.reader(), [message]), {message: both})
        client = TestClient(build(Service.of(self.room, open_to_all=True), hosts=("testserver",)))
        for path in ("/api/messages?place=digest", "/api/search?line=account:tours"):
            self.assertEqual([one["accounts"] for one in client.get(path).json()["messages"]], [both])
        standins[0].box.move("Hieranome/Digest", standins[0].box.uids("Hieranome/Digest"), "INBOX")
        for _ in range(3):
            for imap, account in zip(imaps, numbers, strict=True):
                sync(self.room, imap, account)
        self.assertEqual(self.row(message).place, "desk")
        self.assertEqual(len(standins[1].box.uids("INBOX")), 1)
