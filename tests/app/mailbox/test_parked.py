"""Following through at servers: parked mail is a folder there, a due date a flag and a keyword, whoever moves it."""

from __future__ import annotations

from zoneinfo import ZoneInfo

from hieranome.app.following import due, owing, parking
from hieranome.app.following.returning import deliver
from hieranome.app.mailbox import leaving
from hieranome.app.mailbox.folders import mirror_parked
from hieranome.app.teaching.undoing import undo
from hieranome.core.tags import DUE
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, following
from tests.app.mailbox.case import ALL_TO_THE_DESK, MailboxCase
from tests.mail.servers import Dovecot, MailServer, Standin
from tests.support import NOON, OWNER, letter


class ParkedAtStandin(MailboxCase):
    """At the stand-in."""

    def start_server(self) -> MailServer:
        return Standin()

    def setUp(self) -> None:
        super().setUp()
        self.clock.now = NOON
        self.room.zone = ZoneInfo("Europe/Berlin")
        self.room.costs = ALL_TO_THE_DESK
        self.number = self.arrive(letter("Trucks", message_id="<trucks@hall.example>"))

    def marks(self) -> Flags:
        """The flags of the message as another program sees them."""
        (copy,) = [one for one in copies.of_message(self.room.reader(), self.number) if one.uid is not None]
        self.other.select(accounts.folder(self.room.reader(), copy.folder).name)
        return self.other.changes(0).flags[copy.uid or 0]

    def test_it_goes_to_a_folder_and_comes_back(self) -> None:
        """Parked, it stands in Hieranome's Parked there; its time come, in the inbox."""
        parking.park(self.room, [self.number], "tomorrow")
        self.settle()
        (folder,) = self.folder_of(self.number)
        self.assertTrue(folder.endswith("Parked") and "Hieranome" in folder, folder)
        self.clock.now = NOON + 86_400
        self.assertEqual(deliver(self.room), [self.number])
        self.settle()
        self.assertEqual(self.folder_of(self.number), ["INBOX"])
        self.assertEqual(self.lessons(), [])

    def test_another_program_unparks(self) -> None:
        """A move out of the folder ends it without teaching anything; a second time it does not come back."""
        parking.park(self.room, [self.number], "tomorrow")
        self.settle()
        self.move_elsewhere(self.number, "INBOX")
        self.settle()
        self.assertEqual(self.row(self.number).place, "desk")
        self.clock.now = NOON + 2 * 86_400
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(self.lessons(), [])

    def test_another_program_parks(self) -> None:
        """A move into the folder parks until the next working morning, whatever it was parked for before."""
        parking.park(self.room, [self.number], "in 3 weeks")
        self.settle()
        folder = self.folder_of(self.number)[0]
        self.move_elsewhere(self.number, "INBOX")
        self.settle()
        self.move_elsewhere(self.number, folder)
        self.settle()
        self.assertEqual(self.row(self.number).place, "parked")
        state = following.get(self.room.reader(), "parked", self.number)
        assert state is not None
        self.assertEqual(due.told(self.room, due.Moment(state.at)), "Fri 10 Oct 08:00")
        self.assertEqual(self.lessons(), [])

    def test_a_due_date_is_a_flag_and_a_keyword(self) -> None:
        """Both are there after a look, and gone once it is done or undone."""
        step = due.set_due(self.room, [self.number], "friday").step
        self.settle()
        self.assertTrue(self.marks().flagged)
        self.assertIn(DUE, self.marks().keywords)
        undo(self.room, step)
        self.settle()
        self.assertFalse(self.marks().flagged)
        self.assertNotIn(DUE, self.marks().keywords)

    def test_done_elsewhere_is_done_here(self) -> None:
        """Another program that takes the flag off, or the keyword, has done it."""
        for off in ("flag", "keyword"):
            due.set_due(self.room, [self.number], "friday")
            self.settle()
            (copy,) = [one for one in copies.of_message(self.room.reader(), self.number) if one.uid is not None]
            self.other.select(accounts.folder(self.room.reader(), copy.folder).name)
            if off == "flag":
                self.other.mark([copy.uid or 0], Flags(seen=self.marks().seen))
            else:
                self.other.set_keywords([copy.uid or 0], (), (DUE,))
            self.settle()
            self.assertIsNone(following.get(self.room.reader(), "due", self.number), off)

    def test_an_answer_from_another_program_leaves_the_list(self) -> None:
        """What the owner answered elsewhere, and what somebody answered, is owed no more at the next look."""
        self.put(letter("Crates", sender=OWNER, to="ilse@hall.example", body="Could you send me the crates?",
                        message_id="<crates@quillmark.example>"), "Sent")  # fmt: skip
        self.settle()
        they, you = owing.owed(self.room)
        self.assertEqual([one.message.subject for one in they], ["Crates"])
        self.assertEqual([one.message.subject for one in you], ["Trucks"])
        self.put(letter("Re: Trucks", sender=OWNER, to="brandel@salthall.example", at=NOON + 60,
                        body="They are in.", In_Reply_To="<trucks@hall.example>"), "Sent")  # fmt: skip
        self.put(letter("Re: Crates", sender="ilse@hall.example", at=NOON + 60, body="They are here.",
                        In_Reply_To="<crates@quillmark.example>"))  # fmt: skip
        self.settle()
        they, you = owing.owed(self.room)
        self.assertEqual((they, [one.message.subject for one in you if one.message.id == self.number]), ([], []))

    def test_leaving_brings_parked_mail_back(self) -> None:
        """Who leaves finds parked mail in the inbox, and no folder of ours."""
        parking.park(self.room, [self.number], "tomorrow")
        self.settle()
        accounted = leaving.bring_back(self.room, self.imap, self.account)
        self.assertEqual(accounted.missing, [])
        self.assertEqual(self.folder_of(self.number), ["INBOX"])
        self.assertFalse([one.name for one in self.other.folders() if one.name.endswith("Parked")])

    def test_a_mailbox_from_before_gets_the_folder(self) -> None:
        """A mailbox that was added before there was parked mail has a folder for it once it is begun."""
        with self.room.change() as db:
            folder = next(one for one in accounts.folders(db, self.account) if one.place == "parked")
            accounts.remove_folder(db, folder.id)
            mirror_parked(db)
            mirror_parked(db)
        parking.park(self.room, [self.number], "tomorrow")
        self.settle()
        self.assertTrue(self.folder_of(self.number)[0].endswith("Parked"))


class ParkedAtDovecot(ParkedAtStandin):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()
