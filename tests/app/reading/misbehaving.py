"""What a process that reads may come to do. It imports next to nothing, so that one that is to misbehave begins at
once."""

from __future__ import annotations

import os
import time
from multiprocessing.connection import Connection
from pathlib import Path

from hieranome.app.reading import reading_process
from hieranome.core.errors import NotFound
from tests.patience import PATIENCE


def explode(*_: object, **__: object) -> None:
    """Raise what nobody thought of."""
    raise RuntimeError("a fault nobody thought of")


def hang(_: bytes) -> None:
    """Never come to an end."""
    while True:
        time.sleep(1)


def die(_: bytes) -> None:
    """End the process."""
    os._exit(9)


def fill(_: bytes) -> None:
    """Want more memory than there is for it."""
    bytearray(reading_process.MEMORY * 2)


def miss(_: bytes) -> None:
    """Raise an error of our own."""
    raise NotFound("there is none")


def late(tried: Path, pipe: Connection) -> None:
    """Begin only when it was tried before."""
    before = tried.exists()
    tried.touch()
    if not before:
        time.sleep(PATIENCE)
    reading_process._work(pipe)


def stillborn(_: Connection) -> None:
    """End before it began."""
    os._exit(3)


def asleep(_: Connection) -> None:
    """Never begin."""
    time.sleep(PATIENCE)
