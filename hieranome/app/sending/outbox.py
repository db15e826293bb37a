"""The outbox: messages go when they are due, once, and their copies come to stand in Sent."""

from __future__ import annotations

import ssl
from dataclasses import replace

from hieranome.app.access.logins import Logins
from hieranome.app.access.reaching import smtp_server
from hieranome.app.arrival.arrive import take_in
from hieranome.app.filing import file_away
from hieranome.app.reading.incoming import Placed
from hieranome.app.reading.processes import prepared
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import tell_following
from hieranome.app.room.worker import Worker
from hieranome.app.writing.drafts import envelope_of, without_bcc
from hieranome.core.buckets import DRAFTS, SENT, TRASH
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError, HieranomeError, WorldError
from hieranome.mail.servers import Login
from hieranome.mail.smtp import NotAccepted, Unsure, hand_in
from hieranome.store import accounts, away, drafts, following, messages
from hieranome.store.accounts import Account
from hieranome.store.drafts import Draft
from hieranome.store.following import State

LAST_WAIT = 1800
"""Seconds at most between tries of a message that the server does not take now."""
IDLE = 5.0
LATEST = 86_400
"""Seconds within which a server must take what is sent by itself."""
LATE = 3_600
"""Seconds by which a message that was to go at a time may be late; later than that it asks."""


class Outbox:
    """Sends what is due, from a thread. What was being handed in when the process ended is unsure then, and never sent
    again by itself."""

    def __init__(self, room: Mailroom, logins: Logins, *, trust: ssl.SSLContext | None = None) -> None:
        self._room, self._logins, self._trust = room, logins, trust
        self.worker = Worker(room, "outbox", "sending what waits in the outbox", self._round)
        self._stop = room.events.listen(self.worker.wake)

    def start(self) -> None:
        """Begin; what was cut off comes first."""
        self.settle()
        self.worker.start()

    def close(self) -> None:
        """Stop after the message at hand."""
        self._stop()
        self.worker.close()

    def settle(self) -> None:
        """Say of messages that were on their way when the process ended what is known of them."""
        with self._room.change() as db:
            for one in drafts.in_state(db, "handing"):
                if one.automatic:
                    self._refused(one, UNSURE)
                else:
                    drafts.update(db, one.id, state="unsure", error=UNSURE)
            for one in drafts.in_state(db, "sending"):
                drafts.update(db, one.id, state="waiting")

    def _round(self) -> float | None:
        """Send what is due; the state of one that was begun says how far it came, should that fail."""
        self.send_due()
        waiting = drafts.in_state(self._room.reader(), "waiting")
        left = waiting[0].due_at - self._room.clock() if waiting else IDLE
        return max(0.2, min(float(left), IDLE))

    def send_due(self) -> int:
        """Send all that is due; how many went."""
        sent = 0
        while not self.worker.ended.is_set():
            now = self._room.clock()
            due = [one for one in drafts.in_state(self._room.reader(), "waiting") if one.due_at <= now]
            if not due:
                return sent
            if due[0].automatic and now > due[0].changed_at + LATEST:
                self._refused(due[0], STALE)
            elif due[0].timed and now > due[0].timed + LATE:
                self._set(due[0], "draft", error=TOO_LATE, was="waiting")
            else:
                sent += self.send(due[0])
        return sent

    def send(self, draft: Draft) -> bool:
        """Send one message of the outbox; whether it went. Its state says what became of it."""
        if not self._set(draft, "sending", was="waiting"):
            return False
        raw = drafts.raw(self._room.reader(), draft.id)
        try:
            who = next(one for one in drafts.identities(self._room.reader()) if one.address == draft.sender)
            account = accounts.get(self._room.reader(), who.account)
            self._hand_in(account, draft, raw)
        except Unsure as exc:
            if draft.automatic:
                self._refused(draft, str(exc))
            else:
                self._set(draft, "unsure", error=str(exc))
            return False
        except (NotAccepted, CallerError, StopIteration) as exc:
            self._refused(draft, str(exc) or "The address it is sent from is no longer yours.")
            return False
        except HieranomeError as exc:
            self._later(draft, str(exc))
            return False
        self._sent(draft, raw)
        return True

    def _hand_in(self, account: Account, draft: Draft, raw: bytes) -> None:
        """Hand it in; where a token is not taken that had not run out, once more with the next. What goes by itself has
        no envelope sender, so that no report on it comes back (RFC 5321, section 4.5.5)."""

        def hand_in_with(login: Login) -> None:
            hand_in(
                smtp_server(account),
                login,
                sender,
                envelope_of(self._room, draft),
                without_bcc(raw),
                begun=lambda: self._begun(draft),
                trust=self._trust,
            )

        sender = "" if draft.automatic else draft.sender
        try:
            self._logins.enter(account, hand_in_with)
        except NotAccepted:
            if sender:
                raise
            sender = draft.sender  # some servers take mail with the sender's own address alone
            self._logins.enter(account, hand_in_with)

    def _begun(self, draft: Draft) -> None:
        if not self._set(draft, "handing", was="sending"):
            raise WorldError("The message was taken back.")

    def _set(self, draft: Draft, state: str, *, error: str = "", was: str = "") -> bool:
        with self._room.change() as db:
            if was and drafts.get(db, draft.id).state != was:
                return False
            drafts.update(db, draft.id, state=state, error=error)
        self._room.tell("drafts")
        return True

    def _refused(self, draft: Draft, error: str) -> None:
        """What nobody takes is a draft again; what went by itself is told where such mail is."""
        if not draft.automatic:
            self._set(draft, "draft", error=error)
            return
        with self._room.change() as db:
            away.note_failed(db, draft.message_id, error)
            drafts.remove(db, draft.id)
            self._room.tell("away")
            self._room.tell("drafts")

    def _later(self, draft: Draft, error: str) -> None:
        wait = min(30 * 2**draft.tries, LAST_WAIT)
        with self._room.change() as db:
            due = self._room.clock() + wait
            drafts.update(db, draft.id, state="waiting", tries=draft.tries + 1, due_at=due, error=error)
        self._room.tell("drafts")

    def _sent(self, draft: Draft, raw: bytes) -> None:
        """It went: its copy stands in Sent here, and is to be put there on the server; none of what went by itself."""
        if draft.automatic:
            with self._room.change() as db:
                drafts.remove(db, draft.id)
                self._room.tell("drafts")
            return
        incoming = prepared(raw, self._room.clock(), seen=True)
        with self._room.change() as db:
            drafts.update(db, draft.id, state="sent", error="")
            number = take_in(self._room, db, replace(incoming, stands=Placed(SENT, Decider.OWN)))
            if draft.awaited and number is not None:
                following.set_state(db, "awaited", number, State(draft.awaited, self._room.clock()))
                tell_following(self._room, [number])
            if draft.continues is not None and messages.get(db, draft.continues).place == DRAFTS:
                file_away(self._room, [draft.continues], TRASH)
            self._room.tell_counts()
            self._room.tell("drafts")


TOO_LATE = (
    "It was to go at a time when it could not: this machine was off, or the server was out of reach. It is more than "
    "an hour late now. Send it still, at another time, or not at all?"
)
STALE = "No server took the notice for a day, so it was not sent any more."
UNSURE = (
    "Hieranome ended while this message was handed in, so it may have gone or not. Look into Sent or ask a recipient "
    "before you send it again."
)
