"""Run the tests side by side: a process for each core, which takes one module after another.

``python tools/run_tests.py [PART ...]`` runs the modules whose path begins with one of the parts (``tests/mail``,
``tests/app/writing``), or all; ``--quick`` those that need neither a browser nor a server. What failed is told whole at
the end, then what took longest, below it one line of counts. ``HIERANOME_SETUP`` says how long set-up took.
"""

from __future__ import annotations

import io
import json
import os
import queue
import re
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from dataclasses import dataclass
from pathlib import Path
from typing import TextIO

ROOT = Path(__file__).resolve().parent.parent
FIRST = (
    "tests/web/test_schema",
    "tests/web/test_odd",
    "tests/app/mailbox/test_beside_others",
    "tests/browser/test_access",
    "tests/test_cli",
    "tests/demo/test_world",
    "tests/browser",
    "tests/app",
    "tests/mail/test_hostile",
    "tests/web",
)
"""Where what takes longest lies: it is begun first, so that nothing long is left for the end."""
SERVERS = ("tests/mail/servers.py", "tests/mail/pigeonhole.py", "tests/mail/test_sieve.py", "tests/killing.py")
"""What begins servers or programs."""
SUPPORT = "tests/support.py"
SERVED = re.compile(r"hieranome\.cli|\bApiCase\b|\bTestClient\b|import house\b|lay_demo")
"""What a module says that serves the application, or begins the demo with its servers."""
SLOWEST = 10
"""Modules that are named at the end as those that took longest."""
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


def needs_a_server(module: str) -> bool:
    """Whether a test module, or what it imports from the tests, starts a browser, a server or the program itself."""
    waiting, seen = [module], set()
    while waiting:
        path = waiting.pop()
        if path in seen or not (ROOT / path).is_file():
            continue
        seen.add(path)
        text = (ROOT / path).read_text(encoding="utf-8")
        if path in SERVERS or path.startswith("tests/browser") or (path != SUPPORT and SERVED.search(text)):
            return True
        imported = re.findall(r"^from (tests[\w.]*) import", text, re.MULTILINE)
        waiting += [name.replace(".", "/") + ".py" for name in imported]
    return False


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


def _tell_slowest(outcomes: list[Outcome], seconds: float) -> None:
    """Say how long all took, and which modules took longest."""
    setup = os.environ.get("HIERANOME_SETUP")
    print(
        f"\n{len(outcomes)} modules in {seconds:.0f} s{f', after {setup} s of set-up' if setup else ''}; the slowest:"
    )
    for one in sorted(outcomes, key=lambda one: -one.seconds)[:SLOWEST]:
        print(f"{one.seconds:7.1f} s  {one.module}")


def main(parts: list[str]) -> int:
    """Run the modules of some parts; 1 when anything failed, or nothing ran."""
    with tempfile.TemporaryDirectory(prefix="hieranome-made-") as made_once:
        os.environ["HIERANOME_MADE_ONCE"] = made_once  # see tests/made_once.py
        quick = "--quick" in parts
        if quick:
            os.environ["HIERANOME_QUICK"] = "1"
        wanted = modules([part for part in parts if part != "--quick"])
        return _run([one for one in wanted if not (quick and needs_a_server(one))])


def _run(wanted: list[str]) -> int:
    waiting: queue.SimpleQueue[str] = queue.SimpleQueue()
    done: queue.SimpleQueue[Outcome] = queue.SimpleQueue()
    for module in wanted:
        waiting.put(module)
    # One more than there are processors: what drives a browser waits for it a third of the time.
    workers = min((os.cpu_count() or 1) + 1, len(wanted))
    drivers = [threading.Thread(target=_drive, args=(waiting, done)) for _ in range(workers)]
    began = time.monotonic()
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
    _tell_slowest(outcomes, time.monotonic() - began)
    ran, failed, skipped = (sum(getattr(one, name) for one in outcomes) for name in ("ran", "failed", "skipped"))
    print(f"{ran - failed - skipped} passed, {failed} failed, {skipped} skipped")
    return 1 if failed or not ran else 0


if __name__ == "__main__":
    if sys.argv[1:] == ["--worker"]:
        work()
    else:
        sys.exit(main(sys.argv[1:]))
