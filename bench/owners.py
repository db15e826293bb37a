"""The engine for many owners: the mean of their figures, so that no constant is tuned to one of them.

    .venv/bin/python -m bench.owners [--mail FILE.mbox --truth FILE.csv ...] [--correct 1 --correct 0.3]

Without --mail three generated mailboxes of 2,000 messages stand for three owners. Where every mistake is corrected one
pass is made; else the figures are medians over three draws of which ones are.
"""

from __future__ import annotations

import argparse
import platform
import random
import statistics
import tempfile
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.facts import Owner
from hieranome.core.figures import figures
from hieranome.core.replay import Passing, Replay, replay
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.sources import find

GENERATED, SEEDS = 2_000, (7, 8, 9)
DRAWS = (1, 2, 3)
PROCESSES = 2
NAMES = ("regret", "early", "buried", "noise", "asked", "calibration error")


Owned = tuple[Path, Path, tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Job:
    """One pass: the mail, whose truth, what share of mistakes is corrected, which draw decides on those, and what
    share of the rest is looked past."""

    mail: Path
    truth: Path
    owner: tuple[str, ...]
    correct: float
    draw: int
    looked: Mapping[str, float]


_STREAMS: dict[Path, list[Passing]] = {}


def passed(job: Job) -> tuple[float, ...]:
    """The figures of one pass, in the order of :data:`NAMES`."""
    if job.mail not in _STREAMS:
        _STREAMS[job.mail] = list(mailbox(find(job.mail)))
    truth: Mapping[str, str] = read_truth(job.truth).buckets
    run = Replay(
        owner=Owner.of(*job.owner), correct=job.correct, draw=random.Random(job.draw).random, looked=job.looked
    )
    found = figures(list(replay(run, _STREAMS[job.mail], truth)))
    shares = (found.buried.value, found.noise.value, found.asked.value)
    return (found.regret, found.early_regret, *(100 * one for one in shares), 100 * found.calibration_error)


def shares(text: str) -> dict[str, float]:
    """What is looked at, from words like shelf=0.3,digest=0."""
    return {name: float(share) for name, _, share in (part.partition("=") for part in text.split(",") if part)}


def owners_of(place: Path, mail: Path | None, truths: Sequence[Path]) -> list[Owned]:
    """(mail, truth, addresses) of each owner; made-up ones where none are named."""
    if mail is not None:
        if not truths:
            raise SystemExit(
                "--mail needs at least one --truth: a CSV of message_id,bucket for each owner of that mail."
            )
        return [(mail, truth, ()) for truth in truths]
    made: list[Owned] = []
    for seed in SEEDS:
        box, table = place / f"{seed}.mbox", place / f"{seed}.csv"
        mailgen.write(GENERATED, seed, box, table)
        made.append((box, table, OWNER_ADDRESSES))
    return made


def table(owners: Sequence[Owned], correct: float, looked: Mapping[str, float]) -> Iterable[str]:
    """A line for each owner, then the mean of all."""
    draws = DRAWS[:1] if correct == 1.0 else DRAWS
    jobs = [Job(mail, truth, who, correct, draw, looked) for mail, truth, who in owners for draw in draws]
    with ProcessPoolExecutor(PROCESSES) as pool:
        found = list(pool.map(passed, jobs))
    yield f"corrected {correct:.0%}" + "".join(f"{name:>19}" for name in NAMES)
    lines = []
    for at, (_, truth, _) in enumerate(owners):
        mine = found[at * len(draws) : (at + 1) * len(draws)]
        lines.append([statistics.median(column) for column in zip(*mine, strict=True)])
        yield f"{truth.stem:<16.16}" + "".join(f"{value:>19.2f}" for value in lines[-1])
    means = [statistics.mean(column) for column in zip(*lines, strict=True)]
    yield f"{'mean':<16}" + "".join(f"{value:>19.2f}" for value in means)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    parser.add_argument("--correct", type=float, action="append", default=[])
    parser.add_argument(
        "--looked", type=shares, default={}, help="shares of mail looked past, as in shelf=0.33,drain=0"
    )
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}; shares and calibration in percent")
    with tempfile.TemporaryDirectory() as place:
        owners = owners_of(Path(place), arguments.mail, arguments.truth)
        for correct in arguments.correct or [1.0, 0.3]:
            for line in table(owners, correct, arguments.looked):
                print(line, flush=True)


if __name__ == "__main__":
    main()
