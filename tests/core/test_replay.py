"""Replay and its figures: nothing of a later truth reaches an earlier prediction."""

import random
import statistics
import unittest
from dataclasses import replace

from hieranome.core.buckets import DESK, UNDECIDED, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.figures import Share, figures
from hieranome.core.replay import Passing, Predicted, Replay, replay
from tests.core.test_engine import BUCKETS, made_facts

ME = "maren@quillmark.example"


def stream(count: int, seed: int = 5) -> tuple[list[Passing], dict[str, str]]:
    """Random messages whose sender says where they belong, and that truth."""
    rng = random.Random(seed)
    mail = [Passing(made_facts(rng)) for _ in range(count)]
    return mail, {one.facts.message_id: BUCKETS[len(one.facts.sender.address) * 7 % 4] for one in mail}


def predictions(mail: list[Passing], truth: dict[str, str], **how: object) -> list[Predicted]:
    return list(replay(Replay(owner=Owner.of(ME), **how), mail, truth))  # type: ignore[arg-type]


class LeakTest(unittest.TestCase):
    def test_later_truths_change_no_earlier_prediction(self) -> None:
        """With every truth after a point shuffled, all up to that point is as before, and something after is not."""
        mail, truth = stream(160)
        point = 90
        later = [one.facts.message_id for one in mail[point:]]
        shuffled = [truth[name] for name in later]
        random.Random(2).shuffle(shuffled)
        other = {**truth, **dict(zip(later, shuffled, strict=True))}
        before, after = predictions(mail, truth), predictions(mail, other)
        self.assertEqual(
            [(p.score, p.certainty, p.place, p.corrected) for p in before[:point]],
            [(p.score, p.certainty, p.place, p.corrected) for p in after[:point]],
        )
        self.assertNotEqual([p.score for p in before[point:]], [p.score for p in after[point:]])

    def test_a_message_is_judged_before_its_own_truth(self) -> None:
        """The score of a message is the same whatever it is said to be."""
        mail, truth = stream(30)
        for belongs in BUCKETS:
            last = predictions(mail, {**truth, mail[-1].facts.message_id: belongs})[-1]
            self.assertEqual(last.score, predictions(mail, truth)[-1].score)


class ReaderTest(unittest.TestCase):
    def test_the_reader_corrects_only_what_is_wrong(self) -> None:
        """Right places are left alone; wrong ones and questions are corrected when all are."""
        for one in predictions(*stream(120)):
            self.assertEqual(one.corrected, one.place != one.belongs)

    def test_a_reader_who_never_corrects_still_answers(self) -> None:
        """With no mistake corrected the engine hears the answers to its questions alone."""
        mail, truth = stream(200)
        asked = [replace(one, read=True, answered=True) for one in mail]
        found = predictions(asked, truth, correct=0.0, draw=random.Random(1).random, costs=Costs(asking=0.01))
        self.assertEqual({one.corrected for one in found if one.place == UNDECIDED}, {True})
        self.assertEqual({one.corrected for one in found if one.place != UNDECIDED}, {False})

    def test_a_share_of_mistakes_is_corrected(self) -> None:
        """About the given share of mistakes becomes lessons, the same ones for the same seed."""
        mail, truth = stream(300)
        found = predictions(mail, truth, correct=0.3, draw=random.Random(1).random)
        wrong = [one.corrected for one in found if one.place not in (one.belongs, UNDECIDED)]
        self.assertTrue(0.15 < sum(wrong) / len(wrong) < 0.45, sum(wrong) / len(wrong))
        self.assertEqual(found, predictions(mail, truth, correct=0.3, draw=random.Random(1).random))

    def test_how_much_the_reader_corrects_is_found_out(self) -> None:
        """Of readers of the same mail, one who corrects every mistake is told from one who corrects three in ten: in
        the mean of three mailboxes, and in none the wrong way round."""
        shares: dict[float, list[float]] = {1.0: [], 0.3: []}
        for seed in (3, 4, 5):
            rng = random.Random(seed)
            belongs = [rng.choice(BUCKETS) for _ in range(120)]
            mail, truth = [], {}
            for _ in range(500):
                who, facts = rng.randrange(len(belongs)), made_facts(rng)
                mail.append(Passing(replace(facts, sender=Correspondent(f"s{who}@firm{who % 30}.example"))))
                truth[facts.message_id] = belongs[who]
            for correct, found in shares.items():
                engine = Engine()
                predictions(mail, truth, correct=correct, draw=random.Random(1).random, learner=engine)
                found.append(engine.attention.share)
        every, some = statistics.mean(shares[1.0]), statistics.mean(shares[0.3])
        self.assertGreater(every, 0.8)
        self.assertLess(some, 0.6)
        self.assertGreater(some, 0.1)
        self.assertGreater(min(shares[1.0]), max(shares[0.3]))

    def test_a_given_learner_is_the_one_that_learns(self) -> None:
        """An engine handed in untaught takes the lessons itself."""
        engine = Engine()
        found = predictions(*stream(40), learner=engine)
        self.assertEqual(len(engine), sum(one.corrected for one in found))
        self.assertGreater(len(engine), 0)

    def test_an_own_bucket_is_learned_from_its_first_lesson(self) -> None:
        """A bucket that is not built in gets mail soon after its first lesson."""
        mail, truth = stream(150)
        own = {name: "travel" if belongs == "digest" else belongs for name, belongs in truth.items()}
        found = predictions(mail, own)
        self.assertTrue(any(one.place == one.belongs == "travel" for one in found))

    def test_own_mail_and_mail_without_truth_are_not_predicted(self) -> None:
        """The owner's own messages and unknown ones only count in the sums."""
        mail, truth = stream(10)
        mine = Passing(MessageFacts(message_id="<m@x.example>", sender=Correspondent(ME)))
        del truth[mail[3].facts.message_id]
        self.assertEqual(len(predictions([*mail, mine], {**truth, "<m@x.example>": DESK})), 9)


def told(place: str, belongs: str, score: float = 0.5) -> Predicted:
    return Predicted("", score, 0.0, place, belongs, place != belongs)


class FiguresTest(unittest.TestCase):
    def test_nothing_gives_zeros(self) -> None:
        """An empty run has figures all the same."""
        found = figures([])
        self.assertEqual((found.messages, found.regret, found.auc, found.curve), (0, 0.0, 0.0, []))

    def test_by_hand(self) -> None:
        """Eight predictions counted by hand: the first two are early, the other six make the figures."""
        run = [
            told("shelf", "desk"), told("shelf", "shelf"),
            told("desk", "desk", 0.9), told("desk", "shelf", 0.8), told("shelf", "desk", 0.3),
            told(UNDECIDED, "desk", 0.6), told("drain", "digest", 0.1), told("digest", "shelf", 0.2),
        ]  # fmt: skip
        found = figures(run)
        self.assertAlmostEqual(found.early_regret, 100 * 5 / 2)
        self.assertAlmostEqual(found.regret, 100 * (0 + 1 + 5 + 0.5 + 3 + 0.5) / 6)
        self.assertEqual((found.buried, found.noise, found.asked), (Share(1, 3), Share(1, 2), Share(1, 6)))
        self.assertEqual((found.corrections, found.wrong_low, found.drained_good), (Share(5, 6), 1, 1))
        self.assertAlmostEqual(found.auc, 7 / 9)
        self.assertEqual(found.recall["desk"], Share(1, 3))

    def test_a_perfectly_calibrated_run_has_no_error(self) -> None:
        """Scores that are the truth itself have neither calibration nor Brier error."""
        run = [told("desk", "desk", 1.0), told("shelf", "shelf", 0.0)] * 40
        found = figures(run)
        self.assertEqual((found.calibration_error, found.brier, found.auc), (0.0, 0.0, 1.0))

    def test_a_constant_score_is_a_constants_brier(self) -> None:
        """Scoring every message at the base rate is worth exactly a constant."""
        run = [told("desk", "desk", 0.25), *[told("shelf", "shelf", 0.25)] * 3] * 40
        self.assertAlmostEqual(figures(run).brier_share, 1.0, places=6)
        self.assertAlmostEqual(figures(run).auc, 0.5)

    def test_own_costs_price_the_run(self) -> None:
        """Regret is in the owner's costs."""
        run = [told("desk", "shelf")] * 8
        self.assertAlmostEqual(figures(run, Costs(noise=3.0)).regret, 300.0)


class ShareTest(unittest.TestCase):
    def test_a_share_lies_within_its_interval(self) -> None:
        """It narrows with what was counted, and nothing counted says nothing."""
        self.assertEqual(Share(0, 0).interval, (0.0, 1.0))
        few, many = Share(9, 10).interval, Share(90, 100).interval
        self.assertTrue(few[0] < many[0] < 0.9 < many[1] < few[1] < 1.0)
        self.assertAlmostEqual(Share(10, 10).interval[0], 0.7225, places=3)
        self.assertAlmostEqual(Share(0, 10).interval[1], 0.2775, places=3)
