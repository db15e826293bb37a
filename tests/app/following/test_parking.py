"""Parked mail comes back once: at its time, with an answer, after a year of minutes."""

from __future__ import annotations

from datetime import datetime, timedelta

from hieranome.app import filing
from hieranome.app.arrival.arrive import receive
from hieranome.app.following import owing, parking
from hieranome.app.following.due import heads
from hieranome.app.following.parking import park
from hieranome.app.following.returning import deliver
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError
from hieranome.core.steps import StepKind
from hieranome.core.times import DAY
from hieranome.store import following, journal, messages
from tests.app.following.case import BERLIN, HOUR, FollowingCase
from tests.support import NOON, OWNER, letter


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
        self.assertEqual(journal.latest_standing(self.room.reader()).kind, StepKind.PARKED)
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
