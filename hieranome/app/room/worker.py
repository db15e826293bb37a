"""One kind of thread for all that works behind the page: it can be woken and ended, it goes on after an error, later
each time, and it tells how it is."""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import HieranomeError

FIRST_WAIT, LAST_WAIT = 1.0, 300.0
"""Seconds until work that failed is tried again, at first and in the end."""
PATIENCE = 20.0
"""Seconds that ending waits for the work at hand."""
_LOG = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Health:
    """How a worker is: its name, what it does in words, whether its thread lives, how often in a row it failed, and
    why last (an empty string once it works again)."""

    name: str
    doing: str
    running: bool
    failures: int
    error: str

    @property
    def in_trouble(self) -> bool:
        """Whether somebody should know."""
        return bool(self.failures) or not self.running


class Worker:
    """A thread that calls ``work`` whenever it is woken, and when the seconds that the last call asked for are over
    (None: only when woken). Whatever is raised, it is told, and tried again after a while."""

    def __init__(self, room: Mailroom, name: str, doing: str, work: Callable[[], float | None]) -> None:
        self._room, self.name, self.doing, self._work = room, name, doing, work
        self._woken = threading.Event()
        self.ended = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._failures, self._error = 0, ""
        self._begun = False

    def start(self) -> None:
        """Begin to work, at once."""
        self._begun = True
        self._thread.start()

    def wake(self) -> None:
        """Work now."""
        self._woken.set()

    def rest(self, seconds: float) -> None:
        """Pause within the work, unless the end comes."""
        self.ended.wait(seconds)

    def close(self) -> None:
        """End after the work at hand, which is waited for a while."""
        self.ended.set()
        self._woken.set()
        if self._thread.is_alive() and self._thread is not threading.current_thread():
            self._thread.join(PATIENCE)

    @property
    def health(self) -> Health:
        """How it is now."""
        running = not self._begun or self.ended.is_set() or self._thread.is_alive()
        return Health(self.name, self.doing, running, self._failures, self._error)

    def _run(self) -> None:
        while not self.ended.is_set():
            self._woken.clear()
            try:
                wait = self._work()
            except Exception as exc:
                self._failed(exc)
                wait = min(FIRST_WAIT * 2 ** min(self._failures - 1, 20), LAST_WAIT)
                self.ended.wait(wait)  # being woken does not make it fail more often
                continue
            if self._failures:
                self._failures, self._error = 0, ""
                self._room.tell("health")
            self._woken.wait(wait)

    def _failed(self, exc: Exception) -> None:
        if isinstance(exc, HieranomeError):
            self._error = str(exc)
        else:
            _LOG.exception("%s failed", self.name)
            self._error = f"It failed for a reason of our own ({type(exc).__name__})."
        self._failures += 1  # last: who sees it counted sees why
        self._room.tell("health")
