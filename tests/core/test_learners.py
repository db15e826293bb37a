"""The battery, for every part of the engine that learns."""

import random
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np

from hieranome.core.calibration import PIVOT, Calibration
from hieranome.core.choice import Choice
from hieranome.core.features import SLOTS, Vector, feature
from hieranome.core.gaussian import Floats, GaussianLogistic, Rows
from hieranome.core.importance import Importance
from hieranome.core.prior import IMPORTANCE, LOW
from hieranome.core.tally import Tally
from tests.core.test_engine import BUCKETS, vectors

Lesson = tuple[Vector, str]


class Subject:
    """One learner under test: how to make it, teach it, take the latest lesson back, and read its numbers."""

    def __init__(
        self,
        make: Callable[[], Any],
        learn: Callable[[Any, Rows, str], Any],
        take_back: Callable[[Any, Rows, str, Any], None],
        numbers: Callable[[Any, Rows], Floats],
    ) -> None:
        self.make, self.learn, self.take_back, self.numbers = make, learn, take_back, numbers

    def taught(self, lessons: list[Lesson]) -> Any:
        learner = self.make()
        for vector, belongs in lessons:
            self.learn(learner, Rows.of(vector), belongs)
        return learner


def _retract(model: GaussianLogistic, steps: Any) -> None:
    for step in reversed(steps):
        model.take_back(step)


LEARNERS = {
    "gaussian": Subject(
        lambda: GaussianLogistic(IMPORTANCE),
        lambda m, rows, b: [m.learn(rows, b == "desk")],
        lambda m, rows, b, steps: _retract(m, steps),
        lambda m, rows: np.stack(m.predict_all(rows), axis=1),
    ),
    "importance": Subject(
        Importance,
        lambda m, rows, b: m.take_in(rows, b == "desk"),
        lambda m, rows, b, steps: _retract(m, steps),
        lambda m, rows: np.stack(m.predict_all(rows), axis=1),
    ),
    "choice": Subject(
        lambda: Choice(["shelf", "digest", "drain"], LOW),
        lambda m, rows, b: m.learn(rows, b, first=len(b) == 5),
        lambda m, rows, b, steps: m.take_back(steps),
        lambda m, rows: m.shares(rows),
    ),
    "tally": Subject(
        Tally,
        lambda m, rows, b: m.count(rows, unwanted=b == "drain", important=b == "desk"),
        lambda m, rows, b, _: m.count(rows, unwanted=b == "drain", important=b == "desk", sign=-1),
        lambda m, rows: np.stack([m.weigh(rows).made, m.weigh(rows).word, m.weigh(rows).drain], axis=1),
    ),
    "calibration": Subject(
        Calibration,
        lambda m, rows, b: m.learn(float(rows.values.sum() % 5 - 4), b == "desk"),
        lambda m, rows, b, before: m.take_back(before),
        lambda m, rows: np.array([[m.of(z)] for z in rows.starts % 7 - 5.0]),
    ),
}


def lessons(count: int, seed: int = 3) -> list[Lesson]:
    rng = random.Random(seed)
    return [(vector, rng.choice(BUCKETS)) for vector in vectors(count, seed)]


class BatteryTest(unittest.TestCase):
    def setUp(self) -> None:
        self.probes = Rows.stacked(vectors(25, 8))

    def test_gives_finite_numbers_before_any_lesson(self) -> None:
        """Untaught, every learner answers."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                self.assertTrue(np.isfinite(subject.numbers(subject.make(), self.probes)).all())

    def test_learns(self) -> None:
        """Lessons change what it says."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                taught = subject.numbers(subject.taught(lessons(30)), self.probes)
                self.assertGreater(np.abs(taught - subject.numbers(subject.make(), self.probes)).max(), 0.01)

    def test_same_lessons_same_numbers(self) -> None:
        """A second one, taught the same, says exactly the same."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                one, other = (subject.numbers(subject.taught(lessons(40)), self.probes) for _ in range(2))
                np.testing.assert_array_equal(one, other)

    def test_taking_back_is_exact(self) -> None:
        """Fifteen lessons taken back leave what forty-five fewer fifteen give, to 1e-9."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                given = lessons(45)
                learner = subject.taught(given[:30])
                done = [(v, b, subject.learn(learner, Rows.of(v), b)) for v, b in given[30:]]
                for vector, belongs, step in reversed(done):
                    subject.take_back(learner, Rows.of(vector), belongs, step)
                expected = subject.numbers(subject.taught(given[:30]), self.probes)
                np.testing.assert_allclose(subject.numbers(learner, self.probes), expected, rtol=0, atol=1e-9)

    def test_leaves_its_input_alone(self) -> None:
        """Neither learning nor answering changes a vector."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                given = lessons(10)
                kept = [vector.copy() for vector, _ in given]
                subject.numbers(subject.taught(given), Rows.stacked([vector for vector, _ in given]))
                for (vector, _), before in zip(given, kept, strict=True):
                    np.testing.assert_array_equal(vector, before)

    def test_ignores_the_order_of_features(self) -> None:
        """A vector read backwards teaches and answers the same."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                straight = subject.numbers(subject.taught(lessons(20)), self.probes)
                backwards = [(vector[::-1].copy(), belongs) for vector, belongs in lessons(20)]
                np.testing.assert_allclose(subject.numbers(subject.taught(backwards), self.probes), straight, atol=1e-9)

    def test_memory_is_bounded(self) -> None:
        """What a learner holds does not grow with its lessons."""
        for name, subject in LEARNERS.items():
            with self.subTest(name):
                few, many = (_held(subject.taught(lessons(count))) for count in (2, 60))
                self.assertEqual(few, many)
                self.assertLess(many, 3 * 3 * 8 * SLOTS + 1)


def _held(thing: Any) -> int:
    """Bytes of the arrays of a learner and of its parts."""
    if isinstance(thing, np.ndarray):
        return thing.nbytes
    if isinstance(thing, dict):
        return sum(_held(one) for one in thing.values())
    return sum(_held(one) for one in vars(thing).values()) if hasattr(thing, "__dict__") else 0


class TallyTest(unittest.TestCase):
    def test_order_does_not_matter(self) -> None:
        """Counts are sums: lessons in another order give the same numbers."""
        given = lessons(30)
        probes = Rows.stacked(vectors(10, 4))
        subject = LEARNERS["tally"]
        mixed = random.Random(1).sample(given, len(given))
        np.testing.assert_array_equal(
            subject.numbers(subject.taught(given), probes), subject.numbers(subject.taught(mixed), probes)
        )

    def test_likeness_to_good_mail_is_no_merit(self) -> None:
        """What is made like unwanted mail loses; what is not gains nothing."""
        weighed = LEARNERS["tally"].taught(lessons(60)).weigh(Rows.stacked(vectors(50, 6)))
        self.assertLessEqual(weighed.made.max(), 0.0)
        self.assertLess(weighed.made.min(), 0.0)

    def test_the_word_that_speaks_for_the_desk_is_found(self) -> None:
        """Of a subject's words the one that stood on the Desk is named, with its counts."""
        both = [feature("subject", "invoice"), feature("subject", "humid")]
        desk = Rows.of(np.array([both[0]], dtype=np.uint32))
        low = Rows.of(np.array([both[1]], dtype=np.uint32))
        tally = Tally()
        for _ in range(3):
            tally.count(desk, unwanted=False, important=True)
            tally.count(low, unwanted=True, important=False)
        found = tally.best_word(Rows.of(np.array(sorted(both), dtype=np.uint32)))
        self.assertEqual(found, (both[0] & (SLOTS - 1), 3, 3))


class CalibrationTest(unittest.TestCase):
    def test_keeps_its_pivot_before_any_answer(self) -> None:
        """What ships spreads log-odds around the pivot and leaves the pivot in place."""
        self.assertAlmostEqual(Calibration().of(PIVOT), PIVOT)

    def test_answers_shift_it_their_way(self) -> None:
        """Questions answered with 'important' raise later scores, those answered otherwise lower them."""
        for important in (True, False):
            calibration = Calibration()
            before = calibration.of(PIVOT)
            for _ in range(30):
                calibration.learn(PIVOT, important)
            self.assertEqual(calibration.of(PIVOT) > before, important)

    def test_never_turns_scores_round(self) -> None:
        """However odd the answers, a higher log-odds stays higher."""
        calibration = Calibration()
        for _ in range(500):
            calibration.learn(3.0, False)
            calibration.learn(-6.0, True)
        self.assertGreater(calibration.of(1.0), calibration.of(-1.0))


class FirstLessonTest(unittest.TestCase):
    def test_holds_for_another_text_of_the_sender(self) -> None:
        """After one lesson a message of the sender with quite another text is judged the same way."""
        for important in (True, False):
            model = Importance()
            rows = Rows.of(vectors(1, 5)[0])
            steps = model.take_in(rows, important)
            lasting = rows.only(frozenset({"text", "links"}), without=True)
            self.assertEqual(model.sum(lasting) > 0.0, important)
            self.assertFalse(model.is_first(rows))
            self.assertGreaterEqual(len(steps), 1)

    def test_a_second_lesson_is_one_step(self) -> None:
        """What is known of a sender is not taken in by rounds again."""
        model = Importance()
        rows = Rows.of(vectors(1, 5)[0])
        model.take_in(rows, True)
        self.assertEqual(len(model.take_in(rows, False)), 1)
