"""Each decider and each kind of step has one entry, and who names one names an entry."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

from hieranome.core.deciders import BY_HAND, BY_THE_MODEL, DECIDERS, NEVER_TAUGHT, Decider, may_move
from hieranome.core.steps import BY_THEMSELVES, FINAL, STEPS, StepKind
from hieranome.core.sure import Reach

PACKAGE = Path(__file__).parent.parent.parent / "hieranome"


def named_in_sql(column: str, *, but: tuple[str, ...] = ()) -> set[str]:
    """The values that statements compare a column with."""
    found: set[str] = set()
    for path in [*PACKAGE.glob("store/*.py"), *PACKAGE.glob("store/migrations/*.sql")]:
        if path.name not in but:
            for said in re.findall(rf"\b{column} (?:=|<>|IN|NOT IN) (\([^()]*\)|'[^']*')", path.read_text("utf-8")):
                found.update(re.findall(r"'([^']*)'", said))
    return found


class TablesTest(unittest.TestCase):
    def test_every_one_has_an_entry(self) -> None:
        """And a step a label."""
        self.assertEqual(set(DECIDERS), set(Decider))
        self.assertEqual(set(STEPS), set(StepKind))
        for kind, facets in STEPS.items():
            self.assertTrue(facets.label and facets.moved, kind)

    def test_statements_name_entries_alone(self) -> None:
        """What a statement asks for is something that exists."""
        deciders = named_in_sql("decided_by")
        self.assertIn("verdict", deciders)
        self.assertLessEqual(deciders, set(Decider))
        kinds = named_in_sql(r"s\.kind") | named_in_sql("steps.kind")
        self.assertIn("learned", kinds)
        self.assertLessEqual(kinds, set(StepKind))

    def test_what_is_said_is_said_of_some(self) -> None:
        """Where the score says why a message stands, no words are needed, and nowhere else."""
        self.assertEqual([one for one, facets in DECIDERS.items() if not facets.words], [Decider.MODEL])
        self.assertEqual(BY_THE_MODEL, {Decider.MODEL, Decider.KIN})
        self.assertEqual(BY_HAND, {Decider.VERDICT, Decider.FILED})
        self.assertEqual(NEVER_TAUGHT, {Decider.OWN, Decider.EDITION})

    def test_what_a_rule_may_move(self) -> None:
        """The narrower a rule is about who wrote, the more it moves; never what the owner put somewhere."""
        narrow, broad = may_move(Reach.ADDRESS), may_move(None)
        self.assertLess(broad, narrow)
        self.assertEqual(narrow - broad, {Decider.LIST, Decider.DOMAIN})
        self.assertEqual(may_move(Reach.LIST) - broad, {Decider.DOMAIN})
        for never in (*BY_HAND, *NEVER_TAUGHT, Decider.VOUCHED, Decider.THREAD, Decider.ADDRESS, Decider.ELSEWHERE):
            self.assertNotIn(never, narrow)

    def test_what_cannot_be_undone_is_never_the_latest(self) -> None:
        """Or undoing the latest would say that there is nothing to undo, again and again."""
        self.assertLessEqual(FINAL, set(BY_THEMSELVES))


if __name__ == "__main__":
    unittest.main()
