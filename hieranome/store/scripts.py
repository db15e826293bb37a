"""Rules that also run at servers."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import dataclass, fields
from typing import Literal

State = Literal["there", "changed", "gone", "resting"]
"""What was found: it runs as it was put there; another program changed it; it is not there; it is, and does not run."""


@dataclass(frozen=True, slots=True)
class Placed:
    """What was put at the server of a mailbox. ``beside`` is a script of the owner's that runs with it, or empty;
    ``away`` says that the away notice is in it."""

    account: int
    host: str
    port: int
    security: Literal["tls", "starttls", "plain"]
    pin: str
    rules: frozenset[int]
    text: str
    beside: str
    state: State
    looked_at: int
    away: bool = False


_NAMES = tuple(one.name for one in fields(Placed))


def _placed(row: sqlite3.Row) -> Placed:
    values = dict(zip(_NAMES, row, strict=True))
    return Placed(**(values | {"rules": frozenset(json.loads(values["rules"])), "away": bool(values["away"])}))


def every(db: sqlite3.Connection) -> list[Placed]:
    """Everything that was put at servers."""
    return [_placed(row) for row in db.execute(f"SELECT {', '.join(_NAMES)} FROM scripts ORDER BY account")]


def of_account(db: sqlite3.Connection, account: int) -> Placed | None:
    """What was put at the server of a mailbox."""
    return next((one for one in every(db) if one.account == account), None)


def away_at(db: sqlite3.Connection) -> set[str]:
    """The addresses of the mailboxes whose servers send the away notice, as far as is known: where another program
    changed our script, it may well send it still."""
    rows = db.execute(
        "SELECT a.address FROM scripts AS s JOIN accounts AS a ON a.id = s.account"
        " WHERE s.away = 1 AND s.state IN ('there', 'changed')"
    )
    return {row[0] for row in rows}


def put(db: sqlite3.Connection, placed: Placed) -> None:
    """Note what was put at a server."""
    values = [getattr(placed, name) for name in _NAMES]
    values[_NAMES.index("rules")] = json.dumps(sorted(placed.rules))
    db.execute(f"INSERT OR REPLACE INTO scripts ({', '.join(_NAMES)}) VALUES ({', '.join('?' * len(_NAMES))})", values)


def note_found(db: sqlite3.Connection, account: int, state: State, at: int) -> None:
    """Note what was found at a server."""
    db.execute("UPDATE scripts SET state = ?, looked_at = ? WHERE account = ?", (state, at, account))


def forget(db: sqlite3.Connection, account: int) -> None:
    """Note that nothing of ours is at a server any more."""
    db.execute("DELETE FROM scripts WHERE account = ?", (account,))
