"""What is told of rules: previews, proposals, conflicts, and all of it in an export."""

from __future__ import annotations

from hieranome.app import searching
from hieranome.app.exporting import export, restore
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping, previewing, proposing, running
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.sure import Reach
from hieranome.store import tags
from tests.app.rules.case import MailCase, rule
from tests.support import NOON, letter


class TellingTest(MailCase):
    """What is told of a rule before it is kept, and of those that are."""

    def test_a_preview_tells_what_it_would_take(self) -> None:
        """How many, what stands there already and by whom, what was answered, what the model sees otherwise."""
        correct(self.room, self.numbers[6:7], "desk", Reach.MESSAGE)
        with self.room.change() as db:
            db.execute("UPDATE messages SET answered = 1 WHERE id = ?", (self.numbers[7],))
        self.clock.now = NOON + 2000
        one = rule("subject:rider", ("bucket", "digest"))
        told = previewing.preview(self.room, one)
        self.assertEqual((told.total, told.exact, told.against, told.answered), (3, True, 1, 1))
        self.assertEqual([row.id for row in told.newest], self.numbers[8:5:-1])
        self.assertEqual([row.id for row in told.answers], [self.numbers[7]])
        self.assertRegex(told.sentence, "rider")
        quick = previewing.preview(self.room, one, quick=True)
        self.assertEqual((quick.total, quick.newest), (3, told.newest))

    def test_a_rule_is_proposed_of_mail(self) -> None:
        """Its sender and the words that recur, never the whole subject; of several what they have in common."""
        told = proposing.propose(self.room, self.numbers[:1])
        self.assertEqual(told.line, "from:brandel@salthall.example subject:carnet")
        self.assertEqual(searching.matching(self.room, told.line, 99), self.numbers[5::-1])
        listed = self.take(letter("Bulletin 4", List_Id="News <news.union.example>"))
        self.assertEqual(proposing.propose(self.room, [listed]).line, "list:news.union.example")
        both = proposing.propose(self.room, [self.numbers[0], self.numbers[6]])
        self.assertEqual(both.line, "from:brandel@salthall.example")

    def test_a_verdict_against_a_rule_is_told(self) -> None:
        """The verdict wins for its message, and the rule it was given against is named."""
        number = self.keep("subject:permit", ("bucket", "digest"))
        one = self.take(letter("Permit 7"))
        self.assertEqual(correct(self.room, [one], "desk", Reach.MESSAGE).rule, number)
        (found,) = proposing.conflicts(self.room)
        self.assertEqual((found.rule, found.against, found.count, found.message), (number, "verdict", 1, one))
        undo(self.room)
        self.assertEqual(proposing.conflicts(self.room), [])

    def test_rules_are_part_of_an_export(self) -> None:
        """Out and in again: the rules, what they took, steps that can be undone."""
        number = self.keep("subject:carnet", ("tag", str(self.tag)))
        step = running.run_here(self.room, number)
        kept = keeping.get(self.room, number)
        export(self.room, self.folder / "all.zip")
        other = Mailroom(self.folder / "other", self.clock)
        self.addCleanup(other.close)
        restore(other, self.folder / "all.zip")
        self.assertEqual(keeping.get(other, number), kept)
        undo(other, step)
        self.assertEqual(tags.carrying(other.reader(), self.tag), [])
