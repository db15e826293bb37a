"""The battery, for every part of the engine that learns."""

import random
import unittest
from collections.abc import Callable
from typing import Any

import numpy as np

from hieranome.core.buckets import BUILT_IN
from hieranome.core.choice import Choice, shares_of
from hieranome.core.counts import UNKNOWN, UNKNOWN_AFTER, Counts
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.features import SLOTS, Vector, extract, feature
from hieranome.core.gaussian import Floats, GaussianLogistic, Rows, logistic_all
from hieranome.core.groups import Context
from hieranome.core.importance import Importance, learned
from hieranome.core.keys import Keys
from hieranome.core.prior import IMPORTANCE, LOW
from hieranome.core.relations import Relations
from hieranome.core.silence import Attention
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


def _said(counts: Counts, rows: Rows) -> Floats:
    said = counts.weigh(Keys.of(rows))
    return np.concatenate([said.importance[:, np.newaxis], said.low], axis=1)


LEARNERS = {
    "gaussian": Subject(
        lambda: GaussianLogistic(IMPORTANCE),
        lambda m, rows, b: [m.learn(rows, b == "desk")],
        lambda m, rows, b, steps: _retract(m, steps),
        lambda m, rows: np.stack(m.predict_all(rows), axis=1),
    ),
    "importance": Subject(
        Importance,
        lambda m, rows, b: [m.learn(learned(rows), b == "desk", m.beside(rows), len(b) / 6)],
        lambda m, rows, b, steps: _retract(m, steps),
        lambda m, rows: np.stack(m.predict_all(rows), axis=1),
    ),
    "choice": Subject(
        lambda: Choice(["shelf", "digest", "drain"], LOW),
        lambda m, rows, b: m.learn(rows, b),
        lambda m, rows, b, steps: m.take_back(steps),
        lambda m, rows: shares_of(m.odds(rows)),
    ),
    "tally": Subject(
        Tally,
        lambda m, rows, b: m.count(rows, unwanted=b == "drain", important=b == "desk"),
        lambda m, rows, b, _: m.count(rows, unwanted=b == "drain", important=b == "desk", sign=-1),
        lambda m, rows: np.stack([m.weigh(rows).made, m.weigh(rows).word, m.weigh(rows).drain], axis=1),
    ),
    "counts": Subject(
        lambda: Counts(BUILT_IN),
        lambda m, rows, b: m.count(Keys.of(rows), b),
        lambda m, rows, b, _: m.count(Keys.of(rows), b, sign=-1),
        lambda m, rows: _said(m, rows),
    ),
    "silences": Subject(
        lambda: Counts(BUILT_IN),
        lambda m, rows, b: m.count_left(Keys.of(rows), b, 0.07),
        lambda m, rows, b, _: m.count_left(Keys.of(rows), b, 0.07, sign=-1),
        lambda m, rows: _said(m, rows),
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
            if name in ("counts", "silences"):
                continue  # these hold a row for each node that was counted
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


class CountsTest(unittest.TestCase):
    def test_holds_a_row_for_each_node_and_no_more(self) -> None:
        """Taught the same mail again, it holds what it held; its tables are at most twice what its nodes need."""
        given = lessons(60)
        counts = LEARNERS["counts"].taught(given)
        held = _held(counts)
        for vector, belongs in given:
            counts.count(Keys.of(Rows.of(vector)), belongs)
        self.assertEqual(_held(counts), held)
        self.assertLessEqual(len(counts._left), 2 * len(counts._at) + 2)

    def test_order_does_not_matter(self) -> None:
        """Counts are sums: lessons in another order give exactly the same numbers."""
        given, probes = lessons(30), Rows.stacked(vectors(10, 4))
        subject = LEARNERS["counts"]
        mixed = random.Random(1).sample(given, len(given))
        np.testing.assert_array_equal(
            subject.numbers(subject.taught(given), probes), subject.numbers(subject.taught(mixed), probes)
        )

    def test_what_was_counted_down_is_as_if_never_counted(self) -> None:
        """Shares of lessons taken back leave not even a rounding error."""
        subject, probes = LEARNERS["silences"], Rows.stacked(vectors(10, 4))
        counts = subject.taught(lessons(40))
        for vector, belongs in lessons(40)[7:]:
            counts.count_left(Keys.of(Rows.of(vector)), belongs, 0.07, sign=-1)
        expected = subject.numbers(subject.taught(lessons(40)[:7]), probes)
        np.testing.assert_array_equal(subject.numbers(counts, probes), expected)

    def test_mail_no_lesson_was_about_hears_nothing(self) -> None:
        """A sender, a domain and words never counted add nothing."""
        counts = LEARNERS["counts"].taught(lessons(20))
        strange = MessageFacts(subject="qwzx", sender=Correspondent("somebody@elsewhere.example"))
        rows = Keys.of(Rows.of(extract(strange, Context(Owner(), Relations()))))
        self.assertEqual(float(counts.weigh(rows).importance[0]), 0.0)
        self.assertEqual(counts.nodes(rows), [])

    def test_a_source_nothing_was_taught_of_may_matter_more(self) -> None:
        """The more, the more was taught of others, up to a share of all that was not held important; less where it
        looks like the Drain; nothing any more once a lesson was about its sender, or, where it has one, its list; taken
        back, as before."""
        rows = [Keys.of(Rows.of(vector)) for vector, _ in lessons(200)]
        strange = MessageFacts(subject="qwzx", sender=Correspondent("somebody@elsewhere.example"))
        new = Keys.of(Rows.of(extract(strange, Context(Owner(), Relations()))))
        log_odds, none = np.array([-3.0]), np.zeros(1)

        def of(keys: Keys, taught: int, drained: float = 0.0) -> float:
            return float(counts.of_unknown(keys, taught, log_odds, none + drained)[0])

        counts, added = Counts(BUILT_IN), [0.0]
        for taught, keys in enumerate(rows, 1):
            counts.count(keys, "shelf")
            added.append(of(new, taught))
            self.assertEqual(of(keys, taught), 0.0)
        self.assertEqual(added, sorted(added))
        self.assertEqual(set(added[UNKNOWN_AFTER:]), {added[-1]})
        before = float(logistic_all(log_odds)[0])
        behind = float(logistic_all(log_odds + added[-1])[0])
        self.assertAlmostEqual(behind, before + UNKNOWN * (1 - before), 12)
        drained = float(logistic_all(log_odds + of(new, 200, 0.5))[0])
        self.assertAlmostEqual(drained, before + UNKNOWN * 0.25 * (1 - before), 12)
        self.assertEqual(of(new, 200, 1.0), 0.0)
        for far in (-1_000.0, 1_000.0):
            self.assertTrue(np.isfinite(counts.of_unknown(new, 200, np.array([far]), none)).all())
        counts.count_left(new, "shelf", 0.1)
        self.assertEqual(of(new, 200), added[-1])
        counts.count(new, "desk")
        self.assertEqual(of(new, 200), 0.0)
        counts.count(new, "desk", sign=-1)
        self.assertEqual(of(new, 200), added[-1])

    def test_nodes_add_up_to_what_is_said(self) -> None:
        """The nodes of a message sum to what the tree adds to its importance."""
        counts = LEARNERS["counts"].taught(lessons(60))
        for vector in vectors(20, 3):
            rows = Keys.of(Rows.of(vector))
            said = sum(node.value for node in counts.nodes(rows))
            self.assertAlmostEqual(said, float(counts.weigh(rows).importance[0]), places=12)

    def test_one_message_alone_hears_the_same(self) -> None:
        """The short way that learning takes says what the long one says, of lessons and of what was left, counted up
        and down."""
        counts, tally = Counts(BUILT_IN), Tally()
        for number, (vector, belongs) in enumerate(lessons(80)):
            rows = Rows.of(vector)
            keys = Keys.of(rows)
            if number % 3:
                counts.count(keys, belongs)
                tally.count(rows, unwanted=belongs == "drain", important=belongs == "desk")
            else:
                counts.count_left(keys, belongs, 0.07)
            if number % 7 == 0:
                counts.count_left(keys, "shelf", 0.1)
                counts.count_left(keys, "shelf", 0.1, sign=-1)
            for probe in vectors(5, number):
                rows = Rows.of(probe)
                keys = Keys.of(rows)
                self.assertAlmostEqual(counts.importance_of(keys), float(counts.weigh(keys).importance[0]), places=12)
                self.assertAlmostEqual(tally.importance_of(rows), float(tally.weigh(rows).importance[0]), places=12)

    def test_a_common_word_never_speaks(self) -> None:
        """What the subjects of a sender share in articles and answers is no node."""
        sender = Correspondent("ilse@hall.example")
        told = [
            MessageFacts(subject="Re: the risers may be late on the 4th, muss es sein", sender=sender),
            MessageFacts(subject="Re: the lamps, if I may, by the 19th: es muss gehen", sender=sender),
        ]
        rows = [Keys.of(Rows.of(extract(facts, Context(Owner(), Relations())))) for facts in told]
        counts = Counts(BUILT_IN)
        counts.count(rows[0], "desk")
        self.assertEqual([node.branch for node in counts.nodes(rows[1])], ["domain", "address"])


class AttentionTest(unittest.TestCase):
    def test_mistakes_left_alone_lower_the_estimate(self) -> None:
        """Of owners who looked past the same mail, one who found as many mistakes as were to be expected is trusted
        more than one who found a third of them."""
        prompt, slow = Attention(), Attention()
        for source in range(200):
            for attention in (prompt, slow):
                attention.note_left(0.1)
            if source % 10 < 9:
                prompt.note_corrected(source, 0.1, found=source % 5 == 0)
                slow.note_corrected(source, 0.1, found=source % 15 == 0)
        self.assertGreater(prompt.share, 0.9)
        self.assertAlmostEqual(slow.share, (4.5 + 14) / (5.0 + 20 + 18), delta=1e-9)
        self.assertGreater(prompt.weight(0.9), slow.weight(0.9))

    def test_nobody_is_believed_in_full(self) -> None:
        """Whoever finds more than was to be expected is still not taken to find all."""
        attention = Attention()
        for source in range(100):
            attention.note_corrected(source, 0.01, found=True)
        self.assertTrue(0.9 < attention.share < 1.0)
        self.assertLess(attention.weight(0.999), 1.0)

    def test_notes_are_taken_back(self) -> None:
        """Thirty notes taken back leave the estimate and the sources as they were."""
        attention, rng = Attention(), random.Random(2)
        states, notes = [], []

        def state() -> tuple[float, list[bool]]:
            return attention.share, [attention.was_corrected(source) for source in range(6)]

        for _ in range(30):
            states.append(state())
            source, mistaken = rng.randrange(6), rng.random()
            if rng.random() < 0.6:
                notes.append(attention.note_left(mistaken))
            else:
                notes.append(attention.note_corrected(source, mistaken, found=rng.random() < 0.5))
        for note, before in zip(reversed(notes), reversed(states), strict=True):
            attention.take_back(note)
            self.assertEqual(state(), before)
