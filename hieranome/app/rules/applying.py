"""Rules applied to a message as it arrives."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import asdict, replace
from functools import partial

from hieranome.app.following.due import note_due
from hieranome.app.reading.incoming import Incoming, Placed, words_of
from hieranome.app.reading.listening import Arriving, Listener
from hieranome.app.reading.placement import known_placement
from hieranome.app.rules.forwarding import begin_draft, forward
from hieranome.app.rules.keeping import reads
from hieranome.core.actors import Actor
from hieranome.core.deciders import Decider
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
RULE = Decider.RULE
"""By what mail stands that a rule put somewhere."""


class Rules(Listener):
    """The rules: they put a message somewhere, where nothing stronger is known of it, and do all else they say."""

    def __init__(self) -> None:
        self.said: Ruled | None = None

    def place(self, one: Arriving) -> None:
        """Ask the rules about a message, as it stands without them."""
        known = reads(one.room) if one.incoming.stands is None and one.incoming.facts.readable and not one.mine else []
        if not known:
            return
        place = one.placed.place if one.placed is not None else settle(one.judgement, one.room.costs)[0]
        self.said = ruled(known, mail_of(one.incoming, one.judgement, place))
        if self.said.placing is not None:
            bindings = binding_of(self.said)
            one.placed = known_placement(one.room, one.db, one.incoming.facts, one.thread, one.found, bindings)

    def stored(self, one: Arriving) -> None:
        """Do what they said besides where the message goes, and note which took it."""
        if self.said is not None and self.said.took:
            _do_said(one, self.said)


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


def _do_said(one: Arriving, said: Ruled) -> None:
    """Do what the rules said of a stored message. No copy of a forged one goes anywhere, and no reply to it is
    begun."""
    room, db, number = one.room, one.db, one.number
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
    writes = [(rule, partial(forward, room, db, number, one.incoming, rule, address)) for rule, address in said.forward]
    writes += [(rule, partial(begin_draft, room, number, rule.id, phrase)) for rule, phrase in said.drafts]
    for rule, write in () if one.found.forged else writes:
        try:
            with room.part(db):
                write()
        except (CallerError, MessageUnreadable, ValueError, LookupError) as exc:
            # No message may be made of what a stranger wrote; the message itself has arrived all the same.
            _LOG.warning("what a rule writes could not be made: %s", exc)
            unsent.add(rule.id)
    hits = [_hit(rule.id, rule.place, number, said, one.where) for rule in said.took]
    rules.note(db, [replace(hit, lost_to=UNSENT) if hit.rule in unsent else hit for hit in hits], room.clock())


def _hit(rule: int, place: str, number: int, said: Ruled, placed: Placed) -> Hit:
    if said.placing is None or not place:
        return Hit(rule, number)
    first = said.placing.rule
    if first.id != rule:
        return Hit(rule, number, lost_to="" if first.place == place else f"rule:{first.id}")
    return Hit(rule, number, place) if placed.decided_by == RULE else Hit(rule, number, lost_to=placed.decided_by)
