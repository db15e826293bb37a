"""The clock of this machine: what is to be looked at again and again, by APScheduler."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC

from apscheduler.schedulers.background import BackgroundScheduler


class Schedule:
    """Calls what it was given, each in its own rhythm, until it is closed. What is called only wakes a worker: a look
    that comes late, since the machine slept, comes once."""

    def __init__(self) -> None:
        self._scheduler = BackgroundScheduler(timezone=UTC)

    def every(self, seconds: float, look: Callable[[], None]) -> None:
        """Call ``look`` every so many seconds."""
        self._scheduler.add_job(
            look, "interval", seconds=seconds, coalesce=True, max_instances=1, misfire_grace_time=None
        )

    def start(self) -> None:
        """Begin."""
        self._scheduler.start()

    def close(self) -> None:
        """End; nothing is called any more."""
        if self._scheduler.running:
            self._scheduler.shutdown(wait=False)
