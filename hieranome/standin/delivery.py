"""A simulated delivery service: drops one message after another into a mailbox, at a chosen pace."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable, Iterable

Drop = Callable[[bytes], object]


class Delivery:
    """Delivers ``mail`` through ``drop``, one message every ``interval`` seconds while running; what ``still`` says no
    to when its turn comes is left out."""

    def __init__(
        self, mail: Iterable[bytes], drop: Drop, interval: float = 6.0, still: Callable[[bytes], bool] = bool
    ) -> None:
        self._mail = deque(mail)
        self._still = still
        self._drop = drop
        self._interval = interval
        self._running = False
        self._ended = False
        self._changed = threading.Condition()
        self._thread = threading.Thread(target=self._work, name="delivery", daemon=True)

    @property
    def running(self) -> bool:
        """Whether mail is being delivered."""
        return self._running and bool(self._mail)

    @property
    def interval(self) -> float:
        """Seconds between messages."""
        return self._interval

    @property
    def left(self) -> int:
        """Messages still to come."""
        return len(self._mail)

    def start(self, *, running: bool = True) -> None:
        """Begin the service, delivering or paused."""
        self._running = running
        self._thread.start()

    def set(self, *, running: bool, interval: float) -> None:
        """Run or pause; change the pace."""
        with self._changed:
            self._running, self._interval = running, interval
            self._changed.notify()

    def deliver_now(self) -> bool:
        """Deliver the next message at once; False when there is none."""
        with self._changed:
            while self._mail and not self._still(self._mail[0]):
                self._mail.popleft()
            if not self._mail:
                return False
            raw = self._mail.popleft()
        self._drop(raw)
        return True

    def close(self) -> None:
        """End the service."""
        with self._changed:
            self._ended = True
            self._changed.notify()
        if self._thread.is_alive():
            self._thread.join(5)

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait(self._interval if self.running else None)
                if self._ended:
                    return
                due = self.running
            if due:
                self.deliver_now()
