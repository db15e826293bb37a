"""A second look: what stands elsewhere than the model would put it is offered and never moved unasked."""

from __future__ import annotations

from hieranome.app import second_look
from hieranome.app.filing import file_away
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.second_look import SecondLook
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import Conflict
from hieranome.core.steps import StepKind
from hieranome.store import journal
from tests.patience import await_
from tests.support import NOON, RoomCase, letter


class SecondLookTest(RoomCase):
    """A Shelf with mail of one sender, of whom a letter more was taught."""

    def setUp(self) -> None:
        super().setUp()
        sender = "Ilse Vann <ilse@hall.example>"
        self.numbers = [self.take(letter(f"Stage plan {n}", sender=sender, body="So.", at=NOON + n)) for n in range(12)]
        self.put("shelf")
        self.clock.now = NOON + 100
        self.given = 0

    def teach(self, bucket: str, sender: str = "Ilse Vann <ilse@hall.example>") -> None:
        """Give a lesson about one letter more of a sender, which goes away then."""
        self.given += 1
        one = self.take(letter(f"Plan {self.given} for the {bucket}", sender=sender, body="So.", at=NOON + 80))
        correct(self.room, [one], bucket, stay=True)
        file_away(self.room, [one], "archive")

    def take_away(self) -> None:
        """Correct a letter of somebody else away from the Desk."""
        one = self.take(letter("Offer", sender="shop@else.example", body="Buy.", at=NOON + 70))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk' WHERE id = ?", (one,))
        correct(self.room, [one], "shelf")
        file_away(self.room, [one], "archive")

    def put(self, place: str, by: str = "model") -> None:
        """Let all of it stand in a place."""
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = ?, decided_by = ? WHERE place <> 'archive'", (place, by))

    def score(self, score: float, low: float, high: float) -> None:
        """Let all of it have these numbers."""
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET score = ?, low_edge = ?, high_edge = ?", (score, low, high))

    def offered(self) -> dict[tuple[str, str], list[int]]:
        """What is offered of one sender, by where it stands and where it looks like belonging."""
        return {(one.place, one.target): sorted(m.id for m in one.messages) for one in second_look.offers(self.room)}

    def test_only_mail_of_senders_something_was_taught_of_is_offered(self) -> None:
        """Without a lesson about its sender nothing is, nor where one speaks against it; a line for each sender says
        how many lessons speak for it."""
        other = [self.take(letter(f"Other {n}", sender="o@else.example", at=NOON + 40 + n)) for n in range(2)]
        self.put("shelf")
        self.score(0.9, 0.7, 0.97)
        self.assertEqual(self.offered(), {})
        self.teach("desk")
        self.teach("desk", "o@else.example")
        self.teach("desk", "o@else.example")
        self.score(0.9, 0.7, 0.97)
        self.assertEqual(self.offered(), {}, "the owner takes nothing away from the Desk")
        self.take_away()
        self.score(0.9, 0.7, 0.97)
        lines = [(one.lessons, sorted(m.id for m in one.messages)) for one in second_look.offers(self.room)]
        self.assertEqual(lines, [(2, other), (1, self.numbers)])
        self.teach("digest", "o@else.example")
        self.score(0.9, 0.7, 0.97)
        self.assertEqual([one.lessons for one in second_look.offers(self.room)], [1])

    def test_what_is_surely_elsewhere_is_offered_and_moved_on_a_word(self) -> None:
        """Its whole band above the bound: offered; moved as one step; undone as one; nothing moves by itself."""
        self.teach("desk")
        self.take_away()
        self.score(0.5, 0.02, 0.97)
        self.assertEqual(self.offered(), {})
        self.score(0.9, 0.7, 0.97)
        before = self.state()
        self.assertEqual(self.offered(), {("shelf", "desk"): self.numbers})
        self.assertEqual(self.state(), before)
        step = second_look.accept(self.room, self.numbers[:3])
        self.assertEqual([self.row(n).place for n in self.numbers[:4]], ["desk", "desk", "desk", "shelf"])
        self.assertEqual((step.kind, step.messages), (second_look.SECOND_LOOK, 3))
        undo(self.room, step.id)
        self.assertEqual(self.state(), before)

    def test_doubt_decisions_age_and_marks_keep_mail_where_it_stands(self) -> None:
        """A band that reaches over the bound, what was decided on, filed, answered or flagged, old mail: none of it."""
        self.teach("desk")
        self.take_away()
        self.score(0.9, 0.02, 0.97)
        self.assertEqual(self.offered(), {})
        self.score(0.9, 0.7, 0.97)
        for by in ("verdict", "filed", "history", "rule", "address"):
            self.put("shelf", by)
            self.assertEqual(self.offered(), {}, by)
        self.put("shelf")
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET answered = 1 WHERE id = ?", (self.numbers[0],))
            db.execute("UPDATE messages SET flagged = 1 WHERE id = ?", (self.numbers[1],))
        self.assertEqual(self.offered(), {("shelf", "desk"): self.numbers[2:]})
        self.clock.now = NOON + 40 * 86_400
        self.assertEqual(self.offered(), {})

    def test_mail_on_the_desk_that_looks_low_goes_where_it_looks_like(self) -> None:
        """Surely unimportant: offered for its likely bucket."""
        self.teach("shelf")
        self.put("desk")
        self.score(0.001, 0.0005, 0.002)
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET likely = iif(id = ?, 'digest', 'shelf')", (self.numbers[0],))
        self.assertEqual(self.offered(), {("desk", "digest"): self.numbers[:1], ("desk", "shelf"): self.numbers[1:]})
        second_look.accept(self.room, self.numbers)
        self.assertEqual(self.row(self.numbers[0]).place, "digest")
        self.assertEqual(self.row(self.numbers[1]).place, "shelf")

    def test_what_is_left_is_not_offered_again(self) -> None:
        """Left standing for good; what is not offered cannot be moved, and then nothing is."""
        self.teach("desk")
        self.take_away()
        self.score(0.9, 0.7, 0.97)
        second_look.leave(self.room, self.numbers[:5])
        self.assertEqual(self.offered(), {("shelf", "desk"): self.numbers[5:]})
        before = self.state()
        with self.assertRaises(Conflict):
            second_look.accept(self.room, self.numbers[4:6])
        self.assertEqual(self.state(), before)

    def test_questions_leave_once_their_answer_is_learned(self) -> None:
        """Asked about one sender's mail, and answered: the others go where they belong, told in the journal, undoable;
        what is still doubtful stays."""
        doubtful = self.take(letter("Anything", sender="new@else.example", at=NOON + 50))
        self.put("undecided")
        for number in self.numbers[:4]:
            correct(self.room, [number], "shelf")
        left = second_look.release_learned(self.room)
        self.assertEqual(left, 8)
        self.assertEqual({self.row(n).place for n in self.numbers}, {"shelf"})
        step = journal.recent(self.room.reader(), 0, 1)[0]
        self.assertEqual((step.kind, step.messages), (StepKind.LEARNED, 8))
        self.assertIn("learned meanwhile", step.title)
        self.assertNotEqual(journal.latest_standing(self.room.reader()).id, step.id, "undo is for what the owner did")
        self.assertEqual(second_look.release_learned(self.room), 0)
        self.assertEqual(self.row(doubtful).place, "undecided")
        undo(self.room, step.id)
        self.assertEqual(self.row(self.numbers[-1]).place, "undecided")
        self.assertEqual(second_look.release_learned(self.room), 0, "what the owner took back stays asked")

    def test_it_happens_by_itself_a_while_after_a_lesson(self) -> None:
        """The worker lets learned questions go without anybody asking."""
        self.put("undecided")
        worker = SecondLook(self.room)
        worker.start()
        self.addCleanup(worker.close)
        for number in self.numbers[:4]:
            correct(self.room, [number], "shelf")
        await_("the question to leave", lambda: self.row(self.numbers[-1]).place == "shelf")
        self.assertTrue(Rescorer(self.room).pass_over())
