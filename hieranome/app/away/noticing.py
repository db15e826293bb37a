"""The away notice sent to who writes: once a person in some days, never to what RFC 3834 forbids."""

from __future__ import annotations

import logging
import secrets
import sqlite3
import zlib

from hieranome.app.arrival.incoming import Incoming, Placed
from hieranome.app.arrival.processes import guarded
from hieranome.app.away.keeping import Reader, answered_by_server
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.applying import mail_of
from hieranome.core.addresses import untagged
from hieranome.core.away import LATE, Asked, Away, canonical, forbidden, language_of, subject_of, text_of
from hieranome.core.errors import CallerError, MessageUnreadable
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.judgement import Judgement
from hieranome.core.matching import holds
from hieranome.core.times import DAY
from hieranome.mail.answering import asked, notice
from hieranome.mail.writing import recipients, reply_mentions
from hieranome.store import away as kept
from hieranome.store import drafts, tags
from hieranome.store.away import Told
from hieranome.store.drafts import Identity

A_DAY = 500
"""Notices sent within a day at most."""
_LOG = logging.getLogger(__name__)


def heed_away(
    room: Mailroom,
    db: sqlite3.Connection,
    number: int,
    incoming: Incoming,
    judgement: Judgement,
    placed: Placed,
    *,
    forged: bool,
) -> None:
    """Within a change: a message arrived and was placed. Where the owner is away and its sender may be told,
    a notice is put into the outbox. What cannot be written is left; the message has arrived all the same."""
    away = kept.get(db)
    now = room.clock()
    if not away.holds_at(now) or not incoming.facts.readable or incoming.facts.sent_at < now - LATE:
        return
    if answered_by_server(room, incoming.account) or kept.count_since(db, now - DAY) >= A_DAY:
        return
    raw = zlib.decompress(incoming.compressed)
    try:
        with room.part(db):
            ask = guarded(asked, raw)
            if forbidden(ask, incoming.facts, room.owner, placed.place, forged=forged):
                return
            mail = mail_of(incoming, judgement, placed.place)
            mail.tags = set(tags.of(db, [number]).get(number, ()))
            reader = Reader.of(room, away.circles)
            circle = reader.circle_of(incoming.facts.sender.address, lambda node: holds(node, mail))
            if circle is not None and circle.texts:
                _send(room, db, number, incoming, ask, away, circle.name, text_of(circle, language_of(incoming.text)))
    except (CallerError, MessageUnreadable, ValueError, LookupError) as exc:
        _LOG.warning("no away notice could be sent: %s", exc)


def _send(
    room: Mailroom,
    db: sqlite3.Connection,
    number: int,
    incoming: Incoming,
    ask: Asked,
    away: Away,
    circle: str,
    said: tuple[str, str],
) -> None:
    """Put a notice into the outbox, unless its person got one within the days."""
    facts, now = incoming.facts, room.clock()
    (to,) = recipients(ask.return_path or "")  # one that is written so that every program reads the same in it
    person = canonical(to.address)
    if kept.told_since(db, person, now - away.days * DAY):
        return
    sender = sender_for(db, ask)
    if sender is None:
        return
    message_id = f"<{secrets.token_hex(12)}@{sender.address.rpartition('@')[2]}>"
    language, body = said
    raw = _written(room, sender, to.address, facts, body, message_id)
    draft = drafts.add(
        db, kind="answer", sender=sender.address, recipients=to.address, subject=subject_of(facts.subject),
        body=body, answers=number, changed_at=now,
    )  # fmt: skip
    drafts.update(
        db, draft, state="waiting", due_at=now, automatic=1, message_id=message_id, raw=raw, envelope=to.address,
        filed=1,
    )  # fmt: skip
    kept.note(db, Told(person, now, circle, language, number, ""), message_id)
    room.tell("drafts")
    room.tell("away")


def _written(room: Mailroom, sender: Identity, to: str, facts: MessageFacts, body: str, message_id: str) -> bytes:
    answers = facts.message_id, tuple(one for one in reply_mentions(facts) if one != facts.message_id)
    who = Correspondent(sender.address, sender.name)
    return notice(who, to, subject_of(facts.subject), body, answers, message_id, room.now())


def sender_for(db: sqlite3.Connection, ask: Asked) -> Identity | None:
    """As whom a notice is sent: as the address that was written to, or else the first; None where there is nobody."""
    who = drafts.identities(db)
    named = {untagged(one) for one in ask.named}
    return next((one for one in who if one.address in named), who[0] if who else None)
