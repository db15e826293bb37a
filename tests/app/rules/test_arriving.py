"""Rules applied to mail as it comes."""

from __future__ import annotations

from hieranome.app import shaping_tags
from hieranome.app.rules import keeping, proposing
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.sure import Reach
from hieranome.store import editions, rules
from tests.app.rules.case import RulesCase, rule
from tests.support import NOON, letter


class ArrivingTest(RulesCase):
    """What rules do to mail as it comes."""

    def test_it_is_put_tagged_and_marked(self) -> None:
        """Everything a rule says is done in one go, and the message says which rule it was."""
        number = self.keep(
            "subject:visa", ("folder", self.folder_name), ("tag", str(self.tag)), ("flag", ""), ("read", ""),
            ("no-edition", ""),
        )  # fmt: skip
        one = self.take(letter("Visa for the percussion"))
        row = self.row(one)
        self.assertEqual((row.place, row.decided_by), (self.folder_name, "rule"))
        self.assertTrue(row.flagged and row.seen)
        self.assertEqual(self.carried(one), [self.tag])
        ((took, hit),) = rules.of_message(self.room.reader(), one)
        self.assertEqual((took.id, hit.put), (number, self.folder_name))
        tally = keeping.get(self.room, number).tally
        self.assertEqual((tally.hits, tally.put, tally.last > NOON), (1, 1, True))
        other = self.take(letter("Rider"))
        self.assertEqual(rules.of_message(self.room.reader(), other), [])

    def test_the_first_that_says_where_decides_and_all_else_is_done(self) -> None:
        """Two rules put it elsewhere; both tag; a third behind *stop here* is not asked."""
        first = self.keep("subject:visa", ("bucket", "shelf"))
        second = self.keep("subject:percussion", ("bucket", "digest"), ("tag", str(self.tag)), ("stop", ""))
        third = self.keep("subject:visa", ("flag", ""))
        one = self.take(letter("Visa for the percussion"))
        self.assertEqual((self.row(one).place, self.carried(one), self.row(one).flagged), ("shelf", [self.tag], False))
        (lost,) = proposing.conflicts(self.room)
        self.assertEqual((lost.rule, lost.other, lost.count), (second, first, 1))
        self.assertEqual(keeping.get(self.room, third).tally.hits, 0)
        keeping.arrange(self.room, [second, first, third])
        self.assertEqual(self.row(self.take(letter("Visa for the percussion, again"))).place, "digest")

    def test_exceptions_and_what_earlier_rules_tagged(self) -> None:
        """A second line takes mail out; a later rule may ask for a tag an earlier one put on."""
        self.keep("subject:visa", ("tag", str(self.tag)), excepted="from:@embassy.example")
        self.keep("tag:visas", ("archive", ""))
        self.assertEqual(self.row(self.take(letter("Visa fee"))).place, "archive")
        kept = self.take(letter("Visa fee", sender="desk@post.embassy.example"))
        self.assertEqual((self.row(kept).place == "archive", self.carried(kept)), (False, []))

    def test_the_more_specific_wins_and_it_is_told(self) -> None:
        """An address beats a rule on its domain, a rule on the address beats what was said of the domain; vouching for
        the address beats a rule that names no sender."""
        sender = "Oskar Brandel <brandel@salthall.example>"
        vouching.vouch(self.room, "address", "brandel@salthall.example")
        loose = self.keep("subject:rider", ("bucket", "digest"))
        self.assertEqual(self.row(self.take(letter("Rider one", sender=sender))).place, "desk")
        (lost,) = proposing.conflicts(self.room)
        self.assertEqual((lost.rule, lost.against), (loose, "vouched"))
        vouching.remove(self.room, "address", "brandel@salthall.example")
        vouching.vouch(self.room, "domain", "salthall.example")
        self.assertEqual(self.row(self.take(letter("Rider two", sender=sender))).place, "desk")
        keeping.remove(self.room, loose)
        self.keep("from:brandel@salthall.example", ("bucket", "shelf"))
        self.assertEqual(self.row(self.take(letter("Rider three", sender=sender))).place, "shelf")
        other = "Anna <anna@salthall.example>"
        self.assertEqual(self.row(self.take(letter("Rider four", sender=other))).place, "desk")

    def test_a_name_that_is_an_address_fools_no_rule(self) -> None:
        """A rule on an address takes mail from it, not mail from whoever calls themselves that."""
        self.keep("from:brandel@salthall.example", ("archive", ""))
        fake = self.take(letter("Hello", sender='"brandel@salthall.example" <x@elsewhere.example>'))
        self.assertNotEqual(self.row(fake).place, "archive")

    def test_a_threads_verdict_and_own_mail_come_first(self) -> None:
        """Mail of a thread the owner decided goes there; what the owner wrote is nobody's to sort."""
        first = self.take(letter("Risers", message_id="<a@made.example>"))
        correct(self.room, [first], "shelf", Reach.THREAD)
        self.keep("subject:risers", ("bucket", "digest"))
        answer = letter("Re: Risers", In_Reply_To="<a@made.example>", at=NOON + 5)
        self.assertEqual(self.row(self.take(answer)).place, "shelf")
        own = self.take_sent(letter("Risers of mine", sender="maren@quillmark.example"))
        self.assertEqual(self.row(own).place, "sent")

    def test_a_broken_rule_rests_and_says_why(self) -> None:
        """A tag that is deleted breaks the rules that need it; mail goes on arriving; undo mends them."""
        number = self.keep("tag:visas or subject:visa", ("tag", str(self.tag)))
        step = shaping_tags.delete(self.room, self.tag, confirmed=True)
        self.assertRegex(keeping.get(self.room, number).broken, "no tag|not there")
        self.assertEqual(rules.of_message(self.room.reader(), self.take(letter("Visa"))), [])
        undo(self.room, step.id)
        self.assertEqual(keeping.get(self.room, number).broken, "")
        self.assertEqual(self.carried(self.take(letter("Visa again"))), [self.tag])

    def test_lines_are_read_once_and_again_when_they_may_mean_something_else(self) -> None:
        """Mail that is tagged leaves them as they are; a renamed tag, another rule and a change taken back do not."""
        number = self.keep("subject:visa", ("tag", str(self.tag)))
        self.take(letter("Visa 1"))
        read = self.room.rules
        self.take(letter("Visa 2"))
        self.assertIs(self.room.rules, read)
        shaping_tags.rename(self.room, self.tag, "Permits")
        self.assertIsNone(self.room.rules)
        self.take(letter("Visa 3"))
        with self.assertRaises(ZeroDivisionError), self.room.change():
            keeping.remove(self.room, number)
            self.assertEqual(keeping.reads(self.room), [])
            raise ZeroDivisionError
        self.assertEqual([one.rule.id for one in keeping.reads(self.room)], [number])

    def test_what_cannot_be_a_rule_is_refused(self) -> None:
        """Each with why; nothing is kept."""
        for one, why in (
            (rule("", ("archive", ""), name="All"), "which mail"),
            (rule("subject:visa"), "does nothing"),
            (rule("subject:(", ("archive", "")), "no"),
            (rule("tag:permits", ("archive", "")), "no tag"),
            (rule("subject:visa", ("archive", ""), ("trash", "")), "two places"),
            (rule("subject:visa", ("bucket", "folder-9")), "not there"),
            (rule("subject:visa", ("bucket", "undecided")), "not there"),
            (rule("subject:visa", ("folder", "shelf")), "not there"),
            (rule("subject:visa", ("tag", "99")), "not there"),
            (rule("subject:visa", ("tag", "x")), "number"),
            (rule("subject:visa", ("archive", "shelf")), "nothing"),
            (rule("subject:visa", ("archive", ""), when="ages"), "days old"),
            (rule("subject:visa", ("stop", ""), when="ages", days=3), "neither"),
            (rule("subject:visa", ("forward", "nobody")), "no address"),
            (rule("subject:visa", ("forward", "a@b.example")), "can send"),
            (rule("subject:visa", ("archive", ""), name=" "), "name"),
        ):
            with self.subTest(why), self.assertRaisesRegex(CallerError, why):
                keeping.put(self.room, one)
        with self.assertRaises(NotFound):
            keeping.put(self.room, rule("subject:visa", ("archive", ""), id=9))
        self.assertEqual(rules.every(self.room.reader()), [])

    def test_mail_kept_out_stands_in_no_edition(self) -> None:
        """A newsletter that goes to the Digest all the same is in none of its editions."""
        self.keep("subject:letter", ("bucket", "digest"), ("no-edition", ""))
        self.keep("subject:gazette", ("bucket", "digest"))
        out, into = self.take(letter("Letter of May")), self.take(letter("Gazette of May"))
        standing = editions.candidates(
            self.room.reader(), plan=1, buckets=["digest"], sources=[], found=[], since=0, limit=50
        )
        found = [row.id for row, _, _ in standing]
        self.assertEqual(found, [into])
        self.assertNotIn(out, found)
