"""Work that follows behind what is told."""

from __future__ import annotations

from collections.abc import Callable

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.worker import Worker


class Following:
    """A worker with a thread of its own, woken by every event after which ``due`` says that there is work."""

    def __init__(
        self, room: Mailroom, name: str, doing: str, work: Callable[[], float | None], due: Callable[[], bool]
    ) -> None:
        self._due = due
        self.worker = Worker(room, name, doing, work)
        self._stop = room.events.listen(self._notice)

    def start(self) -> None:
        """Begin to work, at once where there is anything to do."""
        self.worker.start()

    def close(self) -> None:
        """Stop after the work at hand; what is unfinished is gone on with after the next start."""
        self._stop()
        self.worker.close()

    def _notice(self) -> None:
        if self._due():
            self.worker.wake()
