"""Tags, which messages carry them, and what steps of the journal did with them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from typing import Any

from hieranome.core.errors import NotFound
from hieranome.core.tags import Tag, clean_name, is_keyword

_COLUMNS = "id, name, tone, coalesce(parent, 0), shown, keyword, total"
_STATE = ("name", "tone", "parent", "shown", "removed")
"""What steps change of a tag and take back."""


def _tag(row: sqlite3.Row) -> Tag:
    number, name, tone, parent, shown, keyword, total = row
    return Tag(number, name, tone, parent, bool(shown), keyword, total)


def every(db: sqlite3.Connection) -> list[Tag]:
    """All tags there are."""
    return [_tag(row) for row in db.execute(f"SELECT {_COLUMNS} FROM tags WHERE removed = 0 ORDER BY id")]


def get(db: sqlite3.Connection, number: int) -> Tag:
    """One tag. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {_COLUMNS} FROM tags WHERE id = ? AND removed = 0", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no tag {number}.")
    return _tag(row)


def keywords(db: sqlite3.Connection) -> dict[str, int]:
    """The tag each keyword of ours stands for, in lower case; also of tags that are no longer there."""
    return {row[0].lower(): row[1] for row in db.execute("SELECT keyword, id FROM tags")}


def add(db: sqlite3.Connection, name: str, tone: int, parent: int, keyword: str) -> int:
    """Store a new tag; its id."""
    values = (name, tone, parent or None, keyword)
    number = db.execute("INSERT INTO tags (name, tone, parent, keyword) VALUES (?, ?, ?, ?)", values).lastrowid
    assert number is not None
    return number


def state(db: sqlite3.Connection, number: int) -> dict[str, Any]:
    """What steps change of a tag, as it is now."""
    row = db.execute(f"SELECT {', '.join(_STATE)} FROM tags WHERE id = ?", (number,)).fetchone()
    return dict(zip(_STATE, row, strict=True))


def change(db: sqlite3.Connection, step: int, number: int, **changes: object) -> None:
    """Change a tag as part of a step."""
    before = state(db, number)
    set_state(db, number, before | changes)
    note(db, step, number, before)


def note(db: sqlite3.Connection, step: int, number: int, before: dict[str, Any] | None) -> None:
    """Note what a tag was before a step that changed it; None where the step made it."""
    db.execute(
        "INSERT INTO retagged VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET behind = excluded.behind",
        (step, number, json.dumps(before), json.dumps(state(db, number))),
    )


def set_state(db: sqlite3.Connection, number: int, wanted: dict[str, Any]) -> None:
    """Bring a tag to a state."""
    names = ", ".join(f"{name} = ?" for name in _STATE)
    db.execute(f"UPDATE tags SET {names} WHERE id = ?", (*(wanted[name] for name in _STATE), number))


def changed_by(db: sqlite3.Connection, step: int) -> list[tuple[int, dict[str, Any] | None, dict[str, Any]]]:
    """The tags a step made or changed: each with what it was before it (None: not there) and behind it."""
    rows = db.execute("SELECT tag, before, behind FROM retagged WHERE step = ? ORDER BY tag", (step,)).fetchall()
    return [(row[0], json.loads(row[1]), json.loads(row[2])) for row in rows]


def check(db: sqlite3.Connection) -> None:
    """Read all tags and what steps did with them as they are read later. Raises what they hold that cannot be."""
    known = every(db)
    for tag in known:
        if clean_name(tag.name) != tag.name or not is_keyword(tag.keyword):
            raise ValueError(f"{tag.name} is no tag")
    if len({tag.name.casefold() for tag in known}) != len(known):
        raise ValueError("two tags have the same name")
    for (step,) in db.execute("SELECT DISTINCT step FROM retagged").fetchall():
        for _, before, behind in changed_by(db, step):
            if any(set(one) != set(_STATE) for one in (before or behind, behind)):
                raise ValueError("what was done with a tag cannot be read")


def of(db: sqlite3.Connection, messages: Sequence[int]) -> dict[int, list[int]]:
    """The tags each of some messages carries; those that carry none are left out."""
    found: dict[int, list[int]] = {}
    rows = db.execute(
        "SELECT message, tag FROM tagged WHERE message IN (SELECT value FROM json_each(?)) ORDER BY 1, 2",
        (json.dumps(list(messages)),),
    )
    for message, tag in rows:
        found.setdefault(message, []).append(tag)
    return found


def carrying(db: sqlite3.Connection, tag: int) -> list[int]:
    """The messages that carry a tag."""
    return [row[0] for row in db.execute("SELECT message FROM tagged WHERE tag = ? ORDER BY message", (tag,))]


def put_on(db: sqlite3.Connection, messages: Sequence[int], tag: int, at: int = 0) -> list[int]:
    """Put a tag on messages at a time (Unix seconds, 0: not known); those that did not carry it."""
    had = set(carrying(db, tag))
    fresh = [number for number in messages if number not in had]
    db.executemany("INSERT OR IGNORE INTO tagged VALUES (?, ?, ?)", [(number, tag, at) for number in fresh])
    return fresh


def take_off(db: sqlite3.Connection, messages: Sequence[int], tag: int) -> list[int]:
    """Take a tag off messages; those that carried it."""
    had = set(carrying(db, tag))
    left = [number for number in messages if number in had]
    db.executemany("DELETE FROM tagged WHERE message = ? AND tag = ?", [(number, tag) for number in left])
    return left


def set_on(db: sqlite3.Connection, message: int, tag: int, wanted: bool, at: int = 0) -> None:
    """Put a tag on a message at a time (Unix seconds, 0: not known), or take it off."""
    if wanted:
        db.execute("INSERT OR IGNORE INTO tagged VALUES (?, ?, ?)", (message, tag, at))
    else:
        db.execute("DELETE FROM tagged WHERE message = ? AND tag = ?", (message, tag))


def note_tagging(db: sqlite3.Connection, step: int, messages: Sequence[int], tag: int, wanted: bool) -> None:
    """Note that a step put a tag on messages or took it off."""
    db.executemany(
        "INSERT OR REPLACE INTO tagging VALUES (?, ?, ?, ?)", [(step, number, tag, wanted) for number in messages]
    )


def take_back(db: sqlite3.Connection, step: int) -> list[int]:
    """Take back what a step put on and took off, where it still is as the step left it; the messages."""
    db.execute(
        "DELETE FROM tagged WHERE (message, tag) IN (SELECT message, tag FROM tagging WHERE step = ? AND wanted = 1)",
        (step,),
    )
    db.execute(
        """
        INSERT OR IGNORE INTO tagged (message, tag)
        SELECT t.message, t.tag FROM tagging AS t JOIN messages AS m ON m.id = t.message JOIN tags AS g ON g.id = t.tag
        WHERE t.step = ? AND t.wanted = 0 AND m.place <> 'gone' AND g.removed = 0
        """,
        (step,),
    )
    return [row[0] for row in db.execute("SELECT DISTINCT message FROM tagging WHERE step = ?", (step,))]
