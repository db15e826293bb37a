"""What steps did with things the owner arranges: the rows of each before and behind the step, so that it can be undone.

A state is the rows of a thing by table. It is written as JSON, bytes as base64; ``null`` says that it was not there.
"""

from __future__ import annotations

import base64
import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from hieranome.core.arranged import THINGS, Thing
from hieranome.core.errors import Conflict
from hieranome.store import settings

State = dict[str, list[dict[str, Any]]]


@dataclass(frozen=True, slots=True)
class Part:
    """A table in which a thing has rows: ``owner`` is the column that names the thing, ``runs`` are columns that go on
    by themselves, which no step changes; ``flagged`` rows stay where the thing is removed, ``learned`` ones come back
    with a removed thing and are no part of what was arranged."""

    table: str
    owner: str
    runs: frozenset[str] = frozenset()
    flagged: bool = False
    learned: bool = False


PARTS: dict[Thing, tuple[Part, ...]] = {
    Thing.TRAYS: (Part("settings", "key"),),
    Thing.SEARCH: (Part("searches", "id", frozenset({"at"})),),
    Thing.PHRASE: (
        Part("phrases", "id", frozenset({"changed_at"})),
        Part("phrase_files", "phrase"),
        Part("phrase_uses", "phrase", learned=True),
    ),
    Thing.ROUTINE: (Part("routines", "id", frozenset({"changed_at"})),),
    Thing.QUEUE: (Part("queues", "id"), Part("queue_states", "queue")),
    Thing.PLAN: (Part("plans", "id", frozenset({"since", "upto"}), flagged=True),),
    Thing.RULE: (Part("rules", "id", frozenset({"made_at"}), flagged=True),),
    Thing.APPEARANCE: (Part("settings", "key"),),
    Thing.KEYS: (Part("settings", "key"),),
    Thing.AWAY: (Part("settings", "key"),),
}
"""Where each kind of thing lies, its own row first."""
SINGLE = {
    Thing.TRAYS: settings.TRAYS,
    Thing.APPEARANCE: settings.APPEARANCE,
    Thing.KEYS: settings.KEYS,
    Thing.AWAY: settings.AWAY,
}
"""The settings that are things of which there is one."""
AGAINST: dict[Thing, tuple[str, str]] = {
    Thing.QUEUE: (
        "SELECT t.name FROM queue_states AS s JOIN tags AS t ON t.id = s.tag WHERE s.queue = ? AND t.removed = 1",
        "The tag “{0}” of this queue was deleted since. Undo that first.",
    ),
    Thing.ROUTINE: (
        "SELECT b.key, b.name FROM routines AS a JOIN routines AS b ON b.key = a.key AND b.id <> a.id"
        " WHERE a.id = ? AND a.key <> ''",
        "The key {0} does “{1}” now. Give that routine another key first.",
    ),
    Thing.PLAN: (
        "SELECT b.name FROM plans AS a JOIN plans AS b ON b.name = a.name AND b.id <> a.id AND b.removed = 0"
        " WHERE a.id = ? AND a.removed = 0",
        "There is another plan called “{0}” now. Rename that one first.",
    ),
}
"""What a thing that is brought back cannot be beside, asked of it by its key, and how that is said."""


def state(db: sqlite3.Connection, thing: Thing, key: str) -> State | None:
    """A thing as it is now; None where it is not there."""
    found: State = {}
    for part in PARTS[thing]:
        rows = [dict(row) for row in db.execute(f"SELECT * FROM {part.table} WHERE {part.owner} = ?", (key,))]
        if part is PARTS[thing][0] and (not rows or rows[0].get("removed")):
            return None
        found[part.table] = rows
    return found


def keys(db: sqlite3.Connection, thing: Thing) -> list[str]:
    """The keys of all things of a kind."""
    if thing in SINGLE:
        return [SINGLE[thing]]
    first = PARTS[thing][0]
    there = " WHERE removed = 0" if first.flagged else ""
    return [str(row[0]) for row in db.execute(f"SELECT id FROM {first.table}{there} ORDER BY id")]


def next_id(db: sqlite3.Connection, thing: Thing) -> int:
    """The id of a new thing: never that of one that was removed, which a step may bring back."""
    table = PARTS[thing][0].table
    (number,) = db.execute(
        f"SELECT 1 + max(coalesce((SELECT max(id) FROM {table}), 0),"
        " coalesce((SELECT max(CAST(key AS INTEGER)) FROM arranged WHERE thing = ?), 0))",
        (thing,),
    ).fetchone()
    return int(number)


def note(db: sqlite3.Connection, step: int, thing: Thing, key: str, before: State | None) -> bool:
    """Note what a step did with a thing that was so ``before``; whether it did anything."""
    behind = state(db, thing, key)
    if _arranged(thing, before) == _arranged(thing, behind):
        return False
    for part in PARTS[thing]:
        if before is not None and behind is not None and _alike(part, before, behind):
            del before[part.table], behind[part.table]
    db.execute("INSERT INTO arranged VALUES (?, ?, ?, ?, ?)", (step, thing, key, _written(before), _written(behind)))
    return True


def _alike(part: Part, before: State, behind: State) -> bool:
    return part.learned or _without_runs(part, before[part.table]) == _without_runs(part, behind[part.table])


def _arranged(thing: Thing, one: State | None) -> State | None:
    """What was arranged of a thing: without what goes on by itself or was learned."""
    if one is None:
        return None
    those = [part for part in PARTS[thing] if part.table in one and not part.learned]
    return {part.table: _without_runs(part, one[part.table]) for part in those}


def _without_runs(part: Part, rows: Iterable[dict[str, Any]]) -> list[dict[str, Any]]:
    return [{name: value for name, value in row.items() if name not in part.runs} for row in rows]


def by(db: sqlite3.Connection, step: int) -> set[Thing]:
    """The kinds of things a step arranged."""
    return {Thing(row[0]) for row in db.execute("SELECT DISTINCT thing FROM arranged WHERE step = ?", (step,))}


def take_back(db: sqlite3.Connection, step: int) -> set[Thing]:
    """Bring everything a step arranged back to what it was before it; the kinds of things.

    Raises :class:`Conflict` where one was changed again since, or another has its name now.
    """
    rows = db.execute("SELECT thing, key, before, behind FROM arranged WHERE step = ?", (step,)).fetchall()
    for name, key, _, behind in rows:
        thing = Thing(name)
        if not _stands(db, thing, key, _read(behind)):
            called = THINGS[thing].called
            raise Conflict(f"A later step changed {called} again. Undo that one first; the journal lists it.")
    for name, key, before, _ in rows:
        try:
            _bring(db, Thing(name), key, _read(before))
        except sqlite3.IntegrityError as exc:
            called = THINGS[Thing(name)].called
            raise Conflict(f"Another has the name of {called} now. Rename or remove it first.") from exc
        _check_whole(db, Thing(name), key)
    return {Thing(row[0]) for row in rows}


def _check_whole(db: sqlite3.Connection, thing: Thing, key: str) -> None:
    """Raises :class:`Conflict` where a thing that was brought back cannot be beside what is there now."""
    if thing in AGAINST:
        asks, why = AGAINST[thing]
        found = db.execute(asks, (key,)).fetchone()
        if found:
            raise Conflict(why.format(*found))


def _stands(db: sqlite3.Connection, thing: Thing, key: str, behind: State | None) -> bool:
    """Whether a thing still is as a step left it, in what the step changed."""
    now = _arranged(thing, state(db, thing, key))
    left = _arranged(thing, behind)
    if now is None or left is None:
        return now is left
    return all(now[table] == rows for table, rows in left.items())


def _bring(db: sqlite3.Connection, thing: Thing, key: str, wanted: State | None) -> None:
    """Bring a thing to a state."""
    first, *others = PARTS[thing]
    if wanted is None:
        if first.flagged:
            db.execute(f"UPDATE {first.table} SET removed = 1 WHERE {first.owner} = ?", (key,))
        else:
            db.execute(f"DELETE FROM {first.table} WHERE {first.owner} = ?", (key,))
        return
    for row in wanted.get(first.table, []):
        _put(db, first, row)
    for part in others:
        rows = wanted.get(part.table)
        if rows is None:
            continue
        if not part.learned:
            db.execute(f"DELETE FROM {part.table} WHERE {part.owner} = ?", (key,))
        for row in rows:
            if not part.learned or _has_message(db, row):
                _put(db, part, row)


def _put(db: sqlite3.Connection, part: Part, row: dict[str, Any]) -> None:
    """Store a row of a thing; of one that is there all but what goes on by itself."""
    known = {one[1] for one in db.execute(f"PRAGMA table_info({part.table})")}
    row = {name: value for name, value in row.items() if name in known}
    here = db.execute(f"SELECT 1 FROM {part.table} WHERE {part.owner} = ?", (row[part.owner],)).fetchone()
    if part.owner in ("id", "key") and here:
        changed = [name for name in row if name not in part.runs]
        sets = ", ".join(f"{name} = ?" for name in changed)
        values = [row[name] for name in changed]
        db.execute(f"UPDATE {part.table} SET {sets} WHERE {part.owner} = ?", (*values, row[part.owner]))
        return
    names, marks = ", ".join(row), ", ".join("?" * len(row))
    db.execute(f"INSERT INTO {part.table} ({names}) VALUES ({marks})", list(row.values()))


def _has_message(db: sqlite3.Connection, row: dict[str, Any]) -> bool:
    return db.execute("SELECT 1 FROM messages WHERE id = ?", (row["message"],)).fetchone() is not None


def _written(one: State | None) -> str:
    return json.dumps(one, ensure_ascii=False, default=_bytes)


def _bytes(value: object) -> dict[str, str]:
    if isinstance(value, bytes):
        return {"base64": base64.b64encode(value).decode("ascii")}
    raise TypeError(type(value))


def _read(text: str) -> State | None:
    found: State | None = json.loads(text)
    for rows in (found or {}).values():
        for row in rows:
            row.update({k: base64.b64decode(v["base64"]) for k, v in row.items() if isinstance(v, dict)})
    return found


def check(db: sqlite3.Connection) -> None:
    """Read what steps arranged as it is read later. Raises what it holds that cannot be."""
    for name, key, before, behind in db.execute("SELECT thing, key, before, behind FROM arranged"):
        thing = Thing(name)
        owners = {part.table: part.owner for part in PARTS[thing]}
        for one in (_read(before), _read(behind)):
            rows = [(owners[table], row) for table, those in (one or {}).items() for row in those]
            if key != SINGLE.get(thing, key) or any(str(row[owner]) != key for owner, row in rows):
                raise ValueError("what a step arranged is none of what it names")
