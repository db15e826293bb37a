"""Unsubscribing, with the owner's word: by the ways a message's own headers name, where a signature speaks for them, or
else by refusing. What was asked and what came of it is kept; who writes all the same is named."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal
from urllib.parse import urlsplit

import dns.exception
import dns.rdatatype
import dns.resolver

from hieranome.app.arrival.placement import examine
from hieranome.app.arrival.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing.drafts import send
from hieranome.core.authentication import Standing, trusted_results
from hieranome.core.errors import CallerError
from hieranome.core.facts import MessageFacts
from hieranome.core.signatures import covers_both, speaks_for_unsubscribing
from hieranome.mail.public import Dial
from hieranome.mail.reading import read
from hieranome.mail.unsubscribing import KeyLookUp, Mailto, Ways, post_one_click, verified, ways
from hieranome.store import drafts, messages, subscriptions, unsubscribed
from hieranome.store.messages import Message
from hieranome.store.unsubscribed import Request

RELAPSE = 10 * 86_400
"""Seconds a sender has to stop in: mail dated later says that it did not."""
Way = Literal["post", "mailto", "link", "refuse"]


@dataclass(frozen=True, slots=True)
class Offer:
    """How a subscription can be ended: the way, to whom (a domain, an address of mail, or a web address to open), from
    which of the owner's addresses, and why it is that way, in words."""

    way: Way
    target: str
    sender: str
    words: str


def txt_of(name: bytes, patience: float) -> bytes:
    """What a DNS name says as TXT (RFC 6376, section 3.6.2); nothing where it says nothing."""
    try:
        answer = dns.resolver.resolve(name.decode("ascii"), dns.rdatatype.TXT, lifetime=patience, search=False)
    except (dns.exception.DNSException, OSError, UnicodeError):
        return b""
    return next((b"".join(one.strings) for one in answer), b"")


class Unsubscriber:
    """Ends subscriptions. ``dial`` and ``look_up`` stand in for the public network and the DNS in the demo and in
    tests."""

    def __init__(self, room: Mailroom, dial: Dial | None = None, look_up: KeyLookUp = txt_of) -> None:
        self._room = room
        self.dial = dial
        self._look_up = look_up

    def offer(self, key: str) -> Offer:
        """How a subscription can be ended, by what its newest message says. Nothing is asked of anybody for it. Raises
        :class:`NotFound`."""
        row, _, found, facts = self._newest(key)
        return self._offered(row, found, facts)[0]

    def unsubscribe(self, key: str) -> Request:
        """End a subscription by the way that is offered; what came of it. Raises :class:`CallerError` where there is no
        way but to refuse, or to open a page oneself; nothing is asked then."""
        row, raw, found, facts = self._newest(key)
        offer, mailto = self._offered(row, found, facts)
        if offer.way == "post":
            if not self._believed(facts, found) and not verified(raw, found, self._look_up):
                raise CallerError("Its signature could not be shown to hold, so nothing was sent. Refuse it instead.")
            return self._post(key, found.web, offer.target)
        if offer.way == "mailto" and mailto is not None:
            return self._write(key, mailto, offer.sender)
        raise CallerError(offer.words)

    def _newest(self, key: str) -> tuple[Message, bytes, Ways, MessageFacts]:
        db = self._room.reader()
        row = subscriptions.newest_of_all(db, [key])[key]
        raw = messages.raw(db, row.id)
        return row, raw, guarded(ways, raw), guarded(read, raw).facts

    def _offered(self, row: Message, found: Ways, facts: MessageFacts) -> tuple[Offer, Mailto | None]:
        standing = examine(self._room, self._room.reader(), facts, row.id).finding.standing
        if standing in (Standing.FORGED, Standing.UNALIGNED):
            return Offer(
                "refuse", "", "", "Nothing shows that its mail is genuine, so nothing is sent there. Refuse it."
            ), None
        host = urlsplit(found.web).hostname or ""
        if found.one_click and (self._believed(facts, found) or self._to_be_checked(facts, found)):
            return Offer(
                "post", host, "", f"{host} takes a request without a page (RFC 8058), and a signature speaks for it."
            ), None
        me = self._identity(row)
        if found.mailto is not None and me:
            return Offer("mailto", found.mailto.to, me, f"A message from {me} asks for it."), found.mailto
        if found.web:
            return Offer("link", found.web, "", "It wants a page to be opened, which is never done for you."), None
        return Offer("refuse", "", "", "It names no way to unsubscribe. Refuse it."), None

    def _believed(self, facts: MessageFacts, found: Ways) -> bool:
        """Whether a server the owner believes found a signature good that covers both headers."""
        results = trusted_results(facts, self._room.confirmed)
        return speaks_for_unsubscribing(found.signatures, results, found.counts)

    def _to_be_checked(self, facts: MessageFacts, found: Ways) -> bool:
        """Whether no believed server said anything, and a signature that could be checked covers both headers."""
        said = trusted_results(facts, self._room.confirmed)
        return not said and any(covers_both(one, found.counts) for one in found.signatures)

    def _identity(self, row: Message) -> str:
        """The address the mail came to, where the owner can write as it; empty where not."""
        db = self._room.reader()
        reached = subscriptions.reached(db, row.id)
        return reached if reached in {one.address for one in drafts.identities(db)} else ""

    def _post(self, key: str, url: str, host: str) -> Request:
        with self._room.change() as db:
            number = unsubscribed.add(db, key, self._room.clock(), "post", host)
        outcome = post_one_click(url, self.dial)
        with self._room.change() as db:
            unsubscribed.finish(db, number, outcome.said, outcome.words)
            return _request(db, key, number)

    def _write(self, key: str, mailto: Mailto, sender: str) -> Request:
        with self._room.change() as db:
            now = self._room.clock()
            draft = drafts.add(
                db,
                kind="new",
                sender=sender,
                recipients=mailto.to,
                subject=mailto.subject,
                body=mailto.body,
                changed_at=now,
            )
            send(self._room, draft)
            number = unsubscribed.add(db, key, now, "mailto", mailto.to)
            unsubscribed.finish(db, number, "sent", f"A message to {mailto.to} is in the outbox.")
            return _request(db, key, number)


def _request(db: sqlite3.Connection, key: str, number: int) -> Request:
    return next(one for one in unsubscribed.of_source(db, key) if one.id == number)
