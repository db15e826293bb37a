"""The clock of this machine: what is to be looked at again and again, by APScheduler."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC

from apscheduler.schedulers.background import BackgroundScheduler

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.worker import Worker


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


class Regular:
    """Work done again and again: a worker with a thread of its own, woken every so many seconds."""

    def __init__(
        self, room: Mailroom, schedule: Schedule, name: str, doing: str, seconds: float, work: Callable[[], None]
    ) -> None:
        self._schedule = schedule
        self._seconds = seconds
        self.worker = Worker(room, name, doing, work)

    def start(self) -> None:
        """Begin, at once."""
        self._schedule.every(self._seconds, self.worker.wake)
        self.worker.start()

    def close(self) -> None:
        """Stop after the work at hand."""
        self.worker.close()
