"""Import of a large mbox against the sum of what cannot be avoided, in the same run.

    .venv/bin/python bench/import.py [--count 50000] [--seed 1]

Unavoidable, each measured alone on the same bytes: the standard library's parse, zlib, a bare FTS5 insert of
the same text, feature extraction. The import runs in a process of its own, whose peak memory is printed.
"""

from __future__ import annotations

import argparse
import platform
import resource
import sqlite3
import subprocess
import sys
import tempfile
import time
import zlib
from collections.abc import Callable, Iterator
from email.parser import BytesParser
from email.policy import compat32
from pathlib import Path

from hieranome.app.arrive import COMPRESSION
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.relations import Relations
from hieranome.demo import mailgen
from hieranome.mail.mbox import read_mbox
from hieranome.mail.reading import correspondents_text, read

SLICE = 500
PARSER = BytesParser(policy=compat32)


def batches(path: Path) -> Iterator[list[bytes]]:
    with path.open("rb") as file:
        batch: list[bytes] = []
        for message in read_mbox(file):
            batch.append(message.raw)
            if len(batch) == SLICE:
                yield batch
                batch = []
        if batch:
            yield batch


def timed(work: Callable[[], object], stages: dict[str, float], name: str) -> object:
    start = time.perf_counter()
    result = work()
    stages[name] = stages.get(name, 0.0) + time.perf_counter() - start
    return result


def unavoidable(path: Path, folder: Path) -> tuple[int, dict[str, float]]:
    """Seconds of each stage over the whole file."""
    stages: dict[str, float] = {}
    context = Context(Owner.of("maren@quillmark.example"), Relations())
    db = sqlite3.connect(folder / "bare.sqlite3", isolation_level=None)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = NORMAL")
    db.execute("CREATE VIRTUAL TABLE bare USING fts5 (subject, people, body, tokenize='unicode61 remove_diacritics 2')")
    count = 0
    for raws in batches(path):
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


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=50_000)
    parser.add_argument("--seed", type=int, default=1)
    arguments = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        path = folder / "many.mbox"
        mailgen.write(arguments.count, arguments.seed, path, None)
        start = time.perf_counter()
        command = [sys.executable, "-m", "hieranome.cli", "import", str(path), "--data", str(folder / "data")]
        subprocess.run(command, check=True, stderr=subprocess.DEVNULL)
        imported = time.perf_counter() - start
        memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        count, stages = unavoidable(path, folder)
        total = sum(stages.values())
        size = path.stat().st_size / 1e6
        print(f"{platform.machine()}, Python {platform.python_version()}, {count:,} messages, {size:.0f} MB")
        for name, seconds in stages.items():
            print(f"  {name:<24} {seconds:7.1f} s  {1000 * seconds / count:6.3f} ms a message")
        print(f"  {'sum of these':<24} {total:7.1f} s  {1000 * total / count:6.3f} ms a message")
        print(f"  {'import, whole process':<24} {imported:7.1f} s  {1000 * imported / count:6.3f} ms a message")
        print(f"  ratio {imported / total:.2f} (bar: 2)   peak memory {memory:.0f} MB (bar: 400)")


if __name__ == "__main__":
    main()
