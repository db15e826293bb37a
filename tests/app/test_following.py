"""Following through: due dates, parked mail, answers that are waited for, each told once and undone as one step."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from icalendar import Calendar

from hieranome.app import filing, searching, trays
from hieranome.app.arrival.arrive import receive
from hieranome.app.following import due, feed, owing, parking
from hieranome.app.following.due import clear_due, heads, offers, set_due
from hieranome.app.following.hours import usual_hours
from hieranome.app.following.parking import park
from hieranome.app.following.returning import deliver
from hieranome.app.room import marks
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError
from hieranome.core.rules import Action, Rule
from hieranome.core.times import DAY
from hieranome.store import following, journal, messages
from tests.support import NOON, OWNER, RoomCase, letter

BERLIN = ZoneInfo("Europe/Berlin")
HOUR = 3_600


class FollowingCase(RoomCase):
    """A Desk with one message, in a zone whose clocks change."""

    def setUp(self) -> None:
        super().setUp()
        self.room.zone = BERLIN
        self.clock.now = NOON
        self.number = self.take(letter("Rider for the 19th", at=NOON - HOUR))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")

    def at(self, said: str) -> int:
        """A time of the owner's clock in this October."""
        return int(datetime.strptime(f"2025-10-{said}", "%Y-%m-%d %H:%M").replace(tzinfo=BERLIN).timestamp())

    def noted(self, kind: following.Kind) -> following.State | None:
        return following.get(self.room.reader(), kind, self.number)

    def titles(self) -> list[str]:
        return [one.title for one in journal.recent(self.room.reader(), 0, 20)]


class DueTest(FollowingCase):
    def test_a_due_date_is_set_found_and_undone(self) -> None:
        """It is flagged with its date, found by due:, and one step takes both back."""
        filed = set_due(self.room, [self.number], "fri 14:00")
        state = self.noted("due")
        assert state is not None
        self.assertEqual((state.at, state.day), (self.at("10 14:00"), False))
        self.assertTrue(self.row(self.number).flagged)
        self.assertEqual(self.titles()[0], "“Rider for the 19th” due Fri 10 Oct 14:00")
        for line in ("due:any", "due:friday", "due:week", "due:2025-10-10", "due:2025-10"):
            self.assertEqual(searching.matching(self.room, line, 9), [self.number], line)
        for line in ("due:overdue", "due:today", "due:tomorrow subject:visa"):
            self.assertEqual(searching.matching(self.room, line, 9), [], line)
        with self.assertRaisesRegex(CallerError, "no day for due"):
            searching.understand(self.room, "due:soonish")
        undo(self.room, filed.step)
        self.assertIsNone(self.noted("due"))
        self.assertFalse(self.row(self.number).flagged)

    def test_a_second_date_takes_the_place_of_the_first(self) -> None:
        """Undoing it gives the first back, the flag with it."""
        set_due(self.room, [self.number], "friday")
        second = set_due(self.room, [self.number], "in 3 days")
        undo(self.room, second.step)
        state = self.noted("due")
        assert state is not None
        self.assertEqual((state.at, state.day), (self.at("10 00:00"), True))
        self.assertTrue(self.row(self.number).flagged)

    def test_what_is_done_is_due_no_more(self) -> None:
        """Done takes date and flag; so does taking the flag off, and both are undone."""
        for end in (clear_due, lambda room, numbers: marks.mark(room, numbers, "unflagged")):
            set_due(self.room, [self.number], "friday")
            step = end(self.room, [self.number]).step
            self.assertIsNone(self.noted("due"))
            self.assertFalse(self.row(self.number).flagged)
            undo(self.room, step)
            self.assertIsNotNone(self.noted("due"))
            self.assertTrue(self.row(self.number).flagged)
        self.assertEqual(clear_due(self.room, [self.take(letter("Other"))]).step, 0)

    def test_due_today_and_overdue_head_the_desk(self) -> None:
        """From their day on, wherever they stand, but not out of the Trash; the earliest first."""
        other = self.take(letter("Visa", at=NOON - 2 * HOUR))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf' WHERE id = ?", (other,))
        set_due(self.room, [self.number], "tomorrow")
        set_due(self.room, [other], "tomorrow 9:00")
        self.assertEqual(heads(self.room), [])
        self.clock.now = self.at("10 00:01")
        self.assertEqual(heads(self.room), [self.number, other])
        shown = trays.show(self.room, 0)[0]
        self.assertEqual(shown[0].numbers, [self.number, other])
        self.assertNotIn(self.number, [number for one in shown[1:] for number in one.numbers])
        filing.file_away(self.room, [other], "trash")
        self.assertEqual(heads(self.room), [self.number])

    def test_dates_of_the_text_and_habits_are_offered(self) -> None:
        """First what the message says, then what the owner types most often."""
        number = self.take(letter("Roster", body="The roster closes on Monday at 14:00.\n\n> by Tuesday", at=NOON))
        for _ in range(2):
            set_due(self.room, [self.number], "in 2 weeks")
        found = offers(self.room, number)
        self.assertEqual([one.said for one in found][:2], ["2025-10-13 14:00", "in 2 weeks"])
        self.assertEqual(found[0].words, "Monday at 14:00")
        self.assertEqual(len(found), 1 + due.OFFERED)
        set_due(self.room, [number], found[0].said)
        self.assertEqual(following.get(self.room.reader(), "due", number).at, self.at("13 14:00"))  # type: ignore[union-attr]

    def test_what_cannot_be_leaves_all_as_it_was(self) -> None:
        """A time that has passed or is none changes nothing."""
        for said in ("yesterday", "soon", "", "2020-01-01"):
            with self.assertRaises(CallerError):
                set_due(self.room, [self.number], said)
        self.assertEqual(self.titles(), [])
        self.assertFalse(self.row(self.number).flagged)

    def test_calendars_read_what_is_due(self) -> None:
        """Each message is a to-do (VTODO) with its day or its time; text of strangers breaks no line."""
        bad = self.take(letter("Rider; BEGIN:VEVENT, \\n “x” " + "y" * 300, at=NOON - 5))
        set_due(self.room, [self.number], "fri 14:00")
        set_due(self.room, [bad], "saturday")
        calendar = Calendar.from_ical(feed.to_dos(self.room))
        todos = {str(one["summary"]): one for one in calendar.walk("VTODO")}
        self.assertEqual(len(todos), 2)
        self.assertEqual(todos["Rider for the 19th"].decoded("due").timestamp(), self.at("10 14:00"))
        whole = next(one for name, one in todos.items() if "VEVENT" in name)
        self.assertEqual(whole.decoded("due").isoformat(), "2025-10-11")

    def test_a_token_reads_and_is_taken_back(self) -> None:
        """The newest token alone reads what is due, until it is taken back; no other does."""
        self.assertFalse(feed.may_read(self.room, ""))
        first = feed.open_feed(self.room)
        second = feed.open_feed(self.room)
        self.assertEqual(
            [feed.may_read(self.room, one) for one in (first, second, "", "x")], [False, True, False, False]
        )
        feed.close_feed(self.room)
        self.assertFalse(feed.may_read(self.room, second) or feed.is_open(self.room))


class ParkTest(FollowingCase):
    def test_parked_mail_returns_at_its_time_once(self) -> None:
        """Out of sight until then, then at the head of the Desk, with how long it was away; never twice."""
        park(self.room, [self.number], "tomorrow")
        self.assertEqual(self.row(self.number).place, "parked")
        self.assertEqual(self.titles()[0], "“Rider for the 19th” parked until Fri 10 Oct 08:00 or an answer")
        self.clock.now = self.at("10 07:59")
        self.assertEqual(deliver(self.room), [])
        self.clock.now = self.at("10 08:00")
        self.assertEqual(deliver(self.room), [self.number])
        self.assertEqual(deliver(self.room), [])
        row = self.row(self.number)
        self.assertEqual((row.place, row.decided_by), ("desk", "parked"))
        self.assertEqual(heads(self.room), [self.number])
        self.assertRegex(self.titles()[0], "is back: it was parked for 2[0-9] hours")
        self.assertEqual(journal.latest_standing(self.room.reader()).kind, parking.PARKING)
        with self.assertRaisesRegex(CallerError, "nothing to undo"):
            undo(self.room, journal.recent(self.room.reader(), 0, 1)[0].id)

    def test_an_answer_brings_it_back_where_that_is_wanted(self) -> None:
        """Somebody's answer in the thread does, a machine's does not, nor any where it was parked without."""
        for answer, kind, back in (
            (True, "", True),
            (None, "", True),
            (False, "", False),
            (True, "auto-replied", False),
        ):
            with self.subTest(answer=answer, kind=kind):
                first = self.take(letter(f"Trucks {answer} {kind}", message_id=f"<t{answer}{kind}@hall.example>"))
                park(self.room, [first], "in 2 weeks", answer)
                more = {"Auto_Submitted": kind} if kind else {}
                receive(
                    self.room,
                    letter("Re: Trucks", at=NOON + 60, In_Reply_To=f"<t{answer}{kind}@hall.example>", **more),
                )
                self.assertEqual(self.row(first).place == "desk", back)
                self.assertEqual(first in heads(self.room), back)

    def test_until_somebody_answers(self) -> None:
        """By no time: nothing but an answer brings it back."""
        park(self.room, [self.number], "", True)
        self.clock.now = NOON + 400 * DAY
        self.assertEqual(deliver(self.room), [])
        with self.assertRaisesRegex(CallerError, "until when"):
            park(self.room, [self.number], "", False)

    def test_moving_it_out_unparks_and_undo_parks_again(self) -> None:
        """Mail that is put elsewhere does not come back; an undone move waits for its time again."""
        park(self.room, [self.number], "tomorrow")
        step = filing.file_away(self.room, [self.number], "archive").step
        self.clock.now = self.at("10 09:00")
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(self.row(self.number).place, "archive")
        park(self.room, [self.number], "monday")
        undo(self.room)
        self.assertEqual(self.row(self.number).place, "archive")
        self.assertGreater(step, 0)

    def test_undo_gives_all_back(self) -> None:
        """Undone, it stands where it stood, and a second time of parking gives the first back."""
        park(self.room, [self.number], "tomorrow")
        park(self.room, [self.number], "in 2 weeks", False)
        undo(self.room)
        state = self.noted("parked")
        assert state is not None
        self.assertEqual((state.at, state.answer), (self.at("10 08:00"), True))
        undo(self.room)
        self.assertIsNone(self.noted("parked"))
        self.assertEqual(self.row(self.number).place, "desk")

    def test_what_is_parked_elsewhere_waits_until_a_working_morning(self) -> None:
        """Mail another program put among the parked returns the next working morning."""
        with self.room.change() as db:
            messages.move(db, self.number, "parked", "elsewhere")
        self.assertEqual(deliver(self.room), [])
        state = self.noted("parked")
        assert state is not None
        self.assertEqual(state.at, self.at("10 08:00"))

    def test_a_whole_machine_that_slept_delivers_in_order(self) -> None:
        """What came due while nothing ran comes once each, in the order of the times."""
        others = [self.take(letter(f"Parked {n}", at=NOON - n)) for n in range(5)]
        for hours, number in zip((50, 10, 30, 20, 40), others, strict=True):
            park(self.room, [number], f"in {hours} hours", False)
        self.clock.now = NOON + 60 * HOUR
        self.assertEqual(deliver(self.room), [others[at] for at in (1, 3, 2, 4, 0)])

    def test_a_year_of_minutes(self) -> None:
        """Through two changes of the clocks and an hour of rest a day everything parked, and every missed answer,
        comes back within its minute of being able to, once."""
        now = datetime(2025, 1, 1, 0, 0, tzinfo=BERLIN)
        self.clock.now = int(now.timestamp())
        expected: dict[int, int] = {}
        for day in range(365):
            self.clock.now = int((now + timedelta(days=day)).replace(hour=6).timestamp())
            number = self.take(letter(f"Day {day}", at=self.clock.now - 60))
            said = ("tomorrow 2:30", "in 2 days at 3:30", "in 90 minutes", "tomorrow", "friday 1:15")[day % 5]
            if day % 7 == 3:
                owing.await_answer(self.room, [number], said)
            else:
                park(self.room, [number], said, False)
            kind: following.Kind = "awaited" if day % 7 == 3 else "parked"
            expected[number] = following.get(self.room.reader(), kind, number).at  # type: ignore[union-attr]
            self.run_until(self.clock.now + DAY, expected)
        self.run_until(self.clock.now + 9 * DAY, expected)
        self.assertEqual(expected, {})

    def next_time(self) -> int:
        """When the next parked message returns or the next answer is missed; 0 where nothing waits for a time."""
        kinds: tuple[following.Kind, ...] = ("parked", "awaited")
        waiting = [one.state.at for kind in kinds for one in following.every(self.room.reader(), kind) if one.state.at]
        return min(waiting, default=0)

    def run_until(self, end: int, expected: dict[int, int]) -> None:
        """Let the clock go on to a time; the machine rests from half past two to half past three of every day."""
        while (at := self.next_time()) and at <= end:
            wanted = datetime.fromtimestamp(at, BERLIN)
            rests = (wanted.hour, wanted.minute) >= (2, 30) and (wanted.hour, wanted.minute) < (3, 30)
            self.clock.now = at + HOUR if rests else at - at % 60 + 60 * bool(at % 60)
            for number in deliver(self.room):
                meant = expected.pop(number)  # a second time would not be there
                self.assertLessEqual(self.clock.now - meant, HOUR + 60 if rests else 60)
                self.assertGreaterEqual(self.clock.now, meant)
        self.clock.now = end


class OwedTest(FollowingCase):
    def write(self, subject: str, body: str, to: str = "brandel@salthall.example", *, ago: int = 4 * DAY) -> int:
        """A message of the owner's own."""
        return self.take_sent(letter(subject, sender=OWNER, to=to, body=body, at=NOON - ago))

    def they(self) -> list[str]:
        return [one.message.subject for one in owing.owed(self.room)[0]]

    def you(self) -> list[str]:
        return [one.message.subject for one in owing.owed(self.room)[1]]

    def test_both_lists_without_any_history(self) -> None:
        """A question nobody answered, one to the owner, a promise; not what only tells, nor what was answered."""
        self.write("Trucks", "Could you send me the list of trucks by Monday?")
        self.write("Thanks", "The coach leaves at nine.")
        answered = self.write("Hotel", "Which of the two shall we take?")
        self.write("Crates", "I will send you the crates on Friday.")
        found = messages.get(self.room.reader(), answered)
        receive(
            self.room, letter("Re: Hotel", at=NOON, References=self.id_of(answered), In_Reply_To=self.id_of(answered))
        )
        self.assertEqual(found.subject, "Hotel")
        self.assertEqual(self.they(), ["Trucks"])
        self.assertEqual(sorted(self.you()), ["Crates", "Re: Hotel", "Rider for the 19th"])
        they, you = owing.owed(self.room)
        self.assertEqual(they[0].sentence, "Could you send me the list of trucks by Monday?")
        promised = next(one for one in you if one.promised)
        self.assertEqual(
            (promised.sentence, promised.proposed), ("I will send you the crates on Friday.", "2025-10-10")
        )

    def id_of(self, number: int) -> str:
        row = self.room.reader().execute("SELECT message_id FROM messages WHERE id = ?", (number,)).fetchone()
        return str(row[0])

    def test_machines_do_not_answer(self) -> None:
        """An answer a machine wrote leaves it owed; a person's takes it off."""
        number = self.write("Trucks", "Could you send me the list of trucks by Monday?")
        mine = self.id_of(number)
        receive(self.room, letter("Away: Trucks", at=NOON - DAY, In_Reply_To=mine, Auto_Submitted="auto-replied"))
        self.assertEqual(self.they(), ["Trucks"])
        for number, (who, more) in enumerate((
            ("MAILER-DAEMON@mx.example", {}), ("ilse@hall.example", {"X_Autoreply": "yes"}),
            ("ilse@hall.example", {"Precedence": "auto_reply"}),
        )):  # fmt: skip
            receive(self.room, letter("Trucks", sender=who, at=NOON - 9 + number, In_Reply_To=mine, **more))
        report = letter("Trucks", sender="mx@hall.example", at=NOON - 5, In_Reply_To=mine)
        head = report.partition(b"Content-Type")[0]
        parts = b"--x\r\nContent-Type: text/plain\r\n\r\nNot delivered.\r\n--x--\r\n"
        receive(self.room, head + b"Content-Type: multipart/report; boundary=x\r\n\r\n" + parts)
        self.assertEqual(self.they(), ["Trucks"])
        receive(self.room, letter("Re: Trucks", at=NOON, In_Reply_To=mine))
        self.assertEqual(self.they(), [])

    def test_letting_go_teaches(self) -> None:
        """What was let go, and the next like it, is not listed; undone, both are."""
        for n in range(6):
            self.write(f"Board {n}", "Shall we not praise the stewards? A fine evening it was.", ago=(9 - n) * DAY)
        self.write("Trucks", "Could you send me the list of trucks by Monday?")
        self.assertEqual(len(self.they()), 7)
        last = 0
        for one in owing.owed(self.room)[0]:
            if one.message.subject in ("Board 0", "Board 1"):
                last = owing.let_go(self.room, [one.message.id]).step
        self.assertEqual(self.they(), ["Trucks"])
        undo(self.room, last)
        undo(self.room)
        self.assertEqual(len(self.they()), 7)

    def test_no_answer_by_a_time_is_told_once(self) -> None:
        """It stands at the head of the Desk when nobody answered by then, until it is let go or asked again."""
        number = self.write("Trucks", "The trucks are yours.", ago=HOUR)
        self.assertEqual(self.they(), [])
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        self.assertEqual(self.they(), ["Trucks"])
        self.clock.now = self.at("10 09:00")
        self.assertEqual(deliver(self.room), [number])
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(heads(self.room), [number])
        owing.let_go(self.room, [number])
        self.assertEqual((heads(self.room), self.they()), ([], []))

    def test_asked_again_it_leaves_the_head(self) -> None:
        """Once the owner wrote in the thread again, the newer message is what is owed."""
        number = self.write("Trucks", "Could you send me the list?", ago=HOUR)
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        self.clock.now = self.at("10 09:00")
        deliver(self.room)
        again = letter("Re: Trucks", sender=OWNER, to="brandel@salthall.example", body="Could you send it still?",
                       at=self.clock.now, In_Reply_To=self.id_of(number))  # fmt: skip
        newer = self.take_sent(again)
        self.assertEqual(heads(self.room), [])
        self.assertEqual([one.message.id for one in owing.owed(self.room)[0]], [newer])

    def test_an_answer_in_time_is_not_told(self) -> None:
        """Whoever answered in time is not missed."""
        number = self.write("Trucks", "The trucks are yours.", ago=HOUR)
        owing.await_answer(self.room, [number], "tomorrow 9:00")
        receive(self.room, letter("Re: Trucks", at=NOON + 60, In_Reply_To=self.id_of(number)))
        self.clock.now = self.at("10 09:00")
        self.assertEqual(deliver(self.room), [])
        self.assertEqual(heads(self.room), [])


class OwnMailTest(FollowingCase):
    def test_mail_of_the_owner_returns_to_sent(self) -> None:
        """Parked, it is out of sight; its time come, it heads the Desk and stands in Sent as before."""
        number = self.take_sent(
            letter("Crates", sender=OWNER, to="ilse@hall.example", body="They go out.", at=NOON - 60)
        )
        park(self.room, [number], "tomorrow")
        self.assertEqual(self.row(number).place, "parked")
        self.clock.now = self.at("10 08:00")
        self.assertEqual(deliver(self.room), [number])
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("sent", "own"))
        self.assertEqual(heads(self.room), [number])


class HoursTest(FollowingCase):
    def test_hours_are_those_of_who_answers(self) -> None:
        """By their clock, the commonest first, on days they write; nothing of who hardly wrote."""
        self.assertEqual(usual_hours(self.room, "brandel@salthall.example"), [])
        for day in range(6):
            raw = letter(f"Answer {day}", sender="June <june@far.example>", at=NOON + day * 60)
            when = f"Mon, {6 + (day % 3)} Oct 2025 {17 if day < 4 else 9}:10:00 +0900"
            self.take(
                b"\n".join(b"Date: " + when.encode() if one.startswith(b"Date:") else one for one in raw.split(b"\n"))
            )
        found = usual_hours(self.room, "june@far.example")
        self.assertEqual([one.hour for one in found], [17, 9])
        self.assertEqual(found[0].apart, 7 * 60)
        self.assertEqual(found[0].said, "2025-10-10 10:00")


class OverTest(FollowingCase):
    def test_away_is_told_in_words(self) -> None:
        """Days, hours or minutes, whichever is the largest."""
        for seconds, words in (
            (3 * DAY, "for 3 days"),
            (HOUR, "for 1 hour"),
            (125, "for 2 minutes"),
            (5, "for a moment"),
        ):
            self.assertEqual(parking.away(seconds), words)


class RuleTest(FollowingCase):
    """Due dates that rules give."""

    def keep(self, said: str) -> int:
        """A rule by which visas are due."""
        made = Rule(0, "Visas", True, "arrives", 0, "came", False, "subject:visa", "", (Action("due", said),))
        return keeping.put(self.room, made).rule.id

    def test_mail_is_due_as_it_arrives_and_when_it_runs_here(self) -> None:
        """Told from when it comes, flagged, and undone with the run; what is due already keeps its date."""
        old = self.take(letter("Visa", at=NOON - 60))
        set_due(self.room, [self.take(letter("Visa now", at=NOON - 50))], "tomorrow")
        number = self.keep("in 2 days")
        fresh = self.take(letter("Visa again", at=NOON - 40))
        state = following.get(self.room.reader(), "due", fresh)
        assert state is not None
        self.assertEqual((state.at, self.row(fresh).flagged), (self.at("11 00:00"), True))
        step = running.run_here(self.room, number)
        due_here = {one.message: one.state.at for one in following.every(self.room.reader(), "due")}
        self.assertEqual(sorted(due_here.values()), [self.at("10 00:00"), self.at("11 00:00"), self.at("11 00:00")])
        undo(self.room, step)
        self.assertIsNone(following.get(self.room.reader(), "due", old))
        self.assertFalse(self.row(old).flagged)

    def test_a_time_that_passes_is_none_for_a_rule(self) -> None:
        """A rule says when from when mail arrives; a date of the calendar would pass."""
        for said in ("2026-02-01", "soonish", "today 9:00"):
            with self.assertRaises(CallerError):
                self.keep(said)
