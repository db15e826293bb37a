"""What happened, told to whoever listens: numbered, with a short memory so that listeners can resume."""

from __future__ import annotations

import secrets
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

MEMORY = 1_000
"""Events kept for listeners who come back."""


@dataclass(frozen=True, slots=True)
class Event:
    """One event: its id (``run-number``), its kind, its data (JSON-able)."""

    id: str
    kind: str
    data: dict[str, Any]


class Events:
    """Publishes from any thread; listeners are woken and fetch what they have not seen."""

    def __init__(self) -> None:
        self.run = secrets.token_hex(4)
        self._number = 0
        self._kept: deque[Event] = deque(maxlen=MEMORY)
        self._lock = threading.Lock()
        self._wake: dict[int, Callable[[], None]] = {}

    def publish(self, kind: str, **data: Any) -> None:
        """Tell everybody."""
        with self._lock:
            self._number += 1
            self._kept.append(Event(f"{self.run}-{self._number}", kind, data))
            wakers = list(self._wake.values())
        for wake in wakers:
            wake()

    @property
    def latest(self) -> str:
        """The id of the latest event."""
        return f"{self.run}-{self._number}"

    def since(self, last_id: str) -> list[Event] | None:
        """Events after ``last_id``; None when they are no longer remembered and all must be loaded anew."""
        run, _, number = last_id.partition("-")
        if run != self.run or not (number.isascii() and number.isdecimal()) or len(number) > 18:
            return None
        with self._lock:
            missing = self._number - int(number)
            if missing > len(self._kept) or missing < 0:
                return None
            return list(self._kept)[len(self._kept) - missing :] if missing else []

    @property
    def listening(self) -> int:
        """How many listen now."""
        return len(self._wake)

    def listen(self, wake: Callable[[], None]) -> Callable[[], None]:
        """Call ``wake`` after every event; returns what ends it."""
        key = id(wake)
        with self._lock:
            self._wake[key] = wake

        def stop() -> None:
            with self._lock:
                self._wake.pop(key, None)

        return stop
