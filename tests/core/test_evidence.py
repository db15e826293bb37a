"""Evidence: the lines that add up to a score; and the features they are about."""

import math
import random
import unittest
from datetime import UTC, datetime
from pathlib import Path

import numpy as np

from hieranome.core.engine import Engine
from hieranome.core.evidence import Line, explain
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.features import extract, feature, pack, relation_features, unpack, with_relation
from hieranome.core.groups import GROUPS, Context
from hieranome.core.judgement import Lesson
from hieranome.core.query import read_query
from hieranome.core.relations import Relations
from hieranome.core.values import Names
from tests.core.made import context, lessons, made_facts, taught, vectors


class EvidenceTest(unittest.TestCase):
    def test_lines_add_up_to_the_log_odds(self) -> None:
        """Prior, lessons, counts and what was looked past sum to the score of every message."""
        engine = taught(*lessons(40))
        rng = random.Random(11)
        for _ in range(40):
            facts = made_facts(rng)
            vector = extract(facts, context())
            lines = explain(engine, vector, facts, context())
            judgement = engine.judge(vector)
            self.assertAlmostEqual(sum(line.value for line in lines), judgement.log_odds, delta=1e-9)
            self.assertAlmostEqual(judgement.importance, 1 / (1 + math.exp(-judgement.log_odds)), places=12)

    def test_a_sender_nothing_was_taught_of_is_told(self) -> None:
        """In a line of its own, with the mail it is about, until a lesson is."""
        facts = MessageFacts(subject="qwzx", sender=Correspondent("somebody@elsewhere.example"))
        vector = extract(facts, context())
        engine = taught(*lessons(40))

        def told() -> list[Line]:
            lines = explain(engine, vector, facts, context())
            self.assertAlmostEqual(sum(line.value for line in lines), engine.judge(vector).log_odds, delta=1e-9)
            return [line for line in lines if line.group == "New to your lessons"]

        (line,) = told()
        self.assertGreater(line.value, 0.0)
        self.assertEqual(line.search, 'from:"somebody@elsewhere.example"')
        engine.learn(Lesson(900, vector, "shelf"))
        self.assertEqual(told(), [])

    def test_the_lesson_that_moved_a_message_is_named(self) -> None:
        """A message like the one taught shows that lesson as evidence."""
        facts = made_facts(random.Random(5))
        vector = extract(facts, context())
        lines = explain(taught(Lesson(7, vector, "desk")), vector, facts, context())
        self.assertEqual([line.lesson for line in lines if line.kind == "lesson"], [7])

    def test_what_was_looked_past_is_told_and_adds_up(self) -> None:
        """Without any lesson silences have a line, however little they say; among lessons all lines add up too."""
        facts = made_facts(random.Random(5))
        vector = extract(facts, context())
        engine = Engine()
        for number in range(12):
            engine.leave(number, vector, "shelf", engine.judge(vector))
            lines = explain(engine, vector, facts, context())
            self.assertAlmostEqual(sum(line.value for line in lines), engine.judge(vector).log_odds, delta=1e-9)
            self.assertNotIn("lessons", [line.kind for line in lines])
        self.assertIn("left on the Shelf", [line.text for line in lines if line.kind == "node"])
        engine.learn_all(lessons(30))
        lines = explain(engine, vector, facts, context())
        self.assertAlmostEqual(sum(line.value for line in lines), engine.judge(vector).log_odds, delta=1e-9)
        self.assertEqual(len([line for line in lines if line.kind == "lessons"]), 1)

    def test_a_line_about_nodes_counts_and_finds_their_mail(self) -> None:
        """Each line of a node tells how many lessons put such mail where, and its search is understood whatever a
        stranger wrote into sender, list and subject."""
        odd = MessageFacts(
            subject='(OR "from:x" body:) 2nd offer\u202e -carnet',
            sender=Correspondent('a" OR b@odd domain.example'),
            list_id='x" OR (y.example',
            text="Dear Maren",
        )
        engine, vector = Engine(), extract(odd, context())
        for number in range(3):
            engine.learn(Lesson(number, vector, "shelf"))
        lines = [line for line in explain(engine, vector, odd, context()) if line.kind == "node"]
        self.assertIn("3 of 3 on the Shelf", [line.text for line in lines])
        for line in lines:
            terms = read_query(line.search, Names({}, datetime.now(UTC))).terms
            self.assertLessEqual({term.operator for term in terms or ()}, {"from", "list", "subject"}, line.search)
            self.assertTrue(terms, line.search)

    def test_only_what_has_something_in_common_is_a_reason(self) -> None:
        """A lesson is named for mail of its sender, its list or with its rare word; the rest is one line."""

        def mail(subject: str, address: str, list_id: str = "") -> MessageFacts:
            return MessageFacts(subject=subject, sender=Correspondent(address), list_id=list_id, text="Dear Maren")

        engine = Engine()
        about = [
            mail("Carnet for the timpani", "freight@tollgate.example"),
            mail("I am here", "ulla@friends.example"),
            mail("Weekly letter", "a@press.example", "weekly.press.example"),
            *(mail(f"Offer {'abcdefgh'[n]}", f"n{n}@offers.example") for n in range(8)),
        ]
        for number, facts in enumerate(about):
            engine.learn(Lesson(number, extract(facts, context()), "desk" if number < 3 else "drain"))

        def named(facts: MessageFacts) -> dict[int, str]:
            lines = explain(engine, extract(facts, context()), facts, context())
            return {line.lesson: line.text for line in lines if line.kind == "lesson" and line.lesson is not None}

        self.assertEqual(named(mail("Tuesday?", "freight@tollgate.example")), {0: "from the same sender"})
        self.assertEqual(
            named(mail("Another", "b@press.example", "weekly.press.example")), {2: "through the same list"}
        )
        self.assertEqual(named(mail("Your carnet", "customs@port.example")), {0: "with a rare word of this subject"})
        self.assertEqual(named(mail("I am for it", "stranger@port.example")), {})


class FeatureTest(unittest.TestCase):
    def test_vectors_survive_storage(self) -> None:
        """A stored vector comes back as it was."""
        for vector in vectors(5):
            np.testing.assert_array_equal(unpack(pack(vector)), vector)

    def test_what_is_not_looked_at_any_more_is_left_out(self) -> None:
        """Headers that all mail carries, stored in vectors of before, are not there when those come back."""
        for vector in [*vectors(3), np.array([], dtype=np.uint32)]:
            gone = np.array([feature("headers", "date"), feature("headers", "from")], dtype=np.uint32)
            stored = pack(np.unique(np.concatenate([vector, gone])))
            np.testing.assert_array_equal(unpack(stored), vector)

    def test_every_group_is_named_told_and_doubted(self) -> None:
        """No group is nameless, none is without words or doubt, and each stands in the document of the engine with its
        numbers."""
        told = (Path(__file__).parents[2] / "docs" / "engine.md").read_text("utf-8")
        for group in GROUPS:
            self.assertTrue(group.heading and group.extract.__doc__)
            line = next((line for line in told.splitlines() if line.startswith(f"| `{group.name}` |")), "")
            self.assertTrue(line.endswith(f"| {group.sd:g} | {group.mass:g} |"), line or group.name)
            self.assertGreater(group.sd, 0.0)

    def test_renewed_relation_equals_fresh_extraction(self) -> None:
        """Renewing the relation features of a stored vector gives what extraction gives today."""
        facts = made_facts(random.Random(6))
        old = extract(facts, context())
        relations = Relations()
        for key, seen in relations.received(facts, read=True, answered=True):
            relations.add(key, seen)
        now = Context(context().owner, relations)
        renewed = with_relation(old, relation_features(facts, now))
        np.testing.assert_array_equal(renewed, extract(facts, now))

    def test_an_empty_message_has_a_vector(self) -> None:
        """A message of which nothing is known is judged all the same."""
        vector = extract(MessageFacts(readable=False), context())
        self.assertGreater(len(vector), 0)
        self.assertTrue(0.0 < Engine().judge(vector).importance < 1.0)
