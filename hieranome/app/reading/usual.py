"""What a sender says in every message, and what therefore carries none."""

from __future__ import annotations

import sqlite3

from hieranome.app.reading.processes import reading_of
from hieranome.core.extracts import sentences, usual_key
from hieranome.store import messages, subscriptions

EARLIER = 3
"""Earlier messages of a source that are looked at."""


def usual_of(db: sqlite3.Connection, source: str, message: int) -> set[str]:
    """What a source wrote in messages other than one, as :func:`hieranome.core.extracts.usual_key` tells it."""
    others = [row for row in subscriptions.recent(db, source, EARLIER + 1) if row.id != message][:EARLIER]
    texts = (reading_of(messages.raw(db, row.id)).facts.text for row in others)
    return {usual_key(said.text) for text in texts for said in sentences(text)}
