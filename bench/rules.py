"""Rules on a large mailbox: a preview's first answer and its exact count, what two hundred rules add to a message that
arrives, and a rule run on all that is here.

    .venv/bin/python -m bench.rules --data FOLDER    (a data folder made by bench/api.py; it is copied)
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

from hieranome.app import tagging
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping, previewing, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.rules import Action, Rule
from hieranome.demo import mailgen

LINES = (
    "subject:rider", "from:@quillmark.example", "hotel", "subject:report larger:2KB", "from:turnstile -subject:cancelled",
    "thank or visa", "mark:unread larger:3KB", "score:>60", "file:any before:2026-01-01", "list:union",
)  # fmt: skip
WORDS = ("rider", "hotel", "visa", "carnet", "report", "strings", "harp", "permit", "crate", "festival")
ARRIVING = 300


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
    tag = tagging.make(room, "Bench").id
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
    tag = tagging.make(room, "All of it").id
    kept = keeping.put(room, rule("larger:1B", Action("archive"), Action("tag", str(tag)))).rule
    steps: list[int] = []
    took = timed(lambda: steps.append(running.run_here(room, kept.id)))
    count = room.reader().execute("SELECT count(*) FROM tagging WHERE step = ?", (steps[0],)).fetchone()[0]
    moved = room.reader().execute("SELECT count(*) FROM moves WHERE step = ?", (steps[0],)).fetchone()[0]
    back = timed(lambda: undo(room, steps[0]))
    print(f"  run on what is here: {count} tagged, {moved} moved in {took / 1000:.1f} s, undone in {back / 1000:.1f} s")


def main() -> None:
    """Measure."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--data", type=Path, required=True)
    wanted = parser.parse_args()
    with tempfile.TemporaryDirectory() as place:
        for one in wanted.data.glob("hieranome.sqlite3*"):
            shutil.copy(one, place)
        room = Mailroom(Path(place))
        newest = room.reader().execute("SELECT max(time), count(*) FROM messages").fetchone()
        room.clock = lambda: int(newest[0]) + 60
        print(f"{platform.machine()}, Python {platform.python_version()}, {newest[1]} messages")
        previews(room)
        arriving(room)
        running_here(room)
        room.close()


if __name__ == "__main__":
    main()
