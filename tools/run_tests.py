"""Run the tests side by side: a process for each core, which takes one module after another.

``python tools/run_tests.py [PART ...]`` runs the modules whose path begins with one of the parts (``tests/mail``,
``tests/app/writing``), or all. What failed is told whole at the end, below it one line of counts.
"""

from __future__ import annotations

import io
import json
import os
import queue
import subprocess
import sys
import threading
import time
import unittest
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

ROOT = Path(__file__).resolve().parent.parent
FIRST = (
    "tests/web/test_schema",
    "tests/browser/test_access",
    "tests/test_cli",
    "tests/demo/test_world",
    "tests/browser",
    "tests/app",
    "tests/mail/test_hostile",
    "tests/web",
)
"""Where what takes longest lies: it is begun first, so that nothing long is left for the end."""
PYTHON = (sys.executable, "-W", "error::ResourceWarning", __file__, "--worker")


@dataclass(frozen=True, slots=True)
class Outcome:
    """What became of one module."""

    module: str
    ran: int
    failed: int
    skipped: int
    seconds: float
    said: str


def modules(parts: list[str]) -> list[str]:
    """The test modules of some parts, those that take long first."""
    found = [str(path.relative_to(ROOT)) for path in ROOT.glob("tests/**/test_*.py")]
    wanted = [path for path in found if not parts or any(path.startswith(part.rstrip("/")) for part in parts)]
    rank = {path: next((n for n, begin in enumerate(FIRST) if path.startswith(begin)), len(FIRST)) for path in wanted}
    return sorted(wanted, key=lambda path: (rank[path], -(ROOT / path).stat().st_size))


def work() -> None:
    """Run the modules named on standard input; tell of each in one line of JSON."""
    sys.path.insert(0, str(ROOT))
    with os.fdopen(os.dup(1), "w", encoding="utf-8") as out:
        os.dup2(2, 1)  # what tests print does not mix with what is told
        _work(out)


def _work(out: TextIO) -> None:
    for line in sys.stdin:
        name = line.strip().removesuffix(".py").replace("/", ".")
        began = time.monotonic()
        said = io.StringIO()
        result = unittest.TextTestRunner(stream=said, verbosity=0).run(
            unittest.defaultTestLoader.loadTestsFromName(name)
        )
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        told = [
            result.testsRun,
            failed,
            len(result.skipped),
            time.monotonic() - began,
            said.getvalue() if failed else "",
        ]
        out.write(json.dumps(told) + "\n")
        out.flush()


def _drive(waiting: queue.SimpleQueue[str], done: queue.SimpleQueue[Outcome]) -> None:
    """One worker process, given modules as long as there are any; one that dies is a failure, and another is begun."""
    process: subprocess.Popen[str] | None = None
    while True:
        try:
            module = waiting.get_nowait()
        except queue.Empty:
            break
        if process is None:
            process = subprocess.Popen(PYTHON, cwd=ROOT, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        assert process.stdin is not None
        assert process.stdout is not None
        process.stdin.write(module + "\n")
        process.stdin.flush()
        line = process.stdout.readline()
        if line:
            done.put(Outcome(module, *json.loads(line)))
            continue
        done.put(Outcome(module, 1, 1, 0, 0.0, f"the process that ran {module} ended with {process.wait()}\n"))
        process = None
    if process is not None and process.stdin is not None:
        process.stdin.close()
        process.wait()


def main(parts: list[str]) -> int:
    """Run the modules of some parts; 1 when anything failed, or nothing ran."""
    wanted = modules(parts)
    waiting: queue.SimpleQueue[str] = queue.SimpleQueue()
    done: queue.SimpleQueue[Outcome] = queue.SimpleQueue()
    for module in wanted:
        waiting.put(module)
    # One more than there are processors: what drives a browser waits for it a third of the time.
    workers = min((os.cpu_count() or 1) + 1, len(wanted))
    drivers = [threading.Thread(target=_drive, args=(waiting, done)) for _ in range(workers)]
    for driver in drivers:
        driver.start()
    outcomes = []
    for number in range(1, len(wanted) + 1):
        one = done.get()
        outcomes.append(one)
        state = f"{one.failed} FAILED" if one.failed else "ok"
        print(f"[{number:3}/{len(wanted)}] {one.module:44} {one.ran:4} tests {one.seconds:6.1f} s  {state}", flush=True)
    for driver in drivers:
        driver.join()
    for one in outcomes:
        if one.failed:
            print(f"\n{'=' * 20} {one.module}\n{one.said}", flush=True)
    ran, failed, skipped = (sum(getattr(one, name) for one in outcomes) for name in ("ran", "failed", "skipped"))
    print(f"{ran - failed - skipped} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not ran else 0


if __name__ == "__main__":
    if sys.argv[1:] == ["--worker"]:
        work()
    else:
        sys.exit(main(sys.argv[1:]))
