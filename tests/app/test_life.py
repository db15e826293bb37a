"""An owner works through some days in the application, as the measurement of lives has it."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path

from bench.life import HABITS, Job, lived
from hieranome.app.trial.backtest import read_truth
from hieranome.core.buckets import DESK
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from tests.support import QUICK

DAYS_OF_MAIL = 120 if QUICK else 240


class LifeTest(unittest.TestCase):
    def test_lives_with_each_habit(self) -> None:
        """With every habit the sorting costs less than all mail on the Desk would, and lists say what open messages do
        once the work behind is done."""
        with tempfile.TemporaryDirectory() as place:
            mail, truth = Path(place, "m.mbox"), Path(place, "t.csv")
            mailgen.write(DAYS_OF_MAIL, 7, mail, truth)
            buckets = list(read_truth(truth).buckets.values())
            all_on_the_desk = 100 * sum(bucket != DESK for bucket in buckets) / len(buckets)
            for habit in HABITS:
                with self.subTest(habit.name):
                    found = lived(Job(mail, truth, OWNER_ADDRESSES, habit, 1, 0.5, habit.scrolls, DAYS_OF_MAIL))
                    self.assertLess(found.after, 1.0)
                    self.assertLess(found.figures[0], all_on_the_desk)

    def test_the_same_life_is_lived_twice(self) -> None:
        """The same draw comes to the same, and silences change what it comes to."""
        with tempfile.TemporaryDirectory() as place:
            mail, truth = Path(place, "m.mbox"), Path(place, "t.csv")
            mailgen.write(DAYS_OF_MAIL, 8, mail, truth)
            job = Job(mail, truth, OWNER_ADDRESSES, HABITS[0], 3, 0.5, True, DAYS_OF_MAIL)
            self.assertEqual(lived(job), lived(job))
