"""What is followed through: due dates, parked mail, answers that are waited for."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Literal

Kind = Literal["due", "parked", "awaited", "back", "unanswered", "settled", "kept"]


@dataclass(frozen=True, slots=True)
class State:
    """What is noted of one message in one way: ``at`` is when it is time (Unix seconds, 0: by no time), ``day`` that a
    whole day is meant, ``answer`` that an answer is what it waits for, or what brought it back, ``since`` when it was
    noted, or when it was parked."""

    at: int
    since: int
    day: bool = False
    answer: bool = False


@dataclass(frozen=True, slots=True)
class Followed:
    """A message with what is noted of it."""

    kind: Kind
    message: int
    state: State


FAR = 2**40
"""A time after all that can be due."""
_COLUMNS = "kind, message, at, day, answer, since"


def _followed(row: sqlite3.Row) -> Followed:
    state = State(row["at"], row["since"], bool(row["day"]), bool(row["answer"]))
    return Followed(row["kind"], row["message"], state)


def get(db: sqlite3.Connection, kind: Kind, message: int) -> State | None:
    """What is noted of a message, or None."""
    row = db.execute(f"SELECT {_COLUMNS} FROM following WHERE kind = ? AND message = ?", (kind, message)).fetchone()
    return _followed(row).state if row else None


def of(db: sqlite3.Connection, messages: Sequence[int]) -> list[Followed]:
    """All that is noted of some messages."""
    rows = db.execute(
        f"SELECT {_COLUMNS} FROM following INDEXED BY following_by_message"
        " WHERE message IN (SELECT value FROM json_each(?)) ORDER BY message, kind",
        (json.dumps(list(messages)),),
    )
    return [_followed(row) for row in rows.fetchall()]


def every(db: sqlite3.Connection, kind: Kind, until: int | None = None) -> list[Followed]:
    """All of a kind, the earliest first; with ``until`` those whose time has come by then."""
    if until is None:
        rows = db.execute(f"SELECT {_COLUMNS} FROM following WHERE kind = ? ORDER BY at, message", (kind,))
    else:
        rows = db.execute(
            f"SELECT {_COLUMNS} FROM following WHERE kind = ? AND at > 0 AND at <= ? ORDER BY at, message",
            (kind, until),
        )
    return [_followed(row) for row in rows.fetchall()]


def set_state(db: sqlite3.Connection, kind: Kind, message: int, state: State | None) -> None:
    """Note something of a message; None takes it away."""
    db.execute("DELETE FROM following WHERE kind = ? AND message = ?", (kind, message))
    if state is not None:
        db.execute(
            f"INSERT INTO following ({_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?)",
            (kind, message, state.at, state.day, state.answer, state.since),
        )


def change(db: sqlite3.Connection, step: int, kind: Kind, message: int, state: State | None) -> None:
    """As part of a step, note something of a message; None takes it away."""
    before = get(db, kind, message)
    first = db.execute(
        "SELECT before FROM followed WHERE step = ? AND kind = ? AND message = ?", (step, kind, message)
    ).fetchone()
    set_state(db, kind, message, state)
    db.execute(
        "INSERT OR REPLACE INTO followed VALUES (?, ?, ?, ?, ?)",
        (step, kind, message, first[0] if first else _json(before), _json(state)),
    )


def take_back(db: sqlite3.Connection, step: int) -> list[int]:
    """Take back what a step noted, where it still is as the step left it; the messages it concerned."""
    rows = db.execute("SELECT kind, message, before, behind FROM followed WHERE step = ?", (step,)).fetchall()
    for row in rows:
        if _json(get(db, row["kind"], row["message"])) == row["behind"]:
            set_state(db, row["kind"], row["message"], _state(row["before"]))
    return sorted({row["message"] for row in rows})


def _json(state: State | None) -> str:
    return json.dumps(asdict(state), sort_keys=True) if state else ""


def _state(text: str) -> State | None:
    return State(**json.loads(text)) if text else None


def check(db: sqlite3.Connection) -> None:
    """Read what steps noted as it is read later. Raises what it holds that cannot be."""
    for row in db.execute("SELECT before, behind FROM followed"):
        for text in row:
            state = _state(text)
            if state is not None and not all(isinstance(one, int) for one in asdict(state).values()):
                raise ValueError(text)


def parked_without_time(db: sqlite3.Connection) -> list[int]:
    """Messages that stand among the parked of which nothing is noted: something else put them there."""
    rows = db.execute(
        "SELECT id FROM messages WHERE place = 'parked'"
        " AND NOT EXISTS (SELECT 1 FROM following WHERE kind = 'parked' AND message = messages.id) ORDER BY id"
    )
    return [row[0] for row in rows]


def waiting_in(db: sqlite3.Connection, thread: int) -> list[int]:
    """The messages of a thread of which an answer is waited for, or was missed."""
    rows = db.execute(
        "SELECT DISTINCT m.id FROM messages AS m JOIN following AS f ON f.message = m.id"
        " WHERE m.thread = ? AND f.kind IN ('awaited', 'unanswered') ORDER BY m.id",
        (thread,),
    )
    return [row[0] for row in rows]


def parked_in(db: sqlite3.Connection, thread: int) -> list[int]:
    """The parked messages of a thread."""
    rows = db.execute("SELECT id FROM messages WHERE thread = ? AND place = 'parked' ORDER BY id", (thread,))
    return [row[0] for row in rows]


def due(db: sqlite3.Connection, until: int = FAR, *, parked: bool = True) -> list[Followed]:
    """What is due up to but without a time, of mail that is not thrown away, the earliest first; with ``parked`` what
    is out of sight too."""
    rows = db.execute(
        "SELECT f.kind, f.message, f.at, f.day, f.answer, f.since FROM following AS f JOIN messages AS m"
        " ON m.id = f.message WHERE f.kind = 'due' AND f.at < ?"
        " AND m.place NOT IN ('trash', 'junk', 'gone') AND (? OR m.place <> 'parked') ORDER BY f.at, f.message",
        (until, parked),
    )
    return [_followed(row) for row in rows.fetchall()]


def offered(db: sqlite3.Connection, most: int) -> list[str]:
    """What the owner typed for times most often, that first."""
    rows = db.execute("SELECT said FROM said_times ORDER BY times DESC, last DESC LIMIT ?", (most,))
    return [row[0] for row in rows]


def note_said(db: sqlite3.Connection, said: str, at: int) -> None:
    """Count what the owner typed for a time, in whatever case and with whatever blanks."""
    db.execute(
        "INSERT INTO said_times VALUES (?, 1, ?)"
        " ON CONFLICT (said) DO UPDATE SET times = times + 1, last = excluded.last",
        (" ".join(said.lower().split()), at),
    )
