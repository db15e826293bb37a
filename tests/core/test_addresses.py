"""The owner's addresses: tags, leaks, and what it counts what an address is said to be for."""

from __future__ import annotations

import unittest

from hieranome.core.addresses import Purpose, Use, first_leak, make, named_domain, tag_of, takes, untagged
from hieranome.core.buckets import BUILT_IN, DESK, DIGEST, DRAIN, SHELF, Bucket
from hieranome.core.engine import Engine
from hieranome.core.errors import CallerError
from hieranome.core.evidence import explain
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.judgement import Lesson
from hieranome.core.relations import Relations
from tests.generated import given, st

MINE = "maren@quillmark.example"
TAGGED = "maren+corvane-x1@quillmark.example"
OLD = "m.aldous@oldharbour.example"
CONTEXT = Context(Owner.of(MINE, OLD), Relations())


def mail(to: str, sender: str = "orders@corvane.example", subject: str = "Your order") -> MessageFacts:
    """A message to one address."""
    return MessageFacts(
        sender=Correspondent(sender), to=(Correspondent(to),), subject=subject, text="It is on its way."
    )


class TagTest(unittest.TestCase):
    def test_tags(self) -> None:
        """Whatever stands behind the first plus belongs to the same mailbox."""
        self.assertEqual(untagged("a+b+c@x.example"), "a@x.example")
        self.assertEqual(tag_of("a+b+c@x.example"), "b+c")
        self.assertEqual((untagged("a@x.example"), tag_of("a@x.example")), ("a@x.example", ""))
        self.assertEqual(tag_of("nobody"), "")

    def test_made_for_one_party(self) -> None:
        """The tag says whom for, and what nobody can guess; a tag that was there goes."""
        self.assertEqual(make(MINE, "Corvane & Söhne", "x1y2"), "maren+corvane-s-hne-x1y2@quillmark.example")
        self.assertEqual(make(TAGGED, "…", "x1y2"), "maren+x1y2@quillmark.example")
        for nonsense in ("", "nobody", "@x.example"):
            with self.assertRaises(CallerError):
                make(nonsense, "Corvane", "x1")
        with self.assertRaises(CallerError):
            make(f"{'a' * 60}@x.example", "Corvane", "x1y2z3")

    @given(local=st.from_regex(r"[a-z.]{1,50}", fullmatch=True), given_to=st.text(max_size=200))
    def test_always_an_address_of_the_same_owner(self, local: str, given_to: str) -> None:
        """However whom it is given to is written, the address can be used and is the owner's."""
        base = f"{local}@x.example"
        made = make(base, given_to, "a1b2c3")
        self.assertTrue(Owner.of(base).owns(Correspondent(made)))
        self.assertRegex(made, r"^[a-z.]+\+([a-z0-9-]+-)?a1b2c3@x\.example$")
        self.assertLessEqual(len(made.rpartition("@")[0]), 64)

    def test_the_domain_of_a_note(self) -> None:
        """Where a note names one, in whatever words."""
        self.assertEqual(named_domain("Corvane (Shop.Corvane.example), 2024"), "shop.corvane.example")
        self.assertEqual(named_domain("the shop on the corner, no. 2.5"), "")


class LeakTest(unittest.TestCase):
    def test_the_first_who_should_not_have_it(self) -> None:
        """Whoever uses an address first is whom it was given to, unless a note says so."""
        shop, other, third = Use("shop.example", 10, 1), Use("other.example", 20, 5), Use("b.example", 30, 6)
        self.assertEqual(first_leak([third, other, shop], ""), other)
        self.assertEqual(first_leak([third, other, shop], "other.example"), shop)
        self.assertIsNone(first_leak([shop], ""))
        self.assertIsNone(first_leak([], "shop.example"))


class PurposeTest(unittest.TestCase):
    def test_where_mail_may_belong(self) -> None:
        """By the bucket's kind, and the Drain for what is given up alone."""
        own = Bucket("paperwork", "Paperwork")
        taken = {one: {b.name for b in (*BUILT_IN, own) if takes(one, b)} for one in Purpose if one}
        self.assertEqual(taken[Purpose.PEOPLE], {DESK})
        self.assertEqual(taken[Purpose.SHOPS], {SHELF, DIGEST, "paperwork"})
        self.assertEqual(taken[Purpose.GIVEN_UP], {DRAIN})

    def test_what_is_said_moves_the_mail_of_the_address_alone(self) -> None:
        """Before any lesson, with a tag or without; and the evidence says so and still adds up."""
        for to in (OLD, TAGGED):
            there, elsewhere = mail(to), mail(MINE)
            vectors = [extract(one, CONTEXT) for one in (there, elsewhere)]
            silent = Engine().judge_all(vectors)
            for purpose, grows in ((Purpose.PEOPLE, True), (Purpose.SHOPS, False), (Purpose.GIVEN_UP, False)):
                engine = Engine(purposes={to: purpose})
                found = engine.judge_all(vectors)
                self.assertEqual(found[0].importance > silent[0].importance, grows, purpose)
                self.assertEqual(found[1], silent[1])
                lines = explain(engine, vectors[0], there, CONTEXT)
                self.assertAlmostEqual(sum(line.value for line in lines), found[0].log_odds, places=9)
                self.assertEqual(sum(one.group == f"Came to {to}" for one in lines), 1)
        given_up = Engine(purposes={OLD: Purpose.GIVEN_UP}).judge(extract(mail(OLD), CONTEXT))
        self.assertEqual(given_up.likely, DRAIN)

    def test_where_a_bucket_is_not_used(self) -> None:
        """What is said still counts, among the buckets there are."""
        few = [bucket for bucket in BUILT_IN if bucket.name in (DESK, DIGEST)]
        vector = extract(mail(OLD), CONTEXT)
        silent = Engine(few).judge(vector).importance
        for purpose in (Purpose.SHOPS, Purpose.GIVEN_UP):
            self.assertLess(Engine(few, {OLD: purpose}).judge(vector).importance, silent)
        drained = [bucket for bucket in BUILT_IN if bucket.name in (DESK, DRAIN)]
        self.assertLess(
            Engine(drained, {OLD: Purpose.SHOPS}).judge(vector).importance, Engine(drained).judge(vector).importance
        )

    def test_lessons_outweigh_what_was_said(self) -> None:
        """It counts as some lessons do: others to the contrary take its place."""
        engine = Engine(purposes={OLD: Purpose.SHOPS})
        vector, values = extract(mail(OLD, "friend@elsewhere.example", "Sunday"), CONTEXT), []
        for n in range(12):
            for to, belongs in ((OLD, DESK), (MINE, SHELF)):
                one = mail(to, f"p{n}@people{n}.example", f"Letter {n}")
                engine.learn(Lesson(2 * n + (to == MINE), extract(one, CONTEXT), belongs))
            values.append(next(node.value for node in engine.nodes(vector) if node.branch == "reached"))
        said = next(node for node in engine.nodes(vector) if node.branch == "reached")
        self.assertLess(values[0], 0.0)
        self.assertGreater(values[-1], 0.0)
        self.assertEqual(said.lessons, {DESK: 12})

    def test_saying_teaches_nothing(self) -> None:
        """The model learns as if nothing were said: saying so later, or taking it back, gives the very same numbers."""
        lessons = [
            Lesson(n, extract(mail(OLD, f"p{n}@a{n}.example"), CONTEXT), (DESK, SHELF)[n % 2]) for n in range(20)
        ]
        probes = [extract(mail(to, "new@new.example"), CONTEXT) for to in (OLD, MINE)]
        before, after, never = Engine(purposes={OLD: Purpose.SHOPS}), Engine(), Engine()
        for engine in (before, after, never):
            engine.learn_all(lessons)
        after.say({OLD: Purpose.SHOPS})
        self.assertEqual(before.judge_all(probes), after.judge_all(probes))
        before.say({})
        self.assertEqual(before.judge_all(probes), never.judge_all(probes))
        before.add_bucket(Bucket("paperwork", "Paperwork"))
        after.add_bucket(Bucket("paperwork", "Paperwork"))
        self.assertLess(after.judge(probes[0]).importance, before.judge(probes[0]).importance)
