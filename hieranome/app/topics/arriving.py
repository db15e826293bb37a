"""What topics say of a message as it arrives."""

from __future__ import annotations

import math
import sqlite3
from dataclasses import dataclass, field

from hieranome.app.reading.incoming import Placed
from hieranome.app.reading.listening import Arriving, Listener
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.topics.learning import active
from hieranome.core.buckets import UNDECIDED
from hieranome.core.deciders import Decider
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.core.topics import DOUBT
from hieranome.store import places, tags, topics

TOPIC = Decider.TOPIC
"""By what mail stands that a topic put somewhere, or asks about."""


WRONG = 2.0
"""What a message wrongly held for a topic's, or wrongly not, costs, in noise: itself, and the next like it, which an
answer settles too."""


@dataclass(slots=True)
class Heard:
    """The topics a message belongs to, each with its tag; the bucket the first of them with one puts it in; and the one
    that is most in doubt about it, with what asking is worth."""

    found: list[tuple[int, int]] = field(default_factory=list)
    bucket: str = ""
    doubtful: int = 0
    value: float = 0.0


def _ask_topics(room: Mailroom, db: sqlite3.Connection, vector: Vector) -> Heard:
    """Within a change, what the topics say of an arriving message."""
    heard = Heard()
    known = active(room)
    if not known:
        return heard
    rows = Rows.of(vector)
    for one in known:
        score = float(one.topic.score_all(rows)[0])
        if score >= 0.0:
            heard.found.append((one.kept.id, one.kept.tag))
            if one.kept.bucket and not heard.bucket:
                heard.bucket = places.in_use(db, one.kept.bucket)
        value = WRONG * room.costs.noise / (1.0 + math.exp(abs(score))) - room.costs.asking
        if abs(score) <= DOUBT and (not heard.doubtful or value > heard.value):
            heard.doubtful, heard.value = one.kept.id, value
    return heard


def _place_by(room: Mailroom, heard: Heard) -> Placed | None:
    """Where topics put a message that nothing sure is known of, or None; the doubtful is asked within the bound."""
    if heard.doubtful and room.asking.allows(heard.value):
        return Placed(UNDECIDED, TOPIC)
    return Placed(heard.bucket, TOPIC) if heard.bucket else None


class Topics(Listener):
    """The topics: they tag a message that is theirs, put it somewhere, and ask where they doubt."""

    def __init__(self) -> None:
        self.heard = Heard()

    def place(self, one: Arriving) -> None:
        """Ask the topics; where nothing sure is known of the message, they may put it somewhere."""
        if not one.mine and one.incoming.facts.readable:
            self.heard = _ask_topics(one.room, one.db, one.vector)
        if one.placed is None:
            one.placed = _place_by(one.room, self.heard)

    def stored(self, one: Arriving) -> None:
        """Tag the message as the topics said, and note what they found or ask."""
        room, db, placed = one.room, one.db, one.where
        asked = self.heard.doubtful if placed.place == UNDECIDED and placed.decided_by == TOPIC else 0
        for topic, tag in self.heard.found:
            if topic != asked:
                tags.set_on(db, one.number, tag, True, room.clock())
                topics.note_found(db, topic, one.number, room.clock(), asked=False)
                room.tell("tags")
        if asked:
            topics.note_found(db, asked, one.number, room.clock(), asked=True)
