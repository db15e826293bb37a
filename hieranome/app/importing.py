"""Import: a file or folder of mail into the store, in batches that are kept whole or not at all.

Each batch commits its messages together with how far its file has been read, so that an import cut off
at any moment goes on behind the last whole batch. When all is read, the imported mail is weighed again
with everything the history taught; only then does it stand where it belongs.
"""

from __future__ import annotations

import sqlite3
import time
from collections.abc import Callable, Iterator
from itertools import islice
from pathlib import Path

from hieranome.app.arrive import WAITING, take_in_history
from hieranome.app.mailroom import SCORE_STEP, Mailroom, score_of
from hieranome.app.readers import Readers
from hieranome.core.buckets import ARCHIVE, DESK, UNDECIDED
from hieranome.core.errors import HieranomeError, NotMail
from hieranome.core.facts import Correspondent, MessageFacts
from hieranome.core.features import Vector, pack, relation_features, unpack, with_relation
from hieranome.core.groups import Context
from hieranome.core.routing import WINDOW, Asking, route, settle
from hieranome.mail.sources import Item, SourceFile, find, items, shown, survey
from hieranome.store import imports, messages
from hieranome.store.imports import ImportJob

BATCH = 200
MAX_SKIPPED = 1_000
"""Files passed over that are noted of one import."""
PROCESSES = 2
PARALLEL_FROM = 2_000_000
"""Bytes from which an import is read by processes of its own."""
DEALT_WITH_AFTER = 7 * 86_400
"""Important mail that was answered, or that was read and is this many seconds older than the newest imported,
goes to the Archive: the Desk holds what still needs its owner."""

Progress = Callable[[ImportJob], None]


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
        with Readers(room.owner, room.clock, processes=PROCESSES if parallel else 0) as readers:
            for source in found:
                _read_file(room, job, source, readers, progress)
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


def _read_file(room: Mailroom, job: ImportJob, source: SourceFile, readers: Readers, progress: Progress | None) -> None:
    try:
        modified = source.path.stat().st_mtime_ns
    except OSError as exc:
        with room.change() as db:
            imports.set_skipped(db, job.id, [(shown(source.path), f"It went away meanwhile ({exc.strerror}).")])
        return
    path = shown(source.path)
    done = imports.file_done(room.reader(), job.id, path, source.size, modified)
    for after, incoming in readers.read(_batches(items(source, done))):
        with room.change() as db:
            added = take_in_history(room, db, incoming, mine=job.mine)
            imports.advance(db, job.id, after - done, added, len(incoming) - added)
            imports.set_file_done(db, job.id, path, source.size, modified, after)
        done = after
        _tell(room, job.id, progress)


def _batches(source: Iterator[Item]) -> Iterator[list[Item]]:
    while batch := list(islice(source, BATCH)):
        yield batch


def weigh_again(room: Mailroom, first_message: int, chunk: int = 400) -> None:
    """Weigh imported mail with the whole history known, and put what the model placed where it belongs.

    Of the newest messages not yet read, those worth it go to Your call, within the bound.
    """
    newest = room.reader().execute("SELECT max(time) FROM messages WHERE place <> 'sent'").fetchone()[0] or 0
    at = first_message
    while True:
        with room.change() as db:
            rows = db.execute(_WEIGHED, (at, chunk)).fetchall()
            if rows:
                _weigh_rows(room, db, rows, newest)
        if not rows:
            break
        at = rows[-1]["id"] + 1
        time.sleep(0)  # whoever waits for the lock comes first
    with room.change() as db:
        room.touch()
        _ask_about_newest(room, db, first_message)
        room.asking = Asking(messages.recent_questions(db, WINDOW))
        room.revision += 1


_WEIGHED = """
    SELECT m.id, m.sender_address, m.sender_name, m.list_id, m.place, m.decided_by, m.seen, m.answered, m.time,
           m.flagged, m.score, t.mine, v.features
    FROM messages AS m JOIN vectors AS v ON v.message = m.id JOIN threads AS t ON t.id = m.thread
    WHERE m.id >= ? AND m.place <> 'sent' ORDER BY m.id LIMIT ?
"""


def _weigh_rows(room: Mailroom, db: sqlite3.Connection, rows: list[sqlite3.Row], newest: int) -> None:
    vectors, changed = [], []
    relations: dict[tuple[str, str, int], Vector] = {}
    for row in rows:
        key = (row["sender_address"], row["list_id"], row["mine"])
        if key not in relations:
            facts = MessageFacts(sender=Correspondent(row["sender_address"]), list_id=row["list_id"])
            relations[key] = relation_features(facts, Context(room.owner, room.relations, bool(row["mine"])))
        vector = with_relation(unpack(row["features"]), relations[key])
        packed = pack(vector)
        if packed != row["features"]:
            changed.append((packed, row["id"]))
        vectors.append(vector)
    db.executemany("UPDATE vectors SET features = ? WHERE message = ?", changed)
    room.vectors.clear()
    judged = room.engine.judge_all(vectors)
    messages.rescore(
        db,
        [
            score_of(row["id"], one)
            for row, one in zip(rows, judged, strict=True)
            if abs(row["score"] - one.importance) > SCORE_STEP
        ],
    )
    for row, judgement in zip(rows, judged, strict=True):
        if row["decided_by"] != WAITING.decided_by:
            continue
        place, why = settle(judgement, room.costs)[0], "model"
        old = row["time"] < newest - DEALT_WITH_AFTER
        if place == DESK and (row["answered"] or (row["seen"] and not row["flagged"] and old)):
            place, why = ARCHIVE, "history"
        messages.move(db, row["id"], place, why)


def _ask_about_newest(room: Mailroom, db: sqlite3.Connection, first_message: int) -> None:
    asking = Asking()
    rows = db.execute(
        """
        SELECT * FROM (
            SELECT m.id, m.time, m.seen, m.place, m.decided_by, v.features FROM messages AS m
            JOIN vectors AS v ON v.message = m.id
            WHERE m.id >= ? AND m.place <> 'sent' ORDER BY m.time DESC LIMIT ?)
        ORDER BY time
        """,
        (first_message, WINDOW),
    ).fetchall()
    if not rows:
        return
    judged = room.engine.judge_all([unpack(row["features"]) for row in rows])
    for row, judgement in zip(rows, judged, strict=True):
        if row["decided_by"] != "model" or row["seen"]:
            asking.note(0.0, False)
            continue
        decision = route(judgement, room.costs, asking)
        db.execute("UPDATE messages SET ask_value = ? WHERE id = ?", (decision.ask_value, row["id"]))
        if decision.place == UNDECIDED:
            messages.move(db, row["id"], UNDECIDED, "model")
            messages.note_asked(db, row["id"])
