"""The short of it: which sentences stand there, and what is said of each."""

from __future__ import annotations

import random
import unittest
from datetime import UTC, datetime

from hieranome.core.extracts import usual_key
from hieranome.core.short import ASKED, DATED, short

NOW = datetime(2026, 3, 2, 9, tzinfo=UTC)
TEXT = """Dear Maren,

thank you for the plan, which all of us have read with pleasure over the weekend at the lake.

The hall in Ketterholm has 640 seats, of which 212 are sold, and the choir stands on the left.

We shall send the contract on Friday. The crates are loaded on 12 March at 9:00. It rains here.

Which gate shall the trucks use?

Kind regards, Oskar"""


class ShortTest(unittest.TestCase):
    def test_what_asks_promises_and_dates_stands_there(self) -> None:
        """Each in the order of the text and as it was written, with what it does."""
        lines = short(TEXT, "The plan", NOW, NOW, count=1)
        said = {one.text: one for one in lines}
        self.assertTrue(said["Which gate shall the trucks use?"].asks)
        self.assertTrue(said["We shall send the contract on Friday."].promises)
        self.assertEqual([one.words for one in said["We shall send the contract on Friday."].dates], ["Friday."])
        self.assertTrue(said["The crates are loaded on 12 March at 9:00."].dates)
        self.assertNotIn("It rains here.", said)
        self.assertEqual([one.text for one in lines], sorted(said, key=lambda one: TEXT.index(one[:12])))

    def test_what_carries_it_comes_from_the_extracts(self) -> None:
        """And what the sender always says does not."""
        carried = {one.text for one in short(TEXT, "The hall and its seats", NOW, NOW)}
        hall = next(one for one in carried if one.startswith("The hall in Ketterholm"))
        usual = {usual_key(hall)}
        self.assertNotIn(hall, {one.text for one in short(TEXT, "The hall", NOW, NOW, usual=usual)})

    def test_times_that_are_over_are_none(self) -> None:
        later = datetime(2026, 5, 2, tzinfo=UTC)
        self.assertEqual([one.dates for one in short(TEXT, "", NOW, later) if one.dates], [])

    def test_nothing_is_written_that_was_not_there(self) -> None:
        """Of whatever text: each line is a stretch of it, no matter how it was broken, and lines of dates are few."""
        rng = random.Random(3)
        pieces = [
            *TEXT.split(),
            "?",
            "!",
            "…",
            "\n\n",
            "\u202e",
            "私は",
            "明日",
            "http://x.example",
            "1" * 40,
            "Mr.",
            "»",
        ]
        for _ in range(300):
            text = " ".join(rng.choice(pieces) for _ in range(rng.randint(0, 120)))
            plain = " ".join(text.split())
            lines = short(text, rng.choice(pieces), NOW, NOW)
            for one in lines:
                self.assertIn(one.text, plain)
            self.assertLessEqual(len({one.text for one in lines}), 3 + 2 * ASKED + 1 + DATED)
