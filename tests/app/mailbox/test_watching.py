"""A watcher ends by its own end alone, whatever breaks around it, and tells of it."""

from __future__ import annotations

import logging
import random
import sqlite3
import threading
from unittest import mock

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.mailbox import watching
from hieranome.app.mailbox.watching import Watcher
from hieranome.core.errors import WorldError
from hieranome.store import accounts
from hieranome.store.accounts import NewAccount
from tests.patience import await_
from tests.support import OWNER, RoomCase

FAULTS = 600


class Trouble:
    """Breaks at random what a watcher uses, so many times, and counts how often a mailbox was looked at since."""

    def __init__(self, watcher: Watcher, seed: int) -> None:
        self.left, self.looked = FAULTS, threading.Event()
        self._rng, self._watcher = random.Random(seed), watcher
        self._get, self._update = accounts.get, accounts.update

    def _breaks(self) -> bool:
        if self.left > 0 and self._rng.random() < 0.5:
            self.left -= 1
            return True
        return False

    def connect(self, *_: object) -> mock.Mock:
        """No connection, or one whose mailbox is paused at once."""
        if self.left <= 0:
            self.looked.set()
        if self._breaks() and self._rng.random() < 0.2:
            self._watcher._ours.close()
        raise self._rng.choice((WorldError("No answer."), OSError(9, "Bad file descriptor"), ValueError("odd")))

    def get(self, db: sqlite3.Connection, account: int) -> accounts.Account:
        """The account, where the store answers."""
        if self._breaks():
            raise sqlite3.OperationalError("disk I/O error")
        return self._get(db, account)

    def tell(self, *args: object, **data: object) -> None:
        """What pages are told, where they can be."""
        if self._breaks():
            raise RuntimeError("nobody listens")

    def update(self, *args: object, **fields: object) -> None:
        """What is to be told, where it can be stored."""
        if self._breaks():
            raise sqlite3.OperationalError("database or disk is full")
        self._update(*args, **fields)  # type: ignore[arg-type]


class WatchingTest(RoomCase):
    def watcher(self) -> Watcher:
        with self.room.change() as db:
            account = accounts.add(
                db, NewAccount(OWNER, "", "me", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain"), 0
            )
        return Watcher(self.room, Logins(Vault(self.room.store.folder)), account, poll=0.01)

    def test_it_outlives_every_fault(self) -> None:
        """Store, connection and its own sockets fail hundreds of times: it goes on, and ends when it is told to."""
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        watcher = self.watcher()
        trouble = Trouble(watcher, 5)
        with (
            mock.patch.object(watching, "FIRST_WAIT", 0.0005),
            mock.patch.object(watching, "LAST_WAIT", 0.001),
            mock.patch.object(watching, "connect", trouble.connect),
            mock.patch.object(accounts, "get", trouble.get),
            mock.patch.object(accounts, "update", trouble.update),
            mock.patch.object(self.room, "tell", trouble.tell),
        ):
            watcher.start()
            await_("a look after the last fault", lambda: trouble.looked.is_set() or not watcher.thread.is_alive())
            self.assertTrue(watcher.thread.is_alive())
            self.assertGreater(watcher._ours.fileno(), 0)
            watcher.close()
            self.assertFalse(watcher.thread.is_alive())

    def test_one_that_is_slow_to_end_keeps_its_socket(self) -> None:
        """Closing does not take the socket away from a watcher that is still at work: it ends without a fault."""
        begun, going = threading.Event(), threading.Event()
        faults: list[object] = []
        self.addCleanup(setattr, threading, "excepthook", threading.excepthook)
        threading.excepthook = faults.append

        def slow(*_: object) -> mock.Mock:
            begun.set()
            going.wait(60)
            raise WorldError("No answer.")

        watcher = self.watcher()
        with mock.patch.object(watching, "connect", slow), mock.patch.object(watching, "ENDS_WITHIN", 0.05):
            watcher.start()
            begun.wait(60)
            watcher.close()
            going.set()
            watcher.thread.join(60)
        self.assertFalse(watcher.thread.is_alive())
        self.assertEqual(faults, [])
