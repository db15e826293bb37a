"""Whatever statement of a change fails, its commit included: memory, store and events are as they were, and the next
change succeeds."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import replace
from email.message import EmailMessage
from typing import Any
from unittest import mock

import numpy as np

from hieranome.app import arranging, emptying, filing, second_look, tagging, trays
from hieranome.app.arrival.weighing import weigh_again
from hieranome.app.bulk import addresses, draining, planning, readiness, subscriptions
from hieranome.app.bulk.compiling import compile_due
from hieranome.app.mailbox import elsewhere, mailboxes
from hieranome.app.mailbox.syncing import look, sync
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.rules import keeping, running
from hieranome.app.teaching import vouching
from hieranome.app.teaching.by_source import put_source
from hieranome.app.teaching.correct import NothingFollows, correct, pull, weigh_anew
from hieranome.app.teaching.looking import look_past, set_teaches
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.core.addresses import Purpose
from hieranome.core.engine import Engine
from hieranome.core.errors import HieranomeError
from hieranome.core.gaussian import Rows
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.core.rules import Action, Rule
from hieranome.core.sure import Reach
from hieranome.core.trays import SHIPPED, Tray
from hieranome.mail.imap import Imap
from hieranome.store import accounts, drafts, lessons, messages, places, rules, scores, settings, silences, tags
from hieranome.store import addresses as said
from hieranome.store.accounts import NewAccount
from tests.app.mailbox.case import account_at
from tests.mail.servers import LOGIN, Standin
from tests.support import NOON, OWNER, RoomCase, crlf, letter, offer

DAY = 86_400
PROGRESS = ("running",)
"""What tells how far a change under way is, before it is made."""
MOST = 400
"""Statements of one change, at the most."""


class Failing:
    """A connection whose n-th statement fails, the commit counted as one."""

    def __init__(self, real: sqlite3.Connection, fails_at: int) -> None:
        self._real, self._left = real, fails_at
        self.failed = False

    def _count(self, statement: str) -> None:
        if statement.startswith(("ROLLBACK", "SAVEPOINT", "RELEASE")):
            return
        self._left -= 1
        if self._left == 0:
            self.failed = True
            raise sqlite3.OperationalError("disk I/O error")

    def execute(self, statement: str, *values: Any) -> sqlite3.Cursor:
        self._count(statement)
        return self._real.execute(statement, *values)

    def executemany(self, statement: str, values: Any) -> sqlite3.Cursor:
        self._count(statement)
        return self._real.executemany(statement, values)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._real, name)


class FailingCase(RoomCase):
    """A room with lessons, bindings, kin and a question, to which changes are made that fail."""

    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(n)) for n in range(8)]
        self.letters = [self.take(letter(f"Letter {n}", at=NOON + n)) for n in range(5)]
        correct(self.room, [self.offers[0]], "digest")
        correct(self.room, [self.letters[0]], "desk", Reach.ADDRESS)
        vouching.vouch(self.room, "address", "ilse@hall.example")

    def memory(self, room: Mailroom) -> dict[str, Any]:
        """What a room holds in memory, as values."""
        probes = Rows.stacked([messages.vector(room.store.reader(), n) for n in (*self.offers, *self.letters)])
        found = room.engine.weigh(probes)
        return {
            "lessons": room.engine.lesson_ids,
            "silences": room.engine.silence_ids,
            "buckets": room.engine.buckets,
            "importance": np.round(found.importance, 9).tolist(),
            "sums": sorted((key, str(sums)) for key, sums in room.relations.items()),
            "asking": room.asking.past,
            "owner": room.owner,
            "vouched": room.vouched,
            "bindings": room.bindings,
            "follow": room.kin_follow,
            "costs": room.costs,
            "rules": [one.rule for one in keeping.reads(room)],
        }

    def told_by_the_store(self) -> dict[str, Any]:
        """What memory would be, were it built from the store now."""
        real, room = self.room, Mailroom.__new__(Mailroom)
        room.__dict__.update(real.__dict__)
        room.rules = None
        room.engine = Engine(places.buckets(real.store.reader()), said.purposes(real.store.reader()))
        db = real.store.reader()
        room.engine.learn_all(silences.given(db))
        room.relations = settings.relations(db)
        room.asking = type(real.asking)(scores.recent_questions(db, 200))
        room.owner = settings.owner(db)
        room.load_sure(db)
        return self.memory(room)

    def dump(self) -> list[str]:
        """All that is stored."""
        return [line for line in self.room.store.reader().iterdump() if "words_index" not in line]

    def try_every_failure(self, change: Callable[[], object], *, spans: bool = False) -> None:
        """Let a change fail at each of its statements in turn, until none is left to fail. With ``spans`` it is made in
        several transactions, of which each is whole."""
        for fails_at in range(1, MOST):
            before, stored, last = self.memory(self.room), self.dump(), self.room.events.latest
            real = self.room.store._writer
            failing = Failing(real, fails_at)
            self.room.store._writer = failing  # type: ignore[assignment]
            try:
                change()
            except (sqlite3.Error, HieranomeError):
                pass
            finally:
                self.room.store._writer = real
            with self.subTest(statement=fails_at):
                if failing.failed and not spans:
                    with self.room.steady():
                        self.assertEqual(self.memory(self.room), before)
                    self.assertEqual(self.dump(), stored)
                    told = [one.kind for one in self.room.events.since(last) or []]
                    self.assertEqual([kind for kind in told if kind not in PROGRESS], [])
                with self.room.steady():
                    self.assertEqual(self.memory(self.room), self.told_by_the_store())
            if not failing.failed:
                self.assertNotEqual(self.dump(), stored, "the change changed nothing")
                self.assertTrue(fails_at > 2)
                return
        self.fail(f"a change of more than {MOST} statements")


class KindsTest(FailingCase):
    """Each kind of change, failing at each of its statements."""

    def test_a_verdict(self) -> None:
        self.try_every_failure(lambda: correct(self.room, [self.offers[1]], "drain"))

    def test_a_verdict_that_binds(self) -> None:
        self.try_every_failure(lambda: correct(self.room, [self.offers[2]], "shelf", Reach.LIST))

    def test_a_verdict_whose_kin_follow(self) -> None:
        vouching.set_kin_follow(self.room, True)
        self.try_every_failure(lambda: correct(self.room, [self.offers[3]], "drain", Reach.ADDRESS))

    def test_more_or_less(self) -> None:
        self.try_every_failure(lambda: weigh_anew(self.room, [self.letters[1]], up=False))

    def test_kin(self) -> None:
        outcome = correct(self.room, [self.offers[4]], "drain", Reach.ADDRESS)
        kin = [one.message.id for one in outcome.kin]
        self.assertTrue(kin)
        self.try_every_failure(lambda: pull(self.room, outcome.step, kin))

    def test_undo(self) -> None:
        self.try_every_failure(lambda: undo(self.room))

    def test_undo_of_an_older_lesson(self) -> None:
        self.try_every_failure(lambda: undo(self.room, 1))

    def test_filing_and_marks(self) -> None:
        self.try_every_failure(lambda: filing.file_away(self.room, self.letters[:2], "archive"))
        self.try_every_failure(lambda: filing.put_back(self.room, self.letters[:2]))
        self.try_every_failure(lambda: marks.mark(self.room, self.letters[2:], "read"))
        self.try_every_failure(lambda: marks.mark_opened(self.room, self.letters[1]) if self.unread(1) else None)

    def unread(self, at: int) -> bool:
        return not self.row(self.letters[at]).seen

    def test_an_arrival(self) -> None:
        raw = letter("Late", sender="Ilse <ilse@hall.example>")
        self.try_every_failure(lambda: self.take(raw))

    def test_an_arrival_the_model_routes(self) -> None:
        self.try_every_failure(lambda: self.take(letter("Routed", sender="Kim <kim@studio.example>")))

    def test_buckets(self) -> None:
        self.try_every_failure(lambda: arranging.add_bucket(self.room, "Paperwork", True))
        self.try_every_failure(lambda: arranging.add_folder(self.room, "Spring"))

    def test_a_bucket_switched_off_and_on(self) -> None:
        look_past(self.room, [(self.offers[5], self.row(self.offers[5]).place)])
        self.try_every_failure(lambda: arranging.switch_off(self.room, "digest", "shelf"))
        self.try_every_failure(lambda: arranging.switch_on(self.room, "digest"))

    def test_a_verdict_on_a_source(self) -> None:
        """One lesson and the moves of the rest, or nothing."""
        place, key = self.row(self.offers[3]).place, "list:news.birchbow.example"
        self.try_every_failure(lambda: put_source(self.room, place, key, "drain", always=False))
        self.try_every_failure(lambda: put_source(self.room, "drain", key, "shelf", always=True))
        self.try_every_failure(lambda: undo(self.room))

    def test_bulk_mail(self) -> None:
        """Subscriptions decided, editions compiled, read, left out of; plans; the Drain dated, let go and emptied."""
        key, plan = "list:news.birchbow.example", Plan("Daily", buckets=("digest",), days=EVERY_DAY)
        self.try_every_failure(lambda: subscriptions.decide(self.room, [key], "digest"))
        self.try_every_failure(lambda: planning.make(self.room, plan))
        self.clock.now += 2 * DAY
        self.try_every_failure(lambda: compile_due(self.room))
        self.try_every_failure(lambda: planning.read(self.room, 1))
        self.try_every_failure(lambda: planning.leave_out(self.room, [key]))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: planning.change(self.room, 1, replace(plan, times=("08:00",))))
        self.try_every_failure(lambda: subscriptions.decide(self.room, [key], "drain"))
        self.try_every_failure(lambda: draining.let_go(self.room))
        self.clock.now += 31 * DAY
        self.try_every_failure(lambda: draining.let_go(self.room))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: draining.empty(self.room, self.letters[-1]))
        self.try_every_failure(lambda: readiness.set_cost(self.room, 8.0))

    def test_mail_looked_past(self) -> None:
        seen = [(number, self.row(number).place) for number in self.offers[1:4]]
        self.try_every_failure(lambda: look_past(self.room, seen))
        self.try_every_failure(lambda: correct(self.room, [self.offers[1]], "shelf"))
        self.try_every_failure(lambda: set_teaches(self.room, False))

    def test_settings(self) -> None:
        self.try_every_failure(lambda: self.room.set_owner(["new@quillmark.example"]))
        self.try_every_failure(lambda: vouching.vouch(self.room, "domain", "hall.example"))
        self.try_every_failure(lambda: vouching.remove(self.room, "domain", "hall.example"))
        self.try_every_failure(lambda: vouching.set_names(self.room, settings.CONFIRMED, ["mx.a.example"]))

    def test_the_trash_emptied(self) -> None:
        """Said and written down, or neither; taken out chunk by chunk, each whole."""
        filing.file_away(self.room, [self.take(letter(f"Old {n}")) for n in range(2)], "trash")
        self.try_every_failure(lambda: emptying.empty(self.room, emptying.look(self.room).messages))
        emptier = emptying.Emptier(self.room)
        self.addCleanup(emptier.close)
        self.try_every_failure(emptier.work)

    def test_addresses(self) -> None:
        """What is said of one is heeded by the model, or neither is so."""
        self.room.set_owner(["m.aldous@oldharbour.example", OWNER])
        self.try_every_failure(
            lambda: addresses.describe(self.room, "m.aldous@oldharbour.example", Purpose.SHOPS, "shops")
        )
        self.try_every_failure(lambda: addresses.make_one(self.room, OWNER, "Corvane"))
        self.try_every_failure(lambda: addresses.forget(self.room, "m.aldous@oldharbour.example"))

    def test_tags(self) -> None:
        """Put on by a new name with the Archive in one go, taken off, renamed, put below, merged, deleted, undone."""
        two = self.letters[:2]
        self.try_every_failure(lambda: tagging.put_on(self.room, two, "Visas", away=True))
        (visas,) = tags.every(self.room.reader())
        other = tagging.make(self.room, "Permits").id
        tagging.put_on(self.room, self.letters[1:4], other)
        self.try_every_failure(lambda: tagging.take_off(self.room, two[:1], visas.id))
        self.try_every_failure(lambda: tagging.rename(self.room, visas.id, "Entry"))
        self.try_every_failure(lambda: tagging.put_below(self.room, visas.id, other))
        self.try_every_failure(lambda: tagging.merge(self.room, other, visas.id))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: tagging.delete(self.room, visas.id))

    def test_rules(self) -> None:
        """Kept, arranged, switched, run on what is here, on what grew old, taken back, removed; and an arrival that a
        rule takes."""
        tag = str(tagging.make(self.room, "Visas").id)
        said = (Action("bucket", "digest"), Action("tag", tag), Action("flag"), Action("read"), Action("no-edition"))
        rule = Rule(0, "Letters", True, "arrives", 0, "came", False, "subject:letter", "subject:4", said)
        self.try_every_failure(lambda: keeping.put(self.room, rule))
        first = rules.every(self.room.reader())[0].id
        old = replace(rule, name="Old", when="ages", days=1, line="subject:offer or subject:weekend or subject:half")
        second = keeping.put(self.room, old).rule.id
        self.try_every_failure(lambda: keeping.arrange(self.room, [second, first]))
        self.try_every_failure(lambda: keeping.switch(self.room, second, on=False))
        keeping.switch(self.room, second, on=True)
        self.try_every_failure(lambda: running.run_here(self.room, first))
        self.try_every_failure(lambda: undo(self.room))
        fresh = iter(range(MOST))
        self.try_every_failure(lambda: self.take(letter("Letter of today", at=NOON + 99 + next(fresh))))
        self.room.clock = lambda: NOON + 400 * DAY
        self.try_every_failure(lambda: running.run_ageing(self.room))
        self.try_every_failure(lambda: keeping.remove(self.room, first))

    def test_trays_and_a_second_look(self) -> None:
        """Trays said anew; offered mail moved, and left; learned questions let go."""
        self.try_every_failure(
            lambda: trays.put(self.room, [*SHIPPED[:2], Tray("line", "Tour", line="subject:letter")])
        )
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model', low_edge = 0.8, score = 0.9")
            db.execute("DELETE FROM moves")
        self.room.clock = lambda: NOON + DAY
        (offered,) = second_look.offers(self.room)
        numbers = [one.id for one in offered.messages]
        self.try_every_failure(lambda: second_look.accept(self.room, numbers[:2]))
        self.try_every_failure(lambda: second_look.leave(self.room, numbers[2:]))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'undecided', decided_by = 'model'")
        self.room.costs = replace(self.room.costs, asking=1_000.0)
        self.try_every_failure(lambda: second_look.release_learned(self.room))

    def test_drafts(self) -> None:
        """A forward and what goes on from another program's draft have their files or are not there at all."""
        with self.room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
        made = EmailMessage()
        made["From"], made["To"], made["Subject"] = OWNER, "ilse@hall.example", "With a file"
        made.set_content("Here.")
        made.add_attachment(b"1,2", maintype="text", subtype="csv", filename="seats.csv")
        number = self.take(made.as_bytes())
        with self.room.change() as db:
            messages.move(db, number, "drafts", "elsewhere")
        self.try_every_failure(lambda: beginning.begin(self.room, "forward", number))
        self.try_every_failure(lambda: beginning.go_on(self.room, number))
        self.try_every_failure(lambda: writing.keep_on_server(self.room, True))
        found = beginning.go_on(self.room, number).id
        self.assertEqual([one.name for one in drafts.attachments(self.room.reader(), found)], ["seats.csv"])

    def test_weighing_again(self) -> None:
        self.room.store._writer.execute("UPDATE messages SET decided_by = 'waiting' WHERE id = ?", (self.letters[3],))
        self.try_every_failure(lambda: weigh_again(self.room, 1), spans=True)

    def test_a_rebuild(self) -> None:
        with self.room.change() as db:
            lessons.mark_undone(db, 1)
            self.room.touch()
            self.room.behind = True
        rebuilder = Rebuilder(self.room)
        for fails_at in range(1, MOST):
            real = self.room.store._writer
            failing = Failing(real, fails_at)
            self.room.store._writer = failing  # type: ignore[assignment]
            try:
                rebuilder.rebuild()
            except sqlite3.Error:
                pass
            finally:
                self.room.store._writer = real
            if not failing.failed:
                break
        self.assertGreater(fails_at, 2)
        self.assertEqual(self.memory(self.room), self.told_by_the_store())

    def test_a_bucket_made_while_the_model_is_rebuilt_stays(self) -> None:
        """The rebuilder begins again rather than put in place a model that does not know it."""
        rebuilder = Rebuilder(self.room)
        real = lessons.teaching
        made: list[str] = []

        def teaching(db: sqlite3.Connection) -> Any:
            if not made:
                made.append("")
                made.append(arranging.add_bucket(self.room, "Paperwork", True).name)
            return real(db)

        lessons.teaching = teaching  # type: ignore[assignment]
        try:
            rebuilder.rebuild()
        finally:
            lessons.teaching = real
        rebuilder.rebuild()
        self.assertIn(made[1], [bucket.name for bucket in self.room.engine.buckets])


class ElsewhereTest(FailingCase):
    def setUp(self) -> None:
        super().setUp()
        self.standin = Standin()
        self.addCleanup(self.standin.close)
        self.standin.box.create("Hieranome/Shelf")
        for number in range(3):
            self.standin.box.append("INBOX", crlf(letter(f"There {number}", at=NOON + 100 + number)))
        self.imap = Imap.connect(self.standin.server, LOGIN, timeout=20)
        self.addCleanup(self.imap.close)
        self.account = mailboxes.add(self.room, account_at(self.standin), self.imap.folders()).id
        with self.room.change() as db:
            db.execute("UPDATE accounts SET state = 'watching'")
            db.execute("UPDATE folders SET low = 0")
        sync(self.room, self.imap, self.account)

    def test_moves_made_elsewhere(self) -> None:
        """A move another program made is learned once, at whatever statement learning it fails first."""
        uids = self.standin.box.uids("INBOX")
        self.standin.box.move("INBOX", [uids[0]], "Hieranome/Shelf")
        look(self.room, self.imap, self.account)
        before = len(self.room.engine)
        for fails_at in range(1, MOST):
            real = self.room.store._writer
            failing = Failing(real, fails_at)
            self.room.store._writer = failing  # type: ignore[assignment]
            try:
                elsewhere.explain(self.room, self.account)
            except (sqlite3.Error, HieranomeError):
                pass
            finally:
                self.room.store._writer = real
            with self.room.steady():
                self.assertEqual(self.memory(self.room), self.told_by_the_store())
            if not failing.failed:
                break
        self.assertEqual(len(self.room.engine), before + 1)
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM lessons").fetchone()[0], 3)
        self.assertFalse(elsewhere.explain(self.room, self.account))


class TellingTest(FailingCase):
    def test_what_is_made_is_made_whoever_hears_of_it(self) -> None:
        """A listener that fails does not make a verdict fail that is stored already, nor keep the others from it."""

        def fail() -> None:
            raise RuntimeError("deaf")

        self.addCleanup(self.room.events.listen(fail))
        last = self.room.events.latest
        with self.assertLogs(level="ERROR"):
            outcome = correct(self.room, [self.offers[1]], "drain")
        self.assertEqual(self.row(self.offers[1]).place, "drain")
        self.assertTrue(outcome.lessons)
        self.assertEqual([one.kind for one in self.room.events.since(last) or []], ["moved", "counts"])


class VerdictAndKinTest(FailingCase):
    def test_kin_with_nowhere_to_go_do_not_refuse_the_verdict(self) -> None:
        """The lesson given stands, although there were kin and none of them would move any more."""
        vouching.set_kin_follow(self.room, True)
        nothing = mock.patch("hieranome.app.teaching.correct.pull", side_effect=NothingFollows("None would move."))
        with nothing as pulled:
            outcome = correct(self.room, [self.offers[1]], "drain", Reach.ADDRESS)
        pulled.assert_called_once()
        self.assertEqual((len(outcome.lessons), outcome.followed), (1, 0))
        self.assertEqual(self.row(self.offers[1]).place, "drain")
        with self.room.steady():
            self.assertEqual(self.memory(self.room), self.told_by_the_store())
