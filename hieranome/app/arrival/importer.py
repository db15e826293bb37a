"""Imports asked for on the page: files are laid down whole, then read one job after another."""

from __future__ import annotations

import contextlib
import logging
import queue
import shutil
from pathlib import Path

from hieranome.app.arrival import importing
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.worker import Worker
from hieranome.core.errors import HieranomeError
from hieranome.mail.sources import find
from hieranome.store import imports
from hieranome.store.imports import ImportJob

INCOMING = "incoming"
_LOG = logging.getLogger(__name__)


class Importer:
    """Runs import jobs in one thread, and resumes at start what was cut off."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._jobs: queue.SimpleQueue[ImportJob] = queue.SimpleQueue()
        self.worker = Worker(room, "importer", "importing mail", self._round)

    @property
    def incoming(self) -> Path:
        """Where dropped files are laid down."""
        return self._room.store.folder / INCOMING

    def start(self) -> None:
        """Begin to work; what was cut off comes first, and files no job knows of are cleared away."""
        waiting = imports.unfinished(self._room.reader())
        kept = {Path(job.path) for job in waiting}
        if self.incoming.is_dir():
            for folder in self.incoming.iterdir():
                if folder.absolute() not in kept:
                    shutil.rmtree(folder, ignore_errors=True)
        for job in waiting:
            self._jobs.put(job)
        self.worker.start()

    def check(self, file: Path) -> None:
        """Raise when a dropped file holds no mail; its folder is cleared away then."""
        try:
            find(file)
        except HieranomeError:
            self._clear(file.parent.absolute())
            raise

    def submit(self, path: Path, *, mine: bool = False) -> ImportJob:
        """Start the import of a path, with the owner's word on mail that bears their address; raises at once when there
        is no mail at it."""
        try:
            job = importing.begin(self._room, path, mine=mine)
        except HieranomeError:
            self._clear(path)
            raise
        self._jobs.put(job)
        self.worker.wake()
        return job

    def close(self) -> None:
        """Stop taking jobs; one that runs is resumed at the next start."""
        self.worker.close()

    def _round(self) -> float | None:
        """One job, if there is one."""
        with contextlib.suppress(queue.Empty):
            self._run(self._jobs.get_nowait())
            return 0.0
        return None

    def _run(self, job: ImportJob) -> None:
        """Carry a job through; whatever ends it, the next is taken. What failed says why, and is begun again when the
        same files are brought again."""
        try:
            importing.run(self._room, job)
        except HieranomeError:
            pass  # the job says what was wrong
        except Exception as exc:
            _LOG.exception("an import failed")
            with contextlib.suppress(Exception):
                importing.fail(self._room, job, f"It ended for a reason nobody thought of ({type(exc).__name__}).")
        self._clear(Path(job.path))

    def _clear(self, path: Path) -> None:
        if path.parent == self.incoming.absolute() or path.parent == self.incoming:
            shutil.rmtree(path, ignore_errors=True)
