"""Writing: what is sent is a strict message, sent once, filed in Sent byte for byte, and part of its thread."""

from __future__ import annotations

from datetime import UTC, datetime
from email import message_from_bytes
from email.policy import SMTP

from icalendar import Calendar

from hieranome.app.mailbox.sent_copies import file_sent
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import attaching, beginning
from hieranome.app.writing import drafts as writing
from hieranome.core.errors import CallerError, Conflict, ConnectionBroken, NotFound
from hieranome.core.facts import Correspondent
from hieranome.mail.writing import Written, message_of, recipients
from hieranome.store import drafts, journal, scores
from tests.app.writing.case import ILSE, SendingCase
from tests.support import OWNER, letter

INVITATION = b"""BEGIN:VCALENDAR\r
VERSION:2.0\r
PRODID:-//made//EN\r
METHOD:REQUEST\r
BEGIN:VEVENT\r
UID:seating-19@northpier.example\r
SEQUENCE:2\r
DTSTAMP:20260901T080000Z\r
DTSTART:20260919T170000Z\r
SUMMARY:Seating rehearsal\r
ORGANIZER;CN=Ilse Vann:mailto:vann@northpier.example\r
ATTENDEE;CN=Maren:mailto:maren@quillmark.example\r
END:VEVENT\r
END:VCALENDAR\r
"""


class Sending(SendingCase):
    """A mailbox with a submission server."""

    def test_a_letter_goes_to_everybody_and_names_no_hidden_recipient(self) -> None:
        """The envelope has all, the message has those it may name, and Sent has the same bytes but for Bcc."""
        number = self.write(cc="b@birch.example", bcc="c@copper.example", body="Grüße\n.dot\nFrom us\n")
        self.assertEqual(self.sent(number).state, "sent")
        (taken,) = self.sink.taken
        self.assertEqual(taken.recipients, ["vann@northpier.example", "b@birch.example", "c@copper.example"])
        self.assertNotIn(b"copper", taken.raw)
        file_sent(self.room, self.imap, self.account)
        self.settle()
        (kept,) = self.on_server()["Sent"]
        self.assertIn(b"Bcc: c@copper.example", kept)
        self.assertEqual(writing.without_bcc(kept), taken.raw)

    def test_its_copy_is_put_into_sent_once(self) -> None:
        """Cut off after the copy was put there, it is found by its id and not doubled."""
        number = self.write()
        self.sent(number)
        self.standin.imap.faults.drop_behind.add("APPEND")
        with self.assertRaises(ConnectionBroken):
            file_sent(self.room, self.imap, self.account)
        self.imap = self.connect()
        self.assertEqual(file_sent(self.room, self.imap, self.account), 1)
        self.settle()
        self.assertEqual(len(self.on_server()["Sent"]), 1)
        rows = self.room.reader().execute("SELECT count(*) FROM messages WHERE place = 'sent'").fetchone()
        self.assertEqual(rows[0], 1)

    def test_what_was_sent_passes_a_strict_parser(self) -> None:
        """Under the strict policy no defect is found, and no line is longer than RFC 5322 allows."""
        long = "An " + "endlessly " * 200 + "long line ünd ümlauts 後で"
        number = self.write(subject="Ünïcode " * 30, body=long, recipients='"Vann, Ilse" <vann@northpier.example>')
        attaching.attach(self.room, number, "Bühne.pdf", "application/pdf", bytes(range(256)) * 50)
        self.sent(number)
        raw = self.sink.taken[0].raw
        self.assertLessEqual(max(len(line) for line in raw.split(b"\r\n")), 998)
        parsed = message_from_bytes(raw, policy=SMTP.clone(raise_on_defect=True))
        self.assertEqual(parsed["Subject"].strip(), ("Ünïcode " * 30).strip())
        self.assertEqual(parsed["To"].addresses[0].display_name, "Vann, Ilse")
        self.assertEqual(parsed.get_body().get_content().strip(), long)
        (file,) = parsed.iter_attachments()
        self.assertEqual((file.get_filename(), file.get_content()), ("Bühne.pdf", bytes(range(256)) * 50))

    def test_a_reply_threads_on_both_sides(self) -> None:
        """In-Reply-To and References name what is answered; here it is one thread, and the message is answered."""
        asked = self.arrive(
            letter("Rider", sender=ILSE, message_id="<a@northpier.example>", References="<z@x.example>")
        )
        made = beginning.begin(self.room, "reply", asked)
        self.assertEqual((made.recipients, made.subject), (ILSE, "Re: Rider"))
        self.assertIn("> Can you confirm the risers today?", made.body)
        self.assertEqual(self.sent(made.id).state, "sent")
        raw = message_from_bytes(self.sink.taken[0].raw)
        self.assertEqual(raw["In-Reply-To"], "<a@northpier.example>")
        self.assertEqual(raw["References"].split(), ["<z@x.example>", "<a@northpier.example>"])
        own = self.room.reader().execute("SELECT id FROM messages WHERE place = 'sent'").fetchone()[0]
        self.assertEqual(self.row(own).thread, self.row(asked).thread)
        self.assertTrue(self.row(asked).answered)
        self.settle()
        self.other.select("INBOX")
        self.assertTrue(self.other.metas(self.other.uids())[0].flags.answered)

    def test_a_reply_to_all_leaves_the_owner_out(self) -> None:
        """Everybody else gets it, each once."""
        asked = self.arrive(
            letter("Rider", sender=ILSE, to=f"{OWNER}, b@birch.example", Cc=f"c@copper.example, {ILSE}")
        )
        made = beginning.begin(self.room, "reply_all", asked)
        self.assertEqual((made.recipients, made.cc), (ILSE, "b@birch.example, c@copper.example"))

    def test_a_forward_carries_text_and_files(self) -> None:
        """What is passed on is quoted with its head, and its files go along."""
        number = self.write(subject="Plan", recipients=OWNER)
        attaching.attach(self.room, number, "plan.txt", "text/plain", b"stage left")
        raw = message_of(
            writing.written_of(self.room, drafts.get(self.room.reader(), number)), "<p@x.example>",
            datetime(2026, 9, 1, tzinfo=UTC), with_bcc=False,
        )  # fmt: skip
        got = self.arrive(raw.replace(b"From: Maren <maren@quillmark.example>", b"From: vann@northpier.example"))
        made = beginning.begin(self.room, "forward", got)
        self.assertEqual(made.subject, "Fwd: Plan")
        self.assertIn("From: vann@northpier.example", made.body)
        self.assertEqual(drafts.attached(self.room.reader(), made.id), [("plan.txt", "text/plain", b"stage left")])

    def test_what_was_asked_is_asked_again(self) -> None:
        """A reply to whom it went, in its thread, with the open question alone; never of what somebody else wrote."""
        number = self.take_sent(
            letter("Trucks", sender=OWNER, to=ILSE, body="We load at nine.\n\nWhich gate shall we use?")
        )
        draft = beginning.ask_again(self.room, number, "Which gate shall we use?")
        self.assertEqual((draft.recipients, draft.subject), (ILSE, "Re: Trucks"))
        self.assertIn("> Which gate shall we use?", draft.body)
        self.assertNotIn("We load at nine", draft.body)
        self.assertEqual(draft.state, "draft")
        with self.assertRaisesRegex(CallerError, "you wrote yourself"):
            beginning.ask_again(self.room, self.take(letter("Rider")), "")

    def test_an_invitation_is_answered(self) -> None:
        """The answer names the event and who comes, and goes to the organiser."""
        invited = message_of(
            Written(Correspondent("vann@northpier.example"), recipients(OWNER), subject="Rehearsal",
                    files=(("invite.ics", "text/calendar", INVITATION),)),
            "<i@northpier.example>", datetime(2026, 9, 1, tzinfo=UTC), with_bcc=False,
        )  # fmt: skip
        number = self.arrive(invited)
        made = beginning.answer_invitation(self.room, number, "accepted")
        self.clock.now += 60
        self.outbox.send_due()
        self.assertEqual(made.recipients, "vann@northpier.example")
        parsed = message_from_bytes(self.sink.taken[0].raw)
        part = next(p for p in parsed.walk() if p.get_content_type() == "text/calendar")
        self.assertEqual(part.get_param("method"), "REPLY")
        event = next(iter(Calendar.from_ical(part.get_payload(decode=True)).walk("VEVENT")))
        self.assertEqual(str(event["UID"]), "seating-19@northpier.example")
        self.assertEqual(int(event["SEQUENCE"]), 2)
        self.assertEqual(event["ATTENDEE"].params["PARTSTAT"], "ACCEPTED")
        self.assertEqual(str(event["ATTENDEE"]), f"mailto:{OWNER}")

    def test_what_is_no_address_is_named(self) -> None:
        """The letter stays a draft, and nothing of it is lost."""
        number = self.write(recipients="Ilse, vann@northpier.example")
        with self.assertRaisesRegex(CallerError, "“ilse” is no address"):
            writing.send(self.room, number)
        self.assertEqual(drafts.get(self.room.reader(), number).state, "draft")
        for bad in ("a@b", "a b@c.example", "a@-c.example", "x@y.example\nBcc: z@z.example", "ä@c.example"):
            with self.subTest(bad=bad), self.assertRaises(CallerError):
                recipients(bad)

    def test_a_header_cannot_be_smuggled_in(self) -> None:
        """Line breaks in subject or names stay out of the header."""
        number = self.write(subject="Hello\r\nBcc: z@z.example\r\n\r\nbody")
        self.sent(number)
        parsed = message_from_bytes(self.sink.taken[0].raw)
        self.assertIsNone(parsed["Bcc"])
        self.assertEqual(self.sink.taken[0].recipients, ["vann@northpier.example"])

    def test_a_draft_is_kept_over_a_restart(self) -> None:
        """Every change is stored as it is made."""
        number = self.write(body="half a sent")
        self.reopen()
        self.assertEqual(drafts.get(self.room.reader(), number).body, "half a sent")
        self.assertEqual([one.id for one in drafts.unsent(self.room.reader())], [number])
        writing.discard(self.room, number)
        self.assertEqual(drafts.unsent(self.room.reader()), [])

    def test_a_discarded_draft_comes_back(self) -> None:
        """With all that was written and its files, by undo, over a restart too; meanwhile it is not there."""
        number = self.write(subject="The plan", body="half a sent")
        attaching.attach(self.room, number, "plan.txt", "text/plain", b"stage left")
        before = drafts.get(self.room.reader(), number)
        step = writing.discard(self.room, number)
        assert step is not None
        self.assertEqual(step.title, "Discarded the draft “The plan”")
        for change in (lambda: writing.send(self.room, number), lambda: writing.discard(self.room, number)):
            with self.assertRaises(NotFound):
                change()
        self.reopen()
        self.assertEqual(undo(self.room).id, step.id)
        self.assertEqual(drafts.get(self.room.reader(), number), before)
        self.assertEqual([one.name for one in drafts.attachments(self.room.reader(), number)], ["plan.txt"])

    def test_what_holds_nothing_leaves_no_step(self) -> None:
        """An empty draft is gone at once; what was discarded a month ago is gone for good, and undo passes it over."""
        self.assertIsNone(writing.discard(self.room, beginning.begin(self.room, "new").id))
        first = writing.discard(self.room, self.write(subject="Old"))
        assert first is not None
        self.clock.now += writing.KEPT + 60
        second = writing.discard(self.room, self.write(subject="New"))
        assert second is not None
        self.assertEqual(undo(self.room).id, second.id)
        self.assertFalse(journal.get(self.room.reader(), first.id).undoable)
        with self.assertRaisesRegex(CallerError, "thirty days"):
            undo(self.room, first.id)
        with self.assertRaisesRegex(Conflict, "nothing to undo"):
            undo(self.room)
        self.assertEqual([one.subject for one in drafts.unsent(self.room.reader())], ["New"])
        self.assertEqual(scores.recent_questions(self.room.reader(), 5), [])
