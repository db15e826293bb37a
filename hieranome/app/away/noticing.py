"""The away notice sent to who writes: once a person in some days, never to what RFC 3834 forbids."""

from __future__ import annotations

import logging
import sqlite3
import zlib

from hieranome.app.away.keeping import Reader, answered_by_server
from hieranome.app.reading.listening import Arriving, Listener
from hieranome.app.reading.placement import reaches_its_writer
from hieranome.app.reading.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.applying import mail_of
from hieranome.app.writing.drafts import hand_over, reached_as
from hieranome.core.away import LATE, Answer, Asked, answer, subject_of
from hieranome.core.errors import CallerError, MessageUnreadable
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.matching import holds
from hieranome.core.times import DAY
from hieranome.mail.answering import asked, notice
from hieranome.mail.writing import new_id
from hieranome.store import away as kept
from hieranome.store import drafts, tags
from hieranome.store.away import Told

NOBODY = "No mailbox was connected that could send it."
"""Why nobody got a notice."""
A_DAY = 500
"""Notices sent within a day at most."""
_LOG = logging.getLogger(__name__)


class AwayNotice(Listener):
    """The away notice: it goes to who writes while the owner is away, where they may get one."""

    def stored(self, one: Arriving) -> None:
        """Put a notice into the outbox where one is due. What cannot be written is left; the message has arrived all
        the same."""
        if not one.mine:
            _answer(one)


def _answer(one: Arriving) -> None:
    room, db, incoming, place = one.room, one.db, one.incoming, one.where.place
    away = kept.get(db)
    now = room.clock()
    if not away.holds_at(now) or not incoming.facts.readable or incoming.facts.sent_at < now - LATE:
        return
    if answered_by_server(room, incoming.account) or kept.count_since(db, now - DAY) >= A_DAY:
        return
    facts = incoming.facts
    try:
        with room.part(db):
            ask = guarded(asked, zlib.decompress(incoming.compressed))
            mail = mail_of(incoming, one.judgement, place)
            mail.tags = set(tags.of(db, [one.number]).get(one.number, ()))
            reader = Reader.of(room, away.circles)
            said = answer(
                ask, facts, room.owner, place, incoming.text,
                lambda: reader.circle_of(facts.sender.address, lambda node: holds(node, mail)),
                forged=one.found.forged, leads_back=reaches_its_writer(room, facts),
            )  # fmt: skip
            if isinstance(said, Answer) and not kept.told_since(db, said.person, now - away.days * DAY):
                _send(room, db, one.number, facts, ask, said)
    except (CallerError, MessageUnreadable, ValueError, LookupError) as exc:
        _LOG.warning("no away notice could be sent: %s", exc)


def _send(room: Mailroom, db: sqlite3.Connection, number: int, facts: MessageFacts, ask: Asked, said: Answer) -> None:
    """Put a notice into the outbox, or note that nothing can send it."""
    who = drafts.identities(db)
    told = Told(said.person, room.clock(), said.circle, said.language, number, "" if who else NOBODY)
    message_id = ""
    if who:
        sender = reached_as(who, ask.named)
        message_id = new_id(sender.address)
        me = Correspondent(sender.address, sender.name)
        subject = subject_of(facts.subject)
        written, raw = notice(me, said.to, subject, said.text, facts, message_id, room.now())
        hand_over(room, db, written, message_id, raw, kind="answer", answers=number, automatic=True)
    kept.note(db, told, message_id)
    room.tell("away")
