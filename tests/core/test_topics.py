"""Topics: found from words, learned from answers, never decided by a subject's wording alone."""

from __future__ import annotations

import itertools
import random
import tracemalloc
import unittest

import numpy as np

from hieranome.core.facts import Owner
from hieranome.core.features import HASH_BITS, SLOTS, Vector, extract
from hieranome.core.gaussian import Rows
from hieranome.core.groups import GROUPS, Context
from hieranome.core.relations import Relations
from hieranome.core.topics import (
    MOST_WORDS,
    UNSAID,
    Example,
    Topic,
    Wording,
    beginning,
    beside,
    learn,
    said_words,
    weigh,
)
from hieranome.mail.reading import read
from tests.support import NOON, OWNER, letter

CONSULATE = "Visa Counter <counter@consulate.example>"
SHOP = "Bow Shop <shop@bowshop.example>"


def vector_of(subject: str, body: str, sender: str) -> Vector:
    """The vector of a message."""
    facts = read(letter(subject, body=body, sender=sender, at=NOON)).facts
    return extract(facts, Context(Owner.of(OWNER), Relations()))


def visa(number: int) -> Vector:
    """A letter about a visa."""
    body = f"The visa of player {number} waits for a stamp. Please send the permit and the passport."
    return vector_of(f"File {number}", body, CONSULATE)


def shop(number: int) -> Vector:
    """An offer of a shop."""
    return vector_of(f"Offer {number}", f"Strings at {number} percent less, until Sunday only.", SHOP)


SAID = Wording({"visa": 0.6, "permit": 0.4})


class WordsTest(unittest.TestCase):
    def test_a_sentence_is_its_telling_words(self) -> None:
        """Common and short words are left out; the rest stands once, in order, up to a bound."""
        self.assertEqual(said_words("Whatever is about the visas, and Visas for it"), ["whatever", "visas"])
        self.assertEqual(said_words(""), [])
        many = " ".join("".join(letters) for letters in itertools.product("xyz", repeat=5))
        self.assertEqual(len(said_words(many)), MOST_WORDS)
        self.assertEqual(said_words("査証"), ["査証"])

    def test_words_of_a_stem_begin_alike(self) -> None:
        self.assertTrue("permits".startswith(beginning("permitted")[:6]))
        self.assertEqual(
            [beginning(word) for word in ("ill", "visa", "visas", "damaged")], ["ill", "visa", "visa", "damag"]
        )

    def test_rare_words_count_more(self) -> None:
        """The sum over what was said is 1; of nothing found nothing is weighed."""
        found = weigh({"visa": ["visa", "visas"], "hall": ["hall"]}, {"visa": 3, "hall": 400}, 1_000)
        self.assertGreater(found["visa"], 5 * found["hall"])
        self.assertEqual(found["visa"], found["visas"])
        self.assertAlmostEqual(found["visa"] + found["hall"], 1.0)
        self.assertEqual(weigh({}, {}, 10), {})
        self.assertEqual(weigh({"a": ["all"]}, {"a": 10}, 10), {})

    def test_what_stands_beside_is_what_is_rare_elsewhere(self) -> None:
        near = [{"visa", "stamp", "dear"}, {"visa", "stamp", "dear"}, {"visa", "dear", "passport"}, {"stamp", "dear"}]
        counts = {"stamp": 4, "dear": 900, "passport": 1}
        self.assertEqual(beside(near, counts, 1_000, {"visa"}), ["stamp"])


class TopicTest(unittest.TestCase):
    def taught(self, wording: Wording = SAID) -> Topic:
        """Two for, one against, and some mail nobody answered about."""
        answered = [Example(visa(1), True), Example(visa(2), True), Example(shop(1), False)]
        others = [Example(shop(n), None) for n in range(20, 40)] + [Example(visa(n), None) for n in range(20, 26)]
        return learn(wording, [*answered, *others])

    def test_words_rank_before_any_answer(self) -> None:
        topic = learn(SAID, [])
        self.assertGreater(topic.likely(visa(3)), topic.likely(shop(3)))
        self.assertEqual(topic.score(shop(3)), UNSAID)

    def test_a_few_answers_tell_one_kind_from_another(self) -> None:
        topic = self.taught()
        self.assertTrue(all(topic.score(visa(n)) > 0 for n in range(50, 60)))
        self.assertTrue(all(topic.score(shop(n)) < 0 for n in range(50, 60)))

    def test_nothing_need_be_said(self) -> None:
        """Examples alone teach a tag; without a word and without an answer nothing belongs."""
        topic = self.taught(Wording({}))
        self.assertGreater(topic.score(visa(50)), 0)
        self.assertLess(topic.score(shop(50)), 0)
        self.assertLess(learn(Wording({}), []).score(visa(1)), 0)

    def test_a_counter_example_counts_at_once(self) -> None:
        """One no moves the next such message."""
        tells = vector_of("Opening hours", "The visa counter is closed; permit desk too.", CONSULATE)
        before = self.taught().score(tells)
        examples = [Example(visa(1), True), Example(visa(2), True), Example(tells, False)]
        after = learn(SAID, [*examples, *(Example(shop(n), None) for n in range(20))]).score(
            vector_of("Opening hours in May", "The visa counter is closed; permit desk too.", CONSULATE)
        )
        self.assertLess(after, min(before, 0.0))

    def test_a_subject_alone_never_decides(self) -> None:
        """Whatever the subject says, it adds at most what all else says: a stranger's mail that only bears the words
        in its subject is likely, and none of the topic's."""
        topic = self.taught()
        posing = vector_of("visa permit visa permit File 1", "Hello, how are you this fine day.", "X <x@other.example>")
        self.assertGreater(topic.likely(posing), topic.score(posing))
        self.assertLess(topic.score(posing), 0.0)
        for draw in range(200):
            subject, rest = topic.parts(Rows.of(self.random_mail(draw)))
            most = UNSAID + 2 * max(float(rest[0]), 0.0) + min(float(rest[0]), 0.0)
            self.assertLessEqual(topic.score(self.random_mail(draw)), most + 1e-9, (subject, rest))

    def random_mail(self, seed: int) -> Vector:
        draw = random.Random(seed)
        words = ["visa", "permit", "file", "offer", "stamp", "strings", "passport", "sunday", "player", "hello"]
        said = [" ".join(draw.choices(words, k=draw.randint(1, 8))) for _ in range(2)]
        return vector_of(*said, draw.choice([CONSULATE, SHOP, "Y <y@z.example>"]))

    def test_the_order_of_examples_does_not_matter(self) -> None:
        examples = [Example(visa(1), True), Example(shop(1), False), *(Example(visa(n), None) for n in range(9, 15))]
        one, other = learn(SAID, examples), learn(SAID, examples[::-1])
        self.assertAlmostEqual(one.score(visa(50)), other.score(visa(50)), places=6)
        np.testing.assert_array_equal(learn(SAID, examples).score_all(self.rows()), one.score_all(self.rows()))

    def rows(self) -> Rows:
        return Rows.stacked([visa(50), shop(50), visa(51)])

    def test_many_at_once_are_scored_as_one_by_one(self) -> None:
        topic = self.taught()
        np.testing.assert_allclose(
            topic.score_all(self.rows()), [topic.score(v) for v in (visa(50), shop(50), visa(51))]
        )

    def test_much_mail_that_has_little_in_common_takes_bounded_memory(self) -> None:
        """Hundreds of messages with tens of thousands of features between them are learned from within bounds."""
        draw = np.random.default_rng(5)
        top = np.uint32(next(at for at, group in enumerate(GROUPS) if group.name == "text") << HASH_BITS)
        mail = [np.unique(draw.integers(0, SLOTS, 300)).astype(np.uint32) | top for _ in range(600)]
        examples = [Example(one, bool(at % 2) if at < 300 else None) for at, one in enumerate(mail)]
        tracemalloc.start()
        self.addCleanup(tracemalloc.stop)
        topic = learn(Wording({}), examples)
        self.assertLess(tracemalloc.get_traced_memory()[1], 150_000_000)
        self.assertTrue(all(topic.score(one.vector) > 0 for one in examples[1:20:2]))

    def test_reasons_add_up_and_name_what_they_are_about(self) -> None:
        """With those that speak against they are the whole; the words that were said come by name."""
        topic, vector = self.taught(), visa(50)
        reasons = topic.reasons(vector, {"address": ["counter@consulate.example"], "text": ["visa", "stamp", "zebra"]})
        self.assertEqual({one.group: one.texts for one in reasons}["said"], ("visa", "permit"))
        self.assertIn(("counter@consulate.example",), [one.texts for one in reasons if one.group == "address"])
        self.assertNotIn("zebra", [text for one in reasons for text in one.texts])
        self.assertGreaterEqual(sum(one.amount for one in reasons) + UNSAID, topic.likely(vector) - 1e-9)


if __name__ == "__main__":
    unittest.main()
