"""What the owner did, a rule or a routine did not: only the owner's reading counts as a habit."""

from __future__ import annotations

from hieranome.app.room.marks import mark, mark_opened, set_marks
from hieranome.app.routines import keeping as routines_kept
from hieranome.app.routines import running as routines_run
from hieranome.app.rules import running
from hieranome.app.teaching.undoing import undo
from hieranome.core.actors import HABITS, Actor
from hieranome.core.features import extract
from hieranome.core.relations import Sums
from hieranome.core.routines import Action, Routine
from hieranome.mail.reading import read
from hieranome.store import journal
from tests.app.rules.case import MailCase
from tests.support import NOON, letter


class ActorsTest(MailCase):
    def sums(self) -> Sums:
        """What is counted of the sender of all this mail."""
        return self.room.relations.of("address:brandel@salthall.example")

    def setUp(self) -> None:
        super().setUp()
        self.before = self.sums().read

    def judged(self) -> float:
        """How important the next letter of that sender would be, in log-odds."""
        vector = extract(read(letter("Rider, once more", at=NOON + 5000)).facts, self.room.context(False))
        return self.room.engine.judge(vector).log_odds

    def take_one_more(self) -> int:
        return self.take(letter("Rider, once more", at=NOON + 5000))

    def test_a_rule_run_on_what_is_here_reads_nothing(self) -> None:
        """Marked read by a rule, no sum counts it, and the next letter is judged as before; unread again by the owner,
        nothing is taken from the sums; undone, all is as it was."""
        score, sums = self.judged(), self.sums()
        step = running.run_here(self.room, self.keep("subject:carnet", ("read", "")))
        self.assertTrue(all(self.row(n).seen for n in self.numbers[:6]))
        self.assertEqual(journal.actor_of(self.room.reader(), step), Actor.RULE)
        self.assertEqual(self.sums(), sums)
        self.assertEqual(self.judged(), score)
        unread = mark(self.room, self.numbers[:1], "unread").step
        self.assertEqual(self.sums(), sums)
        undo(self.room, unread)
        undo(self.room, step)
        self.assertEqual(self.sums(), sums)

    def test_a_rule_on_arriving_mail_reads_nothing(self) -> None:
        """Marked read as it arrives, and unread by the owner then: never counted, never taken away."""
        self.keep("subject:rider", ("read", ""))
        number = self.take_one_more()
        self.assertTrue(self.row(number).seen)
        self.assertEqual(self.sums().read, self.before)
        mark(self.room, [number], "unread")
        self.assertEqual(self.sums().read, self.before)
        mark_opened(self.room, number)
        self.assertEqual(self.sums().read, self.before + 1)

    def test_a_routine_reads_nothing(self) -> None:
        """Marked read by a routine, no sum counts it."""
        kept = routines_kept.keep(self.room, Routine(0, "Seen", "", (Action("read"),))).routine
        done = routines_run.run(self.room, kept.id, self.numbers[:3])
        self.assertEqual(journal.actor_of(self.room.reader(), done.step), Actor.ROUTINE)
        self.assertTrue(self.row(self.numbers[0]).seen)
        self.assertEqual(self.sums().read, self.before)

    def test_the_owner_s_reading_counts_wherever_it_is_done(self) -> None:
        """Here by opening or marking, or in another program; taken back, it is counted back."""
        mark_opened(self.room, self.numbers[0])
        step = mark(self.room, [self.numbers[1]], "read").step
        with self.room.change() as db:
            set_marks(self.room, db, [self.numbers[2]], "seen", True, Actor.ELSEWHERE)
        self.assertEqual(self.sums().read, self.before + 3)
        undo(self.room, step)
        self.assertEqual(self.sums().read, self.before + 2)

    def test_every_actor_is_one_whose_doings_count_or_do_not(self) -> None:
        """Marked read by each: counted where it is a habit, else not."""
        for number, actor in zip(self.numbers, Actor, strict=False):
            before = self.sums().read
            with self.room.change() as db:
                set_marks(self.room, db, [number], "seen", True, actor)
            self.assertEqual(self.sums().read - before, int(actor in HABITS), actor)
