"""What reading mail cannot avoid, each stage measured alone on the same bytes."""

from __future__ import annotations

import sqlite3
import time
import zlib
from collections.abc import Callable, Iterable
from email.parser import BytesParser
from email.policy import compat32
from pathlib import Path

from hieranome.app.reading.incoming import COMPRESSION
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.mail.reading import correspondents_text, read

PARSER = BytesParser(policy=compat32)


def timed(work: Callable[[], object], stages: dict[str, float], name: str) -> object:
    start = time.perf_counter()
    result = work()
    stages[name] = stages.get(name, 0.0) + time.perf_counter() - start
    return result


def unavoidable(batches: Iterable[list[bytes]], folder: Path) -> tuple[int, dict[str, float]]:
    """How many messages there are, and the seconds of each stage over all of them."""
    stages: dict[str, float] = {}
    context = Context(Owner.of("maren@quillmark.example"), Relations())
    db = sqlite3.connect(folder / "bare.sqlite3", isolation_level=None)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = NORMAL")
    db.execute("CREATE VIRTUAL TABLE bare USING fts5 (subject, people, body, tokenize='unicode61 remove_diacritics 2')")
    count = 0
    for raws in batches:
        count += len(raws)
        timed(lambda raws=raws: [PARSER.parsebytes(raw) for raw in raws], stages, "standard-library parse")  # type: ignore[misc]
        timed(lambda raws=raws: [zlib.compress(raw, COMPRESSION) for raw in raws], stages, "zlib")  # type: ignore[misc]
        readings = [read(raw) for raw in raws]
        rows = [(r.facts.subject, correspondents_text((r.facts.sender, *r.facts.recipients)), r.text) for r in readings]

        def insert(rows: list[tuple[str, str, str]] = rows) -> None:
            db.execute("BEGIN")
            db.executemany("INSERT INTO bare VALUES (?, ?, ?)", rows)
            db.execute("COMMIT")

        timed(insert, stages, "bare FTS5 insert")
        timed(lambda rs=readings: [extract(r.facts, context) for r in rs], stages, "feature extraction")  # type: ignore[misc]
    db.close()
    return count, stages
