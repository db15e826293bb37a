"""Where things stand with everybody of a generated mailbox: every open question, and no other.

    .venv/bin/python -m bench.briefings [--developed] [--mailbox FOLDER]

Each person of whom the mailbox says that something is open, and each who wrote within the days anything is, is briefed
about; what stands open is compared with what each message was written to await. Without ``--developed`` on three
mailboxes that nothing was developed on. With ``--mailbox`` how long a briefing takes, and the short of a thread, in a
mailbox that is there (it is copied).
"""

from __future__ import annotations

import argparse
import platform
import statistics
import tempfile
import time
from pathlib import Path

from bench.copies import copied
from bench.owed import DEVELOPED, KEPT_ASIDE, Box, measured
from hieranome.app.following.briefing import briefing
from hieranome.app.following.owing import DAYS
from hieranome.app.following.short import short_of
from hieranome.core.times import DAY
from hieranome.store import owing

TIMED = 30


def measure(seed: int) -> None:
    """All briefings of one mailbox together."""
    with tempfile.TemporaryDirectory() as place:
        box = Box(Path(place), seed)
        db, since = box.room.reader(), box.room.clock() - DAYS * DAY
        people = {one.person for one in (*owing.written(db, since), *owing.received(db, since))}
        they: set[int] = set()
        you: set[int] = set()
        worded: set[int] = set()
        for person in sorted(people):
            told = briefing(box.room, person)
            they |= {one.message.id for one in told.they}
            you |= {one.message.id for one in told.you}
            worded |= {one.message.id for one in (*told.they, *told.you) if one.sentence}
        for name, found, meant in (("asked by the owner", they, box.they), ("asked of the owner", you, box.you)):
            precision, recall = measured(found, meant)
            print(f"  {seed} {name}: of {len(meant)} named {recall:.3f}; of {len(found)} named right {precision:.3f}")
        print(f"  {seed} with the sentence that asks or promises: {len(worded)} of {len(they | you)}", flush=True)


def clock_all(mailbox: Path) -> None:
    """How long each takes in a big mailbox."""
    with copied(mailbox, 3_600) as room:
        newest = room.clock() - 3_600
        people = [one.person for one in owing.received(room.reader(), newest - 20 * DAY)][-TIMED:]
        threads = [row[0] for row in room.reader().execute(
            "SELECT max(id) FROM messages WHERE place <> 'gone' GROUP BY thread ORDER BY count(*) DESC LIMIT ?", (TIMED,)
        )]  # fmt: skip
        for name, work in (
            ("briefing", [lambda one=one: briefing(room, one) for one in people]),
            ("short of a thread", [lambda one=one: short_of(room, one, thread=True) for one in threads]),
        ):
            took = []
            for one in work:
                began = time.perf_counter()
                one()
                took.append(1_000 * (time.perf_counter() - began))
            print(f"  {name}: first {took[0]:,.0f} ms, median {statistics.median(took):,.0f}, longest {max(took):,.0f}")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--developed", action="store_true", help="measure on the mailboxes it was developed on")
    parser.add_argument("--mailbox", type=Path, help="the folder of a mailbox to take times in")
    given = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    for seed in () if given.mailbox else DEVELOPED if given.developed else KEPT_ASIDE:
        measure(seed)
    if given.mailbox:
        clock_all(given.mailbox)


if __name__ == "__main__":
    main()
