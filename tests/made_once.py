"""What takes long to make is made once for all tests of a run, and copied.

The runner names a folder in ``HIERANOME_MADE_ONCE`` that its processes share; a test run by itself has one of its own.
"""

from __future__ import annotations

import atexit
import fcntl
import os
import shutil
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

from hieranome.demo import house


@cache
def _folder() -> Path:
    shared = os.environ.get("HIERANOME_MADE_ONCE")
    if shared:
        return Path(shared)
    own = Path(tempfile.mkdtemp(prefix="hieranome-made-"))
    atexit.register(shutil.rmtree, own, ignore_errors=True)
    return own


def made_once(name: str, make: Callable[[Path], object]) -> Path:
    """What ``make`` makes at a path, made by whoever asks first while others wait. Not to be changed: copy it."""
    target = _folder() / name
    with (_folder() / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not target.exists():
            half = target.with_suffix(".half")
            make(half)
            half.rename(target)
    return target


def lay_demo(folder: Path) -> None:
    """Lay down the demo of today in a folder, as ``hieranome demo`` makes it: opening it makes nothing anew."""
    shutil.copytree(made_once("demo", lambda at: house.open_demo(at).close()), folder)
