"""What rules write: copies of arriving mail, sent on through the outbox with a mark by which none comes round again,
and replies that are begun and kept as drafts."""

from __future__ import annotations

import sqlite3
import zlib

from hieranome.app.reading.incoming import Incoming
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing.drafts import hand_over, reached_as
from hieranome.app.writing.phrasing import begin_with
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.rules import Rule
from hieranome.core.times import DAY
from hieranome.mail.writing import Written, message_of, new_id
from hieranome.store import drafts, phrases, routines, rules

LOOP_MARK = "Hieranome-Loop"
"""The header of a copy: a message that bears it, from whomever, is never sent on."""
A_DAY = 200
"""Copies sent on within a day, and drafts begun, by all rules together."""


def may_be_sent_on(facts: MessageFacts) -> bool:
    """Whether a message bears no mark of a copy, as far as can be told: where headers were not read, it may."""
    return facts.headers_whole and LOOP_MARK.lower() not in facts.header_names


def forward(room: Mailroom, db: sqlite3.Connection, number: int, incoming: Incoming, rule: Rule, address: str) -> bool:
    """Within a change, put a copy of a stored message into the outbox; False where none goes: the message was sent on
    before, or not all of its headers could be read, the day's bound is reached, or nothing of the owner's can send
    it."""
    now = room.clock()
    who = drafts.identities(db)
    if not may_be_sent_on(incoming.facts) or not who:
        return False
    if rules.forwarded_since(db, now - DAY) >= A_DAY:
        return False
    sender = reached_as(who, [one.address for one in incoming.facts.recipients])
    written = Written(
        sender=Correspondent(sender.address, sender.name),
        to=(Correspondent(address, ""),),
        subject=f"Fwd: {incoming.facts.subject}"[:500],
        body=f"Sent on by a rule of {sender.address} ({rule.name}). The message is attached as it came.",
        files=(("message.eml", "application/octet-stream", zlib.decompress(incoming.compressed)),),
    )
    message_id = new_id(sender.address)
    raw = message_of(written, message_id, room.now(), with_bcc=False)
    marks = f"{LOOP_MARK}: {sender.address}\r\nAuto-Submitted: auto-generated\r\n"
    hand_over(room, db, written, message_id, marks.encode("ascii") + raw, kind="forward", answers=number)
    rules.note_forwarded(db, rule.id, number, address, now)
    return True


def begin_draft(room: Mailroom, number: int, rule: int, phrase: int) -> bool:
    """Within a change, begin a reply to a stored message with a phrase, as a draft that is never sent by itself; False
    where the day's bound is reached."""
    with room.change() as db:
        if routines.laid_by_rules(db, room.clock() - DAY) >= A_DAY:
            return False
        draft = begin_with(room, "reply", number, phrases.get(db, phrase).short)
        routines.note_laid(db, draft.id, room.clock(), rule=rule)
    return True
