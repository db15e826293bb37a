"""Settings: small values by key, and the sums of the history."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import Any

from hieranome.core.facts import Owner
from hieranome.core.relations import Relations, Sums

OWNER = "owner_addresses"
CONFIRMED = "confirmed_checkers"
SHARED = "shared_domains"
SCORED = "scored_by"
"""The state of the lessons that the stored scores follow."""
KIN_FOLLOW = "kin_follow"
LOOKED_PAST_TEACHES = "looked_past_teaches"
DRAIN_DAYS = "drain_days"
DRAINED_COST = "drained_cost"
"""For how many days the Drain keeps mail, and what good mail in it costs."""
LOOKED_THROUGH = "looked_through"
"""Up to which message mail was looked through for what it says of itself, and for which addresses of the owner."""
TRAYS = "trays"
FEED = "due_feed"
"""The hash of the token by which calendars read what is due; empty: none may."""
MORNING = "morning"
"""The hour of the clock at which the owner's day begins."""
ANSWER_RETURNS = "answer_returns"
"""Whether an answer brings back what was parked until a time."""
AWAY = "away"
"""The away notice (:class:`hieranome.core.away.Away`)."""
DRAFTS_ON_SERVER = "drafts_on_server"
APPEARANCE = "appearance"
"""What the owner likes to see, as the page says it."""
KEYS = "keys"
"""The keys the owner chose, as the page says them."""


def value(db: sqlite3.Connection, key: str, default: Any) -> Any:
    """A stored setting, or the default."""
    row = db.execute("SELECT value FROM settings WHERE key = ?", (key,)).fetchone()
    return json.loads(row[0]) if row else default


def put(db: sqlite3.Connection, key: str, wanted: Any) -> None:
    """Store a setting; ``wanted`` is anything JSON can say."""
    db.execute(
        "INSERT INTO settings VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value",
        (key, json.dumps(wanted)),
    )


def owner(db: sqlite3.Connection) -> Owner:
    """The owner's addresses as set."""
    return Owner.of(*value(db, OWNER, []))


def set_owner(db: sqlite3.Connection, addresses: Iterable[str]) -> None:
    """Set the owner's addresses."""
    put(db, OWNER, sorted(Owner.of(*addresses).addresses))


def names(db: sqlite3.Connection, key: str) -> frozenset[str]:
    """A stored set of domains or servers, lower-cased."""
    return frozenset(value(db, key, []))


def set_names(db: sqlite3.Connection, key: str, wanted: Iterable[str]) -> None:
    """Store a set of domains or servers."""
    put(db, key, sorted({name.strip().lower() for name in wanted if name.strip()}))


def relations(db: sqlite3.Connection) -> Relations:
    """All sums of the history."""
    found = Relations()
    for key, *sums in db.execute("SELECT key, received, read, answered, written, timed, waited FROM sums"):
        found.add(key, Sums(*sums))
    return found


def add_sums(db: sqlite3.Connection, added: Iterable[tuple[str, Sums]]) -> None:
    """Add observations to the stored sums."""
    db.executemany(
        """
        INSERT INTO sums VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (key) DO UPDATE SET
            received = received + excluded.received, read = read + excluded.read,
            answered = answered + excluded.answered, written = written + excluded.written,
            timed = timed + excluded.timed, waited = waited + excluded.waited
        """,
        [(key, s.received, s.read, s.answered, s.written, s.timed, s.waited) for key, s in added],
    )
