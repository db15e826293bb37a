"""Rules applied to a message as it arrives."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Callable
from dataclasses import asdict, replace
from functools import partial

from hieranome.app.arrival.incoming import Incoming, Placed, words_of
from hieranome.app.following.due import note_due
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.forwarding import begin_draft, forward
from hieranome.app.rules.keeping import reads
from hieranome.core.actors import Actor
from hieranome.core.errors import CallerError, MessageUnreadable
from hieranome.core.judgement import Judgement
from hieranome.core.matching import Mail
from hieranome.core.routing import settle
from hieranome.core.rules import Rule, Ruled, ruled
from hieranome.core.sure import Binding
from hieranome.store import marked, rules, tags
from hieranome.store.rules import Hit

UNSENT = "unsent"
"""What a rule is told to have lost to whose copy or draft could not be made."""
_LOG = logging.getLogger(__name__)
RULE = "rule"
"""By what mail stands that a rule put somewhere."""


def ask_rules(room: Mailroom, incoming: Incoming, judgement: Judgement, certain: Placed | None) -> Ruled | None:
    """What the rules say of an arriving message; None where there are none. It stands where it would without them."""
    known = reads(room)
    if not known:
        return None
    place = certain.place if certain is not None else settle(judgement, room.costs)[0]
    return ruled(known, mail_of(incoming, judgement, place))


def mail_of(incoming: Incoming, judgement: Judgement, place: str) -> Mail:
    """An arriving message as lines are asked about it; it stands in ``place``."""
    facts = incoming.facts
    numbers = {
        "seen": incoming.seen,
        "answered": incoming.answered,
        "flagged": incoming.flagged,
        "attachments": facts.attached,
        "size": facts.size,
        "time": facts.sent_at,
        "score": judgement.importance,
        "certainty": judgement.certainty,
    }
    names = {"address": facts.sender.address, "domain": facts.sender.domain, "list": facts.list_id}
    texts = asdict(words_of(facts, incoming.text))
    held = (incoming.account,) if incoming.account else ()
    return Mail(texts, numbers, names, place, held)


def binding_of(said: Ruled | None) -> list[Binding]:
    """Where the rules put a message, as something known for sure."""
    if said is None or said.placing is None:
        return []
    return [Binding(said.placing.reach, "", said.placing.rule.place, rule=said.placing.rule.id)]


def keep_said(
    room: Mailroom,
    db: sqlite3.Connection,
    number: int,
    incoming: Incoming,
    said: Ruled,
    placed: Placed,
    *,
    forged: bool,
) -> None:
    """Within a change, do what the rules said of a stored message besides where it goes, and note which took it. No
    copy of a forged one goes anywhere, and no reply to it is begun."""
    for tag in said.tags:
        tags.set_on(db, number, tag, True, room.clock())
    if said.tags:
        room.tell("tags")
    # That a rule marked it says nothing of what the owner reads: no sum counts it.
    for name, wanted in (("seen", said.seen), ("flagged", said.flagged)):
        if wanted:
            marked.mark(db, [number], name, True, Actor.RULE)
    if said.due:
        note_due(room, db, [number], said.due)
    if said.no_edition:
        rules.keep_out(db, [number])
    unsent = set()
    writes: list[tuple[Rule, Callable[[], bool]]]
    writes = [(rule, partial(forward, room, db, number, incoming, rule, address)) for rule, address in said.forward]
    writes += [(rule, partial(begin_draft, room, number, rule.id, phrase)) for rule, phrase in said.drafts]
    for rule, write in () if forged else writes:
        try:
            with room.part(db):
                write()
        except (CallerError, MessageUnreadable, ValueError, LookupError) as exc:
            # No message may be made of what a stranger wrote; the message itself has arrived all the same.
            _LOG.warning("what a rule writes could not be made: %s", exc)
            unsent.add(rule.id)
    hits = [_hit(rule.id, rule.place, number, said, placed) for rule in said.took]
    rules.note(db, [replace(hit, lost_to=UNSENT) if hit.rule in unsent else hit for hit in hits], room.clock())


def _hit(rule: int, place: str, number: int, said: Ruled, placed: Placed) -> Hit:
    if said.placing is None or not place:
        return Hit(rule, number)
    first = said.placing.rule
    if first.id != rule:
        return Hit(rule, number, lost_to="" if first.place == place else f"rule:{first.id}")
    return Hit(rule, number, place) if placed.decided_by == RULE else Hit(rule, number, lost_to=placed.decided_by)
