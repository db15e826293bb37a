"""Another program works in the same mailbox: nothing is lost, nothing waits, nothing is taken for something else."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx2

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.leaving import bring_back
from hieranome.app.mailbox.mailboxes import PROPOSED, route
from hieranome.app.mailbox.watching import Watchers
from hieranome.app.teaching.correct import correct
from hieranome.mail.imap_answers import Flags
from hieranome.mail.servers import Security
from hieranome.store import accounts
from tests.app.mailbox.case import ALL_TO_THE_DESK, MailboxCase, account_at
from tests.mail.servers import SECRET, Dovecot, MailServer, Standin
from tests.patience import await_
from tests.support import MARK, NOON, SOAK, RoomCase, crlf, letter

ARRIVALS = 200 if SOAK else 20
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
        self.noticed: list[float] = []
        vault = Vault(self.folder / "data")
        vault.put(accounts.get(self.room.reader(), self.account).address, SECRET, "file")
        self.watchers = Watchers(self.room, Logins(vault), poll=LONG)
        self.watchers.start()
        self.addCleanup(self.watchers.close)

    def await_(self, what: str, true: Any) -> None:
        began = time.monotonic()
        await_(f"{what}, noticed without the poll", true)
        self.noticed.append(time.monotonic() - began)

    def count(self, where: str) -> int:
        return int(self.room.store.reader().execute(f"SELECT count(*) FROM messages WHERE {where}").fetchone()[0])

    def test_arrivals_and_flags_at_any_gap(self) -> None:
        """Arrivals and changes of flags in pairs, the second at a random gap behind the first: both are noticed, though
        no look is due and nothing else happens."""
        rng = random.Random(12)
        self.room.costs = ALL_TO_THE_DESK
        for number in range(0, ARRIVALS, 2):
            self.put_there(number)
            time.sleep(rng.random())
            self.put_there(number + 1)
            self.await_(f"arrival {number + 1}", lambda n=number: self.count("subject LIKE 'Hint %'") == n + 2)
        self.other.select("INBOX")
        uids = self.other.uids()[-ARRIVALS:]
        for number in range(0, ARRIVALS, 2):
            self.other.mark(uids[number : number + 1], Flags(flagged=True))
            time.sleep(rng.random())
            self.other.mark(uids[number + 1 : number + 2], Flags(flagged=True, seen=True))
            self.await_(f"flag {number + 1}", lambda n=number: self.count("flagged = 1") == n + 2)
        self.noticed.sort()
        if ARRIVALS > 20:
            print(f"noticed after: median {self.noticed[len(self.noticed) // 2]:.2f} s, most {self.noticed[-1]:.2f} s")

    def put_there(self, number: int) -> None:
        self.other.append("INBOX", crlf(letter(f"Hint {number}", at=NOON + number)), Flags(), NOON + number)


class HintsDovecot(Hints):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()


class Restarts(RoomCase):
    """The program as it is started, and a mail server that is started anew again and again."""

    RESTARTS = 6

    def begin(self, security: Security = "plain") -> None:
        """A mailbox at the server, reached so, its password kept."""
        self.server = Dovecot(security=security)
        self.addCleanup(self.server.close)
        imap = self.server.connect()
        account = mailboxes.add(self.room, account_at(self.server), imap.folders())
        read_history(self.room, imap, account.id)
        route(self.room, account.id, on=True)
        imap.close()
        Vault(self.folder / "data").put(account.address, SECRET, "file")
        self.room.close()

    def serve(self) -> tuple[subprocess.Popen[str], httpx2.Client]:
        """The program, and somebody signed in to it."""
        command = [sys.executable, "-m", "hieranome.cli", "serve", "--data", str(self.folder / "data"), "--port", "0"]
        trusted = {} if self.server.server.security == "plain" else {"SSL_CERT_FILE": str(self.server.trusted)}
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, **trusted})
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        assert process.stdout is not None
        self.addCleanup(process.stdout.close)
        address = process.stdout.readline().split()[3]
        code = process.stdout.readline().split()[-1]
        client = httpx2.Client(base_url=address, headers=MARK)
        self.addCleanup(client.close)
        client.post("api/entry/first", json={"code": code, "password": "a long password"}).raise_for_status()
        return process, client

    def test_six_restarts_in_a_row(self) -> None:
        """The program lives, says that the mailbox cannot be reached, and takes in what came meanwhile."""
        self.begin()
        self.restart(self.RESTARTS)

    def test_restarts_with_starttls(self) -> None:
        """The same where the connection begins plain and is encrypted then."""
        self.begin("starttls")
        self.restart(self.RESTARTS if SOAK else 1)

    def test_restarts_with_tls(self) -> None:
        """The same where the connection is encrypted from the first byte."""
        self.begin("tls")
        self.restart(self.RESTARTS if SOAK else 1)

    def restart(self, times: int) -> None:
        """Restart the server under the program, mail coming in between."""
        process, client = self.serve()

        def mailbox() -> dict[str, Any]:
            found: dict[str, Any] = client.get("api/mailboxes").json()["mailboxes"][0]
            return found

        def awaited(what: str, true: Callable[[], object]) -> None:
            def holds() -> object:
                self.assertIsNone(process.poll(), "the program ended")
                return true()

            await_(what, holds, said=lambda: mailbox()["error"])

        awaited("a first look", lambda: mailbox()["synced_at"])
        for number in range(times):
            self.server.stop()
            awaited("the page says so", lambda: mailbox()["error"])
            self.server.start()
            other = self.server.connect()
            other.append("INBOX", crlf(letter(f"Meanwhile {number}", at=NOON + number)), Flags(), NOON + number)
            other.close()

        def arrived() -> int:
            return sum(place["total"] for place in client.get("api/places").json()["places"])

        awaited("the mail", lambda: arrived() == times)
        awaited("all is well again", lambda: not mailbox()["error"])
        self.assertIsNone(process.poll())

    def test_a_broken_connection_never_ends_the_program(self) -> None:
        """Writing to a connection that broke is an error like any other: the signal for it is ignored."""
        self.begin()
        process, _ = self.serve()
        status = Path(f"/proc/{process.pid}/status").read_text()
        ignored = int(next(line.split()[1] for line in status.splitlines() if line.startswith("SigIgn")), 16)
        self.assertTrue(ignored >> (signal.SIGPIPE - 1) & 1)
