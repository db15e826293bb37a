"""Whatever statement of a change fails, its commit included: memory, store and events are as they were, and the next
change succeeds."""

from __future__ import annotations

import sqlite3
from typing import Any
from unittest import mock

from hieranome.app import arranging, filing
from hieranome.app.arrival.weighing import weigh_again
from hieranome.app.mailbox import elsewhere, mailboxes
from hieranome.app.mailbox.syncing import look, sync
from hieranome.app.room import marks
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.teaching import vouching
from hieranome.app.teaching.by_source import put_source
from hieranome.app.teaching.correct import NothingFollows, correct, pull, weigh_anew
from hieranome.app.teaching.looking import look_past, set_teaches
from hieranome.app.teaching.undoing import undo
from hieranome.core.sure import Reach
from hieranome.mail.imap import Imap
from hieranome.store import lessons
from tests.app.mailbox.case import account_at
from tests.app.room.failing import MOST, FailingCase
from tests.mail.servers import LOGIN, Standin
from tests.patience import PATIENCE
from tests.support import NOON, crlf, letter


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

    def test_a_verdict_on_a_source(self) -> None:
        """One lesson and the moves of the rest, or nothing."""
        place, key = self.row(self.offers[3]).place, "list:news.birchbow.example"
        self.try_every_failure(lambda: put_source(self.room, place, key, "drain", always=False))
        self.try_every_failure(lambda: put_source(self.room, "drain", key, "shelf", always=True))
        self.try_every_failure(lambda: undo(self.room))

    def test_mail_looked_past(self) -> None:
        seen = [(number, self.row(number).place) for number in self.offers[1:4]]
        self.try_every_failure(lambda: look_past(self.room, seen))
        self.try_every_failure(lambda: correct(self.room, [self.offers[1]], "shelf"))
        self.try_every_failure(lambda: set_teaches(self.room, False))

    def test_weighing_again(self) -> None:
        asked = self.take(letter("Note", sender="Vera Lind <lind@pier.example>", body="Here it is."))
        self.room.store._writer.execute("UPDATE messages SET decided_by = 'waiting' WHERE id = ?", (self.letters[3],))
        self.room.store._writer.execute("UPDATE messages SET place = 'shelf' WHERE id = ?", (asked,))
        self.try_every_failure(lambda: weigh_again(self.room, 1), spans=True)

    def test_a_rebuild(self) -> None:
        with self.room.change() as db:
            lessons.mark_undone(db, 1)
            self.room.touch()
            self.room.behind = True
        rebuilder = Rebuilder(self.room)
        for fails_at in range(1, MOST):
            if not self.let_fail(rebuilder.rebuild, fails_at).failed:
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
        self.imap = Imap.connect(self.standin.server, LOGIN, timeout=PATIENCE)
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
            failing = self.let_fail(lambda: elsewhere.explain(self.room, self.account), fails_at)
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
