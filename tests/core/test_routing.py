"""What is asked: between which two places, and never what is quite sure."""

from __future__ import annotations

import math
import unittest

from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF, Costs
from hieranome.core.gaussian import logistic
from hieranome.core.judgement import Judgement
from hieranome.core.routing import LEARNED, QUITE_SURE, between, worth_asking


def judged(importance: float, doubt: float = 0.05, **low: float) -> Judgement:
    """A judgement of an importance, with shares of the low buckets."""
    shares = {SHELF: 0.6, DIGEST: 0.1, DRAIN: 0.3} | low
    log_odds = math.log(importance / (1 - importance))
    return Judgement(importance, log_odds, doubt, 0.5, shares, {DESK: 1.0})


class BetweenTest(unittest.TestCase):
    def test_what_is_quite_sure_to_wait_is_asked_only_where(self) -> None:
        """A question whose score falls to 2 while it stands, between Shelf and Drain, is between these two then."""
        found = judged(0.02, shelf=0.5, digest=0.05, drain=0.45)
        self.assertGreater(worth_asking(found, Costs())[1], LEARNED)
        self.assertEqual(between(found, Costs()), (SHELF, DRAIN))

    def test_what_may_be_for_the_desk_is_asked_so(self) -> None:
        """Doubtful mail is between the Desk and the likeliest low bucket; so is mail that is low but doubtful."""
        self.assertEqual(between(judged(0.12), Costs()), (DESK, SHELF))
        self.assertEqual(between(judged(0.02, doubt=9.0), Costs()), (DESK, SHELF))

    def test_no_question_is_about_what_is_called_quite_sure(self) -> None:
        """Over all scores and doubts: the Desk is among the answers exactly where the words do not say quite sure."""
        for step in range(1, 200):
            for doubt in (0.01, 0.2, 1.0, 4.0):
                found = judged(step / 200, doubt)
                waits = found.importance < 1 / 6 and 1.0 - found.band[1] >= QUITE_SURE
                self.assertEqual(DESK in between(found, Costs()), not waits)
                self.assertAlmostEqual(found.band[1], logistic(found.log_odds + math.sqrt(doubt)))
