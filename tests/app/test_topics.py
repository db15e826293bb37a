"""Topics in a mailbox: described, answered, found as mail arrives and among what is here, asked about, undone."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from unittest import mock

from hieranome.app import second_look, shaping_tags, tagging, viewing
from hieranome.app.rules.running import Runner
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.app.topics import answering
from hieranome.app.topics.finding import find_here
from hieranome.app.topics.learning import learned
from hieranome.app.topics.telling import DRAWN_FROM, OF_A_SHAPE, tell
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.gaussian import Rows
from hieranome.core.routing import MOST_ASKED, Asking
from hieranome.core.steps import StepKind
from hieranome.core.topics import DOUBT
from hieranome.store import journal, tags, topics
from tests.support import NOON, RoomCase, letter, offer

COUNTER = "The Counter <counter@consulate.example>"
SENTENCE = "whatever is about visas and permits for the tour"


def visa(number: int, at: int = 0) -> bytes:
    """A letter about a visa."""
    body = f"The visa of player {number} waits for a stamp. Please send the permit and the passport of the tour."
    return letter(f"File {number}: stamp", sender=COUNTER, body=body, at=at or NOON + number)


def notice(number: int) -> bytes:
    """A letter of the same sender about something else."""
    body = f"Our counter is closed on the {number}th. Parking is free behind the house."
    return letter(f"Opening hours {number}", sender=COUNTER, body=body, at=NOON + 100 + number)


class TopicCase(RoomCase):
    """A room with two kinds of mail from one sender, and offers."""

    def setUp(self) -> None:
        super().setUp()
        self.visas = [self.take(visa(n)) for n in range(12)]
        self.notices = [self.take(notice(n)) for n in range(8)]
        self.offers = [self.take(offer(n)) for n in range(12)]
        self.clock.now = NOON + 3_600

    def describe(self, said: str = SENTENCE, name: str = "Visas") -> topics.Kept:
        return answering.describe(self.room, said, name)

    def teach(self, bucket: str = "") -> topics.Kept:
        """Described, answered about and running."""
        kept = self.describe()
        answering.answer(self.room, kept.id, self.visas[:3], True)
        answering.answer(self.room, kept.id, [self.notices[0]], False)
        return answering.turn(self.room, kept.id, True, bucket)

    def carrying(self, kept: topics.Kept) -> set[int]:
        return set(tags.carrying(self.room.reader(), kept.tag))

    def rows(self) -> Rows:
        """Mail to be scored."""
        return Rows.stacked(self.room.vectors.of(self.room.reader(), [*self.visas, *self.notices]))


class DescribingTest(TopicCase):
    def test_the_first_page_holds_what_was_said_with_why(self) -> None:
        """Words of the mailbox that begin so are looked for, with what stands beside them; that tags nothing."""
        kept = self.describe()
        self.assertIn("visa", kept.weights)
        self.assertIn("permit", kept.weights)
        self.assertIn("stamp", kept.beside)
        told = tell(self.room, kept.id)
        self.assertEqual(len(told.asks), 3 * OF_A_SHAPE)
        self.assertTrue({one.message.id for one in told.asks[:2]} <= set(self.visas))
        self.assertEqual(told.asks[0].reasons[0].group, "said")
        self.assertIn("visa", told.asks[0].reasons[0].texts)
        self.assertEqual((self.carrying(kept), told.members), (set(), 0))

    def test_words_nobody_wrote_find_nothing_and_fail_at_nothing(self) -> None:
        for number, said in enumerate(("", "zzyzx qwert", '"*" ( ) NEAR/2 -- \x00', "ü" * 400)):
            kept = self.describe(said, f"Odd {number}")
            self.assertEqual(dict(kept.weights), {})
            self.assertEqual(len(tell(self.room, kept.id).asks), 3 * OF_A_SHAPE)

    def test_what_cannot_be_is_refused(self) -> None:
        with self.assertRaises(CallerError):
            self.describe("x" * 501)
        with self.assertRaises(CallerError):
            self.describe(name="")
        kept = self.describe()
        with self.assertRaises(Conflict):
            self.describe(name="visas")
        with self.assertRaises(NotFound):
            answering.describe(self.room, SENTENCE, tag=999)
        with self.assertRaisesRegex(Conflict, "words alone"):
            answering.turn(self.room, kept.id, True, "")
        with self.assertRaises(CallerError):
            answering.turn(self.room, kept.id, False, "attic")
        with self.assertRaises(Conflict):
            find_here(self.room, kept.id)
        self.assertEqual(len(topics.every(self.room.reader())), 1)

    def test_a_tag_that_is_there_learns_from_what_it_is_on(self) -> None:
        """Without a word: its messages are the answers, and taking it off one is an answer too."""
        tag = shaping_tags.make(self.room, "Counter")
        tagging.put_on(self.room, self.visas[:4], tag.id)
        kept = answering.describe(self.room, "", tag=tag.id)
        self.assertEqual(tell(self.room, kept.id).belongs, 4)
        tagging.put_on(self.room, [self.notices[0], self.visas[5]], tag.id)
        tagging.take_off(self.room, [self.notices[0]], tag.id)
        told = tell(self.room, kept.id)
        self.assertEqual((told.belongs, told.others), (5, 1))
        undo(self.room)
        self.assertEqual(tell(self.room, kept.id).belongs, 6)

    def test_said_anew_keeps_what_was_answered(self) -> None:
        kept = self.teach()
        again = answering.describe(self.room, "passports", tag=kept.tag)
        self.assertEqual(again.id, kept.id)
        self.assertIn("passport", again.weights)
        self.assertEqual(tell(self.room, kept.id).belongs, 3)


class AnsweringTest(TopicCase):
    def test_answers_tag_and_teach_and_are_undone_exactly(self) -> None:
        kept = self.describe()
        before = learned(self.room, kept.id).topic.score_all(self.rows())
        filed = answering.answer(self.room, kept.id, self.visas[:3], True)
        self.assertEqual(self.carrying(kept), set(self.visas[:3]))
        self.assertFalse((learned(self.room, kept.id).topic.score_all(self.rows()) == before).all())
        undo(self.room, filed.step)
        self.assertEqual(self.carrying(kept), set())
        self.assertTrue((learned(self.room, kept.id).topic.score_all(self.rows()) == before).all())

    def test_the_last_answer_counts(self) -> None:
        kept = self.describe()
        answering.answer(self.room, kept.id, [self.visas[0]], False)
        answering.answer(self.room, kept.id, [self.visas[0]], True)
        told = tell(self.room, kept.id)
        self.assertEqual((told.belongs, told.others), (1, 0))
        self.assertEqual(self.carrying(kept), {self.visas[0]})

    def test_precision_is_measured_on_what_was_drawn_by_lot(self) -> None:
        """Only answers about mail drawn from what it holds for its own count; from ten answers on some are drawn."""
        kept = self.describe()
        answering.answer(self.room, kept.id, self.visas[:6], True)
        answering.answer(self.room, kept.id, [*self.notices[:2], *self.offers[: DRAWN_FROM - 8]], False)
        told = tell(self.room, kept.id)
        self.assertEqual((told.right.part, told.right.whole), (0, 0))
        drawn = [one.message.id for one in told.asks if one.drawn]
        self.assertTrue(drawn and set(drawn) <= set(self.visas))
        answering.answer(self.room, kept.id, drawn[:1], True, drawn=True)
        told = tell(self.room, kept.id)
        self.assertEqual((told.right.part, told.right.whole, told.weeks[-1]), (1, 1, told.members))


class ArrivingTest(TopicCase):
    def test_its_mail_is_tagged_from_now_on(self) -> None:
        kept = self.teach()
        fresh, other = self.take(visa(50)), self.take(notice(50))
        self.assertIn(fresh, self.carrying(kept))
        self.assertNotIn(other, self.carrying(kept))
        self.assertEqual([one.name for one in viewing.open_message(self.room, fresh).topics], ["Visas"])
        answering.turn(self.room, kept.id, False, "")
        self.assertNotIn(self.take(visa(51)), self.carrying(kept))

    def test_a_counter_example_takes_effect_on_the_next_message(self) -> None:
        kept = self.teach()
        fair = "A visa and permit stamp fair on the tour. Passport games."
        first = self.take(letter("Visa fair", sender="Fair <fair@fair.example>", body=fair, at=NOON + 300))
        answering.answer(self.room, kept.id, [first], False)
        second = self.take(letter("Visa fair again", sender="Fair <fair@fair.example>", body=fair, at=NOON + 301))
        self.assertNotIn(second, self.carrying(kept))

    def test_it_is_put_in_its_bucket_unless_something_sure_is_known(self) -> None:
        self.teach("digest")
        fresh = self.take(visa(50))
        self.assertEqual((self.row(fresh).place, self.row(fresh).decided_by), ("digest", "topic"))
        vouching.vouch(self.room, "address", "counter@consulate.example")
        self.assertEqual(self.row(self.take(visa(51))).decided_by, "vouched")

    def test_the_doubtful_is_asked_within_the_bound_and_answered_there(self) -> None:
        """It stands in Your call because of the topic; yes tags it and lets it go; so does no, untagged; a verdict ends
        the question too."""
        kept = self.teach()
        asked = self.ask(kept, 4)
        self.assertEqual(set(topics.questions(self.room.reader())), set(asked))
        filed = answering.answer(self.room, kept.id, asked[:1], True)
        self.assertNotEqual(self.row(asked[0]).place, "undecided")
        self.assertIn(asked[0], self.carrying(kept))
        self.assertNotIn(asked[0], topics.questions(self.room.reader()))
        correct(self.room, asked[1:2], "shelf")
        self.assertNotIn(asked[1], topics.questions(self.room.reader()))
        undo(self.room, filed.step)
        self.assertEqual(topics.questions(self.room.reader())[asked[0]], kept.id)
        answering.rest(self.room, kept.id)
        self.assertEqual(topics.questions(self.room.reader()), {})
        self.assertEqual([one for one in asked if self.row(one).place == "undecided"], [])

    def test_a_question_whose_tag_is_gone_is_the_models(self) -> None:
        """It leaves as the model's own do, and stands in Your call without the topic until then."""
        kept = self.teach()
        self.room.costs = replace(self.room.costs, asking=1_000.0)
        second_look.release_learned(self.room)
        asked = self.ask(kept, 2)
        shaping_tags.delete(self.room, kept.tag, confirmed=True)
        self.assertEqual(topics.questions(self.room.reader()), {})
        self.assertEqual(second_look.release_learned(self.room), 2)
        self.assertNotIn("undecided", [self.row(number).place for number in asked])

    def test_vectors_written_anew_are_learned_from_anew(self) -> None:
        """What a topic learned is of the vectors as they are stored."""
        kept = self.teach()
        before = learned(self.room, kept.id).topic.score_all(self.rows())
        with self.room.change() as db:
            db.execute(
                "UPDATE vectors SET features = (SELECT features FROM vectors WHERE message = ?)", (self.offers[0],)
            )
            self.room.vectors.clear()
        after = learned(self.room, kept.id).topic.score_all(self.rows())
        self.assertFalse((before == after).all())

    def ask(self, kept: topics.Kept, count: int) -> list[int]:
        """Messages that stand in Your call because of a topic."""
        numbers = self.offers[:count]
        with self.room.store.atomic() as db:
            for number in numbers:
                db.execute("UPDATE messages SET place = 'undecided', decided_by = 'topic' WHERE id = ?", (number,))
                topics.note_found(db, kept.id, number, NOON, asked=True)
        return numbers

    def test_questions_it_answers_itself_by_now_leave(self) -> None:
        """In the journal, as a step of its own, when an answer made it sure of them."""
        kept = self.teach()
        asked = self.ask(kept, 3)
        score = learned(self.room, kept.id).topic.score(self.room.vectors.of(self.room.reader(), asked[:1])[0])
        self.assertLess(score, -DOUBT)
        answering.answer(self.room, kept.id, [self.visas[7]], True)
        steps = journal.recent(self.room.reader(), 0, 5)
        self.assertIn((StepKind.LEARNED, 3), [(one.kind, one.messages) for one in steps])
        self.assertEqual(topics.questions(self.room.reader()), {})

    def test_what_arrives_may_be_asked(self) -> None:
        """A message within the doubt stands in Your call by the topic, while the bound allows it."""
        kept = self.teach()
        self.room.asking = Asking()
        placed = []
        for number in range(40):
            body = f"The visa of player {number} waits. " + "Our counter is closed. Parking is free. " * (number % 5)
            taken = self.take(letter(f"Note {number}", sender=COUNTER, body=body, at=NOON + 500 + number))
            placed.append(self.row(taken))
        by_topic = [one.id for one in placed if one.decided_by == "topic"]
        self.assertEqual(set(by_topic), set(topics.questions(self.room.reader())))
        self.assertEqual(len(by_topic), MOST_ASKED)
        self.assertEqual([one for one in by_topic if one in self.carrying(kept)], [])


class FindingTest(TopicCase):
    def test_found_among_all_that_is_here_and_undone_as_one(self) -> None:
        kept = self.teach()
        before = self.state()
        step = find_here(self.room, kept.id)
        self.assertEqual(self.carrying(kept), set(self.visas))
        self.assertEqual(self.state(), before)
        undo(self.room, step)
        self.assertEqual(self.carrying(kept), set(self.visas[:3]))
        find_here(self.room, kept.id)
        self.assertEqual(find_here(self.room, kept.id), 0)

    def test_what_is_answered_meanwhile_counts(self) -> None:
        """A no given while it looks through what is here is heeded."""
        kept = self.teach()
        publish = self.room.events.publish

        def no(kind: str, **data: Any) -> None:
            if kind == "running":
                answering.answer(self.room, kept.id, [self.visas[8]], False)
            publish(kind, **data)

        with mock.patch.object(self.room.events, "publish", no):
            find_here(self.room, kept.id)
        self.assertEqual(self.carrying(kept), set(self.visas) - {self.visas[8]})

    def test_the_bucket_takes_what_the_model_had_put_elsewhere_alone(self) -> None:
        correct(self.room, [self.visas[9]], "shelf")
        kept = self.teach("digest")
        find_here(self.room, kept.id)
        self.assertEqual(self.row(self.visas[9]).place, "shelf")
        self.assertEqual(self.row(self.visas[8]).place, "digest")

    def test_from_the_worker_with_progress(self) -> None:
        kept = self.teach()
        runner, before = Runner(self.room), self.room.events.latest
        self.addCleanup(runner.close)
        runner.find(kept.id)
        with self.assertRaises(Conflict):
            runner.find(kept.id)
        runner.start()
        runner.worker.wake()
        for _ in range(200):
            told = [one for one in self.room.events.since(before) or [] if one.kind == "running"]
            if self.carrying(kept) == set(self.visas) and told:
                break
            runner.worker.ended.wait(0.05)
        self.assertEqual(self.carrying(kept), set(self.visas))

    def test_kept_through_a_restart_and_gone_with_its_tag(self) -> None:
        kept = self.teach()
        self.reopen()
        self.assertIn(self.take(visa(50)), self.carrying(kept))
        shaping_tags.delete(self.room, kept.tag, confirmed=True)
        self.assertEqual(topics.every(self.room.reader()), [])
        self.take(visa(51))
        undo(self.room)
        self.assertIn(self.take(visa(52)), self.carrying(kept))
