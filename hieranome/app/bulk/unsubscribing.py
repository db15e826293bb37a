"""Unsubscribing, with the owner's word: by the ways a message's own headers name, where a signature speaks for them, or
else by refusing. What was asked and what came of it is kept; who writes all the same is named."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal
from urllib.parse import urlsplit

import dns.exception
import dns.rdatatype
import dns.resolver

from hieranome.app.reading.placement import examine
from hieranome.app.reading.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing.drafts import send
from hieranome.core.authentication import Standing, aligned, trusted_results
from hieranome.core.errors import CallerError
from hieranome.core.facts import MessageFacts
from hieranome.core.signatures import BOTH, UNSUBSCRIBE, Signature, covers_all, found_good
from hieranome.mail.organisations import organisation
from hieranome.mail.public import Dial
from hieranome.mail.reading import read
from hieranome.mail.unsubscribing import KeyLookUp, Ways, post_one_click, verified, ways
from hieranome.store import drafts, messages, subscriptions, unsubscribed
from hieranome.store.messages import Message
from hieranome.store.unsubscribed import Request

RELAPSE = 10 * 86_400
"""Seconds a sender has to stop in: mail dated later says that it did not."""
Way = Literal["post", "mailto", "link", "refuse"]


@dataclass(frozen=True, slots=True)
class Offer:
    """How a subscription can be ended: the way, to whom (a domain, an address of mail, or a web address to open), from
    which of the owner's addresses, why it is that way, in words, and the subject and text of a message that asks for
    it, whole."""

    way: Way
    target: str
    sender: str
    words: str
    subject: str = ""
    text: str = ""


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
        return self._offered(row, found, facts)

    def asked(self, key: str) -> list[Request]:
        """What was asked of a subscription so far, and what came of it."""
        return unsubscribed.of_source(self._room.reader(), key)

    def unsubscribe(self, key: str) -> Request:
        """End a subscription by the way that is offered; what came of it. Raises :class:`CallerError` where there is no
        way but to refuse, or to open a page oneself; nothing is asked then."""
        row, raw, found, facts = self._newest(key)
        offer = self._offered(row, found, facts)
        if offer.way == "post":
            if not self._believed(facts, found, BOTH) and not self._holds(raw, facts, found, BOTH):
                raise CallerError("Its signature could not be shown to hold, so nothing was sent. Refuse it instead.")
            return self._post(key, found.web, offer.target)
        if offer.way == "mailto":
            if not (self._is_assured(facts, found, offer.target) or self._holds(raw, facts, found, (UNSUBSCRIBE,))):
                raise CallerError("Its signature could not be shown to hold, so nothing was sent. Refuse it instead.")
            return self._write(key, offer)
        raise CallerError(offer.words)

    def _newest(self, key: str) -> tuple[Message, bytes, Ways, MessageFacts]:
        db = self._room.reader()
        row = subscriptions.newest_of_all(db, [key])[key]
        raw = messages.raw(db, row.id)
        return row, raw, guarded(ways, raw), guarded(read, raw).facts

    def _offered(self, row: Message, found: Ways, facts: MessageFacts) -> Offer:
        if not found.whole:
            return _refuse("Not all of its headers could be read, so nothing is sent there.")
        standing = examine(self._room, self._room.reader(), facts, row.id).finding.standing
        if standing in (Standing.FORGED, Standing.UNALIGNED):
            return _refuse("Nothing shows that its mail is genuine, so nothing is sent there.")
        host = urlsplit(found.web).hostname or ""
        if found.one_click and (self._believed(facts, found, BOTH) or self._can_be_checked(facts, found, BOTH)):
            return Offer(
                "post", host, "", f"{host} takes a request without a page (RFC 8058), and a signature speaks for it."
            )
        me = self._identity(row)
        mailto = found.mailto
        if (
            mailto is not None
            and me
            and (self._is_assured(facts, found, mailto.to) or self._can_be_checked(facts, found, (UNSUBSCRIBE,)))
        ):
            words = f"A message from {me} asks for it."
            return Offer("mailto", mailto.to, me, words, mailto.subject, mailto.body)
        if found.web:
            return Offer("link", found.web, "", "It wants a page to be opened, which is never done for you.")
        if mailto is not None and me:
            return _refuse(f"It asks for a message to {mailto.to}, and nothing shows that its sender reads that.")
        return _refuse("It names no way to unsubscribe.")

    def _is_assured(self, facts: MessageFacts, found: Ways, address: str) -> bool:
        """Whether an address that a message names may be written to without looking further: it is of the sender's own
        organisation, or by a believed server's word a signature of that covers the field."""
        return self._is_of(facts, address) or self._believed(facts, found, (UNSUBSCRIBE,), own=True)

    def _is_of(self, facts: MessageFacts, address: str) -> bool:
        """Whether an address is of the sender's organisation, or, where many unrelated people write from a domain, the
        sender's own."""
        domain = address.rpartition("@")[2].lower()
        if domain in self._room.shared:
            return address.lower() == facts.sender.address
        return aligned(domain, facts.sender.domain, organisation)

    def _believed(self, facts: MessageFacts, found: Ways, names: Sequence[str], *, own: bool = False) -> bool:
        """Whether a server the owner believes found a signature good that covers some headers; with ``own``, one of the
        sender's organisation."""
        results = trusted_results(facts, self._room.confirmed)
        return any(
            covers_all(one, found.counts, names) and (not own or self._is_senders(facts, one))
            for one in found_good(found.signatures, results)
        )

    def _can_be_checked(self, facts: MessageFacts, found: Ways, names: Sequence[str]) -> bool:
        """Whether no believed server said anything, and a signature of the sender's organisation covers some headers
        that could be checked."""
        said = trusted_results(facts, self._room.confirmed)
        return not said and any(map(self._speaking(facts, found, names), found.signatures))

    def _holds(self, raw: bytes, facts: MessageFacts, found: Ways, names: Sequence[str]) -> bool:
        """Whether such a signature holds, by its key in the DNS."""
        return verified(raw, found, self._speaking(facts, found, names), self._look_up)

    def _speaking(self, facts: MessageFacts, found: Ways, names: Sequence[str]) -> Callable[[Signature], bool]:
        return lambda one: covers_all(one, found.counts, names) and self._is_senders(facts, one)

    def _is_senders(self, facts: MessageFacts, one: Signature) -> bool:
        return aligned(one.domain, facts.sender.domain, organisation)

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

    def _write(self, key: str, offer: Offer) -> Request:
        with self._room.change() as db:
            now = self._room.clock()
            draft = drafts.add(
                db,
                kind="new",
                sender=offer.sender,
                recipients=offer.target,
                subject=offer.subject,
                body=offer.text,
                changed_at=now,
            )
            send(self._room, draft)
            number = unsubscribed.add(db, key, now, "mailto", offer.target)
            unsubscribed.finish(db, number, "sent", f"A message to {offer.target} is in the outbox.")
            return _request(db, key, number)


def _refuse(why: str) -> Offer:
    return Offer("refuse", "", "", f"{why} Refuse it.")


def _request(db: sqlite3.Connection, key: str, number: int) -> Request:
    return next(one for one in unsubscribed.of_source(db, key) if one.id == number)
