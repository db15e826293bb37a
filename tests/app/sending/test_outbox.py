"""The outbox: a letter goes once, at its time, or it is told why not."""

from __future__ import annotations

from datetime import UTC, datetime
from email import message_from_bytes
from email.policy import SMTP
from zoneinfo import ZoneInfo

from hieranome.app.arrival.arrive import receive
from hieranome.app.away import keeping as away
from hieranome.app.writing import drafts as writing
from hieranome.core.away import Away, Circle
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.times import DAY
from hieranome.standin.smtp_sink import SmtpFaults, SmtpSink
from hieranome.store import accounts, drafts, following
from hieranome.store import away as notices
from tests.app.writing.case import ILSE, SendingCase
from tests.mail.servers import SECRET, USER
from tests.support import OWNER, letter


class TheOutbox(SendingCase):
    """A mailbox with a submission server."""

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

    def test_at_now_it_goes_at_once(self) -> None:
        """Nothing waits for a way back that was not asked for."""
        number = self.write()
        before = self.clock.now
        self.assertLess(writing.send(self.room, number, "now").due_at - before, writing.WAY_BACK)
        self.assertEqual(self.outbox.send_due(), 1)

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
