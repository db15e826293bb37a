"""Another program works in the same mailbox: nothing is lost, nothing waits, nothing is taken for something else."""

from __future__ import annotations

import random
import threading
import time
from typing import Any

from hieranome.app.correct import correct
from hieranome.app.leaving import bring_back
from hieranome.app.mailboxes import PROPOSED, route
from hieranome.app.vault import Vault
from hieranome.app.watching import Watchers
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts
from tests.app.mailbox_case import MailboxCase
from tests.mail.servers import SECRET, Dovecot, MailServer, Standin
from tests.support import NOON, crlf, letter

ARRIVALS = 20
LONG = 600.0
"""Seconds between looks without a hint: what is noticed in these tests is noticed by a hint."""


class Leaving(MailboxCase):
    """At the stand-in."""

    def start_server(self) -> MailServer:
        return Standin()

    def test_mail_put_into_a_folder_just_before_it_is_removed_is_kept(self) -> None:
        """Between the look and the removal another program moves a message in: it goes back into the inbox too."""
        number = self.arrive(letter("Shelved"))
        correct(self.room, [number], "shelf")
        self.settle()
        late = crlf(letter("Put there at the last moment", at=NOON + 9))
        shelf = self.bucket("shelf")
        real = self.imap.status
        put: list[bool] = []

        def status(name: str) -> Any:
            found = real(name)
            if name == shelf and found.messages == 0 and not put:
                put.append(True)
                self.other.append(shelf, late, Flags(), NOON)
            return found

        self.imap.status = status  # type: ignore[method-assign]
        found = bring_back(self.room, self.imap, self.account)
        self.assertTrue(put)
        there = self.on_server()
        self.assertEqual(len(there["INBOX"]), 2)
        self.assertIn(late, there["INBOX"])
        self.assertEqual(found.missing, [])
        self.assertFalse([name for name in there if name.startswith("Hieranome")])

    def test_a_folder_with_folders_below_stays(self) -> None:
        """What the owner made below a bucket's folder is not taken away with it."""
        number = self.arrive(letter("Shelved"))
        correct(self.room, [number], "shelf")
        self.settle()
        below = f"{self.bucket('shelf')}/Mine"
        self.other.create(below)
        self.other.append(below, crlf(letter("Kept there")), Flags(), NOON)
        bring_back(self.room, self.imap, self.account)
        self.assertEqual(len(self.on_server()[below]), 1)


class LeavingDovecot(Leaving):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()


class Routing(MailboxCase):
    """Turning routing on, off, and on again."""

    def start_server(self) -> MailServer:
        return Standin()

    def test_old_mail_is_moved_once(self) -> None:
        """However often routing is turned off and on, the old mail of the inbox goes its way the first time alone;
        what came since goes then."""
        route(self.room, self.account, on=False)
        numbers = [self.arrive(letter(f"Old {n}", at=NOON + n)) for n in range(4)]
        with self.room.change() as db:
            accounts.update(db, self.account, routed=0)
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'history' WHERE id = ?", (numbers[0],))
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'history' WHERE id = ?", (numbers[1],))
        self.assertGreater(PROPOSED, 4)
        route(self.room, self.account, on=True)
        self.settle()
        self.assertEqual(len(self.on_server()[self.bucket("shelf")]), 2)
        for _ in range(2):
            route(self.room, self.account, on=True)
            route(self.room, self.account, on=False)
            with self.room.change() as db:
                db.execute("UPDATE messages SET place = 'shelf', decided_by = 'history' WHERE id = ?", (numbers[2],))
            route(self.room, self.account, on=True)
            self.settle()
            self.assertEqual(len(self.on_server()[self.bucket("shelf")]), 2)

    def test_a_verdict_always_carries(self) -> None:
        """Old mail that stands in the inbox there and on the Shelf here moves when it is said to belong there."""
        number = self.arrive(letter("Old"))
        with self.room.change() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'history' WHERE id = ?", (number,))
            db.execute("UPDATE copies SET goal = NULL")
        self.settle()
        self.assertEqual(self.folder_of(number), ["INBOX"])
        correct(self.room, [number], "shelf")
        self.settle()
        self.assertEqual(self.folder_of(number), [self.bucket("shelf")])


class Renaming(MailboxCase):
    """A bucket's folder gets another name in another program."""

    def start_server(self) -> MailServer:
        return Standin()

    def test_a_folder_renamed_right_after_a_change_in_it_stays_the_bucket_s(self) -> None:
        """New mail and a removal just before it was renamed: it is the bucket's folder under its new name."""
        first, second = self.arrive(letter("one")), self.arrive(letter("two"))
        correct(self.room, [first, second], "shelf")
        self.settle()
        shelf = self.bucket("shelf")
        self.other.append(shelf, crlf(letter("three", at=NOON + 5)), Flags(), NOON)
        self.other.select(shelf)
        self.other.set_deleted(self.other.uids()[:1])
        self.other.expunge_all()
        self.other.select("INBOX")
        with self.other._translated():
            self.other._client.rename_folder(shelf, "Later")
        self.settle()
        folder = next(f for f in accounts.folders(self.room.reader(), self.account) if f.name == "Later")
        self.assertEqual((folder.role, folder.place), ("bucket", "shelf"))
        self.assertNotIn(shelf, self.on_server())


class RenamingDovecot(Renaming):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()


class Hints(MailboxCase):
    """What the server tells is noticed without waiting for the next look."""

    def start_server(self) -> MailServer:
        return Standin()

    def setUp(self) -> None:
        super().setUp()
        vault = Vault(self.folder / "data")
        vault.put(accounts.get(self.room.reader(), self.account).address, SECRET, "file")
        self.watchers = Watchers(self.room, vault, poll=LONG)
        self.watchers.start()
        self.addCleanup(self.watchers.close)

    def await_(self, what: str, true: Any) -> None:
        ends = time.monotonic() + 30
        while time.monotonic() < ends:
            if true():
                return
            time.sleep(0.02)
        self.fail(f"not noticed without the poll: {what}")

    def count(self, where: str) -> int:
        return int(self.room.store.reader().execute(f"SELECT count(*) FROM messages WHERE {where}").fetchone()[0])

    def test_arrivals_and_flags_at_any_gap(self) -> None:
        """Twenty arrivals and twenty changes of flags, at random gaps: each is noticed, though no look is due."""
        rng = random.Random(12)
        for number in range(ARRIVALS):
            self.other.append("INBOX", crlf(letter(f"Hint {number}", at=NOON + number)), Flags(), NOON + number)
            time.sleep(rng.random() * 0.3)
        self.await_("arrivals", lambda: self.count("subject LIKE 'Hint %'") == ARRIVALS)
        self.other.select("INBOX")
        for number, uid in enumerate(self.other.uids()[-ARRIVALS:]):
            self.other.mark([uid], Flags(flagged=True, seen=number % 2 == 0))
            time.sleep(rng.random() * 0.3)
        self.await_("flags", lambda: self.count("flagged = 1") == ARRIVALS)
        self.assertTrue(any(thread.name.startswith("mailbox-") for thread in threading.enumerate()))


class HintsDovecot(Hints):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()
