"""Search lines that are kept, wherever they are: of rules, saved searches, plans of editions, trays and the away
notice."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import Any

from hieranome.store import settings

_COLUMNS = (("rules", "line"), ("rules", "excepted"), ("searches", "line"), ("plans", "search"))


def change(db: sqlite3.Connection, anew: Callable[[str], str]) -> set[str]:
    """Let every line be what ``anew`` makes of it; the kinds of things whose lines changed: ``rules``, ``searches``,
    ``plans``, ``trays``, ``away``."""
    changed = {table for table, column in _COLUMNS if _in_column(db, table, column, anew)}
    trays = settings.value(db, settings.TRAYS, None)
    if trays is not None and _in_values(trays, anew):
        settings.put(db, settings.TRAYS, trays)
        changed.add("trays")
    away = settings.value(db, settings.AWAY, None)
    if away is not None and _in_values(away["circles"], anew):
        settings.put(db, settings.AWAY, away)
        changed.add("away")
    return changed


def _in_column(db: sqlite3.Connection, table: str, column: str, anew: Callable[[str], str]) -> bool:
    rows = db.execute(f"SELECT id, {column} FROM {table} WHERE {column} <> ''").fetchall()
    other = [(anew(line), number) for number, line in rows if anew(line) != line]
    db.executemany(f"UPDATE {table} SET {column} = ? WHERE id = ?", other)
    return bool(other)


def _in_values(values: list[dict[str, Any]], anew: Callable[[str], str]) -> bool:
    """Change the lines of some things that are kept as JSON; whether any did."""
    changed = False
    for one in values:
        line = anew(one["line"])
        changed |= line != one["line"]
        one["line"] = line
    return changed
