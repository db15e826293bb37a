"""Edition plans as they are kept, and the lists and senders that stand in no edition."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import asdict, dataclass

from hieranome.core.errors import NotFound
from hieranome.core.plans import Grouped, Length, Plan


@dataclass(frozen=True, slots=True)
class KeptPlan:
    """A plan with its number: mail older than ``since`` is in none of its editions, ``upto`` is when its latest edition
    was due (Unix seconds)."""

    id: int
    plan: Plan
    since: int
    upto: int


def every(db: sqlite3.Connection, *, removed: bool = False) -> list[KeptPlan]:
    """All plans in the order they were made; those removed only where they are asked for."""
    rows = db.execute("SELECT * FROM plans WHERE removed <= ? ORDER BY id", (removed,))
    return [_kept(row) for row in rows]


def get(db: sqlite3.Connection, number: int) -> KeptPlan:
    """One plan. Raises :class:`NotFound`."""
    row = db.execute("SELECT * FROM plans WHERE id = ? AND removed = 0", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no edition plan {number}. It may have been removed; load the list again.")
    return _kept(row)


def _kept(row: sqlite3.Row) -> KeptPlan:
    plan = Plan(
        row["name"],
        bool(row["enabled"]),
        tuple(json.loads(row["buckets"])),
        tuple(json.loads(row["sources"])),
        row["search"],
        row["days"],
        tuple(json.loads(row["times"])),
        row["zone"],
        Grouped(row["grouped"]),
        Length(row["length"]),
        bool(row["delivered"]),
    )
    return KeptPlan(row["id"], plan, row["since"], row["upto"])


_FIELDS = tuple(Plan.__dataclass_fields__)


def _values(plan: Plan) -> list[str | int]:
    return [json.dumps(value) if isinstance(value, tuple) else value for value in asdict(plan).values()]


def add(db: sqlite3.Connection, plan: Plan, since: int, upto: int) -> int:
    """Keep a new plan; returns its number."""
    marks = ", ".join("?" * len(_FIELDS))
    number = db.execute(
        f"INSERT INTO plans ({', '.join(_FIELDS)}, since, upto) VALUES ({marks}, ?, ?)", (*_values(plan), since, upto)
    ).lastrowid
    assert number is not None
    return number


def change(db: sqlite3.Connection, number: int, plan: Plan, upto: int) -> None:
    """Describe a plan anew; what was due up to ``upto`` is over."""
    marks = ", ".join(f"{name} = ?" for name in _FIELDS)
    db.execute(f"UPDATE plans SET {marks}, upto = ? WHERE id = ?", (*_values(plan), upto, number))


def remove(db: sqlite3.Connection, number: int) -> None:
    """Compile no more editions of a plan; those there are stay."""
    db.execute("UPDATE plans SET removed = 1 WHERE id = ?", (number,))


def set_upto(db: sqlite3.Connection, number: int, upto: int) -> None:
    """Note when the latest edition of a plan was due."""
    db.execute("UPDATE plans SET upto = ? WHERE id = ?", (upto, number))


def leave_out(db: sqlite3.Connection, sources: Iterable[str], step: int) -> None:
    """Note that a step said of lists and senders that they stand in no edition."""
    db.executemany("INSERT INTO left_out VALUES (?, ?)", [(source, step) for source in sources])


def left_out(db: sqlite3.Connection) -> set[str]:
    """The lists and senders that stand in no edition."""
    rows = db.execute("SELECT source FROM left_out JOIN steps ON steps.id = left_out.step WHERE undone_at IS NULL")
    return {row[0] for row in rows}


def leave_in(db: sqlite3.Connection, source: str) -> bool:
    """Let a list or sender stand in editions again; whether it did not."""
    return db.execute("DELETE FROM left_out WHERE source = ?", (source,)).rowcount > 0
