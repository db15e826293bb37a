"""How like two messages are, and what a lesson may therefore move."""

import random
import unittest

from hieranome.core.engine import Engine
from hieranome.core.gaussian import Rows, likeness
from hieranome.core.judgement import Lesson
from tests.core.test_engine import vectors


class LikenessTest(unittest.TestCase):
    def test_a_message_is_wholly_like_itself(self) -> None:
        """Likeness to itself is one, for every message."""
        for vector in vectors(15, 21):
            self.assertAlmostEqual(likeness(Rows.of(vector), vector)[0], 1.0, places=12)

    def test_likeness_is_never_negative_and_one_at_a_time_equals_all_at_once(self) -> None:
        """Many compared at once give what each gives alone."""
        probes = vectors(20, 22)
        together = likeness(Rows.stacked(probes), probes[0])
        self.assertTrue(all(value >= 0.0 for value in together))
        for vector, value in zip(probes, together, strict=True):
            self.assertAlmostEqual(likeness(Rows.of(vector), probes[0])[0], value, places=12)

    def test_certainty_falls_for_strangers(self) -> None:
        """After lessons about some messages the model is surer of those than of others."""

        known, strange = vectors(10, 23), vectors(10, 99)
        engine = Engine()
        for number, vector in enumerate(known, 1):
            engine.learn(Lesson(number, vector, random.Random(number).choice(["desk", "drain"])))
        mean = lambda probes: sum(j.certainty for j in engine.judge_all(probes)) / len(probes)  # noqa: E731
        self.assertGreater(mean(known), mean(strange))
