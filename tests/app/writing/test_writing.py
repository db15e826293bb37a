"""Writing: what is sent is a strict message, sent once, filed in Sent byte for byte, and part of its thread."""

from __future__ import annotations

from datetime import UTC, datetime
from email import message_from_bytes
from email.policy import SMTP
from zoneinfo import ZoneInfo

from icalendar import Calendar

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.arrival.arrive import receive
from hieranome.app.away import keeping as away
from hieranome.app.mailbox.sent_copies import file_sent
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.app.writing.drafts import Changed
from hieranome.app.writing.outbox import Outbox
from hieranome.core.away import Away, Circle
from hieranome.core.errors import CallerError, Conflict, ConnectionBroken
from hieranome.core.facts import Correspondent
from hieranome.core.times import DAY
from hieranome.mail.writing import Written, message_of, recipients
from hieranome.standin.smtp_sink import SmtpFaults, SmtpSink
from hieranome.store import accounts, drafts, following, scores
from hieranome.store import away as notices
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import SECRET, USER
from tests.support import OWNER, letter

ILSE = "Ilse Vann <vann@northpier.example>"
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


class Sending(MailboxCase):
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
        writing.attach(self.room, number, "Bühne.pdf", "application/pdf", bytes(range(256)) * 50)
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
        writing.attach(self.room, number, "plan.txt", "text/plain", b"stage left")
        raw = message_of(
            writing.written_of(self.room, drafts.get(self.room.reader(), number)), "<p@x.example>",
            datetime(2026, 9, 1, tzinfo=UTC), with_bcc=False,
        )  # fmt: skip
        got = self.arrive(raw.replace(b"From: Maren <maren@quillmark.example>", b"From: vann@northpier.example"))
        made = beginning.begin(self.room, "forward", got)
        self.assertEqual(made.subject, "Fwd: Plan")
        self.assertIn("From: vann@northpier.example", made.body)
        self.assertEqual(drafts.attached(self.room.reader(), made.id), [("plan.txt", "text/plain", b"stage left")])

    def test_a_letter_can_be_taken_back_for_ten_seconds(self) -> None:
        """Before it is due it does not go; taken back it is a draft; gone it is too late."""
        number = self.write()
        writing.send(self.room, number)
        self.outbox.send_due()
        self.assertEqual(self.sink.taken, [])
        self.assertEqual(writing.take_back(self.room, number).state, "draft")
        self.sent(number)
        with self.assertRaisesRegex(Conflict, "too late"):
            writing.take_back(self.room, number)

    def test_timed_mail_goes_at_its_time_once(self) -> None:
        """It waits in the outbox over a restart, goes within its minute, and its Date is that time."""
        self.room.zone = UTC
        number = self.write()
        writing.send(self.room, number, "in 3 days at 9:00", "in 5 days")
        due = drafts.get(self.room.reader(), number).timed
        self.assertEqual(datetime.fromtimestamp(due, UTC).strftime("%H:%M"), "09:00")
        self.outbox.settle()
        self.clock.now = due - 60
        self.assertEqual(self.outbox.send_due(), 0)
        self.clock.now = due
        self.assertEqual((self.outbox.send_due(), self.outbox.send_due()), (1, 0))
        sent = message_from_bytes(self.sink.taken[0].raw, policy=SMTP)
        self.assertEqual(sent["Date"].datetime.timestamp(), due)
        (awaited,) = following.every(self.room.reader(), "awaited")
        self.assertEqual(self.row(awaited.message).subject, "Rider")

    def test_timed_mail_that_is_late_asks(self) -> None:
        """More than an hour late it is a draft that asks, however often it is looked at; then it goes as it is told."""
        number = self.write()
        writing.send(self.room, number, "in 2 hours")
        self.clock.now += 3 * 3_600 + 1
        self.assertEqual(self.outbox.send_due(), 0)
        late = drafts.get(self.room.reader(), number)
        self.assertEqual(late.state, "draft")
        self.assertIn("more than an hour late", late.error)
        self.outbox.settle()
        self.assertEqual(self.outbox.send_due(), 0)
        writing.send(self.room, number, "in 10 minutes")
        self.clock.now += 540
        self.assertEqual(self.outbox.send_due(), 0)
        self.clock.now += 60
        self.assertEqual(self.outbox.send_due(), 1)
        self.assertEqual(len(self.sink.taken), 1)

    def test_timed_mail_is_changed_and_stopped_until_it_goes(self) -> None:
        """Given another time it goes then; stopped it is a draft again, and never goes."""
        number = self.write()
        writing.send(self.room, number, "in 2 hours")
        first = drafts.get(self.room.reader(), number).due_at
        self.assertGreater(writing.send(self.room, number, "in 5 hours").due_at, first)
        self.assertEqual(writing.take_back(self.room, number).state, "draft")
        self.clock.now += 20 * 3_600
        self.assertEqual(self.outbox.send_due(), 0)
        for at, awaited in (("yesterday", ""), ("soon", ""), ("in 2 days", "tomorrow")):
            with self.assertRaises(CallerError):
                writing.send(self.room, number, at, awaited)
        self.assertEqual(drafts.get(self.room.reader(), number).state, "draft")

    def test_a_year_of_timed_mail(self) -> None:
        """A message a day, the machine off for most of an hour of each night: each goes once, within its minute of
        being able to, through two changes of the clocks."""
        self.room.zone = ZoneInfo("Europe/Berlin")
        for day in range(365):
            number = self.write(subject=f"Day {day}")
            writing.send(self.room, number, ("tomorrow 2:30", "in 90 minutes", "tomorrow", "tomorrow 3:15")[day % 4])
            due = drafts.get(self.room.reader(), number).timed
            wanted = datetime.fromtimestamp(due, self.room.zone)
            rests = (2, 30) <= (wanted.hour, wanted.minute) < (3, 30)
            self.clock.now = due + (3_500 if rests else 30)
            self.assertEqual((self.outbox.send_due(), self.outbox.send_due()), (1, 0), day)
        self.assertEqual(len({one.raw for one in self.sink.taken}), 365)

    def test_a_new_time_makes_the_message_anew(self) -> None:
        """Its Date is when it goes, sooner or later than it was first to go; by when an answer is waited for stays."""
        for at in ("in 8 hours", ""):
            number = self.write()
            writing.send(self.room, number, "in 5 hours", "in 9 days")
            draft = writing.send(self.room, number, at)
            self.clock.now = draft.due_at
            self.assertEqual(self.outbox.send_due(), 1)
            sent = message_from_bytes(self.sink.taken[-1].raw, policy=SMTP)
            self.assertLess(abs(sent["Date"].datetime.timestamp() - draft.due_at), 60)
        self.assertEqual(len(following.every(self.room.reader(), "awaited")), 2)
        number = self.write()
        writing.send(self.room, number, "in 2 hours", "in 3 days")
        with self.assertRaisesRegex(CallerError, "before the message has gone"):
            writing.send(self.room, number, "in 9 days")

    def test_what_was_late_still_waits_for_its_answer(self) -> None:
        """Sent after all, the owner is told by the time that was said before."""
        number = self.write()
        writing.send(self.room, number, "in 2 hours", "in 9 days")
        self.clock.now += 4 * 3_600
        self.outbox.send_due()
        self.assertEqual(self.sent(number).state, "sent")
        self.assertEqual(len(following.every(self.room.reader(), "awaited")), 1)

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

    def test_a_connection_that_breaks_after_the_bytes_leaves_it_unsure(self) -> None:
        """It is not sent a second time by itself, whether the server kept it or not; the sentence says what to do."""
        for keeps in (True, False):
            with self.subTest(keeps=keeps):
                self.sink.taken.clear()
                self.sink.faults.drop_after_keeping, self.sink.faults.drop_before_keeping = keeps, not keeps
                made = self.sent(self.write())
                self.assertEqual(made.state, "unsure")
                self.assertIn("may have gone or not", made.error)
                self.clock.now += 86_400
                self.outbox.send_due()
                self.assertEqual(len(self.sink.taken), int(keeps))
                with self.assertRaises(Conflict):
                    writing.send(self.room, made.id)

    def test_a_process_that_ends_while_handing_in_leaves_it_unsure(self) -> None:
        """What was under way at the end is not sent again at the next start; what was not begun is."""
        first, second = self.write(), self.write()
        for number, state in ((first, "handing"), (second, "sending")):
            writing.send(self.room, number)
            with self.room.store.atomic() as db:
                drafts.update(db, number, state=state)
        self.clock.now += 60
        self.outbox.settle()
        self.outbox.send_due()
        states = [drafts.get(self.room.reader(), n).state for n in (first, second)]
        self.assertEqual(states, ["unsure", "sent"])
        self.assertEqual(len(self.sink.taken), 1)

    def test_a_refused_recipient_stops_the_letter_for_all(self) -> None:
        """Nobody gets it, and the letter is a draft again with the reason."""
        self.sink.faults.refuse["b@birch.example"] = "550 5.1.1 nobody of that name"
        made = self.sent(self.write(cc="b@birch.example"))
        self.assertEqual((made.state, self.sink.taken), ("draft", []))
        self.assertRegex(made.error, r"mail to b@birch.example \(550 5.1.1 nobody of that name\)")

    def test_a_server_that_is_busy_is_asked_again(self) -> None:
        """4xx is not the end: the letter waits and goes later."""
        self.sink.faults.answer = "451 4.3.0 later"
        made = self.sent(self.write())
        self.assertEqual((made.state, made.tries), ("waiting", 1))
        self.sink.faults.answer = ""
        self.clock.now += 3600
        self.outbox.send_due()
        self.assertEqual(drafts.get(self.room.reader(), made.id).state, "sent")

    def notice(self) -> drafts.Draft:
        """An away notice that waits."""
        now = self.clock.now
        everybody = Circle("Everybody", "all", "", {"": "I am away."})
        away.set_away(self.room, Away(True, now - 60, now + 9 * DAY, 7, (everybody,)))
        raw = letter("Plan", sender=ILSE, at=now, Return_Path="<vann@northpier.example>")
        self.assertIsNotNone(receive(self.room, raw))
        (one,) = [one for one in drafts.in_state(self.room.reader(), "waiting") if one.automatic]
        return one

    def test_a_notice_goes_without_an_envelope_sender(self) -> None:
        """Or with the owner's address, where a server takes none without; no copy of it stays."""
        for refuse in ({}, {"<>": "550 5.7.1 sender required"}):
            self.sink.faults.refuse_sender = refuse
            with self.room.store.atomic() as db:
                db.execute("DELETE FROM away_told")
                db.execute("DELETE FROM messages WHERE subject = 'Plan'")
            self.notice()
            self.outbox.send_due()
            taken = self.sink.taken.pop()
            self.assertEqual((taken.sender, taken.recipients), (OWNER if refuse else "<>", ["vann@northpier.example"]))
            self.assertIn(b"Auto-Submitted: auto-replied", taken.raw)
            count = self.room.reader().execute("SELECT count(*) FROM drafts WHERE automatic = 1").fetchone()[0]
            self.assertEqual((count, drafts.to_file(self.room.reader(), self.account)), (0, []))
            self.assertEqual(notices.told(self.room.reader(), 1)[0].failed, "")

    def test_a_notice_nobody_takes_is_told_and_gone(self) -> None:
        """Refused, unsure, cut off while it was handed in, or not taken for a day: never sent again, and said where
        who got it stands."""

        def refused() -> None:
            self.sink.faults.refuse["vann@northpier.example"] = "550 5.1.1 nobody"
            self.outbox.send_due()

        def unsure() -> None:
            self.sink.faults.drop_after_keeping = True
            self.outbox.send_due()

        def cut_off() -> None:
            (one,) = drafts.in_state(self.room.reader(), "waiting")
            with self.room.store.atomic() as db:
                drafts.update(db, one.id, state="handing")
            self.outbox.settle()

        def late() -> None:
            self.clock.now += 2 * DAY
            self.outbox.send_due()

        for work, why in ((refused, "nobody"), (unsure, "may have gone"), (cut_off, "may have gone"), (late, "a day")):
            with self.subTest(work.__name__):
                self.sink.faults = SmtpFaults()
                with self.room.store.atomic() as db:
                    db.execute("DELETE FROM away_told")
                    db.execute("DELETE FROM messages WHERE subject = 'Plan'")
                self.notice()
                work()
                self.sink.faults = SmtpFaults()
                taken = len(self.sink.taken)
                self.outbox.send_due()
                self.assertEqual(len(self.sink.taken), taken)
                self.assertIn(why, notices.told(self.room.reader(), 1)[0].failed)
                self.assertEqual(drafts.in_state(self.room.reader(), "waiting", "unsure", "handing", "draft"), [])

    def test_a_letter_too_large_is_told_before_it_is_sent(self) -> None:
        """The server's limit is read, and nothing is handed in."""
        small = SmtpSink({USER: SECRET}, limit=2000)
        small.start()
        self.addCleanup(small.close)
        with self.room.store.atomic() as db:
            accounts.update(db, self.account, smtp_port=small.port)
        made = self.sent(self.write(body="x" * 5000))
        self.assertEqual(made.state, "draft")
        self.assertIn("takes no more than", made.error)

    def test_a_wrong_secret_keeps_the_letter(self) -> None:
        """It waits in the outbox with a clear sentence that does not hold the secret."""
        self.vault.put(OWNER, "wrong-secret", "file")
        made = self.sent(self.write())
        self.assertEqual(made.state, "waiting")
        self.assertIn("does not let", made.error)
        self.assertNotIn("wrong-secret", made.error)

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
        writing.throw_away(self.room, number)
        self.assertEqual(drafts.unsent(self.room.reader()), [])
        self.assertEqual(scores.recent_questions(self.room.reader(), 5), [])
