"""Reading mail in processes that can be ended: whatever a message holds, it costs a bounded time and its own process.

Reading is bounded and raises for nothing it knows of (:mod:`hieranome.mail`); this is the line behind that one. A
message whose reading takes too long, raises, or ends its process is kept whole as one that cannot be read, and the
next is taken.
"""

from __future__ import annotations

import contextlib
import threading
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import cycle
from types import TracebackType
from typing import ParamSpec, TypeVar

from hieranome.app.reading.incoming import Incoming, prepare, unreadable
from hieranome.app.reading.reading_process import ReadingProcess
from hieranome.core.errors import MessageUnreadable
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.mail.reading import Reading, read, read_as_source
from hieranome.mail.sources import Item

PATIENCE = 20.0
"""Seconds one message may take to be read, on however busy a machine; it should take thousandths."""
BESIDE = 2
"""Processes that read what is asked for one by one; they start when they are first needed."""

Batch = tuple[int, list[Incoming]]
"""Where the file is read up to, and the messages."""

P = ParamSpec("P")
T = TypeVar("T")


class _Beside:
    """The processes that read for whoever asks, shared by all of this one."""

    def __init__(self) -> None:
        self._idle = [ReadingProcess() for _ in range(BESIDE)]
        self._free = threading.Semaphore(BESIDE)

    @contextlib.contextmanager
    def one(self) -> Iterator[ReadingProcess]:
        """A process nobody else uses meanwhile."""
        with self._free:
            process = self._idle.pop()
            try:
                yield process
            finally:
                self._idle.append(process)

    def warm_up(self) -> None:
        """Begin to start them, without waiting: whoever reads first does not wait for that then."""
        with contextlib.ExitStack() as stack:
            for process in [stack.enter_context(self.one()) for _ in range(BESIDE)]:
                if not process.started:
                    process.start()


_BESIDE = _Beside()


def warm_up() -> None:
    """Begin to start the processes that read single messages."""
    _BESIDE.warm_up()


def guarded(function: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
    """Carry out a function of a message's bytes in a process beside this one. Raises :class:`MessageUnreadable` when
    it raises, takes longer than :data:`PATIENCE`, or ends its process; errors of our own tree come through."""
    with _BESIDE.one() as process:
        try:
            process.send(function, *args, **kwargs)
        except (OSError, EOFError):
            process.end()
            process.send(function, *args, **kwargs)
        found: T = process.answer(PATIENCE)
        return found


def reading_of(raw: bytes) -> Reading:
    """A stored message read; one that cannot be read comes as its source."""
    try:
        return guarded(read, raw)
    except MessageUnreadable:
        return read_as_source(raw)


def prepared(
    raw: bytes, arrived: int, *, seen: bool = False, answered: bool = False, flagged: bool = False
) -> Incoming:
    """An arriving message read and compressed; one that cannot be read comes whole, as such."""
    try:
        return guarded(prepare, raw, arrived, seen=seen, answered=answered, flagged=flagged)
    except MessageUnreadable as exc:
        return unreadable(raw, arrived, str(exc), seen=seen, answered=answered, flagged=flagged)


def _one(item: Item, owner: Owner, now: int) -> Incoming:
    """One message with its vector, its sender taken for a stranger."""
    one = prepare(item.raw, item.arrived or now, seen=item.seen, answered=item.answered, flagged=item.flagged)
    return replace(one, vector=extract(one.facts, Context(owner, Relations())))


def read_batch(items: list[Item], owner: Owner, now: int) -> list[Incoming]:
    """Read messages and make their vectors; one that raises is kept whole as unreadable."""
    made = []
    for item in items:
        try:
            made.append(_one(item, owner, now))
        except Exception as exc:
            made.append(_kept_whole(item, owner, now, f"{type(exc).__name__}: {exc}"[:300]))
    return made


def _kept_whole(item: Item, owner: Owner, now: int, why: str) -> Incoming:
    flags = {"seen": item.seen, "answered": item.answered, "flagged": item.flagged}
    one = unreadable(item.raw, item.arrived or now, why, **flags)
    return replace(one, vector=extract(one.facts, Context(owner, Relations())))


class BulkReading:
    """Reads batches in order, in ``processes`` of its own, of which there is at least one."""

    def __init__(self, owner: Owner, clock: Callable[[], int], processes: int) -> None:
        self._owner = owner
        self._clock = clock
        self._count = processes
        self._processes: list[ReadingProcess] = []

    def __enter__(self) -> BulkReading:
        self._processes = [ReadingProcess() for _ in range(self._count)]
        for process in self._processes:
            process.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for process in self._processes:
            process.end()

    def read(self, batches: Iterator[list[Item]]) -> Iterator[Batch]:
        """The batches read, in the order given."""
        if not self._processes:
            for items in batches:
                now = self._clock()
                with _BESIDE.one() as process:
                    self._send(process, items, now)
                    done = self._answer(process, items, now)
                yield done
            return
        waiting: deque[tuple[ReadingProcess, list[Item], int]] = deque()
        for items, process in zip(batches, cycle(self._processes)):
            # Never send into a pipe whose answer was not taken: both ends would wait for each other.
            done_before = self._answer(*waiting.popleft()) if len(waiting) == len(self._processes) else None
            now = self._clock()
            self._send(process, items, now)
            waiting.append((process, items, now))
            if done_before is not None:
                yield done_before
        while waiting:
            yield self._answer(*waiting.popleft())

    def _send(self, process: ReadingProcess, items: list[Item], now: int) -> None:
        with contextlib.suppress(OSError, EOFError):  # its answer will say that it ended
            process.send(read_batch, items, self._owner, now)

    def _answer(self, process: ReadingProcess, items: list[Item], now: int) -> Batch:
        """A batch as it was read; where reading it was cut short, one message after another."""
        try:
            made: list[Incoming] = process.answer(PATIENCE + len(items) * PATIENCE / 40)
        except MessageUnreadable:
            made = [self._singly(process, item, now) for item in items]
        return (items[-1].after if items else 0), made

    def _singly(self, process: ReadingProcess, item: Item, now: int) -> Incoming:
        try:
            process.send(_one, item, self._owner, now)
            found: Incoming = process.answer(PATIENCE)
        except MessageUnreadable as exc:
            return _kept_whole(item, self._owner, now, str(exc))
        return found
