"""Watching mailboxes: a thread for each, which reads its history, looks when there may be news, and carries out what
was decided here."""

from __future__ import annotations

import contextlib
import logging
import socket
import ssl
import threading
from collections.abc import Callable

from hieranome.app.access.logins import Logins
from hieranome.app.access.reaching import connect
from hieranome.app.mailbox.draft_copies import keep_drafts
from hieranome.app.mailbox.edition_copies import put_editions
from hieranome.app.mailbox.folders import mirror_parked
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.sent_copies import file_sent
from hieranome.app.mailbox.syncing import as_known, sync
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import (
    CallerError,
    FolderMissing,
    HieranomeError,
    NotPermitted,
    SecretRefused,
    ServerFull,
    ServerRefused,
    WorldError,
)
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Status
from hieranome.mail.servers import CertificateRefused
from hieranome.store import accounts, drafts, editions, goals
from hieranome.store.accounts import Account

_LOG = logging.getLogger(__name__)
POLL = 30.0
"""Seconds between looks where nothing hints at news."""
FIRST_WAIT, LAST_WAIT = 1.0, 300.0
"""Seconds until a mailbox that could not be reached is tried again, at first and in the end."""
ENDS_WITHIN = 20.0
"""Seconds one that is closed is waited for; one that takes longer ends by itself later."""
LOOKS_AT_ONCE = 20
THOROUGH_EVERY = 10
"""Every which look goes through the flags of all folders, where the server keeps no mod-sequences."""


class Watcher:
    """One mailbox watched from a thread of its own, which ends when it is closed or the mailbox is gone, and for no
    fault whatever. Its end of the pair of sockets that wake it is its own: closing takes only the other one away."""

    def __init__(
        self,
        room: Mailroom,
        logins: Logins,
        account: int,
        *,
        poll: float = POLL,
        trust: ssl.SSLContext | None = None,
        after: threading.Thread | None = None,
    ) -> None:
        self._after = after
        self._room, self._logins, self._account, self._poll, self._trust = room, logins, account, poll, trust
        self._pair()
        self._ended = threading.Event()
        self._stop = room.events.listen(self._notice)
        self._thread = threading.Thread(target=self._work, name=f"mailbox-{account}", daemon=True)
        self._looks = self._whole = 0
        self._edition = 0  # the newest it was woken for: what the server refuses is tried again at the next look

    def _pair(self) -> None:
        """The two sockets by which it is woken."""
        self._ours, self._theirs = socket.socketpair()
        self._theirs.setblocking(False)

    def start(self) -> None:
        """Begin to watch."""
        self._thread.start()

    def wake(self) -> None:
        """Look now."""
        with contextlib.suppress(OSError):
            self._theirs.send(b"x")

    def close(self) -> None:
        """Stop after the batch at hand."""
        self._stop()
        self._ended.set()
        self.wake()
        if self._thread.is_alive():
            self._thread.join(ENDS_WITHIN)
        if not self._thread.is_alive():
            self._ours.close()
        self._theirs.close()

    def _notice(self) -> None:
        with contextlib.suppress(Exception):
            waiting = editions.to_put(self._room.reader())
            fresh = bool(waiting) and waiting[-1][0] > self._edition
            if fresh:
                self._edition = waiting[-1][0]
            if fresh or self._anything_to_do():
                self.wake()

    def _anything_to_do(self) -> bool:
        db = self._room.reader()
        return goals.anything_to_do(db, self._account) or bool(drafts.to_file(db, self._account))

    def _stopped(self) -> bool:
        return self._ended.is_set() or self._settings() is None or bool(self._now().paused)

    def _now(self) -> Account:
        return accounts.get(self._room.reader(), self._account)

    def _settings(self) -> Account | None:
        try:
            return self._now()
        except CallerError:
            return None

    @property
    def thread(self) -> threading.Thread:
        """What watches."""
        return self._thread

    def _work(self) -> None:
        if self._after is not None:
            self._after.join()  # never two at once in one mailbox, however long the one before takes to end
            self._after = None
        wait = FIRST_WAIT
        while not self._ended.is_set():
            try:
                account = self._settings()
                if account is None:
                    break
                if account.paused:
                    self._sleep(self._poll)
                    continue
                wait = self._watched(account, wait)
            except Exception as exc:
                # A mailbox is never left unwatched for a fault of ours, nor for one of the disk.
                _LOG.exception("watching a mailbox failed")
                reason = f"Watching failed for a reason of our own ({type(exc).__name__}). It is tried again."
                with contextlib.suppress(Exception):  # what cannot be told either is in the log
                    self._tell_error(reason)
                wait = LAST_WAIT
            if wait:
                self._sleep(wait)
        self._ours.close()

    def _watched(self, account: Account, wait: float) -> float:
        """Watch until something ends it; seconds until it is tried again, where ``wait`` were waited last."""
        whole = self._whole
        try:
            self._watch(account)
        except (SecretRefused, CertificateRefused, CallerError) as exc:
            self._tell_error(str(exc))
            return LAST_WAIT
        except HieranomeError as exc:
            self._tell_error(str(exc))
            # A connection that served for a whole look was a good one: it is made again soon.
            return FIRST_WAIT if self._whole > whole else min(max(wait, FIRST_WAIT) * 2, LAST_WAIT)
        return 0.0

    def _watch(self, account: Account) -> None:
        """Connect and stay connected until the mailbox is paused or something breaks."""
        imap = connect(self._logins, account, self._trust)
        try:
            self._try_again()
            if not read_history(self._room, imap, self._account, self._stopped):
                return
            while not self._stopped():
                self._look(imap)
                self._whole += 1
                if self._looks % THOROUGH_EVERY == 0:
                    self._try_again()
                told = imap.select("INBOX")
                if not self._stopped() and not self._anything_to_do() and self._is_known(told):
                    imap.wait(self._poll, self._ours)
                self._drain()
        finally:
            imap.close()

    def _is_known(self, told: Status) -> bool:
        """Whether the inbox is as it was found by the last look; what opening it tells may be news already."""
        inbox = next((f for f in accounts.folders(self._room.reader(), self._account) if f.role == "inbox"), None)
        return inbox is None or inbox.low != 0 or as_known(inbox, told)

    def _look(self, imap: Imap) -> None:
        for _ in range(LOOKS_AT_ONCE):
            self._looks += 1
            refused = [self._put_there(work, imap) for work in (file_sent, keep_drafts, put_editions)]
            changed = sync(self._room, imap, self._account, thorough=self._looks % THOROUGH_EVERY == 1)
            if any(refused):
                self._tell_error(" ".join(filter(None, refused)))
            if not changed or self._stopped():
                return

    def _put_there(self, work: Callable[[Mailroom, Imap, int], int], imap: Imap) -> str:
        """Put something of ours into the mailbox; what the server said where it refuses, which stops nothing else."""
        try:
            work(self._room, imap, self._account)
        except (ServerFull, ServerRefused, NotPermitted, FolderMissing) as exc:
            return str(exc)
        return ""

    def _try_again(self) -> None:
        with self._room.change() as db:
            goals.try_again(db, self._account)

    def _tell_error(self, error: str) -> None:
        with contextlib.suppress(WorldError), self._room.change() as db:
            accounts.update(db, self._account, error=error)
        self._room.tell("account", account=self._account, error=error)

    def _sleep(self, seconds: float) -> None:
        try:
            self._ours.settimeout(seconds)
            self._ours.recv(1024)
        except TimeoutError:
            pass
        except OSError:
            self._theirs.close()
            self._pair()  # what woke it is broken
            self._ended.wait(seconds)
        self._drain()

    def _drain(self) -> None:
        with contextlib.suppress(OSError):
            self._ours.setblocking(False)
            while self._ours.recv(1024):
                pass


class Watchers:
    """Every mailbox's watcher."""

    def __init__(
        self, room: Mailroom, logins: Logins, *, poll: float = POLL, trust: ssl.SSLContext | None = None
    ) -> None:
        self.room, self.logins, self.trust = room, logins, trust
        self._poll = poll
        self._watchers: dict[int, Watcher] = {}
        self._lock = threading.RLock()
        logins.vault.on_unlock(self.wake)

    def start(self) -> None:
        """Watch all mailboxes there are."""
        with self.room.change() as db:
            mirror_parked(db)
        for account in accounts.every(self.room.reader()):
            self.watch(account.id)

    def watch(self, account: int) -> None:
        """Begin to watch a mailbox, or begin anew."""
        with self._lock:
            before = self._watchers.pop(account, None)
            if before is not None:
                before.close()
            after = before.thread if before is not None and before.thread.is_alive() else None
            watcher = Watcher(self.room, self.logins, account, poll=self._poll, trust=self.trust, after=after)
            self._watchers[account] = watcher
            watcher.start()

    def leave(self, account: int) -> None:
        """Stop watching a mailbox."""
        with self._lock:
            watcher = self._watchers.pop(account, None)
            if watcher is not None:
                watcher.close()

    def wake(self) -> None:
        """Look everywhere now."""
        for watcher in list(self._watchers.values()):
            watcher.wake()

    def close(self) -> None:
        """Stop watching."""
        for account in list(self._watchers):
            self.leave(account)
