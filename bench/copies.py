"""Copies of a mailbox, so that measuring changes nothing in it."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from hieranome.app.room.mailroom import Mailroom


@contextmanager
def copied(mailbox: Path, later: int = 0) -> Iterator[Mailroom]:
    """The room of a copy of this data folder, whose clock stands ``later`` seconds after its newest message."""
    with tempfile.TemporaryDirectory(prefix="hieranome-bench-") as place:
        shutil.copytree(mailbox, Path(place) / "data")
        room = Mailroom(Path(place) / "data")
        newest = int(room.reader().execute("SELECT max(time) FROM messages").fetchone()[0])
        room.clock = lambda: newest + later
        try:
            yield room
        finally:
            room.close()
