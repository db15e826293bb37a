"""Whole tables out of the store and into an empty one."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from typing import Any

TABLES = (
    "settings", "places", "threads", "messages", "vectors", "mentions", "answers", "sums", "steps", "moves", "marks",
    "lessons", "silences", "vouched", "checkers", "searches", "pictured", "plans", "editions", "edition_items",
    "left_out", "unsubscribed", "addresses", "tags", "tagged", "tagging", "retagged",
    "rules", "rule_hits", "no_edition", "forwarded", "left_standing", "topics", "topic_answers", "topic_found",
    "following", "followed", "said_times", "phrases", "phrase_files", "phrase_uses", "routines", "away_told",
    "queues", "queue_states", "ended", "arranged",
    "drafts", "attachments", "discarded", "laid", "raised",
)  # fmt: skip
"""What is taken along, in the order it is read in again."""

LATER = (
    "silences", "plans", "editions", "edition_items", "left_out", "unsubscribed", "addresses", "tags", "tagged",
    "tagging", "retagged", "rules", "rule_hits", "no_edition", "forwarded", "left_standing",
    "topics", "topic_answers", "topic_found", "following", "followed", "said_times",
    "phrases", "phrase_files", "phrase_uses", "routines", "away_told",
    "queues", "queue_states", "ended", "arranged",
    "drafts", "attachments", "discarded", "laid", "raised",
)  # fmt: skip
"""What older exports do not have."""

_WRITTEN = "state IN ('draft', 'waiting') AND automatic = 0"
_OF_WRITTEN = f"draft IN (SELECT id FROM drafts WHERE {_WRITTEN})"
ONLY = {"drafts": _WRITTEN, "attachments": _OF_WRITTEN, "discarded": _OF_WRITTEN, "laid": _OF_WRITTEN}
"""Which rows of a table are taken along, where not all are: of what the owner writes, what has not gone."""
AS = {
    "drafts": {
        "state": "draft", "due_at": 0, "timed": 0, "awaited": 0, "tries": 0, "error": "", "raw": None, "envelope": "",
        "message_id": "", "filed": 0, "automatic": 0,
    }
}  # fmt: skip
"""What the rows of a table say in an export and behind it, whatever they say here: what waited to be sent is a draft
there, so that it is never sent twice."""

NO_LONGER = {"messages": ("ask_value",)}
"""Columns by table that older exports have and this version does not."""


def rows(db: sqlite3.Connection, table: str) -> Iterator[dict[str, Any]]:
    """Every row of one of :data:`TABLES`."""
    chosen = ONLY.get(table, "TRUE")
    for row in db.execute(f"SELECT {', '.join(sorted(columns(db, table)))} FROM {table} WHERE {chosen}"):
        yield dict(row) | AS.get(table, {})


def places_with_mail(db: sqlite3.Connection) -> list[str]:
    """The places in which any mail stands."""
    return [row[0] for row in db.execute("SELECT name FROM places WHERE total > 0 AND name <> 'gone'").fetchall()]


def mail_of(db: sqlite3.Connection, place: str) -> Iterator[tuple[int, str, int, bytes]]:
    """(id, sender's address, time, compressed bytes) of the mail of a place, oldest first."""
    found = db.execute(
        "SELECT m.id, m.sender_address, m.time, r.zlib FROM messages AS m JOIN raw AS r ON r.message = m.id"
        " WHERE m.place = ? ORDER BY m.time, m.id",
        (place,),
    )
    for row in found:
        yield row[0], row[1], row[2], row[3]


def clear(db: sqlite3.Connection) -> None:
    """Empty the tables, within a transaction whose end looks at what refers to what."""
    db.execute("PRAGMA defer_foreign_keys = ON")
    for table in reversed(TABLES):
        db.execute(f"DELETE FROM {table}")


def columns(db: sqlite3.Connection, table: str) -> set[str]:
    """What the rows of a table hold, but for what is computed of the rest."""
    _check(table)
    return {row[1] for row in db.execute(f"PRAGMA table_info({table})")}


def put(db: sqlite3.Connection, table: str, values: Mapping[str, Any]) -> None:
    """Store a row, whose keys are among :func:`columns`."""
    _check(table)
    values = {**values, **AS.get(table, {})}
    names, marks = ", ".join(values), ", ".join("?" * len(values))
    db.execute(f"INSERT INTO {table} ({names}) VALUES ({marks})", list(values.values()))


def complete(db: sqlite3.Connection) -> None:
    """Bring what was read to what this version has: the places an older export does not know, and the counts of all,
    for triggers counted what came in on top of what was written."""
    db.execute("INSERT OR IGNORE INTO places (name, title) VALUES ('gone', 'Gone'), ('parked', 'Parked')")
    db.execute(
        "UPDATE places SET total = (SELECT count(*) FROM messages WHERE place = name),"
        " unread = (SELECT count(*) FROM messages WHERE place = name AND seen = 0)"
    )
    db.execute("UPDATE tags SET total = (SELECT count(*) FROM tagged WHERE tag = id)")


def _check(table: str) -> None:
    if table not in TABLES:
        raise ValueError(table)
