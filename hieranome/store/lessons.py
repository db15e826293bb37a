"""Lessons: an append-only log. Undoing marks a lesson; nothing is taken out."""

from __future__ import annotations

import sqlite3
from dataclasses import asdict, dataclass

from hieranome.core.engine import GENERATION
from hieranome.core.features import FEATURE_VERSION, Vector, pack, unpack
from hieranome.core.judgement import Lesson
from hieranome.core.sure import ALWAYS, TEACHES, Binding, Reach
from hieranome.store import places
from hieranome.store.always import HOLDS


@dataclass(frozen=True, slots=True)
class LessonRecord:
    """One lesson as the ledger shows it: what was said of which message, and what it changed: the importance
    of the message before and after, and how many kin it had; ``together`` is how many lessons its step gave, which are
    undone with it."""

    id: int
    step: int
    message: int
    at: int
    stood: str
    belongs: str
    reach: str
    key: str
    undone: bool
    before: float
    after: float
    kin: int
    subject: str
    sender: str
    together: int


@dataclass(frozen=True, slots=True)
class Asked:
    """Which lessons are asked for: those with a text in subject, sender or key, those that say a bucket (empty: any),
    only those that stand, and one alone (0: any)."""

    text: str = ""
    belongs: str = ""
    standing: bool = False
    lesson: int = 0


ANY = Asked()
"""All lessons."""


@dataclass(frozen=True, slots=True)
class NewLesson:
    """A lesson to be written."""

    step: int
    message: int
    at: int
    stood: str
    belongs: str
    reach: Reach
    key: str
    vector: Vector


def add(db: sqlite3.Connection, new: NewLesson) -> Lesson:
    """Write a lesson; returns it as the engine takes it."""
    number = db.execute(
        "INSERT INTO lessons (step, message, at, stood, belongs, reach, key, feature_version, features)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        (
            new.step,
            new.message,
            new.at,
            new.stood,
            new.belongs,
            new.reach.value,
            new.key,
            FEATURE_VERSION,
            pack(new.vector),
        ),
    ).lastrowid
    assert number is not None
    return Lesson(number, new.vector, new.belongs, new.stood)


def note_effect(db: sqlite3.Connection, number: int, before: float, after: float, kin: int) -> None:
    """Note what a lesson changed."""
    db.execute("UPDATE lessons SET before = ?, after = ?, kin = ? WHERE id = ?", (before, after, kin, number))


def teaching(db: sqlite3.Connection) -> list[Lesson]:
    """The lessons the model learns from, in order."""
    rows = db.execute(
        "SELECT id, features, belongs, stood, reach FROM lessons WHERE undone = 0 AND feature_version = ? ORDER BY id",
        (FEATURE_VERSION,),
    )
    return [Lesson(r[0], unpack(r[1]), r[2], r[3]) for r in rows if Reach(r[4]) in TEACHES]


NONE = f"{GENERATION}: 0 0"
"""The state before any lesson."""


def state(db: sqlite3.Connection) -> str:
    """What tells one state of the lessons from another: the engine that took them in, the newest, and how many are
    undone."""
    newest, undone = db.execute("SELECT coalesce(max(id), 0), coalesce(sum(undone), 0) FROM lessons").fetchone()
    return f"{GENERATION}: {newest} {undone}"


def of_step(db: sqlite3.Connection, step: int) -> list[int]:
    """Ids of the lessons a step made, in order."""
    return [r[0] for r in db.execute("SELECT id FROM lessons WHERE step = ? ORDER BY id", (step,))]


def mark_undone(db: sqlite3.Connection, step: int) -> None:
    """Mark the lessons of a step as undone."""
    db.execute("UPDATE lessons SET undone = 1 WHERE step = ?", (step,))


def binding_bucket(db: sqlite3.Connection, reach: Reach, key: str) -> str | None:
    """The bucket the latest standing lesson of that reach and key says, or None."""
    row = db.execute(
        f"SELECT belongs FROM lessons AS l WHERE reach = ? AND key = ? AND {HOLDS} ORDER BY id DESC LIMIT 1",
        (reach.value, key),
    ).fetchone()
    return places.bound_for(db, row[0]) if row else None


def any_binding(db: sqlite3.Connection) -> bool:
    """Whether any standing lesson binds a thread, a sender, a list or a domain."""
    marks = (Reach.THREAD.value, *(reach.value for reach in ALWAYS))
    row = db.execute("SELECT 1 FROM lessons WHERE undone = 0 AND reach IN (?, ?, ?, ?) LIMIT 1", marks).fetchone()
    return row is not None


def bindings(db: sqlite3.Connection, keys: list[tuple[Reach, str]]) -> list[Binding]:
    """What was said for always about any of the keys."""
    found = []
    for reach, key in keys:
        bucket = binding_bucket(db, reach, key) if reach in ALWAYS else None
        if bucket is not None:
            found.append(Binding(reach, key, bucket))
    return found


_RECORD = """
    SELECT l.id, l.step, l.message, l.at, l.stood, l.belongs, l.reach, l.key, l.undone,
           l.before, l.after, l.kin, m.subject,
           CASE m.sender_name WHEN '' THEN m.sender_address ELSE m.sender_name END AS sender,
           (SELECT count(*) FROM lessons AS o WHERE o.step = l.step) AS together
    FROM lessons AS l JOIN messages AS m ON m.id = l.message
"""


def record(db: sqlite3.Connection, number: int) -> LessonRecord | None:
    """One lesson, or None."""
    row = db.execute(f"{_RECORD} WHERE l.id = ?", (number,)).fetchone()
    return _record(row) if row else None


def ledger(db: sqlite3.Connection, before: int, limit: int, asked: Asked = ANY) -> list[LessonRecord]:
    """Lessons that are asked for with smaller ids than ``before`` (0: from the newest), newest first."""
    rows = db.execute(
        f"""
        {_RECORD} WHERE (:before = 0 OR l.id < :before) AND (:lesson = 0 OR l.id = :lesson)
            AND (:belongs = '' OR l.belongs = :belongs) AND (NOT :standing OR l.undone = 0)
            AND (:text = '' OR instr(
                folded(m.subject || ' ' || m.sender_name || ' ' || m.sender_address || ' ' || l.key), :text))
        ORDER BY l.id DESC LIMIT :limit
        """,
        {**asdict(asked), "text": asked.text.strip().casefold(), "before": before, "limit": limit},
    )
    return [_record(row) for row in rows]


def latest_of(db: sqlite3.Connection, numbers: list[int]) -> dict[str, tuple[int, int]]:
    """Of some lessons, by the bucket they say: how many, and when the latest was given (Unix seconds)."""
    marks = ",".join("?" * len(numbers))
    rows = db.execute(f"SELECT belongs, count(*), max(at) FROM lessons WHERE id IN ({marks}) GROUP BY belongs", numbers)
    return {row[0]: (row[1], row[2]) for row in rows}


def of_message(db: sqlite3.Connection, message: int) -> LessonRecord | None:
    """The latest standing lesson about a message, or None."""
    row = db.execute(
        f"{_RECORD} WHERE l.message = ? AND l.undone = 0 ORDER BY l.id DESC LIMIT 1", (message,)
    ).fetchone()
    return _record(row) if row else None


def _record(row: sqlite3.Row) -> LessonRecord:
    values = dict(row)
    return LessonRecord(**{**values, "undone": bool(values["undone"])})
