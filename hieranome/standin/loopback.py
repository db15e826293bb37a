"""What the simulated servers share: an event loop in a thread, listening on 127.0.0.1."""

from __future__ import annotations

import asyncio
import threading
from typing import Self


class Loopback:
    """A server of its own thread. ``port`` is the port asked for (0: any), and after :meth:`start` the one served."""

    def __init__(self, name: str, port: int) -> None:
        self.port = port
        self._loop = asyncio.new_event_loop()
        self._server: asyncio.Server | None = None
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def __enter__(self) -> Self:
        self.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def start(self) -> None:
        """Begin to serve."""
        self._thread.start()
        asyncio.run_coroutine_threadsafe(self._begin(), self._loop).result(10)

    def close(self) -> None:
        """Stop, and break every connection."""
        if self._thread.is_alive():
            asyncio.run_coroutine_threadsafe(self._end(), self._loop).result(10)
            self._loop.call_soon_threadsafe(self._loop.stop)
            self._thread.join(10)
        self._loop.close()

    async def _listen(self) -> asyncio.Server:
        """Listen at ``port`` of 127.0.0.1."""
        raise NotImplementedError

    def _drop_sessions(self) -> None:
        """Break the connections there are."""

    async def _begin(self) -> None:
        self._server = await self._listen()
        self.port = self._server.sockets[0].getsockname()[1]

    async def _end(self) -> None:
        assert self._server is not None
        self._server.close()
        self._drop_sessions()
        for task in [task for task in asyncio.all_tasks() if task is not asyncio.current_task()]:
            task.cancel()
        await asyncio.sleep(0)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        self._loop.run_forever()
