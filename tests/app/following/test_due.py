"""Due dates: set, by rule too, done and undone, at the head of the Desk and in calendars."""

from __future__ import annotations

from icalendar import Calendar

from hieranome.app import filing, searching, trays
from hieranome.app.following import due, feed
from hieranome.app.following.due import clear_due, heads, offers, set_due
from hieranome.app.following.parking import park
from hieranome.app.room import marks
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError
from hieranome.core.rules import Action, Rule
from hieranome.store import following
from tests.app.following.case import HOUR, FollowingCase
from tests.support import NOON, letter


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

    def test_a_date_of_the_calendar_is_none_for_a_rule_however_far_off(self) -> None:
        """Nor is a time of today that passes late in the evening: mail would meet it when it has passed."""
        for said in ("2027-05-01", "2040-01-01 9:00", "today 23:30", "tonight", "end of day"):
            with self.subTest(said), self.assertRaises(CallerError):
                self.keep(said)

    def test_mail_arrives_whatever_a_rule_says_of_its_date(self) -> None:
        """A date that has passed keeps no mail from arriving; it is not due then."""
        self.keep("in 2 days")
        with self.room.change() as db:
            db.execute("UPDATE rules SET actions = replace(actions, 'in 2 days', '2020-01-01')")
            self.room.rules = None
        fresh = self.take(letter("Visa at last", at=NOON - 30))
        self.assertIsNone(following.get(self.room.reader(), "due", fresh))


class UndoneTest(FollowingCase):
    """What the page is told when a step is taken back."""

    def test_the_page_hears_that_it_is_due_no_more(self) -> None:
        """Undoing tells of what is followed through, as setting it did."""
        set_due(self.room, [self.number], "today")
        heard: list[str] = []
        self.room.events.publish = lambda kind, **_: heard.append(kind)  # type: ignore[method-assign]
        undo(self.room)
        self.assertIn("following", heard)

    def test_what_is_due_and_parked_stays_in_the_calendar(self) -> None:
        """Out of sight on the Desk, but not out of the calendar."""
        set_due(self.room, [self.number], "today")
        park(self.room, [self.number], "tomorrow")
        self.assertEqual(heads(self.room), [])
        self.assertIn(b"SUMMARY:Rider", feed.to_dos(self.room))
