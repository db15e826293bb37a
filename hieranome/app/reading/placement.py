"""What is known for sure of an arriving message: who wrote it, and where it goes whatever the model says."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from hieranome.app.reading.incoming import Incoming, Placed
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.authentication import Finding, Standing, judge_sender, leads_back
from hieranome.core.buckets import DESK, SENT
from hieranome.core.deciders import Decider
from hieranome.core.facts import MessageFacts
from hieranome.core.groups import Context
from hieranome.core.sure import Binding, Reach, binding_keys, strongest
from hieranome.core.vouched import Vouched, look_alike
from hieranome.mail.organisations import organisation
from hieranome.mail.people import SEVERAL_SENDERS
from hieranome.store import lessons
from hieranome.store import vouched as vouching


@dataclass(frozen=True, slots=True)
class Examined:
    """What was found out about a message's sender: what a believed server says of it, whether it is exactly one, and
    whom vouched for it only looks like."""

    finding: Finding = field(default_factory=Finding)
    single: bool = True
    alike: Vouched | None = None

    @property
    def forged(self) -> bool:
        """Whether the message is proven forged."""
        return self.finding.standing is Standing.FORGED

    @property
    def assured(self) -> bool:
        """Whether what the owner said for sure of the sender may keep the message on the Desk."""
        return self.single and self.finding.assured

    def context(self, room: Mailroom, thread_has_mine: bool) -> Context:
        """What the features of the message may look at."""
        return room.context(thread_has_mine, forged=self.forged, alike=self.alike is not None)


def examine(room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, number: int = 0) -> Examined:
    """Look whether the sender is who it says; ``number`` is the message's own, once it is stored."""
    found = Finding()
    if room.confirmed and facts.authentication:
        found = judge_sender(facts, room.confirmed, organisation)
        if (
            not found.assured
            and facts.list_id
            and vouching.came_through(db, facts.sender.address, facts.list_id, number)
        ):
            found = judge_sender(facts, room.confirmed, organisation, uses_list=True)
    alike = look_alike(facts, room.vouched) if room.vouched else None
    # Where headers were not read, another sender may be named in them.
    single = facts.headers_whole and SEVERAL_SENDERS not in facts.defects
    return Examined(found, single, alike)


def reaches_its_writer(room: Mailroom, facts: MessageFacts) -> Callable[[str], bool]:
    """Whether what is sent to a Return-Path of a message reaches who wrote it."""
    return lambda path: leads_back(path, facts, room.confirmed, organisation)


def is_own(room: Mailroom, incoming: Incoming, found: Examined, *, word: bool = False) -> bool:
    """Whether the owner wrote a message: it stands in Sent, or its sender is the owner's address and either a believed
    server found that to be true, or the owner gave their ``word`` for the file it came in."""
    if incoming.stands is not None and incoming.stands.place == SENT:
        return True
    if not (found.single and room.owner.owns(incoming.facts.sender)):
        return False
    return found.finding.standing is Standing.ALIGNED or (word and not found.forged)


def certain_placement(
    room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, thread: int, found: Examined, mine: bool
) -> Placed | None:
    """Where a message goes whatever the model says: the owner's own, the unreadable, the surely known; or None."""
    if mine:
        return Placed(SENT, Decider.OWN)
    if not facts.readable:
        return Placed(DESK, Decider.UNREADABLE)
    return known_placement(room, db, facts, thread, found) if room.bindings else None


def known_placement(
    room: Mailroom,
    db: sqlite3.Connection,
    facts: MessageFacts,
    thread: int,
    found: Examined,
    rules: Sequence[Binding] = (),
) -> Placed | None:
    """Where sure knowledge, what rules say among it, puts a message that has no verdict of its own, or None."""
    genuine = found.single and not found.forged
    bucket = lessons.binding_bucket(db, Reach.THREAD, str(thread)) if genuine else None
    if bucket is not None:
        return Placed(bucket, Decider.THREAD)
    binding = bound_by(room, db, facts, rules, genuine=found.assured)
    if binding is None:
        return None
    if binding.rule:
        return Placed(binding.bucket, Decider.RULE)
    assert binding.reach is not None
    return Placed(binding.bucket, Decider.VOUCHED if binding.vouched else Decider(binding.reach))


def bound_by(
    room: Mailroom, db: sqlite3.Connection, facts: MessageFacts, rules: Sequence[Binding] = (), *, genuine: bool = True
) -> Binding | None:
    """What was said for sure of the sender or list of a message and holds, among it what ``rules`` say; None where
    nothing was. Of the message itself and its thread nothing is asked."""
    said = lessons.bindings(db, binding_keys(facts))
    said += [Binding(Reach(v.kind), v.key, DESK, vouched=True) for v in room.vouched if v.covers(facts.sender)]
    return strongest([*said, *rules], genuine=genuine)
