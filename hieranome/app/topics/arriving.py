"""What topics say of a message as it arrives."""

from __future__ import annotations

import math
import sqlite3
from dataclasses import dataclass, field

from hieranome.app.arrival.incoming import Placed
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.topics.learning import active
from hieranome.core.buckets import UNDECIDED
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.core.topics import DOUBT
from hieranome.store import places, tags, topics

TOPIC = "topic"
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


def ask_topics(room: Mailroom, db: sqlite3.Connection, vector: Vector) -> Heard:
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


def place_by(room: Mailroom, heard: Heard) -> Placed | None:
    """Where topics put a message that nothing sure is known of, or None; the doubtful is asked within the bound."""
    if heard.doubtful and room.asking.allows(heard.value):
        return Placed(UNDECIDED, TOPIC)
    return Placed(heard.bucket, TOPIC) if heard.bucket else None


def keep_heard(room: Mailroom, db: sqlite3.Connection, number: int, heard: Heard, placed: Placed) -> None:
    """Within a change, tag a stored message as the topics said, and note what they found or ask."""
    asked = heard.doubtful if placed.place == UNDECIDED and placed.decided_by == TOPIC else 0
    for topic, tag in heard.found:
        if topic != asked:
            tags.set_on(db, number, tag, True, room.clock())
            topics.note_found(db, topic, number, room.clock(), asked=False)
            room.tell("tags")
    if asked:
        topics.note_found(db, asked, number, room.clock(), asked=True)
