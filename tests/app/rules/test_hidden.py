"""What a rule hides of what looks like the Desk is told: while the rule is written, and afterwards."""

from __future__ import annotations

from hieranome.app.room.marks import mark
from hieranome.app.rules import previewing
from hieranome.app.second_look import leave
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.times import DAY
from tests.app.rules.case import RulesCase, rule
from tests.support import NOON, letter, offer

MATTERS = "Show CANCELLED: can you confirm by noon?"


class HiddenTest(RulesCase):
    def setUp(self) -> None:
        super().setUp()
        for n in range(6):
            correct(self.room, [self.take(letter(f"Show {n} CANCELLED", at=NOON + n))], "desk")
        self.assertGreater(self.row(self.take(letter(MATTERS, at=NOON + 10))).score, 0.3)

    def hidden(self) -> list[tuple[str, str]]:
        return [(one.rule.name, one.message.subject) for one in previewing.hidden(self.room)]

    def test_wherever_a_rule_puts_it(self) -> None:
        """In Archive, Trash, a folder, a low bucket, or marked read where it stands: each is told, with the rule."""
        for number, action in enumerate(
            (("archive", ""), ("trash", ""), ("folder", self.folder_name), ("bucket", "digest"))
        ):
            kept = self.keep(f"subject:case{number}", action, name=f"Rule {number}")
            subject = f"{MATTERS} case{number}"
            found = self.take(letter(subject, at=NOON + 100 + number))
            with self.subTest(action):
                self.assertEqual(self.hidden()[0], (f"Rule {number}", subject))
                told = previewing.preview(self.room, rule(f"subject:case{number}", action, id=kept))
                if action[0] != "trash":  # what is thrown away no rule takes any more
                    self.assertIn(found, [row.id for row in told.marginal])
        self.assertEqual(len(self.hidden()), 4)

    def test_marked_read(self) -> None:
        """Mail of a low bucket that is marked read by a rule, with nobody's look at it."""
        self.keep("subject:read9", ("bucket", "digest"), ("read", ""), name="Reads")
        self.take(letter(f"{MATTERS} read9", at=NOON + 200))
        self.assertEqual([name for name, _ in self.hidden()], ["Reads"])
        told = previewing.preview(self.room, rule("subject:cancelled", ("read", "")))
        self.assertTrue(told.marginal)

    def test_marked_read_on_the_desk(self) -> None:
        """There it stands out no more: it is told, until it is marked unread."""
        self.keep("subject:read8", ("read", ""), name="Reads")
        number = self.take(letter(f"{MATTERS} read8", at=NOON + 200))
        self.assertEqual(self.row(number).place, "desk")
        self.assertEqual([name for name, _ in self.hidden()], ["Reads"])
        mark(self.room, [number], "unread")
        self.assertEqual(self.hidden(), [])

    def test_until_it_is_dealt_with(self) -> None:
        """What scores low is not told; what was put on the Desk, or left, is told no more; nor after a week."""
        self.keep("list:news.birchbow.example", ("archive", ""), name="Offers")
        self.take(offer(3))
        self.assertEqual(self.hidden(), [])
        self.keep("subject:cancelled", ("archive", ""), name="Shows")
        first, second = (self.take(letter(f"{MATTERS} {n}", at=NOON + 300 + n)) for n in range(2))
        self.assertEqual(len(self.hidden()), 2)
        correct(self.room, [first], "desk")
        self.assertEqual(len(self.hidden()), 1)
        undo(self.room)
        leave(self.room, [first])
        self.assertEqual([subject for _, subject in self.hidden()], [self.row(second).subject])
        self.clock.now += 8 * DAY
        self.assertEqual(self.hidden(), [])
