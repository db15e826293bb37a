"""Lessons: they move, they teach, they reach, they are undone."""

import random

from hieranome.app.room.mailroom import UNDO_AT_ONCE
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.teaching import correct, vouching
from hieranome.app.teaching.correct import pull
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.sure import Reach
from hieranome.store import journal, lessons, messages
from tests.support import NOON, RoomCase, letter, offer


def teach(room, numbers, belongs, reach=Reach.LEARN):  # type: ignore[no-untyped-def]
    return correct.correct(room, numbers, belongs, reach)


class VerdictTest(RoomCase):
    def test_lesson_move_and_journal_line_stand_together(self) -> None:
        """One verdict writes all three."""
        number = self.take(letter())
        stood = self.row(number).place
        outcome = teach(self.room, [number], "shelf")
        db = self.room.reader()
        (lesson,) = lessons.ledger(db, 0, 10)
        self.assertEqual((lesson.message, lesson.stood, lesson.belongs), (number, stood, "shelf"))
        self.assertEqual([(m.origin, m.target) for m in journal.moves(db, outcome.step)], [(stood, "shelf")])
        self.assertEqual((self.row(number).place, self.row(number).decided_by), ("shelf", "verdict"))

    def test_the_next_like_message_goes_where_taught(self) -> None:
        """One lesson about a sender never corrected suffices for the next message of that kind."""
        first = self.take(offer(1))
        for belongs in ("drain", "desk"):
            teach(self.room, [first], belongs)
            following = self.take(offer(2 if belongs == "drain" else 3))
            self.assertEqual(self.row(following).place, belongs)

    def test_many_messages_are_one_step(self) -> None:
        """A verdict on several is several lessons and one line to undo."""
        numbers = [self.take(offer(n)) for n in range(5)]
        before = self.state()
        outcome = teach(self.room, numbers, "drain")
        self.assertEqual(len(outcome.lessons), 5)
        undo(self.room)
        self.assertEqual(self.state(), before)

    def test_refused_verdicts_change_nothing(self) -> None:
        """An unknown bucket, message or an impossible reach is refused, and all is as before."""
        number = self.take(letter())
        own = self.take_sent(letter("mine", sender="maren@quillmark.example", to="x@y.example"))
        before, steps = self.state(), journal.recent(self.room.reader(), 0, 10)
        for numbers, belongs, reach, kind in (
            ([number], "attic", Reach.LEARN, CallerError),
            ([number], "undecided", Reach.LEARN, CallerError),
            ([number, 999], "shelf", Reach.LEARN, NotFound),
            ([number], "shelf", Reach.LIST, CallerError),
            ([own], "shelf", Reach.LEARN, CallerError),
            ([], "shelf", Reach.LEARN, CallerError),
        ):
            with self.assertRaises(kind):
                teach(self.room, numbers, belongs, reach)
        self.assertEqual(self.state(), before)
        self.assertEqual(journal.recent(self.room.reader(), 0, 10), steps)
        self.assertEqual(len(self.room.engine), 0)

    def test_standing_scores_follow_the_lesson(self) -> None:
        """Rows of like messages carry the numbers of the model after the lesson."""
        first, second = self.take(offer(1)), self.take(offer(2))
        before = self.row(second).score
        teach(self.room, [first], "desk")
        judged = self.room.engine.judge(messages.vectors(self.room.reader(), [second])[second])
        self.assertAlmostEqual(self.row(second).score, judged.importance, delta=1e-3)
        self.assertGreater(self.row(second).score, before)

    def test_a_failure_midway_leaves_no_trace(self) -> None:
        """When writing fails after the lesson was learned, store and model are as before."""
        number = self.take(letter())
        before, probe = self.state(), messages.vectors(self.room.reader(), [number])[number]
        score = self.room.engine.judge(probe).log_odds
        with self.room.store.atomic() as db:
            pages = db.execute("PRAGMA page_count").fetchone()[0]
            db.execute(f"PRAGMA max_page_count = {pages}")
            db.execute("CREATE TEMP TABLE filler (x)")
        taken = 0
        try:
            for _ in range(400):
                teach(self.room, [number], "shelf" if taken % 2 else "digest")
                taken += 1
                before, score = self.state(), self.room.engine.judge(probe).log_odds
        except Exception as exc:
            self.assertIn("full", str(exc))
        self.assertLess(taken, 400)
        self.assertEqual(self.state(), before)
        self.assertAlmostEqual(self.room.engine.judge(probe).log_odds, score, delta=1e-12)


class ReachTest(RoomCase):
    def test_this_message_only_teaches_nothing(self) -> None:
        """The message moves; the model stays."""
        first = self.take(offer(1))
        teach(self.room, [first], "desk", Reach.MESSAGE)
        self.assertEqual(len(self.room.engine), 0)
        self.assertNotEqual(self.row(self.take(offer(2))).place, "desk")

    def test_a_thread_is_decided_from_now_on(self) -> None:
        """Later messages of the thread follow, others do not."""
        first = self.take(letter("Parrot", message_id="<p@x.example>"))
        teach(self.room, [first], "drain", Reach.THREAD)
        later = self.take(letter("Re: Parrot", sender="z@other.example", In_Reply_To="<p@x.example>"))
        self.assertEqual((self.row(later).place, self.row(later).decided_by), ("drain", "thread"))

    def test_always_beats_the_model_and_specific_beats_general(self) -> None:
        """An address lesson holds against a domain lesson, whatever the content."""
        first = self.take(offer(1))
        teach(self.room, [first], "drain", Reach.DOMAIN)
        colleague = self.take(letter(sender="vet@birchbow.example", body="urgent question?"))
        self.assertEqual((self.row(colleague).place, self.row(colleague).decided_by), ("drain", "domain"))
        teach(self.room, [colleague], "desk", Reach.ADDRESS)
        again = self.take(letter("again", sender="vet@birchbow.example", body="offer offer"))
        self.assertEqual((self.row(again).place, self.row(again).decided_by), ("desk", "address"))

    def test_undoing_an_always_lesson_frees_the_sender(self) -> None:
        """After undo the model decides again."""
        first = self.take(offer(1))
        teach(self.room, [first], "desk", Reach.LIST)
        self.assertEqual(self.row(self.take(offer(2))).decided_by, "list")
        undo(self.room)
        self.assertEqual(self.row(self.take(offer(3))).decided_by, "model")


class KinTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(n)) for n in range(6)]
        self.letters = [self.take(letter(f"Stage {n}", sender=f"w{n}@house{n}.example")) for n in range(6)]

    def test_kin_are_shown_and_move_only_when_asked(self) -> None:
        """Like messages are proposed; nothing but the corrected one moves by itself."""
        stood = self.row(self.offers[1]).place
        outcome = teach(self.room, [self.offers[0]], "desk")
        kin = {one.message.id for one in outcome.kin}
        self.assertLessEqual(set(self.offers[1:]), kin)
        self.assertEqual(self.row(self.offers[1]).place, stood)
        step = pull(self.room, outcome.step, sorted(kin))
        self.assertEqual(self.row(self.offers[1]).place, "desk")
        self.assertEqual(self.row(self.offers[1]).decided_by, "kin")
        self.assertEqual(len(lessons.ledger(self.room.reader(), 0, 10)), 1)
        undo(self.room, step)
        self.assertEqual(self.row(self.offers[1]).place, stood)

    def test_letters_of_others_are_left_alone(self) -> None:
        """A lesson about one sender proposes no strangers."""
        outcome = teach(self.room, [self.offers[0]], "drain")
        self.assertFalse({one.message.id for one in outcome.kin} & set(self.letters))

    def test_what_the_owner_placed_is_no_kin(self) -> None:
        """A message with a verdict of its own is not proposed."""
        teach(self.room, [self.offers[5]], "shelf", Reach.MESSAGE)
        outcome = teach(self.room, [self.offers[0]], "desk")
        self.assertNotIn(self.offers[5], {one.message.id for one in outcome.kin})

    def test_kin_of_an_undone_lesson_do_not_follow(self) -> None:
        """Undone is undone."""
        outcome = teach(self.room, [self.offers[0]], "desk")
        undo(self.room)
        with self.assertRaises(CallerError):
            pull(self.room, outcome.step, self.offers[1:])

    def test_always_lessons_propose_what_they_bind(self) -> None:
        """Standing mail of the sender comes first, for sure."""
        outcome = teach(self.room, [self.offers[0]], "desk", Reach.ADDRESS)
        self.assertTrue(all(one.sureness == 1.0 for one in outcome.kin[:5]))

    def test_kin_follow_unasked_where_the_owner_said_so(self) -> None:
        """With the setting, kin move in a step of their own, which can be undone alone."""
        vouching.set_kin_follow(self.room, True)
        stood = self.row(self.offers[1]).place
        outcome = teach(self.room, [self.offers[0]], "desk")
        self.assertEqual((self.row(self.offers[1]).place, self.row(self.offers[1]).decided_by), ("desk", "kin"))
        undo(self.room, outcome.followed)
        self.assertEqual(self.row(self.offers[1]).place, stood)
        self.assertEqual(self.row(self.offers[0]).place, "desk")


class LedgerTest(RoomCase):
    def test_a_lesson_keeps_what_it_changed(self) -> None:
        """The ledger has the importance before and after, and how many kin there were."""
        numbers = [self.take(offer(n)) for n in range(4)]
        outcome = teach(self.room, [numbers[0]], "desk")
        (record,) = lessons.ledger(self.room.reader(), 0, 10)
        (effect,) = outcome.effects
        self.assertAlmostEqual(record.before, effect.before)
        self.assertAlmostEqual(record.after, effect.after)
        self.assertGreater(record.after, record.before)
        self.assertEqual(record.kin, outcome.kin_total)

    def test_contradictions_are_noticed(self) -> None:
        """Earlier lessons about like mail that say otherwise are told with their count; agreeing ones are not."""
        numbers = [self.take(offer(n)) for n in range(5)]
        for number in numbers[:3]:
            self.assertEqual(teach(self.room, [number], "desk").contrary, [])
        (contrary,) = teach(self.room, [numbers[3]], "drain").contrary
        self.assertEqual((contrary.belongs, contrary.count), ("desk", 3))
        self.assertLessEqual(contrary.latest, self.clock.now)
        self.assertEqual(teach(self.room, [self.take(letter("Else"))], "shelf").contrary, [])

    def test_what_was_undone_contradicts_nothing(self) -> None:
        """A lesson taken back is not held against the owner."""
        numbers = [self.take(offer(n)) for n in range(2)]
        teach(self.room, [numbers[0]], "desk")
        undo(self.room)
        self.assertEqual(teach(self.room, [numbers[1]], "drain").contrary, [])


class UndoTest(RoomCase):
    def test_undo_gives_back_message_and_model(self) -> None:
        """After undo every row and every number is as it was."""
        numbers = [self.take(offer(n)) for n in range(4)] + [self.take(letter(f"L{n}")) for n in range(4)]
        before = self.state()
        teach(self.room, [numbers[0]], "desk")
        undo(self.room)
        after = self.state()
        for number, (place, by, score) in before.items():
            self.assertEqual(after[number][:2], (place, by))
            self.assertAlmostEqual(after[number][2], score, delta=2e-3)

    def test_random_undo_equals_never_having_taught(self) -> None:
        """Undone in any order, the model equals one rebuilt from the lessons that stand."""
        rng = random.Random(5)
        numbers = [self.take(offer(n)) for n in range(10)]
        steps = [
            teach(self.room, [rng.choice(numbers)], rng.choice(["desk", "shelf", "drain"])).step for _ in range(30)
        ]
        for step in rng.sample(steps, 12):
            undo(self.room, step)
        probes = [messages.vectors(self.room.reader(), [n])[n] for n in numbers]
        running = [j.log_odds for j in self.room.engine.judge_all(probes)]
        self.room.load()
        for a, b in zip(running, (j.log_odds for j in self.room.engine.judge_all(probes)), strict=True):
            self.assertAlmostEqual(a, b, delta=1e-9)

    def test_lessons_survive_a_restart(self) -> None:
        """The model after a restart is the model before it."""
        numbers = [self.take(offer(n)) for n in range(3)]
        teach(self.room, [numbers[0]], "desk")
        probe = messages.vectors(self.room.reader(), [numbers[1]])[numbers[1]]
        before = self.room.engine.judge(probe)
        self.reopen()
        self.assertEqual(self.room.engine.judge(probe), before)

    def test_nothing_to_undo_and_undone_twice(self) -> None:
        """Both are said, not swallowed."""
        with self.assertRaisesRegex(Exception, "nothing to undo"):
            undo(self.room)
        step = teach(self.room, [self.take(letter())], "shelf").step
        undo(self.room, step)
        with self.assertRaisesRegex(CallerError, "undone already"):
            undo(self.room, step)

    def test_a_message_moved_since_stays(self) -> None:
        """Undo does not drag back what a later step put elsewhere."""
        number = self.take(letter())
        first = teach(self.room, [number], "shelf").step
        teach(self.room, [number], "digest")
        undo(self.room, first)
        self.assertEqual(self.row(number).place, "digest")


class BehindTest(RoomCase):
    def test_all_mail_is_rescored_in_the_end(self) -> None:
        """Scores of mail no lesson rescored at once follow in the background."""
        numbers = [self.take(offer(n)) for n in range(5)]
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'archive'")
        chosen = self.take(letter("kept", at=NOON + 100))
        teach(self.room, [chosen], "drain")
        rescorer = Rescorer(self.room)
        rescorer._revision = self.room.revision
        self.assertTrue(rescorer.pass_over())
        for number in numbers:
            judged = self.room.engine.judge(messages.vectors(self.room.reader(), [number])[number])
            self.assertAlmostEqual(self.row(number).score, judged.importance, delta=1e-3)

    def test_an_old_lesson_is_taken_out_behind(self) -> None:
        """With many lessons after it the journal and the mail change at once, the model later, and exactly."""
        numbers = [self.take(offer(n)) for n in range(6)]
        first = teach(self.room, [numbers[0]], "desk").step
        for count in range(UNDO_AT_ONCE + 1):
            teach(self.room, [numbers[1 + count % 5]], ("shelf", "drain", "digest")[count % 3])
        stood = len(self.room.engine)
        undo(self.room, first)
        self.assertTrue(self.room.behind)
        self.assertEqual(len(self.room.engine), stood)
        meanwhile = teach(self.room, [numbers[5]], "digest").lessons
        self.assertTrue(Rebuilder(self.room).rebuild())
        self.assertFalse(self.room.behind)
        self.assertEqual(len(self.room.engine), stood)
        self.assertEqual(self.room.engine.lesson_ids[-1:], meanwhile)
        probes = [messages.vectors(self.room.reader(), [n])[n] for n in numbers]
        rebuilt = [j.log_odds for j in self.room.engine.judge_all(probes)]
        self.room.load()
        for a, b in zip(rebuilt, (j.log_odds for j in self.room.engine.judge_all(probes)), strict=True):
            self.assertAlmostEqual(a, b, delta=1e-9)

    def test_a_restart_while_behind_forgets_it_too(self) -> None:
        """A model that still held an undone lesson is built without it by the next start."""
        numbers = [self.take(offer(n)) for n in range(2)]
        first = teach(self.room, [numbers[0]], "desk").step
        for count in range(UNDO_AT_ONCE + 1):
            teach(self.room, [numbers[1]], ("shelf", "drain")[count % 2])
        undo(self.room, first)
        self.reopen()
        self.assertFalse(self.room.behind)
        self.assertEqual(len(self.room.engine), UNDO_AT_ONCE + 1)
