"""A process that carries out calls and can be ended: started once what it needs is imported, tried again when the
machine is busy. It ends when the pipe to its parent closes, whatever ended the parent.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import resource
from collections.abc import Callable, Sequence
from functools import cache
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext
from multiprocessing.process import BaseProcess
from pathlib import Path
from typing import Any

from hieranome.core.errors import HieranomeError, MessageUnreadable, WorldError

READING = "hieranome.app.reading.processes"
"""What is imported before the first process is forked."""
MEMORY = 2 * 1024**3
"""Bytes a reading process may come to hold beyond what it began with."""
STARTS = (60.0, 120.0, 240.0)
"""Seconds a process has to start, try by try: a busy machine is given more time each time."""
LITTLE_MEMORY = 256 * 1024**2
"""Bytes of memory below which a process that does not start is taken to want for it."""


def _work(pipe: Connection) -> None:
    """Answer calls until the pipe closes: what they return, or the error they raise, by name."""
    with contextlib.suppress(ValueError, OSError):
        taken = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (taken + MEMORY, taken + MEMORY))
    try:
        pipe.send(None)
        while True:
            function, args, kwargs = pipe.recv()
            try:
                answer: tuple[bool, Any] = (True, function(*args, **kwargs))
            except Exception as exc:
                answer = (False, exc if isinstance(exc, HieranomeError) else f"{type(exc).__name__}: {exc}"[:300])
            pipe.send(answer)
    except (EOFError, OSError, KeyboardInterrupt):
        return


@cache
def _server() -> ForkServerContext:
    """A process that has imported what reading needs and forks those that read, so that each is there at once."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([READING])
    return context


def _free_memory() -> int | None:
    """Bytes of memory that can still be had, as far as the system tells."""
    with contextlib.suppress(OSError, ValueError, StopIteration):
        lines = Path("/proc/meminfo").read_text().splitlines()
        return 1024 * next(int(line.split()[1]) for line in lines if line.startswith("MemAvailable:"))
    return None


class ReadingProcess:
    """One process that carries out calls, one at a time. It is started anew after it had to be ended.

    ``work`` is what it does with its end of a pipe, ``starts`` the seconds it has to say that it began, try by try.
    """

    def __init__(self, work: Callable[[Connection], None] = _work, starts: Sequence[float] = STARTS) -> None:
        self._work = work
        self._starts = starts
        self._process: BaseProcess | None = None
        self._pipe: Connection | None = None
        self._ready = False

    @property
    def started(self) -> bool:
        """Whether it was begun to start, and not ended since."""
        return self._pipe is not None

    def start(self) -> None:
        """Begin to start it, without waiting for it; :meth:`send` does so too, and waits."""
        self._ready = False
        self._pipe, theirs = _server().Pipe()
        with theirs:
            self._process = _server().Process(target=self._work, args=(theirs,), daemon=True)
            self._process.start()

    def send(self, function: Callable[..., object], *args: object, **kwargs: object) -> None:
        """Give it a call to carry out."""
        if self._pipe is None:
            self.start()
        if not self._ready:
            self._await_start()
        assert self._pipe is not None
        self._pipe.send((function, args, kwargs))

    def _await_start(self) -> None:
        """Wait until it began; one that does not is ended and begun again. Raises :class:`WorldError`, with what was
        found out, after the last try."""
        why = ""
        for patience in self._starts:
            try:
                if self._pipe is None:
                    self.start()
                why = self._begun_within(patience)
            except OSError as exc:
                why = f"the system refused it: {exc}"
            if not why:
                self._ready = True
                return
            self.end()
        free = _free_memory()
        if free is not None and free < LITTLE_MEMORY:
            why += f", and only {free // 1024**2} MB of memory are free: close other programs"
        raise WorldError(
            f"A process that reads mail could not be started in {len(self._starts)} tries: {why}. What was read is "
            "kept; try again, and it goes on from there."
        )

    def _begun_within(self, patience: float) -> str:
        """Why it did not say within so many seconds that it began; empty when it did."""
        assert self._pipe is not None
        try:
            if not self._pipe.poll(patience):
                return f"it had not begun after {patience:g} seconds, so this machine is very busy"
            self._pipe.recv()
            return ""
        except (EOFError, OSError):
            assert self._process is not None
            self._process.join(1.0)
            return f"it ended as it began (exit code {self._process.exitcode})"

    def _receive(self, patience: float) -> Any:
        assert self._pipe is not None
        if not self._pipe.poll(patience):
            self.end()
            raise MessageUnreadable("reading it took too long")
        return self._pipe.recv()

    def answer(self, patience: float) -> Any:
        """What the call given last came to. Raises :class:`MessageUnreadable` when it raised, took longer than
        ``patience`` seconds, or ended the process."""
        try:
            fine, value = self._receive(patience)
        except (EOFError, OSError) as exc:
            self.end()
            raise MessageUnreadable("reading it ended the process that read it") from exc
        if not fine:
            raise value if isinstance(value, HieranomeError) else MessageUnreadable(str(value))
        return value

    def end(self) -> None:
        """End the process at once; the next call starts another."""
        if self._pipe is not None:
            self._pipe.close()
        if self._process is not None:
            self._process.kill()
            self._process.join()
            self._process.close()
        self._pipe = self._process = None
