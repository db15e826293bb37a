"""The API under a large mailbox: what the owner waits for, and the memory of the server.

    .venv/bin/python bench/api.py [--count 100000] [--data FOLDER]

The server is a process of its own, asked over one kept-open connection. With --data the mailbox is kept there and
used again. Searches are a mix of 100 lines: words by how many messages hold them (rare to common), phrases,
operators, choices and negations, in all three orders.
"""

from __future__ import annotations

import argparse
import copy
import http.client
import json
import platform
import random
import re
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from hieranome.demo import mailgen  # noqa: E402
from hieranome.demo.world import OWNER_ADDRESSES  # noqa: E402
from hieranome.store import lessons, settings  # noqa: E402

PROGRAM = str(ROOT / ".venv" / "bin" / "hieranome")
MARK = {"x-hieranome": "1", "content-type": "application/json"}
ROUNDS = 60
MOST_AT_ONCE = 10_000
"""Messages one step covers."""


class Server:
    """A server in a process of its own, and one connection to it."""

    def __init__(self, data: Path) -> None:
        (data / "entry.json").unlink(missing_ok=True)  # a password of an earlier run
        self.process = subprocess.Popen(
            [PROGRAM, "serve", "--data", str(data), "--port", "0"], stdout=subprocess.PIPE, text=True
        )
        assert self.process.stdout is not None
        found = re.search(r"http://([\d.]+):(\d+)", self.process.stdout.readline())
        assert found is not None
        self._connection = http.client.HTTPConnection(found[1], int(found[2]), timeout=60)
        code = self.process.stdout.readline().split()[-1]
        body = json.dumps({"code": code, "password": "a long password"})
        self._connection.request("POST", "/api/entry/first", body, {**MARK, "content-type": "application/json"})
        answer = self._connection.getresponse()
        answer.read()
        self._headers = {**MARK, "cookie": answer.headers["set-cookie"].split(";")[0]}

    def ask(self, path: str, body: object = None) -> tuple[float, dict[str, Any]]:
        """Milliseconds until the whole answer is here, and the answer."""
        began = time.perf_counter()
        method = "GET" if body is None else "POST"
        self._connection.request(method, path, None if body is None else json.dumps(body), self._headers)
        answer = self._connection.getresponse()
        content = answer.read()
        passed = 1000 * (time.perf_counter() - began)
        assert answer.status == 200, (path, answer.status, content[:300])
        return passed, json.loads(content)

    def another(self) -> Server:
        """The same server over a connection of its own."""
        made = copy.copy(self)
        made._connection = http.client.HTTPConnection(self._connection.host, self._connection.port, timeout=60)
        return made

    def rest(self) -> None:
        """Let go of the connection: the server closes one that is idle for long, and the next question opens one."""
        self._connection.close()

    def memory(self) -> tuple[int, int]:
        """Resident megabytes now, and at the most."""
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        kilobytes = dict(re.findall(r"(VmRSS|VmHWM):\s+(\d+)", status))
        return int(kilobytes["VmRSS"]) // 1024, int(kilobytes["VmHWM"]) // 1024


@contextmanager
def served(data: Path) -> Iterator[Server]:
    server = Server(data)
    try:
        yield server
    finally:
        server.process.terminate()
        server.process.wait(30)


def fill(data: Path, count: int) -> None:
    """Import made-up mail, unless it is there."""
    if (data / "hieranome.sqlite3").exists():
        return
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder, "many.mbox")
        mailgen.write(count, 1, path, None)
        owners = [part for address in OWNER_ADDRESSES for part in ("--owner", address)]
        subprocess.run([PROGRAM, "import", str(path), "--data", str(data), "--mine", *owners], check=True)


def settle(data: Path) -> None:
    """Wait until no score is behind the lessons: what an earlier run taught is followed first."""
    db = sqlite3.connect(f"file:{data / 'hieranome.sqlite3'}?mode=ro", uri=True)
    db.row_factory = sqlite3.Row
    end = time.monotonic() + 300
    while settings.value(db, settings.SCORED, lessons.NONE) != lessons.state(db) and time.monotonic() < end:
        time.sleep(0.5)
    db.close()


def searches(data: Path, rng: random.Random) -> list[tuple[str, str]]:
    """A hundred lines with the order to ask for: common, middling and rare words alone and put together."""
    db = sqlite3.connect(f"file:{data / 'hieranome.sqlite3'}?mode=ro", uri=True)
    db.execute("CREATE VIRTUAL TABLE temp.terms USING fts5vocab(main, words_index, row)")
    held = db.execute(
        "SELECT term, doc FROM temp.terms WHERE length(term) > 2 AND doc > 0 ORDER BY doc DESC"
    ).fetchall()
    db.close()
    held = [(term, doc) for term, doc in held if term not in ("and", "or", "not")]
    words = [term for term, _ in held]
    common, middling = words[:40], words[40:600]
    rare = [term for term, doc in held if doc < 50]
    made: list[Callable[[], str]] = [
        lambda: rng.choice(common),
        lambda: rng.choice(middling),
        lambda: rng.choice(rare),
        lambda: f"{rng.choice(common)} {rng.choice(middling)}",
        lambda: f"{rng.choice(common)} {rng.choice(common)} mark:unread",
        lambda: f"{rng.choice(middling)} or {rng.choice(rare)}",
        lambda: f"subject:{rng.choice(middling)} -{rng.choice(common)}",
        lambda: f"from:{rng.choice(middling)} bucket:shelf since:90d",
        lambda: f"{rng.choice(common)} file:any score:>50",
        lambda: f"({rng.choice(rare)} or {rng.choice(common)}) bucket:digest larger:2KB",
    ]
    orders = ("relevance", "time", "importance")
    return [(made[at % len(made)](), orders[at // len(made) % 3]) for at in range(100)]


def row(name: str, times: list[float], bar: float) -> str:
    ordered = sorted(times)
    high = ordered[min(len(ordered) - 1, int(0.95 * len(ordered)))]
    return (
        f"  {name:<34} median {statistics.median(times):6.1f}  p95 {high:6.1f}  max {ordered[-1]:6.1f}  (bar {bar:.0f})"
    )


def measure(server: Server, data: Path) -> Iterator[str]:
    """The table."""
    rng = random.Random(1)
    _, places = server.ask("/api/places")
    counts = {one["name"]: one["total"] for one in places["places"]}
    yield "  " + ", ".join(f"{name} {count:,}" for name, count in counts.items())
    pages = []
    for order in ("importance", "time"):
        for place in ("desk", "shelf", "digest", "archive"):
            cursor = ""
            for _ in range(ROUNDS // 6):
                query = urlencode({"place": place, "order": order, "limit": 200, "cursor": cursor})
                passed, page = server.ask(f"/api/messages?{query}")
                pages.append(passed)
                cursor = str(page["next"])
    yield row("a page of 200 rows", pages, 40)
    yield row("counts of the places", [server.ask("/api/places")[0] for _ in range(ROUNDS)], 40)
    ids = server.ask("/api/places/shelf/messages?limit=2000")[1]["messages"]
    numbers = rng.sample(list(ids), 2 * ROUNDS)
    yield row("a message with its evidence", [server.ask(f"/api/messages/{n}")[0] for n in numbers], 40)
    lines = searches(data, rng)
    found = [(server.ask(f"/api/search?{urlencode({'line': a, 'order': b})}")[0], a, b) for a, b in lines]
    yield row("a search of the mix", [one[0] for one in found], 80)
    yield "    slowest: " + "; ".join(f"{a} ({b}) {ms:.0f}" for ms, a, b in sorted(found, reverse=True)[:4])
    buckets = ("desk", "shelf", "digest", "drain")
    verdicts = []
    for number in numbers[: ROUNDS // 2]:
        body = {"messages": [number], "belongs": rng.choice(buckets), "reach": "learn"}
        verdicts.append(server.ask("/api/verdicts", body)[0])
    yield row("a verdict with kin", verdicts, 200)
    yield row("undo of the latest", [server.ask("/api/undo", {})[0] for _ in range(10)], 200)
    yield from by_source(server)
    yield from bulk(server)
    now, most = server.memory()
    yield f"  memory of the server {now} MB, at the most {most} MB (bar 500)"


def bulk(server: Server) -> Iterator[str]:
    """Subscriptions, old mail at each age, and its heaviest rows to the Trash and back."""
    yield row("all subscriptions", [server.ask("/api/subscriptions")[0] for _ in range(5)], 2000)
    ages = [0, 4, 13, 26, 52, 104, 156]
    yield row("old mail", [server.ask(f"/api/old-mail?weeks={age}")[0] for age in ages for _ in range(3)], 300)
    yield row("the list, while it is weighed", list(beside(server)), 40)
    yield row("addresses", [server.ask("/api/addresses")[0] for _ in range(5)], 300)
    domains = [server.ask(f"/api/old-mail?weeks={age}&by=domain")[0] for age in ages]
    yield row("old mail by domain", domains, 300)
    rows = server.ask("/api/old-mail?weeks=26")[1]["rows"]
    heavy = sorted(rows, key=lambda one: -one["free"])
    chosen, count = [], 0
    for one in heavy:
        chosen.append(one["key"])
        count += one["free"]
        if count >= 10_000:
            break
    put, gone = server.ask("/api/old-mail/trash", {"keys": chosen, "weeks": 26})
    step = gone["step"]["id"]
    yield row(f"{count:,} messages to the Trash", [put], 10_000)
    yield row("and back", [server.ask(f"/api/steps/{step}/undo", {})[0]], 10_000)


def beside(server: Server) -> Iterator[float]:
    """Milliseconds of pages of the Shelf, while another page asks for old mail again and again."""
    other, ended = server.another(), threading.Event()

    def weigh() -> None:
        while not ended.is_set():
            for age in (0, 26, 52, 104):
                other.ask(f"/api/old-mail?weeks={age}")

    thread = threading.Thread(target=weigh)
    thread.start()
    cursor = ""
    for _ in range(ROUNDS):
        query = urlencode({"place": "shelf", "order": "time", "limit": 200, "cursor": cursor})
        passed, page = server.ask(f"/api/messages?{query}")
        yield passed
        cursor = str(page["next"])
    ended.set()
    thread.join()
    other.rest()


def by_source(server: Server) -> Iterator[str]:
    """Buckets shown by source, and a verdict on the largest source of the Shelf, taken back."""
    first = []
    for order in ("total", "newest"):
        for place in ("shelf", "digest", "drain"):
            query = f"/api/places/{place}/sources?order={order}"
            first += [server.ask(query)[0] for _ in range(ROUNDS // 6)]
    yield row("the first sources of a bucket", first, 60)
    told = server.ask("/api/places/shelf/sources")[1]["sources"]
    largest = next(one for one in told if one["total"] <= MOST_AT_ONCE)
    times = []
    for _ in range(3):
        body = {"source": largest["key"], "belongs": "digest"}
        put, outcome = server.ask("/api/places/shelf/sources/verdict", body)
        times.append((put, server.ask(f"/api/steps/{outcome['step']}/undo", {})[0]))
    yield row(f"a verdict on a source of {largest['total']:,}", [one[0] for one in times], 1000)
    yield row("its undo", [one[1] for one in times], 1000)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--data", type=Path)
    arguments = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        data = arguments.data or Path(place, "data")
        fill(data, arguments.count)
        print(f"{platform.machine()}, Python {platform.python_version()}, milliseconds")
        with served(data) as server:
            settle(data)
            server.rest()
            for line in measure(server, data):
                print(line, flush=True)


if __name__ == "__main__":
    main()
