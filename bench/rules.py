"""What is known for sure, on a large mailbox: the first answer of a rule's preview and its exact count, what two hundred
rules add to a message that arrives, a rule run on all that is here, two tags merged, and the Desk in trays over HTTP.

    .venv/bin/python -m bench.rules [--count 100000] [--data FOLDER]

With --data the mailbox there is used, made where it is not there; what is measured is a copy of it.
"""

from __future__ import annotations

import argparse
import platform
import random
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from bench.api import Server, fill
from hieranome.app import shaping_tags, tagging, trays
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping, previewing, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.rules import Action, Rule
from hieranome.core.trays import SHIPPED, Tray, check
from hieranome.demo import mailgen

LINES = (
    "subject:rider", "from:@quillmark.example", "hotel", "subject:report larger:2KB", "from:turnstile -subject:cancelled",
    "thank or visa", "mark:unread larger:3KB", "score:>60", "file:any before:2026-01-01", "list:union",
)  # fmt: skip
WORDS = ("rider", "hotel", "visa", "carnet", "report", "strings", "harp", "permit", "crate", "festival")
ARRIVING = 300
ROUNDS = 60
EIGHT = (
    Tray("came", "Came", order="time", rows=30), Tray("waits", "Waits"), Tray("colleagues", "Colleagues"),
    Tray("line", "Lists", line="list:union"), Tray("line", "Riders", line="larger:3KB rider"),
    *SHIPPED[2:],
)  # fmt: skip
check(EIGHT)


def rule(line: str, *actions: Action, excepted: str = "") -> Rule:
    """A rule for arriving mail."""
    return Rule(0, line, True, "arrives", 0, "came", False, line, excepted, actions)


def timed(work: Callable[[], object]) -> float:
    """Milliseconds."""
    began = time.perf_counter()
    work()
    return 1_000 * (time.perf_counter() - began)


def previews(room: Mailroom) -> None:
    """How long each line's two answers take."""
    for quick in (True, False):
        times = sorted(
            timed(partial(previewing.preview, room, rule(line, Action("bucket", "shelf")), quick=quick))
            for line in LINES
            for _ in range(5)
        )
        name = "first answer" if quick else "exact"
        print(f"  preview, {name}: median {statistics.median(times):.0f}, worst {times[-1]:.0f} ms")


def arriving(room: Mailroom) -> None:
    """A message's arrival without rules and with two hundred, in turns of ten."""
    rng = random.Random(3)
    tag = shaping_tags.make(room, "Bench").id
    kept = [
        keeping.put(
            room,
            rule(
                f"from:@firm{n}.example subject:{rng.choice(WORDS)}" if n % 2 else f"{rng.choice(WORDS)} from:person{n}*",
                Action("tag", str(tag)), Action("bucket", "shelf"), excepted=f"subject:{rng.choice(WORDS)}",
            ),
        ).rule.id
        for n in range(200)
    ]  # fmt: skip
    mail = [one.raw for one in mailgen.generate(ARRIVING * 2, 77) if one.belongs != "sent"][:ARRIVING]
    times: dict[bool, list[float]] = {True: [], False: []}
    for start in range(0, len(mail) - 10, 10):
        on = bool(start // 10 % 2)
        with room.change() as db:
            db.execute("UPDATE rules SET enabled = ? WHERE id IN (SELECT id FROM rules)", (on,))
            room.tell("rules")
        receive(room, mail[start].replace(b"Message-ID: <", b"Message-ID: <first", 1))  # the lines are read once
        times[on] += [timed(partial(receive, room, raw)) for raw in mail[start : start + 10]]
    without, with_rules = statistics.median(times[False]), statistics.median(times[True])
    print(f"  arrival: {without:.2f} ms without, {with_rules:.2f} ms with 200 rules, {with_rules - without:+.2f}")
    for number in kept:
        keeping.remove(room, number)


def running_here(room: Mailroom) -> None:
    """A rule run on everything, and undone."""
    tag = shaping_tags.make(room, "All of it").id
    kept = keeping.put(room, rule("larger:1B", Action("archive"), Action("tag", str(tag)))).rule
    steps: list[int] = []
    took = timed(lambda: steps.append(running.run_here(room, kept.id)))
    count = room.reader().execute("SELECT count(*) FROM tagging WHERE step = ?", (steps[0],)).fetchone()[0]
    moved = room.reader().execute("SELECT count(*) FROM moves WHERE step = ?", (steps[0],)).fetchone()[0]
    back = timed(lambda: undo(room, steps[0]))
    print(f"  run on what is here: {count} tagged, {moved} moved in {took / 1000:.1f} s, undone in {back / 1000:.1f} s")


def merging(room: Mailroom) -> None:
    """Two tags of 5,000 messages, half of them the same, merged among forty that stand below each other; undone."""
    query = "SELECT id FROM messages WHERE place IN ('shelf', 'desk') ORDER BY id DESC LIMIT 7500"
    numbers = [row[0] for row in room.reader().execute(query)]
    above = 0
    for n in range(40):
        above = shaping_tags.make(room, f"Below {n}", parent=above).id
    one, other = shaping_tags.make(room, "One").id, shaping_tags.make(room, "Other").id
    tagging.put_on(room, numbers[:5000], one)
    tagging.put_on(room, numbers[2500:], other)
    every = "SELECT message, tag FROM tagged ORDER BY message, tag"
    before = [tuple(row) for row in room.reader().execute(every)]
    steps: list[int] = []
    took = timed(lambda: steps.append(shaping_tags.merge(room, one, other).id))
    back = timed(lambda: undo(room, steps[0]))
    same = before == [tuple(row) for row in room.reader().execute(every)]
    print(f"  two tags of 5,000 merged in {took:.0f} ms, undone in {back:.0f} ms, {'' if same else 'NOT '}as before")


def parted(data: Path, since: int) -> None:
    """The Desk over HTTP, in the trays that ship and in eight: while what works behind the page catches up, and then."""
    for some in (SHIPPED, EIGHT):
        room = Mailroom(data)
        trays.put(room, some)
        room.close()
        server = Server(data)
        try:
            for how, seconds in (("right after the start", 0), ("at rest", 20)):
                server.rest()
                time.sleep(seconds)
                times = [server.ask(f"/api/desk?since={since}")[0] for _ in range(ROUNDS + 5)][5:]
                p95 = statistics.quantiles(times, n=20)[-1]
                print(
                    f"  the Desk in {len(some)} trays over HTTP, {how}:"
                    f" median {statistics.median(times):.0f}, p95 {p95:.0f} ms"
                )
        finally:
            server.process.terminate()
            server.process.wait()


def main() -> None:
    """Measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--data", type=Path)
    parser.add_argument("--count", type=int, default=100_000)
    wanted = parser.parse_args()
    with tempfile.TemporaryDirectory() as made, tempfile.TemporaryDirectory() as place:
        data = wanted.data or Path(made, "data")
        fill(data, wanted.count)
        for one in data.glob("hieranome.sqlite3*"):
            shutil.copy(one, place)
        room = Mailroom(Path(place))
        newest = room.reader().execute("SELECT max(time), count(*) FROM messages").fetchone()
        room.clock = lambda: int(newest[0]) + 60
        print(f"{platform.machine()}, Python {platform.python_version()}, {newest[1]} messages")
        previews(room)
        arriving(room)
        merging(room)
        desk = room.reader().execute("SELECT count(*) FROM messages WHERE place = 'desk'").fetchone()[0]
        print(f"  on the Desk: {desk}")
        running_here(room)
        room.close()
        parted(Path(place), int(newest[0]) - 86_400)


if __name__ == "__main__":
    main()
