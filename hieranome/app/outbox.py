"""The outbox: letters go when they are due, once, and their copies come to stand in Sent."""

from __future__ import annotations

import ssl
from dataclasses import replace

from hieranome.app.arrive import take_in
from hieranome.app.incoming import Placed
from hieranome.app.letters import envelope_of, without_bcc
from hieranome.app.mailroom import Mailroom
from hieranome.app.readers import prepared
from hieranome.app.vault import Vault
from hieranome.app.watching import smtp_server
from hieranome.app.worker import Worker
from hieranome.core.buckets import SENT
from hieranome.core.errors import CallerError, HieranomeError, SecretRefused, WorldError
from hieranome.mail.servers import Login
from hieranome.mail.smtp import NotAccepted, Unsure, hand_in
from hieranome.store import accounts, letters
from hieranome.store.letters import Letter

LAST_WAIT = 1800
"""Seconds at most between tries of a letter that the server does not take now."""
IDLE = 5.0


class Outbox:
    """Sends what is due, from a thread. What was being handed in when the process ended is unsure then, and never sent
    again by itself."""

    def __init__(self, room: Mailroom, vault: Vault, *, trust: ssl.SSLContext | None = None) -> None:
        self._room, self._vault, self._trust = room, vault, trust
        self.worker = Worker(room, "outbox", "sending what waits in the outbox", self._round)
        self._stop = room.events.listen(self.worker.wake)

    def start(self) -> None:
        """Begin; what was cut off comes first."""
        self.settle()
        self.worker.start()

    def close(self) -> None:
        """Stop after the letter at hand."""
        self._stop()
        self.worker.close()

    def settle(self) -> None:
        """Say of letters that were on their way when the process ended what is known of them."""
        with self._room.change() as db:
            for one in letters.in_state(db, "handing"):
                letters.update(db, one.id, state="unsure", error=UNSURE)
            for one in letters.in_state(db, "sending"):
                letters.update(db, one.id, state="waiting")

    def _round(self) -> float | None:
        """Send what is due; the state of a letter that was begun says how far it came, should that fail."""
        self.send_due()
        waiting = letters.in_state(self._room.reader(), "waiting")
        left = waiting[0].due_at - self._room.clock() if waiting else IDLE
        return max(0.2, min(float(left), IDLE))

    def send_due(self) -> int:
        """Send all that is due; how many went."""
        sent = 0
        while not self.worker.ended.is_set():
            due = [one for one in letters.in_state(self._room.reader(), "waiting") if one.due_at <= self._room.clock()]
            if not due:
                return sent
            sent += self.send(due[0])
        return sent

    def send(self, letter: Letter) -> bool:
        """Send one letter of the outbox; whether it went. Its state says what became of it."""
        if not self._set(letter, "sending", was="waiting"):
            return False
        raw = letters.raw(self._room.reader(), letter.id)
        try:
            who = next(one for one in letters.identities(self._room.reader()) if one.address == letter.sender)
            account = accounts.get(self._room.reader(), who.account)
            hand_in(
                smtp_server(account),
                self._login(account),
                letter.sender,
                envelope_of(self._room, letter),
                without_bcc(raw),
                begun=lambda: self._begun(letter),
                trust=self._trust,
            )
        except Unsure as exc:
            self._set(letter, "unsure", error=str(exc))
            return False
        except (NotAccepted, CallerError, StopIteration) as exc:
            self._set(letter, "draft", error=str(exc) or "The address it is sent from is no longer yours.")
            return False
        except HieranomeError as exc:
            self._later(letter, str(exc))
            return False
        self._sent(letter, raw)
        return True

    def _login(self, account: accounts.Account) -> Login:
        secret = self._vault.get(account.address)
        if secret is None:
            raise SecretRefused(f"The secret of {account.address} cannot be read. Sign in here, or enter it anew.")
        return Login(account.user, secret, account.bearer)

    def _begun(self, letter: Letter) -> None:
        if not self._set(letter, "handing", was="sending"):
            raise WorldError("The letter was taken back.")

    def _set(self, letter: Letter, state: str, *, error: str = "", was: str = "") -> bool:
        with self._room.change() as db:
            if was and letters.get(db, letter.id).state != was:
                return False
            letters.update(db, letter.id, state=state, error=error)
        self._room.tell("letters")
        return True

    def _later(self, letter: Letter, error: str) -> None:
        wait = min(30 * 2**letter.tries, LAST_WAIT)
        with self._room.change() as db:
            due = self._room.clock() + wait
            letters.update(db, letter.id, state="waiting", tries=letter.tries + 1, due_at=due, error=error)
        self._room.tell("letters")

    def _sent(self, letter: Letter, raw: bytes) -> None:
        """It went: its copy stands in Sent here, and is to be put there on the server."""
        incoming = prepared(raw, self._room.clock(), seen=True)
        with self._room.change() as db:
            letters.update(db, letter.id, state="sent", error="")
            take_in(self._room, db, replace(incoming, stands=Placed(SENT, "own")))
            self._room.tell_counts()
            self._room.tell("letters")


UNSURE = (
    "Hieranome ended while this letter was handed in, so it may have gone or not. Look into Sent or ask a recipient "
    "before you send it again."
)
