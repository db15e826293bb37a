"""A step in a process of its own that is killed at some moment, on a copy of a data folder."""

from __future__ import annotations

import contextlib
import shutil
import subprocess
import sys
import time
from pathlib import Path

from hieranome.app.room.mailroom import Mailroom


def kept_apart(room: Mailroom, folder: Path) -> Path:
    """Close a room and copy its store aside; where to."""
    room.close()
    kept = folder / "kept"
    kept.mkdir()
    for name in ("hieranome.sqlite3", "hieranome.sqlite3-wal"):
        if (room.store.folder / name).exists():
            shutil.copy(room.store.folder / name, kept / name)
    return kept


def run_and_kill(program: str, kept: Path, folder: Path, *words: str, seconds: float) -> float:
    """Run a program on a copy of what is kept, and kill it so many seconds after it said that it begun; how long it
    took."""
    shutil.copytree(kept, folder)
    with subprocess.Popen(
        [sys.executable, "-c", program, str(folder), *words], stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        said = process.stdout.readline()
        if said != "begun\n":
            raise AssertionError(f"the program did not begin: {said}")
        began = time.monotonic()
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(seconds)
        process.kill()
        return time.monotonic() - began
