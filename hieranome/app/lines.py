"""Search lines that follow what they name."""

from __future__ import annotations

import sqlite3
from typing import Literal

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.query import renamed
from hieranome.store import lines


def follow(room: Mailroom, db: sqlite3.Connection, operator: Literal["tag", "bucket"], old: str, new: str) -> None:
    """Within a change, let every line that is kept go on finding what it found: what it names is called otherwise
    now."""
    if old == new:
        return
    for kind in sorted(lines.change(db, lambda line: renamed(line, operator, old, new))):
        room.tell("editions" if kind == "plans" else kind)
