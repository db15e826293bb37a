"""Reading the mail of an import beside storing it: processes that turn raw messages into what is stored.

Each process ends when the pipe to its parent closes, whatever ended the parent.
"""

from __future__ import annotations

import multiprocessing
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import cycle
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from types import TracebackType

from hieranome.app.arrive import Incoming, prepare
from hieranome.core.errors import WorldError
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.mail.sources import Item

Batch = tuple[int, list[Incoming]]
"""Where the file is read up to, and the messages."""


def read_batch(items: list[Item], owner: Owner, now: int) -> Batch:
    """Read messages and make their vectors, their senders taken for strangers."""
    context = Context(owner, Relations())
    made = []
    for item in items:
        one = prepare(item.raw, item.arrived or now, seen=item.seen, answered=item.answered, flagged=item.flagged)
        made.append(replace(one, vector=extract(one.facts, context)))
    return items[-1].after if items else 0, made


def _work(pipe: Connection, owner: Owner) -> None:
    while True:
        try:
            items, now = pipe.recv()
            pipe.send(read_batch(items, owner, now))
        except (EOFError, OSError, KeyboardInterrupt):
            return


class Readers:
    """Reads batches in order; with ``processes`` = 0 in this one, which is quicker for little mail."""

    def __init__(self, owner: Owner, clock: Callable[[], int], processes: int) -> None:
        self._owner = owner
        self._clock = clock
        self._pipes: list[Connection] = []
        self._processes: list[BaseProcess] = []
        context = multiprocessing.get_context("spawn")
        for _ in range(processes):
            ours, theirs = context.Pipe()
            process = context.Process(target=_work, args=(theirs, owner), daemon=True)
            process.start()
            theirs.close()
            self._pipes.append(ours)
            self._processes.append(process)

    def __enter__(self) -> Readers:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        for pipe in self._pipes:
            pipe.close()
        for process in self._processes:
            process.join(5)

    def read(self, batches: Iterator[list[Item]]) -> Iterator[Batch]:
        """The batches read, in the order given."""
        if not self._pipes:
            for items in batches:
                yield read_batch(items, self._owner, self._clock())
            return
        try:
            yield from self._exchange(batches)
        except (EOFError, OSError) as exc:
            raise WorldError(
                "A process that read the mail ended before its time (was the memory full?). What was read is kept; "
                "start the import again and it goes on there."
            ) from exc

    def _exchange(self, batches: Iterator[list[Item]]) -> Iterator[Batch]:
        waiting: deque[Connection] = deque()
        for items, pipe in zip(batches, cycle(self._pipes)):
            # Never send into a pipe whose answer was not taken: both ends would wait for each other.
            done: Batch | None = waiting.popleft().recv() if len(waiting) == len(self._pipes) else None
            pipe.send((items, self._clock()))
            waiting.append(pipe)
            if done is not None:
                yield done
        while waiting:
            yield waiting.popleft().recv()
