"""When people mean: times as they are typed, and the dates of a text."""

import unittest
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from hieranome.core.errors import CallerError
from hieranome.core.when import Moment, at_hour, moments_in, next_working_morning, read_moment

ZONE = ZoneInfo("Europe/Berlin")
NOW = datetime(2026, 11, 25, 10, 30, tzinfo=ZONE)  # a Wednesday


def told(moment: Moment, zone: ZoneInfo = ZONE) -> str:
    """A moment as a person reads it."""
    when = datetime.fromtimestamp(moment.at, zone)
    return f"{when:%Y-%m-%d}" if moment.day else f"{when:%Y-%m-%d %H:%M}"


TYPED = {
    "now": "2026-11-25 10:30",
    "Jetzt": "2026-11-25 10:30",
    "today": "2026-11-25",
    "tomorrow": "2026-11-26",
    "the day after tomorrow": "2026-11-27",
    "tonight": "2026-11-25 20:00",
    "fri": "2026-11-27",
    "Fri 14:00": "2026-11-27 14:00",
    "14:00 fri": "2026-11-27 14:00",
    "friday at 2": "2026-11-27 14:00",
    "on friday, 9": "2026-11-27 09:00",
    "wed 9:00": "2026-12-02 09:00",
    "wed 11:00": "2026-11-25 11:00",
    "next friday": "2026-12-04",
    "next monday 8am": "2026-11-30 08:00",
    "in 3 days": "2026-11-28",
    "in three days at noon": "2026-11-28 12:00",
    "3d": "2026-11-28",
    "2h": "2026-11-25 12:30",
    "in 90 minutes": "2026-11-25 12:00",
    "in a week": "2026-12-02",
    "2 weeks from now": "2026-12-09",
    "in 3 months": "2027-02-25",
    "end of month": "2026-11-30",
    "end of the month": "2026-11-30",
    "end of next month": "2026-12-31",
    "end of week": "2026-11-27",
    "this week": "2026-11-27",
    "this month": "2026-11-30",
    "end of the year": "2026-12-31",
    "end of day": "2026-11-25 17:00",
    "next week": "2026-11-30",
    "next month": "2026-12-01",
    "weekend": "2026-11-28",
    "1 dec": "2026-12-01",
    "dec 1": "2026-12-01",
    "1st of December 9:15": "2026-12-01 09:15",
    "March 3": "2027-03-03",
    "3 march 2028 half past three": "2028-03-03 15:30",
    "2026-12-01": "2026-12-01",
    "2026-12-01 9:30": "2026-12-01 09:30",
    "1.12.": "2026-12-01",
    "1.12.2027 18.45": "2027-12-01 18:45",
    "the 19th": "2026-12-19",
    "14:00": "2026-11-25 14:00",
    "9:00": "2026-11-26 09:00",
    "noon": "2026-11-25 12:00",
    "tomorrow morning": "2026-11-26 08:00",
    "29 feb": "2028-02-29",
}


class TypedTest(unittest.TestCase):
    def test_times_are_read_as_people_say_them(self) -> None:
        """What people type is the moment they mean."""
        for said, meant in TYPED.items():
            with self.subTest(said):
                self.assertEqual(told(read_moment(said, NOW)), meant)

    def test_what_is_no_time_is_refused(self) -> None:
        """What cannot be understood, is over, or is too far off is said to be so."""
        for said in ("", "soon", "fri fri", "25:00", "31 feb", "3/4", "2026-13-01", "at", "0", "1 dec 99:99", "blue"):
            with self.subTest(said), self.assertRaisesRegex(CallerError, "no time that is understood"):
                read_moment(said, NOW)
        for said in ("2026-11-24", "today 9:00", "2025-01-01 10:00"):
            with self.subTest(said), self.assertRaisesRegex(CallerError, "has passed"):
                read_moment(said, NOW)
        with self.assertRaisesRegex(CallerError, "years off"):
            read_moment("2126-01-01", NOW)

    def test_clocks_that_change_are_heeded(self) -> None:
        """A time of the wall clock is that of its day; one that a change of clocks leaves out is an hour later."""
        before = datetime(2026, 3, 27, 12, 0, tzinfo=ZONE)
        self.assertEqual(told(read_moment("monday 9:00", before)), "2026-03-30 09:00")
        self.assertEqual(told(read_moment("sunday 2:30", before)), "2026-03-29 03:30")
        self.assertEqual(told(read_moment("in 3 days", before)), "2026-03-30")

    def test_a_whole_day_is_taken_at_an_hour(self) -> None:
        """Where an hour is needed, a whole day means the morning; one that is over, an hour from now."""
        self.assertEqual(told(Moment(at_hour(read_moment("tomorrow", NOW), 8, NOW))), "2026-11-26 08:00")
        self.assertEqual(told(Moment(at_hour(read_moment("today", NOW), 8, NOW))), "2026-11-25 11:30")

    def test_working_mornings_skip_the_weekend(self) -> None:
        """The next working morning is never today, nor at a weekend."""
        for days, meant in ((0, "26 08"), (1, "27 08"), (2, "30 08"), (3, "30 08"), (4, "30 08")):
            at = next_working_morning(NOW + timedelta(days=days), 8)
            self.assertEqual(f"{datetime.fromtimestamp(at, ZONE):%d %H}", meant)


class TextTest(unittest.TestCase):
    def found(self, text: str) -> list[str]:
        """The dates of a text that was sent now."""
        return [told(one.moment) for one in moments_in(text, NOW, NOW)]

    def test_dates_of_a_text_are_found(self) -> None:
        """Dates that stand in a text are offered as they were meant."""
        for text, meant in {
            "Can you decide by Friday, four?": ["2026-11-27"],
            "Could you confirm by Friday at four?": ["2026-11-27 16:00"],
            "The roster closes tomorrow at 14:00.": ["2026-11-26 14:00"],
            "Your date in Arlenau, the 19th": ["2026-12-19"],
            "We play on 3 December 2026 and again on 2026-12-05.": ["2026-12-03", "2026-12-05"],
            "I need it at 9:30 on Monday": ["2026-11-30 09:30"],
            "by the end of the month": ["2026-11-30"],
            "It may be late; I sat in the sun. Room 14.30 is free, 12.5 kg, 192.168.1.1": [],
            "Friday it is. So Friday at noon then.": ["2026-11-27 12:00"],
        }.items():
            with self.subTest(text):
                self.assertEqual(self.found(text), meant)

    def test_what_is_over_is_not_offered(self) -> None:
        """Dates are meant from when the text was sent, and those that passed are left out."""
        sent = NOW - timedelta(days=14)
        self.assertEqual(moments_in("Please answer by Friday.", sent, NOW), [])

    def test_any_text_is_looked_through_in_bounded_time(self) -> None:
        """No text makes it slow or raise."""
        for piece in ("at 9 ", "1.1.", "may ", "in in in ", "12:", "half past ", "next ", "9", "\x00", "٣ "):
            self.assertIsInstance(moments_in(piece * 20_000, NOW, NOW), list)
