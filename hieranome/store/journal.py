"""The journal: every step Hieranome took with mail, and the moves that made it up."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass

from hieranome.core.actors import Actor
from hieranome.core.deciders import Decider
from hieranome.core.errors import Conflict, NotFound
from hieranome.core.steps import BY_THEMSELVES, FINAL, STEPS, StepKind


@dataclass(frozen=True, slots=True)
class Step:
    """One line of the journal; ``undone_at`` is None while it stands; ``messages`` counts those moved, marked, tagged
    answered about or followed through, whichever are most; ``gone`` says that all mail it
    moved was taken out of the Trash for good since, or that the draft it discarded is kept no more."""

    id: int
    at: int
    kind: StepKind
    title: str
    undone_at: int | None
    messages: int
    gone: bool = False

    @property
    def undoable(self) -> bool:
        """Whether it stands and can be taken back."""
        return self.undone_at is None and self.kind not in FINAL and not self.gone

    @property
    def label(self) -> str:
        """What names its kind beside its line."""
        return STEPS[self.kind].label


@dataclass(frozen=True, slots=True)
class Move:
    """One message moved by a step."""

    message: int
    origin: str
    origin_decided_by: Decider
    target: str


_GONE = """
    (EXISTS (SELECT 1 FROM moves WHERE step = s.id)
    AND NOT EXISTS (SELECT 1 FROM moves AS v JOIN messages AS m ON m.id = v.message
        WHERE v.step = s.id AND m.place <> 'gone')
    AND NOT EXISTS (SELECT 1 FROM marks WHERE step = s.id) AND NOT EXISTS (SELECT 1 FROM lessons WHERE step = s.id)
    AND NOT EXISTS (SELECT 1 FROM left_out WHERE step = s.id) AND NOT EXISTS (SELECT 1 FROM tagging WHERE step = s.id)
    AND NOT EXISTS (SELECT 1 FROM followed WHERE step = s.id)
    OR s.kind = 'discarded' AND s.undone_at IS NULL AND NOT EXISTS (SELECT 1 FROM discarded WHERE step = s.id))
"""
_STEP = (
    "SELECT s.id, s.at, s.kind, s.title, s.undone_at, (SELECT count(*) FROM ("
    "SELECT message FROM moves WHERE step = s.id UNION SELECT message FROM marks WHERE step = s.id"
    " UNION SELECT message FROM tagging WHERE step = s.id UNION SELECT message FROM followed WHERE step = s.id"
    f" UNION SELECT message FROM topic_answers WHERE step = s.id)), {_GONE} FROM steps AS s"
)


def begin(db: sqlite3.Connection, at: int, kind: StepKind, title: str, actor: Actor = Actor.OWNER) -> int:
    """Write a new line of what somebody does; returns its number."""
    insert = "INSERT INTO steps (at, kind, title, actor) VALUES (?, ?, ?, ?)"
    number = db.execute(insert, (at, kind, title, actor)).lastrowid
    assert number is not None
    return number


def emptied(db: sqlite3.Connection, place: str) -> Step | None:
    """The last standing step by which a bucket that was switched off was emptied, or None."""
    row = db.execute(
        f"{_STEP} WHERE s.kind = ? AND s.undone_at IS NULL"
        " AND EXISTS (SELECT 1 FROM moves WHERE step = s.id AND origin = ?) ORDER BY s.id DESC LIMIT 1",
        (StepKind.SWITCHED, place),
    ).fetchone()
    return _step(row) if row else None


def forget(db: sqlite3.Connection, step: int) -> None:
    """Take out a line of which nothing came."""
    db.execute("DELETE FROM steps WHERE id = ?", (step,))


def actor_of(db: sqlite3.Connection, step: int) -> Actor:
    """Who did a step that exists."""
    return Actor(db.execute("SELECT actor FROM steps WHERE id = ?", (step,)).fetchone()[0])


def add_move(db: sqlite3.Connection, step: int, move: Move) -> None:
    """Note a move of the step."""
    add_moves(db, step, [move])


def add_moves(db: sqlite3.Connection, step: int, moves: Iterable[Move]) -> None:
    """Note moves of the step."""
    db.executemany(
        "INSERT INTO moves VALUES (?, ?, ?, ?, ?)",
        [(step, one.message, one.origin, one.origin_decided_by, one.target) for one in moves],
    )


def get(db: sqlite3.Connection, number: int) -> Step:
    """One line. Raises :class:`NotFound`."""
    row = db.execute(f"{_STEP} WHERE s.id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"The journal has no step {number}.")
    return _step(row)


def latest_standing(db: sqlite3.Connection) -> Step:
    """The last step not undone that did not come by itself. Raises :class:`Conflict` when there is none."""
    among = ", ".join("?" * len(BY_THEMSELVES))
    row = db.execute(
        f"{_STEP} WHERE s.undone_at IS NULL AND s.kind NOT IN ({among}) AND NOT {_GONE} ORDER BY s.id DESC LIMIT 1",
        BY_THEMSELVES,
    ).fetchone()
    if row is None:
        raise Conflict("There is nothing to undo.")
    return _step(row)


def _step(row: sqlite3.Row) -> Step:
    number, at, kind, title, undone_at, count, gone = row
    return Step(number, at, StepKind(kind), title, undone_at, count, bool(gone))


def recent(db: sqlite3.Connection, before: int, limit: int) -> list[Step]:
    """Lines with smaller numbers than ``before`` (0: from the newest), newest first."""
    rows = db.execute(f"{_STEP} WHERE ? = 0 OR s.id < ? ORDER BY s.id DESC LIMIT ?", (before, before, limit))
    return [_step(row) for row in rows]


def between(db: sqlite3.Connection, since: int, until: int) -> list[Step]:
    """Lines written later than ``since``, up to ``until`` (Unix seconds), newest first."""
    rows = db.execute(f"{_STEP} WHERE s.at > ? AND s.at <= ? ORDER BY s.id DESC LIMIT 500", (since, until))
    return [_step(row) for row in rows]


def moves(db: sqlite3.Connection, step: int) -> list[Move]:
    """The moves of a step."""
    rows = db.execute("SELECT message, origin, origin_decided_by, target FROM moves WHERE step = ?", (step,))
    return [_move(row) for row in rows]


def _move(row: sqlite3.Row) -> Move:
    message, origin, decided_by, target = row
    return Move(message, origin, Decider(decided_by), target)


def way_back(db: sqlite3.Connection, message: int, place: str) -> Move | None:
    """The last standing move that brought a message to the place it is in, or None."""
    row = db.execute(
        """
        SELECT m.message, m.origin, m.origin_decided_by, m.target FROM moves AS m JOIN steps AS s ON s.id = m.step
        WHERE m.message = ? AND s.undone_at IS NULL ORDER BY m.step DESC LIMIT 1
        """,
        (message,),
    ).fetchone()
    return _move(row) if row and row["target"] == place else None


def add_marks(db: sqlite3.Connection, step: int, messages: list[int], mark: str, wanted: bool) -> None:
    """Note that a step set or cleared a mark."""
    db.executemany("INSERT INTO marks VALUES (?, ?, ?, ?)", [(step, number, mark, wanted) for number in messages])


def marks(db: sqlite3.Connection, step: int) -> list[tuple[int, str, bool]]:
    """What a step marked: the message, the mark, whether it was set."""
    rows = db.execute("SELECT message, mark, wanted FROM marks WHERE step = ?", (step,))
    return [(row[0], row[1], bool(row[2])) for row in rows]


def mark_undone(db: sqlite3.Connection, step: int, at: int) -> None:
    """Mark a step as undone."""
    db.execute("UPDATE steps SET undone_at = ? WHERE id = ?", (at, step))


def names_place(db: sqlite3.Connection, name: str) -> bool:
    """Whether a step moved mail from or to a place."""
    return db.execute("SELECT 1 FROM moves WHERE ? IN (origin, target) LIMIT 1", (name,)).fetchone() is not None


@dataclass(frozen=True, slots=True)
class Event:
    """What a step did to one message: moved it from ``origin`` to ``target``, set or cleared a ``mark``, put a ``tag``
    on or took it off, taught that it ``belongs`` somewhere without moving it, or ``followed`` it through in some
    way."""

    step: int
    at: int
    kind: StepKind
    title: str
    undone_at: int | None
    origin: str
    target: str
    mark: str
    wanted: bool
    belongs: str
    tag: str
    followed: str

    @property
    def moved(self) -> str:
        """What it did to a message that moved, before the words for where that stands."""
        return STEPS[self.kind].moved


def of_message(db: sqlite3.Connection, message: int) -> list[Event]:
    """What happened to one message, oldest first."""
    rows = db.execute(
        """
        SELECT s.id AS step, s.at, s.kind, s.title, s.undone_at, m.origin, m.target, '' AS mark, 0 AS wanted,
            '' AS belongs, '' AS tag, '' AS followed
        FROM moves AS m JOIN steps AS s ON s.id = m.step WHERE m.message = ?1
        UNION ALL
        SELECT s.id, s.at, s.kind, s.title, s.undone_at, '', '', k.mark, k.wanted, '', '', ''
        FROM marks AS k JOIN steps AS s ON s.id = k.step WHERE k.message = ?1
        UNION ALL
        SELECT s.id, s.at, s.kind, s.title, s.undone_at, '', '', '', 0, l.belongs, '', ''
        FROM lessons AS l JOIN steps AS s ON s.id = l.step
        WHERE l.message = ?1 AND NOT EXISTS (SELECT 1 FROM moves WHERE step = l.step AND message = l.message)
        UNION ALL
        SELECT s.id, s.at, s.kind, s.title, s.undone_at, '', '', '', t.wanted, '', g.name, ''
        FROM tagging AS t JOIN steps AS s ON s.id = t.step JOIN tags AS g ON g.id = t.tag WHERE t.message = ?1
        UNION ALL
        SELECT s.id, s.at, s.kind, s.title, s.undone_at, '', '', '', f.behind <> '', '', '', f.kind
        FROM followed AS f JOIN steps AS s ON s.id = f.step WHERE f.message = ?1
            AND NOT EXISTS (SELECT 1 FROM moves WHERE step = f.step AND message = f.message)
        ORDER BY 1
        """,
        (message,),
    )
    return [Event(**{**row, "kind": StepKind(row["kind"]), "wanted": bool(row["wanted"])}) for row in map(dict, rows)]
