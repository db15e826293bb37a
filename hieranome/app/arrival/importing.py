"""Import: a file or folder of mail into the store, in batches that are kept whole or not at all.

Each batch commits its messages together with how far its file has been read, so that an import cut off
at any moment goes on behind the last whole batch. When all is read, the imported mail is weighed again
with everything the history taught; only then does it stand where it belongs.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from itertools import islice
from pathlib import Path

from hieranome.app.arrival.arrive import take_in_history
from hieranome.app.arrival.weighing import weigh_again
from hieranome.app.reading.processes import BulkReading
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import HieranomeError, NotMail
from hieranome.mail.sources import Item, SourceFile, find, items, shown, survey
from hieranome.store import imports
from hieranome.store.imports import ImportJob as ImportJob

BATCH = 200
MAX_SKIPPED = 1_000
"""Files passed over that are noted of one import."""
PROCESSES = 2
PARALLEL_FROM = 2_000_000
"""Bytes from which an import is read by processes of its own."""

Progress = Callable[[ImportJob], None]


def recent(room: Mailroom) -> list[ImportJob]:
    """The latest imports, newest first."""
    return imports.recent(room.reader())


def get(room: Mailroom, number: int) -> ImportJob:
    """One import. Raises :class:`hieranome.core.errors.NotFound`."""
    return imports.get(room.reader(), number)


def skipped(room: Mailroom, job: ImportJob) -> list[tuple[str, str]]:
    """What an import left out: where it lies within what was brought, and why it could not be read."""
    folder = f"{job.path}/"
    return [(path.removeprefix(folder), why) for path, why in imports.skipped(room.reader(), job.id)]


def begin(room: Mailroom, path: Path, *, mine: bool = False) -> ImportJob:
    """Start or resume the import of a path; ``mine`` is the owner's word that mail in it that bears their address is
    theirs. Raises for what holds no mail; nothing is changed then. Files that are passed over are noted, each with the
    reason."""
    found = survey(path)
    with room.change() as db:
        job = imports.to_resume(db, str(path.absolute()))
        if job is None:
            total = sum(f.size for f in found.files)
            job = imports.begin(db, str(path.absolute()), room.clock(), total, mine=mine)
        else:
            imports.set_state(db, job.id, "reading")
            imports.set_mine(db, job.id, mine)
        imports.set_skipped(db, job.id, [(shown(one.path), one.why) for one in found.skipped[:MAX_SKIPPED]])
        return imports.get(db, job.id)


def run(room: Mailroom, job: ImportJob, progress: Progress | None = None) -> ImportJob:
    """Carry an import through. What was read stays when it fails; the job then says why."""
    try:
        found = find(Path(job.path))
        parallel = sum(source.size for source in found) >= PARALLEL_FROM
        with BulkReading(room.owner, room.clock, processes=PROCESSES if parallel else 0) as reading:
            for source in found:
                _read_file(room, job, source, reading, progress)
        if imports.get(room.reader(), job.id).added == 0 and not _any_known(room, job.id):
            raise NotMail(f"{job.path} holds no message. Choose a file or folder that does.")
        with room.change() as db:
            imports.set_state(db, job.id, "weighing")
        weigh_again(room, job.first_message)
    except (HieranomeError, sqlite3.Error) as exc:
        fail(room, job, str(exc), progress)
        raise
    with room.change() as db:
        imports.set_state(db, job.id, "done", room.clock())
    room.tell_counts()
    return _tell(room, job.id, progress)


def fail(room: Mailroom, job: ImportJob, why: str, progress: Progress | None = None) -> None:
    """Note that an import ended before its end, and why."""
    with room.change() as db:
        imports.set_state(db, job.id, "failed", room.clock(), why)
    _tell(room, job.id, progress)


def _any_known(room: Mailroom, job: int) -> bool:
    return imports.get(room.reader(), job).known > 0


def _tell(room: Mailroom, job: int, progress: Progress | None) -> ImportJob:
    now = imports.get(room.reader(), job)
    room.tell(
        "import",
        id=now.id,
        state=now.state,
        error=now.error,
        added=now.added,
        known=now.known,
        bytes_done=now.bytes_done,
        bytes_total=now.bytes_total,
    )
    if progress is not None:
        progress(now)
    return now


def _read_file(
    room: Mailroom, job: ImportJob, source: SourceFile, reading: BulkReading, progress: Progress | None
) -> None:
    try:
        modified = source.path.stat().st_mtime_ns
    except OSError as exc:
        with room.change() as db:
            imports.set_skipped(db, job.id, [(shown(source.path), f"It went away meanwhile ({exc.strerror}).")])
        return
    path = shown(source.path)
    done = imports.file_done(room.reader(), job.id, path, source.size, modified)
    for after, incoming in reading.read(_batches(items(source, done))):
        with room.change() as db:
            added = take_in_history(room, db, incoming, mine=job.mine)
            imports.advance(db, job.id, after - done, added, len(incoming) - added)
            imports.set_file_done(db, job.id, path, source.size, modified, after)
        done = after
        _tell(room, job.id, progress)


def _batches(source: Iterator[Item]) -> Iterator[list[Item]]:
    while batch := list(islice(source, BATCH)):
        yield batch
