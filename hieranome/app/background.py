"""Work that follows behind: scores of the many messages no lesson rescored at once."""

from __future__ import annotations

import threading

from hieranome.app.mailroom import Mailroom, rescore_rows
from hieranome.store import messages

CHUNK = 500
PAUSE = 0.02
"""Seconds between chunks, so that whoever waits for the store comes first."""


class Rescorer:
    """After lessons, brings the stored scores of all mail to the model, newest first, from a thread."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._wanted = threading.Event()
        self._ended = threading.Event()
        self._stop = room.events.listen(self._notice)
        self._revision = room.revision
        self._thread = threading.Thread(target=self._work, name="rescorer", daemon=True)

    def start(self) -> None:
        """Begin to work."""
        self._thread.start()

    def close(self) -> None:
        """Stop after the chunk at hand."""
        self._stop()
        self._ended.set()
        self._wanted.set()
        if self._thread.is_alive():
            self._thread.join(5)

    def _notice(self) -> None:
        if self._room.revision != self._revision:
            self._wanted.set()

    def _work(self) -> None:
        while not self._ended.is_set():
            self._wanted.wait()
            self._wanted.clear()
            self._revision = self._room.revision
            self.pass_over()

    def pass_over(self) -> bool:
        """One pass over all mail; False when a newer change or the end cut it short."""
        below = 2**62
        while True:
            with self._room.changing:
                if self._ended.is_set() or self._room.revision != self._revision:
                    self._wanted.set()
                    return False
                numbers, vectors = messages.chunk_below(self._room.reader(), below, CHUNK)
                if not numbers:
                    return True
                with self._room.store.atomic() as db:
                    rescore_rows(db, self._room.engine, numbers, vectors)
            below = numbers[-1]
            self._ended.wait(PAUSE)
