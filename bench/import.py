"""Import of a large mbox against the sum of what cannot be avoided, in the same run.

    .venv/bin/python bench/import.py [--count 50000] [--seed 1]

Unavoidable, each measured alone on the same bytes: the standard library's parse, zlib, a bare FTS5 insert of
the same text, feature extraction. The import runs in a process of its own, whose peak memory is printed.
"""

from __future__ import annotations

import argparse
import platform
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from bench.stages import unavoidable
from hieranome.demo import mailgen
from hieranome.mail.mbox import read_mbox

SLICE = 500


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
        command = [sys.executable, "-m", "hieranome.cli", "import", str(path), "--data", str(folder / "data"), "--mine"]
        subprocess.run(command, check=True, stderr=subprocess.DEVNULL)
        imported = time.perf_counter() - start
        memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        count, stages = unavoidable(batches(path), folder)
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
