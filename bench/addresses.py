"""What it is worth to say what an address is for: made-up owners whose old address is given to shops, with and without
their saying so, and with what that counts and the share it speaks with doubled and halved.

    .venv/bin/python -m bench.addresses [--correct 1 --correct 0.3]
"""

from __future__ import annotations

import argparse
import platform
import random
import statistics
import tempfile
from collections.abc import Mapping
from pathlib import Path
from unittest.mock import patch

from bench.owners import SEEDS
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core import counts
from hieranome.core.addresses import LESSONS, NONE_SAID, Purpose
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.figures import figures
from hieranome.core.replay import Passing, Replay, replay
from hieranome.demo import mailgen
from hieranome.demo.world import OLD, OWNER_ADDRESSES
from hieranome.mail.sources import find

MESSAGES = 1_200
TRIED = ((1.0, 1.0), (2.0, 1.0), (0.5, 1.0), (1.0, 2.0), (1.0, 0.5))
"""By what the count and the share are multiplied."""
NAMES = ("regret", "early", "buried", "noise", "asked")


Stream = tuple[list[Passing], Mapping[str, str]]
"""The mail of an owner, and where it belongs."""


def streams(place: Path) -> list[Stream]:
    """The mail of each owner and where it belongs."""
    found: list[Stream] = []
    for seed in SEEDS:
        box, truth = place / f"{seed}.mbox", place / f"{seed}.csv"
        mailgen.write(MESSAGES, seed, box, truth)
        found.append((list(mailbox(find(box))), read_truth(truth).buckets))
    return found


def passed(owners: list[Stream], correct: float, purposes: Mapping[str, Purpose]) -> str:
    """The means over the owners, in the order of :data:`NAMES`."""
    rows = []
    for mail, truth in owners:
        owner, draw = Owner.of(*OWNER_ADDRESSES), random.Random(1).random
        run = Replay(owner=owner, correct=correct, draw=draw, learner=Engine(purposes=purposes))
        found = figures(list(replay(run, mail, truth)))
        shares = (found.buried.value, found.noise.value, found.asked.value)
        rows.append((found.regret, found.early_regret, *(100 * one for one in shares)))
    return "".join(f"{statistics.mean(column):>10.2f}" for column in zip(*rows, strict=True))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--correct", type=float, action="append", default=[])
    corrected = parser.parse_args().correct or [1.0, 0.3]
    print(f"{platform.machine()}, Python {platform.python_version()}; shares in percent")
    with tempfile.TemporaryDirectory() as place:
        owners = streams(Path(place))
    for correct in corrected:
        print(f"corrected {correct:<18.0%}" + "".join(f"{name:>10}" for name in NAMES))
        print(f"{'nothing said':<28}" + passed(owners, correct, NONE_SAID), flush=True)
        for count, share in TRIED:
            with (
                patch.object(counts, "LESSONS", LESSONS * count),
                patch.dict(counts.SHARES, reached=counts.SHARES["reached"] * share),
            ):
                print(f"{f'said; count x {count}, share x {share}':<28}", end="")
                print(passed(owners, correct, {OLD: Purpose.SHOPS}), flush=True)


if __name__ == "__main__":
    main()
