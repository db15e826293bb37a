"""How long tests wait: for what is awaited, never for a time, and so long that no busy machine makes one fail.

``HIERANOME_PATIENCE`` multiplies it. Waiting longer costs nothing where what is awaited comes.
"""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from typing import TypeVar

PATIENCE = 60.0 * float(os.environ.get("HIERANOME_PATIENCE", "1"))
"""Seconds before something counts as awaited in vain: also what tests give sockets and processes."""

T = TypeVar("T")


def await_(what: str, check: Callable[[], T], *, said: Callable[[], object] = lambda: "", pause: float = 0.02) -> T:
    """The first true value of ``check``; an AssertionError with ``what`` was awaited, and what ``said`` tells of it."""
    end = time.monotonic() + PATIENCE
    while True:
        value = check()
        if value:
            return value
        if time.monotonic() > end:
            raise AssertionError(f"awaited in vain: {what}; {said()}")
        time.sleep(pause)
