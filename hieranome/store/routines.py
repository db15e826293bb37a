"""Routines, and the drafts that steps and rules began."""

from __future__ import annotations

import sqlite3

from hieranome.core.arranged import Thing
from hieranome.core.errors import NotFound
from hieranome.core.routines import Routine
from hieranome.store import arranged
from hieranome.store.doings import packed, unpacked

_COLUMNS = "id, name, key, actions"
_SAID = "json_array(sender, recipients, cc, bcc, subject, body)"
"""What the owner can change of a draft, as one text."""


def _routine(row: sqlite3.Row) -> Routine:
    number, name, key, actions = row
    return Routine(number, name, key, unpacked(actions))


def every(db: sqlite3.Connection) -> list[Routine]:
    """All routines, by name."""
    return [_routine(row) for row in db.execute(f"SELECT {_COLUMNS} FROM routines ORDER BY name")]


def get(db: sqlite3.Connection, number: int) -> Routine:
    """One routine. Raises :class:`NotFound`."""
    row = db.execute(f"SELECT {_COLUMNS} FROM routines WHERE id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no routine {number}. It may have been taken out; load the page again.")
    return _routine(row)


def put(db: sqlite3.Connection, routine: Routine, at: int) -> int:
    """Store a routine (id 0: a new one); its id."""
    values = (routine.name, routine.key, packed(routine.actions), at)
    if routine.id:
        db.execute("UPDATE routines SET name = ?, key = ?, actions = ?, changed_at = ? WHERE id = ?",
                   (*values, routine.id))  # fmt: skip
        return routine.id
    made = arranged.next_id(db, Thing.ROUTINE)
    db.execute("INSERT INTO routines (id, name, key, actions, changed_at) VALUES (?, ?, ?, ?, ?)", (made, *values))
    return made


def remove(db: sqlite3.Connection, number: int) -> None:
    """Take a routine out."""
    db.execute("DELETE FROM routines WHERE id = ?", (number,))


def note_laid(db: sqlite3.Connection, draft: int, at: int, *, step: int | None = None, rule: int | None = None) -> None:
    """Note that a step or a rule began a draft, as it is now."""
    db.execute(
        f"INSERT INTO laid SELECT id, ?, ?, ?, {_SAID} FROM drafts WHERE id = ?",
        (step, rule, at, draft),
    )


def laid_by_rules(db: sqlite3.Connection, since: int) -> int:
    """How many drafts of those there are rules began since some time."""
    return int(db.execute("SELECT count(*) FROM laid WHERE rule IS NOT NULL AND at > ?", (since,)).fetchone()[0])


def take_back(db: sqlite3.Connection, step: int) -> int:
    """Throw away the drafts a step began that are as it left them; how many."""
    return db.execute(
        f"DELETE FROM drafts WHERE state = 'draft' AND id IN (SELECT draft FROM laid WHERE step = ?)"
        f" AND {_SAID} = (SELECT said FROM laid WHERE draft = drafts.id)",
        (step,),
    ).rowcount
