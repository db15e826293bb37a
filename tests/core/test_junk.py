"""What ships about junk: it tells junk whoever sends it, holds nobody's name, and gives way to lessons."""

import re
import unittest
from dataclasses import replace

import numpy as np

from hieranome.core import junk, wording
from hieranome.core.buckets import BUILT_IN, DESK, DRAIN, SHELF, Costs
from hieranome.core.engine import Engine
from hieranome.core.evidence import explain
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.gaussian import Rows
from hieranome.core.groups import Context
from hieranome.core.judgement import Lesson
from hieranome.core.junk_table import WEIGHTS
from hieranome.core.keys import Keys
from hieranome.core.learners import Learners
from hieranome.core.relations import Relations
from hieranome.core.routing import settle
from hieranome.core.wording import traits
from hieranome.demo.mailgen import generate
from hieranome.mail.reading import read

CONTEXT = Context(Owner.of("maren@quillmark.example"), Relations())
ME = (Correspondent("maren@quillmark.example"),)
JUNK = MessageFacts(
    sender=Correspondent("win@prize77.example"),
    to=(Correspondent("lucky@nobody.example"),),
    subject="$$$ FREE OFFER!! Save money now!!",
    text="Buy now! Special offer! Save $$$ today, free of charge! Order now for $99! " * 4,
    media_type="text/html",
    html_only=True,
    html_tags=("table", "font", "img"),
    message_id="<a@elsewhere.example>",
    header_names=(
        "received",
        "message-id",
        "from",
        "to",
        "subject",
        "date",
        "mime-version",
        "content-type",
        "x-priority",
    ),
)
LETTER = MessageFacts(
    sender=Correspondent("vann@northpier.example", "Ilse Vann"),
    to=ME,
    subject="Re: the risers",
    text="Dear Maren, the risers are here. Shall we set them up on Friday? Ilse",
    media_type="text/plain",
    in_reply_to="<b@quillmark.example>",
    message_id="<c@northpier.example>",
    header_names=("received", "date", "from", "to", "subject", "message-id", "in-reply-to", "references"),
)


def vector(facts: MessageFacts) -> Vector:
    return extract(facts, CONTEXT)


def odds(*facts: MessageFacts) -> list[float]:
    return [float(one) for one in junk.log_odds(Rows.stacked([vector(one) for one in facts]))]


class JunkTest(unittest.TestCase):
    def test_untaught(self) -> None:
        """Before any lesson junk goes to the Drain, and a letter stays out of it."""
        engine, costs = Engine(), Costs()
        self.assertEqual(settle(engine.judge(vector(JUNK)), costs)[0], DRAIN)
        self.assertNotEqual(settle(engine.judge(vector(LETTER)), costs)[0], DRAIN)
        of_junk, of_letter = odds(JUNK, LETTER)
        self.assertGreater(of_junk, 3.0)
        self.assertLess(of_letter, -1.0)

    def test_generated_mail(self) -> None:
        """Of mail the table was not fitted to, from another seed, nothing anybody wants goes to the Drain."""
        engine, costs, drained, kept = Engine(), Costs(), 0, 0
        for one in generate(600, 4_711):
            if one.kind and settle(engine.judge(vector(read(one.raw).facts)), costs)[0] == DRAIN:
                self.assertEqual(one.belongs, DRAIN, one.kind)
                drained += 1
            kept += one.belongs == DRAIN
        self.assertGreater(drained, kept / 5)

    def test_it_never_speaks_for_importance(self) -> None:
        """Mail unlike junk gains nothing by it; for the Drain it speaks both ways, within its bounds."""
        found = np.array([-9.0, -1.0, 0.0, 2.0, 9.0])
        none, many = np.zeros(5), np.full(5, 9.0)
        self.assertEqual(junk.against(found).tolist(), [0.0, 0.0, 0.0, -2.0, -5.0])
        self.assertEqual(junk.for_drain(found, none).tolist(), [-3.0, -1.0, 0.0, 2.0, 5.0])
        np.testing.assert_allclose(junk.for_drain(found, many), [-0.3, -0.1, 0.0, 2.0, 5.0])

    def test_one_line_says_why(self) -> None:
        """With its three strongest signs in words; all lines still add up. A letter has no such line."""
        for facts, there in ((JUNK, True), (LETTER, False)):
            engine = Engine()
            lines = explain(engine, vector(facts), facts, CONTEXT)
            self.assertAlmostEqual(sum(one.value for one in lines), engine.judge(vector(facts)).log_odds, places=9)
            said = [one.text for one in lines if one.group == "Known before any lesson"]
            self.assertEqual(len(said), there)
        self.assertIn("words of an offer", explain(Engine(), vector(JUNK), JUNK, CONTEXT)[0].text)

    def test_lessons_learn_beside_it(self) -> None:
        """What the owner puts on the Desk comes there again, however it looks; what they drain goes to the Drain,
        however little it looks like junk."""
        for facts, belongs in ((JUNK, DESK), (LETTER, DRAIN)):
            engine = Engine()
            for number in range(4):
                engine.learn(Lesson(number, vector(facts), belongs, SHELF))
            self.assertEqual(settle(engine.judge(vector(facts)), Costs())[0], belongs)

    def test_signs_have_words(self) -> None:
        """Each sign of junk is told in words, and each word there is tells one."""
        signs = [(group, text) for group, those in WEIGHTS.items() for text, weight in those.items() if weight > 0.0]
        told = {traits([sign]) for sign in signs}
        self.assertFalse({word for word in told if not word or word[0].isupper()})
        self.assertEqual({word for _, word in wording._TRAITS} - told, set())
        self.assertEqual(traits([("how", "html only"), ("made", "type text/html")]), "only HTML")

    def test_a_lesson_says_of_attention_what_was_judged(self) -> None:
        """How likely mail was to stand wrong is asked of all that is judged by, what ships about junk with it."""
        learners = Learners(BUILT_IN, {})
        for number in range(40):
            lesson = Lesson(
                number, vector(replace(LETTER, sender=Correspondent(f"a{number}@b{number}.example"))), DESK, SHELF
            )
            rows = Rows.of(lesson.vector)
            learners.take_in(lesson, rows, Keys.of(rows))
        for facts in (JUNK, LETTER):
            rows = Rows.of(vector(replace(facts, sender=Correspondent("new@elsewhere.example"))))
            judged = float(learners.weigh(rows).importance[0])
            _, mistaken = learners.take_in(Lesson(99, vector(facts), SHELF, SHELF), rows, Keys.of(rows))
            self.assertAlmostEqual(mistaken, judged, places=9)

    def test_the_table_names_nobody(self) -> None:
        """It holds how mail is made and written: no address, no host, no word but those every program knows."""
        texts = [(group, text) for group, those in WEIGHTS.items() for text in those]
        self.assertGreater(len(texts), 100)
        for group, text in texts:
            self.assertTrue(junk.heeds(group, text), text)
            self.assertNotRegex(text, r"@|\.\w{2,}")
            if group == "markup":
                self.assertRegex(
                    text, re.compile(r"^[a-z0-9]+$|^(capitals|shouts|money|foreign|length|subject foreign) ")
                )
