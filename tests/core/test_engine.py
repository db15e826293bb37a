"""The battery every learner passes, and what the engine promises besides."""

import random
import unittest
from dataclasses import replace

import numpy as np

from hieranome.core.buckets import BUILT_IN, UNDECIDED, Bucket, Costs
from hieranome.core.engine import SILENCES_KEPT, STEPS_KEPT, Engine
from hieranome.core.features import extract
from hieranome.core.gaussian import Rows
from hieranome.core.groups import Context
from hieranome.core.judgement import Given, Lesson
from hieranome.core.keys import Keys
from hieranome.core.relations import Relations, Sums
from hieranome.core.routing import settle, settle_all
from hieranome.core.silence import Silence
from tests.core.made import BUCKETS, WORDS, context, lessons, made_facts, numbers, taught, vectors


class BatteryTest(unittest.TestCase):
    def test_judges_before_any_lesson(self) -> None:
        """An untaught engine gives probabilities, and says how sure it is."""
        for judgement in Engine().judge_all(vectors(20)):
            self.assertTrue(0.0 < judgement.importance < 1.0)
            self.assertEqual(judgement.certainty, 0.0)
            self.assertAlmostEqual(sum(judgement.low.values()), 1.0, places=12)

    def test_leaves_its_input_alone(self) -> None:
        """Learning and judging change no vector."""
        given = list(lessons(10))
        before = [lesson.vector.copy() for lesson in given]
        engine = taught(*given)
        engine.judge_all([lesson.vector for lesson in given])
        for lesson, kept in zip(given, before, strict=True):
            np.testing.assert_array_equal(lesson.vector, kept)

    def test_ignores_the_order_of_features(self) -> None:
        """The same features in another order give the same numbers."""
        engine = taught(*lessons(20))
        for vector in vectors(5, 9):
            mixed = vector[::-1].copy()
            self.assertAlmostEqual(engine.judge(vector).log_odds, engine.judge(mixed).log_odds, places=12)

    def test_one_at_a_time_equals_all_at_once(self) -> None:
        """Judging many agrees with judging each."""
        engine = taught(*lessons(30))
        probes = vectors(25, 5)
        for one, many in zip(map(engine.judge, probes), engine.judge_all(probes), strict=True):
            self.assertAlmostEqual(one.log_odds, many.log_odds, places=10)
            for name, share in one.low.items():
                self.assertAlmostEqual(share, many.low[name], places=10)

    def test_many_are_settled_as_each_alone(self) -> None:
        """Columns of judgements give the places and the bands that single judgements give."""
        engine = Engine([*BUILT_IN, Bucket("players", "Players", important=True), Bucket("travel", "Travel")])
        engine.learn_all(lessons(60))
        probes = vectors(80, 5)
        found = engine.weigh(Rows.stacked(probes))
        single = [engine.judge(vector) for vector in probes]
        self.assertEqual(settle_all(found, Costs()), [settle(one, Costs())[0] for one in single])
        self.assertEqual(found.likely, [one.likely for one in single])
        for low, high, one in zip(*found.edges, single, strict=True):
            np.testing.assert_allclose((low, high), one.band, atol=1e-12)

    def test_rebuilds_from_its_lessons(self) -> None:
        """The same lessons in the same order give the same model."""
        given = list(lessons(60))
        probes = vectors(20, 7)
        self.assertEqual(numbers(taught(*given), probes), numbers(taught(*given), probes))

    def test_undo_of_any_lessons_leaves_no_trace(self) -> None:
        """After a hundred lessons and thirty undone in random order, the model is one that never saw the thirty."""
        given = list(lessons(100))
        probes = vectors(30, 8)
        engine = taught(*given)
        gone = random.Random(4).sample(given, 30)
        for lesson in gone:
            self.assertTrue(engine.forget(lesson.id))
        never = taught(*(lesson for lesson in given if lesson not in gone))
        for a, b in zip(numbers(engine, probes), numbers(never, probes), strict=True):
            self.assertAlmostEqual(a, b, delta=1e-9)
        self.assertEqual(engine.lesson_ids, never.lesson_ids)

    def test_no_more_steps_are_kept_than_promised(self) -> None:
        """Of four hundred lessons, or of thousands of silences, the steps of the newest alone are held."""
        engine = taught(*lessons(STEPS_KEPT + 44))
        self.assertEqual(len(engine._steps), STEPS_KEPT)
        engine.forget(engine.lesson_ids[-1])
        engine.learn_all(lessons(3, 5))
        self.assertEqual(len(engine._steps), STEPS_KEPT)
        engine.learn_all(Silence(n, vectors(1)[0], "shelf", 0.1, True, 0.0) for n in range(SILENCES_KEPT + 9))
        self.assertEqual(len(engine._steps), STEPS_KEPT + SILENCES_KEPT)

    def test_undo_of_lessons_and_silences_leaves_no_trace(self) -> None:
        """Among silences, lessons and silences undone at random leave exactly the model that never saw them."""
        rng = random.Random(6)
        engine, probes = Engine(), vectors(30, 8)
        given: list[Given] = []
        for number, vector in enumerate(vectors(160, 12), 1):
            judgement = engine.judge(vector)
            if rng.random() < 0.3:
                given.append(Lesson(number, vector, rng.choice(BUCKETS), rng.choice((*BUCKETS, UNDECIDED))))
            else:
                given.append(engine.silence(number, vector, settle(judgement, Costs())[0], judgement))
            engine.learn(given[-1])
        self.assertTrue(any(isinstance(one, Silence) and not one.sure for one in given))
        for _ in range(6):
            gone = rng.sample(given, 8)
            quiet = [one.id for one in gone if isinstance(one, Silence)]
            engine.forget_all([one.id for one in gone if isinstance(one, Lesson)], quiet)
            given = [one for one in given if one not in gone]
            never = Engine()
            never.learn_all(given)
            self.assertEqual(numbers(engine, probes), numbers(never, probes))
            self.assertEqual(engine.attention.share, never.attention.share)
            self.assertEqual(engine.silence_ids, never.silence_ids)

    def test_a_silence_older_than_the_steps_kept_is_undone_as_exactly(self) -> None:
        """The first of more silences than steps are kept is taken back by taking in all others anew."""
        engine, vector = Engine(), vectors(1, 4)[0]
        for number in range(STEPS_KEPT + SILENCES_KEPT + 3):
            engine.learn(Silence(number, vector, "shelf", 0.5, number > 40, 0.0))
        engine.forget_all([], [0])
        never = Engine()
        never.learn_all(Silence(n, vector, "shelf", 0.5, n > 40, 0.0) for n in range(1, STEPS_KEPT + SILENCES_KEPT + 3))
        self.assertEqual(numbers(engine, [vector]), numbers(never, [vector]))

    def test_a_lesson_older_than_the_steps_kept_is_undone_as_exactly(self) -> None:
        """Undoing the tenth of three hundred lessons, and then a late one, leaves no trace of either."""
        given = list(lessons(STEPS_KEPT + 44))
        probes = vectors(20, 8)
        engine = taught(*given)
        self.assertEqual(engine.forget_all([given[9].id]), 1)
        self.assertTrue(engine.forget(given[-20].id))
        never = taught(*(lesson for lesson in given if lesson not in (given[9], given[-20])))
        for a, b in zip(numbers(engine, probes), numbers(never, probes), strict=True):
            self.assertAlmostEqual(a, b, delta=1e-9)

    def test_undo_of_a_lesson_never_given_says_so(self) -> None:
        """Forgetting an unknown lesson changes nothing."""
        engine = taught(*lessons(5))
        self.assertFalse(engine.forget(99))
        self.assertEqual(len(engine), 5)

    def test_progress_is_told_while_old_lessons_are_undone(self) -> None:
        """Undoing an old lesson reports how many later ones were taken in again."""
        engine = taught(*lessons(10))
        seen: list[tuple[int, int]] = []
        engine.forget(3, lambda done, total: seen.append((done, total)))
        self.assertEqual(seen[-1], (7, 7))


class LearningTest(unittest.TestCase):
    def test_a_lesson_moves_its_message_towards_the_answer(self) -> None:
        """Importance rises after a lesson for the Desk and falls after one for a low bucket."""
        for vector in vectors(10, 3):
            before = Engine().judge(vector).importance
            self.assertGreater(taught(Lesson(1, vector, "desk")).judge(vector).importance, before)
            self.assertLess(taught(Lesson(1, vector, "drain")).judge(vector).importance, before)

    def test_a_lesson_raises_certainty(self) -> None:
        """The model is surer of a message like one it was taught."""
        vector = vectors(1, 3)[0]
        self.assertGreater(taught(Lesson(1, vector, "desk")).judge(vector).certainty, Engine().judge(vector).certainty)

    def test_one_lesson_names_the_low_bucket(self) -> None:
        """After one lesson the same message is most likely in the bucket taught."""
        vector = vectors(1, 3)[0]
        for bucket in ("shelf", "digest", "drain"):
            self.assertEqual(taught(Lesson(1, vector, bucket)).judge(vector).likely, bucket)


class SilenceTest(unittest.TestCase):
    def test_what_is_left_makes_it_surer(self) -> None:
        """Mail looked past on the Shelf makes the model surer of the Shelf, by far less than a lesson does."""
        vector = vectors(1, 3)[0]
        engine = Engine()
        judgement = engine.judge(vector)
        engine.leave(1, vector, "shelf", judgement)
        after = engine.judge(vector)
        self.assertLess(after.log_odds, judgement.log_odds)
        self.assertGreater(after.low["shelf"], judgement.low["shelf"])
        self.assertGreater(after.log_odds, taught(Lesson(1, vector, "shelf")).judge(vector).log_odds)
        self.assertEqual(after.certainty, judgement.certainty)

    def test_a_lesson_outweighs_many_silences(self) -> None:
        """After twenty of a source were looked past on the Shelf, one lesson brings the next to the Desk."""
        vector = vectors(1, 3)[0]
        engine = Engine()
        for number in range(20):
            engine.leave(number, vector, "shelf", engine.judge(vector))
        engine.learn(Lesson(1, vector, "desk"))
        self.assertEqual(settle(engine.judge(vector), Costs())[0], "desk")

    def test_answers_tell_nothing_of_it(self) -> None:
        """Who is asked answers, whether or not they would have noticed; the source counts as corrected all the same."""
        engine, vector = Engine(), vectors(1, 5)[0]
        before = engine.attention.share
        engine.learn(Lesson(1, vector, "desk", UNDECIDED))
        self.assertEqual(engine.attention.share, before)
        self.assertTrue(engine.attention.was_corrected(int(Keys.of(Rows.of(vector)).source[0])))

    def test_moves_among_low_buckets_find_no_mistake(self) -> None:
        """A lesson across the line of the Desk raises the estimate or keeps it; one that stays on its side lowers it by
        what was to be expected."""
        shares = []
        for belongs in ("desk", "digest"):
            engine = Engine()
            for number, vector in enumerate(vectors(30, 4)):
                engine.learn(Lesson(number, vector, belongs, "shelf"))
            shares.append(engine.attention.share)
        self.assertGreater(shares[0], Engine().attention.share)
        self.assertLess(shares[1], Engine().attention.share)

    def test_a_bold_model_is_believed_less_where_little_is_corrected(self) -> None:
        """What an owner leaves who corrects little weighs less, and never more than one."""
        vector = vectors(1, 3)[0]
        engine, slow = Engine(), Engine()
        for source, one in enumerate(vectors(60, 9)):
            slow.learn(Silence(source, one, "shelf", 0.0, False, 0.0))
        weights = [e.silence(1, vector, "shelf", engine.judge(vector)).weight for e in (engine, slow)]
        self.assertGreater(weights[0], weights[1])
        self.assertTrue(all(0.0 < weight < 1.0 for weight in weights))


class LikeMailTest(unittest.TestCase):
    def test_one_lesson_holds_for_the_senders_next_message(self) -> None:
        """After the first lesson about a sender, mail of that sender with quite another text goes there too: for at
        least eighty-five of a hundred senders, whatever the bucket."""
        rng, followed = random.Random(9), 0
        for number in range(100):
            first = made_facts(rng)
            second = replace(first, text=" ".join(rng.choices(WORDS, k=30)), subject=" ".join(rng.choices(WORDS, k=4)))
            belongs = BUCKETS[number % 4]
            engine = taught(Lesson(1, extract(first, context()), belongs))
            followed += settle(engine.judge(extract(second, context())), Costs())[0] == belongs
        self.assertGreaterEqual(followed, 85)


class OwnBucketTest(unittest.TestCase):
    def test_a_new_bucket_is_chosen_from_its_first_lesson_on(self) -> None:
        """A bucket added later gets the next like message after one lesson, and what was learned before stands."""
        given = list(lessons(20))
        engine = taught(*given)
        importance = [j.importance for j in engine.judge_all(vectors(5, 9))]
        engine.add_bucket(Bucket("travel", "Travel"))
        for before, judgement in zip(importance, engine.judge_all(vectors(5, 9)), strict=True):
            self.assertAlmostEqual(before, judgement.importance, places=12)
            self.assertAlmostEqual(sum(judgement.low.values()), 1.0, places=12)
        vector = vectors(1, 77)[0]
        self.assertNotEqual(engine.judge(vector).likely, "travel")
        engine.learn(Lesson(99, vector, "travel"))
        self.assertEqual(engine.judge(vector).likely, "travel")

    def test_several_important_buckets_are_told_apart(self) -> None:
        """With two Desk-like buckets, a lesson for one is a lesson in importance, and for that one."""
        engine = Engine([*BUILT_IN, Bucket("players", "Players", important=True)])
        one, other = vectors(2, 31)
        engine.learn(Lesson(1, one, "players"))
        engine.learn(Lesson(2, other, "desk"))
        self.assertEqual((engine.judge(one).likely_high, engine.judge(other).likely_high), ("players", "desk"))
        self.assertGreater(engine.judge(one).importance, Engine().judge(one).importance)


class HistoryTest(unittest.TestCase):
    def test_history_never_outweighs_a_lesson(self) -> None:
        """Whatever was done with a sender's mail before, one lesson decides where the next like message goes."""
        rng = random.Random(3)
        for sums, belongs in ((Sums(received=200), "desk"), (Sums(200, 200, 180, 90, 180, 5400), "drain")):
            for _ in range(10):
                facts = made_facts(rng)
                relations = Relations()
                relations.add(f"address:{facts.sender.address}", sums)
                vector = extract(facts, Context(context().owner, relations))
                place = settle(taught(Lesson(1, vector, belongs)).judge(vector), Costs())[0]
                self.assertEqual(place, belongs)

    def test_history_speaks_before_the_first_lesson(self) -> None:
        """Mail of someone always answered scores higher than the same mail of someone never answered."""
        facts = made_facts(random.Random(3))
        scores = []
        for sums in (Sums(received=40), Sums(40, 40, 38, 20)):
            relations = Relations()
            relations.add(f"address:{facts.sender.address}", sums)
            scores.append(Engine().judge(extract(facts, Context(context().owner, relations))).importance)
        self.assertLess(scores[0], scores[1])
