"""Imports asked for on the page: files are laid down whole, then read one job after another."""

from __future__ import annotations

import contextlib
import queue
import shutil
import threading
from pathlib import Path

from hieranome.app import importing
from hieranome.app.mailroom import Mailroom
from hieranome.core.errors import HieranomeError
from hieranome.mail.sources import find
from hieranome.store import imports
from hieranome.store.imports import ImportJob

INCOMING = "incoming"


class Importer:
    """Runs import jobs in one thread, and resumes at start what was cut off."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._jobs: queue.Queue[ImportJob | None] = queue.Queue()
        self._thread = threading.Thread(target=self._work, name="importer", daemon=True)

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
        self._thread.start()

    def check(self, file: Path) -> None:
        """Raise when a dropped file holds no mail; its folder is cleared away then."""
        try:
            find(file)
        except HieranomeError:
            self._clear(file.parent.absolute())
            raise

    def submit(self, path: Path) -> ImportJob:
        """Start the import of a path; raises at once when there is no mail at it."""
        try:
            job = importing.begin(self._room, path)
        except HieranomeError:
            self._clear(path)
            raise
        self._jobs.put(job)
        return job

    def close(self) -> None:
        """Stop taking jobs; one that runs is resumed at the next start."""
        self._jobs.put(None)

    def _work(self) -> None:
        while (job := self._jobs.get()) is not None:
            with contextlib.suppress(HieranomeError):
                importing.run(self._room, job)
            self._clear(Path(job.path))

    def _clear(self, path: Path) -> None:
        if path.parent == self.incoming.absolute() or path.parent == self.incoming:
            shutil.rmtree(path, ignore_errors=True)
