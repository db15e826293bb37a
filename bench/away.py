"""The away notice in a world of mail: who is answered, against what may be, here and at Pigeonhole.

.venv/bin/python -m bench.away [--count 2000] [--seeds 1 2 3]
"""

from __future__ import annotations

import argparse
import tempfile
import time
from collections import Counter
from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.at_server.scripting import script_for
from hieranome.app.away import keeping, noticing, telling
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.addresses import untagged
from hieranome.core.away import Away, Circle
from hieranome.core.times import DAY
from hieranome.store import accounts, away, settings
from tests.app.away.test_away import write_as
from tests.app.away.world import ME, OWN, world
from tests.mail.pigeonhole import PigeonholeCase

EVERYBODY = Circle("Everybody", "all", "", {"": "I am away.", "de": "Ich bin nicht da."})


def confirmed(folder: Path) -> Mailroom:
    """A room that writes as its owner, and whose server's word counts."""
    room = Mailroom(folder)
    write_as(room, *OWN)
    with room.change() as db:
        settings.put(db, settings.CONFIRMED, ["mx.posthorn.example"])
        room.load_sure(db)
    return room


def here(count: int, seed: int) -> None:
    """The world arrives while the owner is away."""
    with tempfile.TemporaryDirectory() as folder:
        room = confirmed(Path(folder))
        now = room.clock()
        wanted = Away(True, now - 7 * DAY, now + 7 * DAY, 7, (EVERYBODY,))
        cases = world(count, seed, now - DAY, now)
        began = time.perf_counter()
        for case in cases:
            receive(room, case.raw)
        without = time.perf_counter() - began
        began = time.perf_counter()
        run = telling.dry_run(room, wanted)
        dry = time.perf_counter() - began
        room.close()
    with tempfile.TemporaryDirectory() as folder:
        room = confirmed(Path(folder))
        keeping.set_away(room, wanted)
        began = time.perf_counter()
        for case in cases:
            receive(room, case.raw)
        taken = time.perf_counter() - began
        told = Counter(one.person for one in away.told(room.reader(), 10 * count))
        may = {untagged(case.envelope) for case in cases if not case.why}
        print(
            f"seed {seed}: {count} messages of {len({case.why for case in cases})} kinds, {len(may)} people may be told; told "
            f"{len(told)}, of them wrongly {len(told.keys() - may)}, missed {len(may - told.keys())}, twice "
            f"{sum(n > 1 for n in told.values())}; dry run {len(run.would)} in {dry:.1f} s; arriving "
            f"{1_000 * without / count:.1f} ms a message without it, {1_000 * taken / count:.1f} with it"
        )
        room.close()


class Server(PigeonholeCase):
    """The same world at Pigeonhole."""

    def runTest(self) -> None:
        """Nothing by itself."""

    def compare(self, count: int, seed: int) -> None:
        """Each message whose way is known to a server: answered there as here."""
        self.setUp()
        with tempfile.TemporaryDirectory() as folder:
            room = Mailroom(Path(folder))
            write_as(room, *OWN)
            now = room.clock()
            keeping.set_away(room, Away(True, now - DAY, now + DAY, 7, (EVERYBODY,)))
            (account,) = accounts.every(room.reader())
            script = script_for(room, account.id, frozenset(), with_away=True).text
            room.close()
        seen, other = 0, Counter[str]()
        for case in world(count, seed, now - DAY, now):
            if not case.envelope:
                continue
            answered = "Auto-Submitted: auto-replied" in self.carried_out(script, case.raw, "-e", me=ME)
            seen += 1
            if answered == bool(case.why):
                other[case.why or "Auto-Submitted: no with parameters"] += 1
        print(f"seed {seed} at Pigeonhole: {seen} messages, answered otherwise than they may be: {dict(other)}")
        self.doCleanups()


def main() -> None:
    """Here, then at a server."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=2_000)
    parser.add_argument("--seeds", type=int, nargs="+", default=[1, 2, 3])
    asked = parser.parse_args()
    noticing.A_DAY = 10 * asked.count
    for seed in asked.seeds:
        here(asked.count, seed)
    Server().compare(asked.count, asked.seeds[0])


if __name__ == "__main__":
    main()
