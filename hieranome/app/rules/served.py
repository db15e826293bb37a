"""Mail that rules of ours filed at a server, explained once it is found there."""

from __future__ import annotations

import logging
import sqlite3

from hieranome.app.reading.incoming import Incoming
from hieranome.app.reading.placement import examine, known_placement
from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move
from hieranome.app.rules.applying import RULE, binding_of, mail_of
from hieranome.app.rules.keeping import reads
from hieranome.core.actors import Actor
from hieranome.core.deciders import Decider
from hieranome.core.errors import HieranomeError
from hieranome.core.rules import ruled
from hieranome.core.steps import StepKind
from hieranome.store import journal, messages, rules, scripts
from hieranome.store.accounts import Folder
from hieranome.store.messages import Message
from hieranome.store.rules import Hit

_LOG = logging.getLogger(__name__)


def explain_filed(room: Mailroom, db: sqlite3.Connection, number: int, incoming: Incoming, folder: Folder) -> None:
    """Within a change, a message appeared in a folder: where a rule of ours at that server puts it there, the rule
    explains it. What is known for sure and a server cannot know (verdicts on the thread, vouching) is heeded then, and
    puts it back, in the journal."""
    placed = scripts.of_account(db, folder.account)
    row = messages.get(db, number)
    if placed is None or row.decided_by != Decider.ELSEWHERE or not row.readable:
        return
    try:
        with room.part(db):
            _explain_filed(room, db, row, incoming, folder, placed)
    except (sqlite3.OperationalError, HieranomeError):
        raise
    except Exception:  # whatever a stranger wrote: the message stands where it was found
        _LOG.exception("what a server filed could not be explained")


def _explain_filed(
    room: Mailroom, db: sqlite3.Connection, row: Message, incoming: Incoming, folder: Folder, placed: scripts.Placed
) -> None:
    number = row.id
    there = [one for one in reads(room) if one.rule.id in placed.rules]
    judgement = room.engine.judge(vector_of(room, db, number))
    said = ruled(there, mail_of(incoming, judgement, folder.place)) if there else None
    if said is None or said.placing is None or said.placing.rule.place != folder.place:
        return
    messages.move(db, number, folder.place, RULE)
    rule = said.placing.rule
    found = examine(room, db, incoming.facts, number)
    known = known_placement(room, db, incoming.facts, row.thread, found, binding_of(said))
    if known is None or known.place == folder.place:
        rules.note(db, [Hit(rule.id, number, folder.place)], room.clock())
        return
    rules.note(db, [Hit(rule.id, number, lost_to=known.decided_by)], room.clock())
    subject = row.subject[:80] or "(no subject)"
    title = f"“{subject}” put back: “{rule.name}” filed it at the server"
    step = journal.begin(db, room.clock(), StepKind.SERVED, title, Actor.RULE)
    move(db, step, messages.stood(db, [number]), known.place, known.decided_by)
    room.tell_moved(step, [number])
