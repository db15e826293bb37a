"""An end to what drips: a timeout for each piece never ends a connection that sends one byte at a time."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Iterator


@contextlib.contextmanager
def ended_after(sock: socket.socket, seconds: float) -> Iterator[None]:
    """Within it, a connection is ended under whoever reads from it once so many seconds are over."""
    watch = threading.Timer(seconds, _shut, (sock,))
    watch.daemon = True
    watch.start()
    try:
        yield
    finally:
        watch.cancel()


def _shut(sock: socket.socket) -> None:
    with contextlib.suppress(OSError):
        socket.socket.shutdown(sock, socket.SHUT_RDWR)
