"""When editions are due: by the clock of a place, through the changes of that clock."""

from __future__ import annotations

import unittest
from datetime import datetime
from zoneinfo import ZoneInfo

from hieranome.core.errors import CallerError
from hieranome.core.plans import EVERY_DAY, WEEKDAYS, Plan, due, next_due

BERLIN = ZoneInfo("Europe/Berlin")
DAY = 86_400


def plan(**said: object) -> Plan:
    """A plan of the Digest at half past seven in a zone whose clocks change."""
    return Plan(**{"name": "Daily", "buckets": ("digest",), "days": EVERY_DAY, "zone": "Europe/Berlin", **said})  # type: ignore[arg-type]


def at(*when: int) -> int:
    """A time of Berlin in Unix seconds."""
    return int(datetime(*when, tzinfo=BERLIN).timestamp())  # type: ignore[arg-type]


class DueTest(unittest.TestCase):
    def test_once_each_day_of_a_year(self) -> None:
        """Whatever the time of day, skipped by the clocks or come twice; always at that time of the wall clock."""
        for time in ("00:00", "02:00", "02:30", "02:59", "03:00", "07:30", "23:59"):
            found = due(plan(times=(time,)), BERLIN, at(2026, 1, 1) - 1, at(2027, 1, 1) - 1)
            self.assertEqual(len(found), 365, time)
            days = {datetime.fromtimestamp(one, BERLIN).date() for one in found}
            self.assertEqual(len(days), 365, time)
            clocks = {datetime.fromtimestamp(one, BERLIN).strftime("%H:%M") for one in found}
            self.assertLessEqual(clocks - {time}, {"03:00", "03:30", "03:59"}, time)

    def test_on_the_days_wanted(self) -> None:
        """Weekdays alone; the end is in, the beginning is not."""
        week = due(plan(days=WEEKDAYS), BERLIN, at(2026, 11, 23), at(2026, 11, 30))
        self.assertEqual([datetime.fromtimestamp(one, BERLIN).weekday() for one in week], [0, 1, 2, 3, 4])
        self.assertEqual(due(plan(), BERLIN, week[0], week[1]), [week[1]])
        self.assertEqual(due(plan(), BERLIN, week[1], week[0]), [])
        self.assertEqual(next_due(plan(days=1), BERLIN, week[1]), week[0] + 7 * DAY)
        self.assertEqual(next_due(plan(enabled=False), BERLIN, week[1]), 0)

    def test_times_that_fall_together_are_one(self) -> None:
        """On the night the clocks go forward, 02:30 and 03:30 are the same moment."""
        found = due(plan(times=("02:30", "03:30")), BERLIN, at(2026, 3, 29), at(2026, 3, 29, 12))
        self.assertEqual(found, [at(2026, 3, 29, 3, 30)])

    def test_what_cannot_be_carried_out(self) -> None:
        """Each is told by name."""
        for said, words in (
            ({"name": " "}, "name"),
            ({"buckets": ()}, "takes no mail"),
            ({"days": 0}, "no day"),
            ({"days": 128}, "no day"),
            ({"times": ()}, "times"),
            ({"times": ("7:30",)}, "7:30"),
            ({"times": ("24:00",)}, "24:00"),
        ):
            with self.assertRaisesRegex(CallerError, words):
                plan(**said).check()
        plan().check()


if __name__ == "__main__":
    unittest.main()
