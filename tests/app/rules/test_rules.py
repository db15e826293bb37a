"""Rules: applied to what arrives, run on what is here and on what grows old; undone exactly; never over a verdict."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from typing import Any
from unittest import mock

from hieranome.app import arranging, filing, searching, tagging
from hieranome.app.exporting import export, restore
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import forwarding, keeping, previewing, proposing, running, scripting
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.rules import Action, Rule
from hieranome.core.sure import Reach
from hieranome.demo import mailgen
from hieranome.store import accounts, drafts, editions, journal, messages, rules, tags
from hieranome.store.accounts import NewAccount
from tests.app.arrival.test_poison import odd_messages
from tests.support import NOON, RoomCase, letter

DAY = 86_400
WORDS = ("rider", "hotel", "visa", "report", "strings", "the", "harbour", "thank")


def rule(line: str, *actions: tuple[str, str], **fields: Any) -> Rule:
    """A rule for arriving mail, named by its line."""
    done = tuple(Action(verb, target) for verb, target in actions)  # type: ignore[arg-type]
    return replace(Rule(0, line[:60], True, "arrives", 0, "came", False, line, "", done), **fields)


class RulesCase(RoomCase):
    """A room with a tag and a folder."""

    def setUp(self) -> None:
        super().setUp()
        self.tag = tagging.make(self.room, "Visas").id
        self.folder_name = arranging.add_folder(self.room, "Freight").name

    def keep(self, line: str, *actions: tuple[str, str], **fields: Any) -> int:
        """Keep a rule; its id."""
        return keeping.put(self.room, rule(line, *actions, **fields)).rule.id

    def carried(self, number: int) -> list[int]:
        """The tags a message carries."""
        return tags.of(self.room.reader(), [number]).get(number, [])

    def all_of_it(self, one: int = 0) -> dict[int, tuple[Any, ...]]:
        """Where every message (or one) stands, by what, its marks, its tags, whether editions may have it."""
        db = self.room.reader()
        out = {row[0] for row in db.execute("SELECT message FROM no_edition")}
        rows = db.execute(
            "SELECT id, place, decided_by, seen, flagged, answered FROM messages WHERE ?1 IN (0, id)", (one,)
        ).fetchall()
        carried = tags.of(db, [row[0] for row in rows])
        return {row[0]: (*row[1:], tuple(carried.get(row[0], ())), row[0] in out) for row in rows}


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
        step = tagging.delete(self.room, self.tag)
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
        tagging.rename(self.room, self.tag, "Permits")
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


class ForwardingTest(RulesCase):
    """Copies sent on."""

    def setUp(self) -> None:
        super().setUp()
        at = NewAccount("maren@quillmark.example", "", "m", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
        with self.room.change() as db:
            account = accounts.add(db, at, NOON)
            drafts.put_identity(db, drafts.Identity("maren@quillmark.example", account, "Maren", ""))

    def waiting(self) -> list[str]:
        """Whom copies that wait in the outbox go to."""
        return [one.recipients for one in drafts.in_state(self.room.reader(), "waiting")]

    def test_a_copy_goes_once_confirmed_and_never_round(self) -> None:
        """Asked at making; sent through the outbox with a mark; what bears one, and the forged, stays."""
        wanted = rule("subject:carnet", ("forward", "freight@office.example"))
        with self.assertRaisesRegex(CallerError, "without asking again"):
            keeping.put(self.room, wanted)
        keeping.put(self.room, wanted, confirmed=True)
        self.take(letter("Carnet 12"))
        (one,) = drafts.in_state(self.room.reader(), "waiting")
        raw = drafts.raw(self.room.reader(), one.id)
        self.assertEqual(drafts.envelope(self.room.reader(), one.id), ["freight@office.example"])
        self.assertIn(b"Hieranome-Loop: maren@quillmark.example", raw)
        self.assertIn(b"Subject: Fwd: Carnet 12", raw)
        self.take(letter("Carnet 13", Hieranome_Loop="somebody@else.example"))
        self.room.confirmed = frozenset({"mx.quillmark.example"})
        failed = "mx.quillmark.example; dmarc=fail header.from=salthall.example"
        self.take(letter("Carnet 14", Authentication_Results=failed))
        self.assertEqual(self.waiting(), ["freight@office.example"])
        with self.assertRaisesRegex(CallerError, "yours"):
            keeping.put(self.room, rule("subject:x", ("forward", "maren@quillmark.example")), confirmed=True)

    def test_no_message_keeps_itself_from_arriving_by_what_its_copy_would_hold(self) -> None:
        """Messages made to break their reader arrive as they would without the rule; a copy that cannot be made is told
        beside it."""
        number = keeping.put(
            self.room, rule("larger:1B", ("forward", "freight@office.example")), confirmed=True
        ).rule.id
        for raw in odd_messages(60):
            self.take(raw)
        self.assertGreater(len(self.waiting()), 20)
        with mock.patch.object(forwarding, "message_of", side_effect=ValueError("no header")):
            one = self.take(letter("Carnet 12"))
        ((_, hit),) = rules.of_message(self.room.reader(), one)
        self.assertEqual((hit.rule, hit.lost_to), (number, "unsent"))
        self.assertEqual(self.row(one).decided_by, "model")

    def test_a_day_has_its_bound(self) -> None:
        """No more than so many copies within a day, by all rules together."""
        keeping.put(self.room, rule("subject:carnet", ("forward", "freight@office.example")), confirmed=True)
        with mock.patch.object(forwarding, "A_DAY", 2):
            for number in range(4):
                self.take(letter(f"Carnet {number}", at=NOON + number))
            self.assertEqual(len(self.waiting()), 2)
            self.clock.now += DAY + 1
            self.take(letter("Carnet 9", at=NOON + 9))
            self.assertEqual(len(self.waiting()), 3)


class RunningTest(RulesCase):
    """Rules run on what is here, and on what grows old."""

    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(letter(f"Carnet {n}", at=NOON + 60 * n)) for n in range(6)]
        self.numbers += [self.take(letter(f"Rider {n}", at=NOON + 1000 + n)) for n in range(3)]

    def test_one_step_undone_as_one(self) -> None:
        """Put, tagged, flagged, read and kept out together; undo brings back every row and the ledger."""
        number = self.keep(
            "subject:carnet", ("folder", self.folder_name), ("tag", str(self.tag)), ("flag", ""), ("read", ""),
            ("no-edition", ""),
        )  # fmt: skip
        before = self.all_of_it()
        step = running.run_here(self.room, number)
        self.assertEqual(journal.get(self.room.reader(), step).messages, 18)
        self.assertEqual({self.row(n).place for n in self.numbers[:6]}, {self.folder_name})
        self.assertEqual(keeping.get(self.room, number).tally.hits, 6)
        self.assertEqual(running.run_here(self.room, number), 0)
        undo(self.room, step)
        self.assertEqual(self.all_of_it(), before)
        self.assertEqual(keeping.get(self.room, number).tally.hits, 0)

    def test_no_verdict_and_nothing_filed_is_moved(self) -> None:
        """What the owner put somewhere stays; it is tagged all the same."""
        correct(self.room, self.numbers[:1], "shelf", Reach.MESSAGE)
        correct(self.room, self.numbers[1:2], "shelf", Reach.LEARN)
        filing.file_away(self.room, self.numbers[2:3], "archive")
        filing.file_away(self.room, self.numbers[3:4], "trash")
        running.run_here(self.room, self.keep("subject:carnet", ("bucket", "digest"), ("tag", str(self.tag))))
        self.assertEqual(
            [self.row(n).place for n in self.numbers[:6]], ["shelf", "shelf", "archive", "trash", "digest", "digest"]
        )
        self.assertEqual([bool(self.carried(n)) for n in self.numbers[:6]], [True, True, True, False, True, True])

    def archived(self) -> list[int]:
        """Which of the six are in the Archive, by their place among them."""
        return [at for at, number in enumerate(self.numbers[:6]) if self.row(number).place == "archive"]

    def test_mail_that_grew_old_goes_once(self) -> None:
        """After three weeks, unless flagged, counted from the thread's newest; undone, it stays; what comes next is
        told."""
        marks.mark(self.room, self.numbers[:1], "flagged")
        number = self.keep(
            "subject:carnet", ("archive", ""), when="ages", days=21, counted="thread", excepted="mark:flagged"
        )
        self.take(letter("Re: Carnet 5", at=NOON + 5 * DAY))
        self.clock.now = NOON + 21 * DAY + 200
        self.assertEqual(len(running.run_ageing(self.room)), 1)
        self.assertEqual(self.archived(), [1, 2, 3])
        told = previewing.preview(self.room, rules.get(self.room.reader(), number))
        self.assertEqual([row.id for row, _ in told.following][:1], self.numbers[4:5])
        self.assertEqual(told.following[0][1], NOON + 240 + 21 * DAY)
        undo(self.room, journal.recent(self.room.reader(), 0, 1)[0].id)
        self.assertEqual(running.run_ageing(self.room), [])
        self.clock.now += 30 * DAY
        running.run_ageing(self.room)
        self.assertEqual(self.archived(), [4, 5])

    def test_the_last_of_each_day_stays(self) -> None:
        """Of hourly reports the newest of a day stays, the others go."""
        sender = "Turnstile <reports@turnstile.example>"
        hourly = [self.take(letter(f"Report {h}", sender=sender, at=NOON + h * 3600)) for h in range(-30, 0, 6)]
        self.keep("from:reports@turnstile.example", ("trash", ""), when="ages", days=1, last_of_day=True)
        self.clock.now = NOON + 5 * DAY
        running.run_ageing(self.room)
        days: dict[int, int] = {}
        for number in hourly:
            days[(self.row(number).time + self._offset(self.row(number).time)) // DAY] = number
        kept = [number for number in hourly if self.row(number).place != "trash"]
        self.assertEqual(kept, sorted(days.values()))

    @staticmethod
    def _offset(at: int) -> int:
        from datetime import datetime

        from dateutil.tz import tzlocal

        offset = datetime.fromtimestamp(at, tzlocal()).utcoffset()
        return int(offset.total_seconds()) if offset else 0

    def test_a_run_that_fails_leaves_nothing_half_done(self) -> None:
        """An error in the middle: every row is as it was, memory too."""
        number = self.keep("subject:carnet", ("bucket", "digest"), ("tag", str(self.tag)))
        before = self.all_of_it()
        with self.assertRaises(ZeroDivisionError), self.room.change() as db:
            running.run_here(self.room, number)
            self.assertEqual(messages.get(db, self.numbers[0]).place, "digest")
            raise ZeroDivisionError
        self.assertEqual(self.all_of_it(), before)

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


class ScriptTest(RulesCase):
    """Rules as a script for a mailbox, and a script taken over."""

    def setUp(self) -> None:
        super().setUp()
        at = NewAccount("maren@quillmark.example", "", "m", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
        with self.room.change() as db:
            self.account = accounts.add(db, at, NOON)
            for name, role, place in (
                ("INBOX", "inbox", "desk"), ("Hieranome/Shelf", "bucket", "shelf"),
                ("Freight", "folder", self.folder_name),
                ("Old mail", "archive", "archive"), ("Sent", "sent", "sent"),
            ):  # fmt: skip
                accounts.add_folder(db, self.account, name, role, place)

    def test_out_and_in_again(self) -> None:
        """What can be said is, with the folders' names there; taken over it is the same rule, switched off."""
        self.keep("from:@freight.example", ("folder", self.folder_name), ("tag", str(self.tag)))
        self.keep("subject:visa", ("archive", ""))
        self.keep("from:@off.example", ("archive", ""), enabled=False)
        made = scripting.script_for(self.room, self.account)
        self.assertIn('fileinto :create "Freight";', made.text)
        self.assertNotIn("off.example", made.text)
        self.assertEqual([(one.rule.line, "whole words" in one.why) for one in made.left], [("subject:visa", True)])
        taken = scripting.take_over(self.room, self.account, made.text)
        self.assertEqual({one.rule.enabled for one in taken}, {False})
        said = [(one.rule.line, one.rule.actions) for one in taken]
        self.assertEqual(
            said,
            [
                ("from:@freight.example", (Action("tag", str(self.tag)),)),
                ("from:@freight.example", (Action("folder", self.folder_name),)),
            ],
        )

    def test_a_script_that_cannot_be_rules_leaves_nothing(self) -> None:
        """One folder that is not there, and not even the rule before it is kept."""
        script = """require "fileinto";
            if address :is "from" "a@b.example" { fileinto "Old mail"; stop; }
            if address :is "from" "c@d.example" { fileinto "Nowhere"; stop; }"""
        with self.assertRaisesRegex(CallerError, "Line 3.*Nowhere.*Nothing was taken over"):
            scripting.take_over(self.room, self.account, script)
        self.assertEqual(rules.every(self.room.reader()), [])
        with self.assertRaisesRegex(CallerError, "nothing that is a rule"):
            scripting.take_over(self.room, self.account, "")


class RandomTest(RulesCase):
    """Random rules over generated mail do what a plain reading of the table says."""

    def random_rule(self, rng: random.Random) -> Rule:
        """Any rule for arriving mail."""
        terms = [f"subject:{rng.choice(WORDS)}", rng.choice(WORDS), "larger:1KB", "mark:unread", "tag:visas"]
        terms += ["bucket:shelf", "score:>30", "from:@turnstile.example"]
        line = " ".join(rng.choice(["", "", "-"]) + rng.choice(terms) for _ in range(rng.randint(1, 3)))
        actions = [("tag", str(self.tag)), ("untag", str(self.tag)), ("flag", ""), ("read", ""), ("no-edition", "")]
        some = rng.sample(actions, rng.randint(0, 2))
        place = [("bucket", rng.choice(["desk", "shelf", "digest"])), ("folder", self.folder_name), ("archive", "")]
        some += [rng.choice(place)] if rng.random() < 0.6 or not some else []
        some += [("stop", "")] if rng.random() < 0.2 else []
        return rule(line, *some, excepted=f"subject:{rng.choice(WORDS)}" if rng.random() < 0.3 else "")

    def plainly(self, kept: list[Rule], number: int) -> tuple[str, bool, bool, bool, bool]:
        """What rules say of a stored message that none of them touched: where it goes (empty: they do not say), and
        whether it carries the tag, is flagged, read, kept out of editions."""
        place, tagged, flagged, seen, out = "", False, False, False, False
        for one in kept:
            # The tag stands on the message while its line is asked.
            with self.room.change() as db:
                tags.set_on(db, number, self.tag, tagged)
            but = f" -({one.excepted})" if one.excepted else ""
            found = searching.matching(self.room, f"({one.line}){but}", 4_000)
            if number not in found:
                continue
            for action in one.actions:
                if action.verb in ("bucket", "folder", "archive"):
                    place = place or action.target or "archive"
                tagged = {"tag": True, "untag": False}.get(action.verb, tagged)
                flagged = flagged or action.verb == "flag"
                seen = seen or action.verb == "read"
                out = out or action.verb == "no-edition"
            if one.stops:
                break
        with self.room.change() as db:
            tags.set_on(db, number, self.tag, False)
        return place, tagged, flagged, seen, out

    def test_rules_on_arriving_mail_do_what_the_table_says(self) -> None:
        """A thousand random sets of rules, each for one message, read plainly from a copy that came without rules."""
        rng = random.Random(11)
        self.room.costs = replace(self.room.costs, asking=1_000.0)  # what is asked depends on what came before
        mail = [one.raw for one in mailgen.generate(90, 5) if one.belongs != "sent"]
        placed = 0
        for _ in range(1_000):
            for old in rules.every(self.room.reader()):
                keeping.remove(self.room, old.id)
            raw = rng.choice(mail)
            number = self.take(self.copy_of(raw, rng))
            kept = [keeping.put(self.room, self.random_rule(rng)).rule for _ in range(rng.randint(1, 4))]
            place, *rest = self.plainly(kept, number)
            stands = self.all_of_it(came := self.take(self.copy_of(raw, rng)))[came]
            placed += bool(place)
            self.assertEqual(stands[0], place or self.row(number).place, [one.line for one in kept])
            self.assertEqual(stands[1] == "rule", bool(place))
            self.assertEqual([stands[5] == (self.tag,), bool(stands[3]), bool(stands[2]), stands[6]], rest)
        self.assertGreater(placed, 150)

    @staticmethod
    def copy_of(raw: bytes, rng: random.Random) -> bytes:
        """The same message once more, with an id and a length of its own that change nothing rules look at."""
        mark = f"{rng.getrandbits(64):016x}".encode()
        return re.sub(rb"(?i)(message-id: <)", rb"\g<1>" + mark, raw, count=1)

    def test_runs_on_what_is_here_are_undone_exactly_and_leave_verdicts(self) -> None:
        """Sixty random rules run on mail with verdicts among it: no verdict moves, and undo restores every row."""
        rng = random.Random(12)
        numbers = [self.take(one.raw) for one in mailgen.generate(120, 6)]
        for number in rng.sample([n for n in numbers if self.row(n).place != "sent"], 25):
            correct(self.room, [number], rng.choice(["desk", "shelf", "digest", "drain"]), Reach.MESSAGE)
        ran = 0
        for _ in range(60):
            before = self.all_of_it()
            decided = {n: one[0] for n, one in before.items() if one[1] == "verdict"}
            step = running.run_here(self.room, keeping.put(self.room, self.random_rule(rng)).rule.id)
            after = self.all_of_it()
            self.assertEqual({n: after[n][0] for n in decided}, decided)
            if step:
                ran += 1
                undo(self.room, step)
            self.assertEqual(self.all_of_it(), before)
        self.assertGreater(ran, 20)
