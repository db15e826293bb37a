"""What a run of lessons does: six senders taught to the Desk and six to the Shelf, one after the other.

    .venv/bin/python -m bench.runs [--mail FILE.mbox --truth FILE.csv ...] [--draws 20] [--correct 0.5]

Half of each mailbox is passed first, with a share of its mistakes corrected and nothing looked past. Then twelve senders
(or lists) are drawn of which more mail is to come: six that stand in low buckets are taught to the Desk by one message
each, six that stand on the Desk to the Shelf, in any order. Printed are how many of the next messages of the twelve would
stand where they were taught, how much mail of others would be routed elsewhere than before the run, how much of it across
the line of the Desk, and by how much its log-odds moved in the median. Without --mail generated mailboxes stand for owners.
"""

from __future__ import annotations

import argparse
import platform
import random
import statistics
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from bench.owners import PROCESSES, Owned, owners_of
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF, UNDECIDED, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Judgement, Lesson
from hieranome.core.replay import Replay
from hieranome.core.routing import Asking, route, settle, settle_all
from hieranome.mail.sources import find

EACH = 6
BEFORE, AFTER = 700, 300
"""Messages before and after the middle that are looked at for what else moved."""
FIRST_ID = 1_000_000
LOW_AND_DESK = (DESK, SHELF, DIGEST, DRAIN)


@dataclass(frozen=True, slots=True)
class Job:
    """One run: the mail, whose truth, which draw, what share of mistakes was corrected before."""

    mail: Path
    truth: Path
    owner: tuple[str, ...]
    draw: int
    correct: float


@dataclass(frozen=True, slots=True)
class Ran:
    """What a run did: of how many taught senders the next stood where it was taught, and shares of others' mail."""

    stood: int
    taught: int
    rerouted: float
    across: float
    shift: float


@dataclass(frozen=True, slots=True)
class Taught:
    """A sender or list that is taught: by which message, what comes next of it, where it stood and belongs."""

    source: str
    by: Vector
    next: Vector
    stood: str
    belongs: str


@dataclass(frozen=True, slots=True)
class Seen:
    """A message as the engine sees it: its list or else its sender, its vector, where it belongs."""

    source: str
    vector: Vector
    belongs: str


class _Keeping(Engine):
    """An engine that keeps the vectors it judges."""

    def __init__(self) -> None:
        super().__init__()
        self.judged: list[Vector] = []

    def judge(self, vector: Vector) -> Judgement:
        """Judge, and keep what was judged."""
        self.judged.append(vector)
        return super().judge(vector)


_SEEN: dict[Path, list[Seen]] = {}


def seen(job: Job) -> list[Seen]:
    """Every message whose truth is known."""
    if job.truth not in _SEEN:
        truth = read_truth(job.truth).buckets
        engine, found = _Keeping(), []
        run = Replay(owner=Owner.of(*job.owner), correct=0.0, learner=engine, looked=dict.fromkeys(LOW_AND_DESK, 0.0))
        for one in mailbox(find(job.mail)):
            belongs = truth.get(one.facts.message_id)
            if run.step(one, belongs) is not None and belongs is not None:
                found.append((one.facts.list_id or one.facts.sender.address, belongs))
        _SEEN[job.truth] = [Seen(who, vector, where) for (who, where), vector in zip(found, engine.judged, strict=True)]
    return _SEEN[job.truth]


def half_taught(mail: Sequence[Seen], correct: float, rng: random.Random) -> Engine:
    """An engine that some mail was passed through, questions answered and a share of mistakes corrected."""
    engine, asking, costs = Engine(), Asking(), Costs()
    for number, one in enumerate(mail):
        place = route(engine.judge(one.vector), costs, asking)
        if place == UNDECIDED or (place != one.belongs and rng.random() < correct):
            engine.learn(Lesson(number, one.vector, one.belongs, place))
    return engine


def drawn(mail: Sequence[Seen], middle: int, engine: Engine, rng: random.Random) -> list[Taught]:
    """The twelve: each with what it is taught by, and what comes next of it."""
    later: dict[str, list[Vector]] = {}
    for one in mail[middle:]:
        later.setdefault(one.source, []).append(one.vector)
    every = [source for source, vectors in later.items() if source and len(vectors) > 1]
    rng.shuffle(every)
    stands = {source: settle(engine.judge(later[source][0]), Costs())[0] for source in every}
    up = [source for source in every if stands[source] != DESK][:EACH]
    down = [source for source in every if stands[source] == DESK][:EACH]
    taught = [Taught(s, later[s][0], later[s][1], stands[s], DESK if s in up else SHELF) for s in (*up, *down)]
    rng.shuffle(taught)
    return taught


def ran(job: Job) -> Ran:
    """One run of lessons in the middle of a mailbox."""
    rng, costs, mail = random.Random(job.draw), Costs(), seen(job)
    middle = len(mail) // 2
    engine = half_taught(mail[:middle], job.correct, rng)
    taught = drawn(mail, middle, engine, rng)
    chosen = {one.source for one in taught}
    span = mail[max(0, middle - BEFORE) : middle + AFTER]
    others = Rows.stacked([one.vector for one in span if one.source not in chosen])
    before = engine.weigh(others)
    for number, each in enumerate(taught, FIRST_ID):
        engine.learn(Lesson(number, each.by, each.belongs, each.stood))
    after = engine.weigh(others)
    stood = sum(settle(engine.judge(one.next), costs)[0] == one.belongs for one in taught)
    both = list(zip(settle_all(before, costs), settle_all(after, costs), strict=True))
    rerouted = 100 * statistics.mean(was != now for was, now in both)
    across = 100 * statistics.mean((was == DESK) != (now == DESK) for was, now in both)
    return Ran(stood, len(taught), rerouted, across, float(np.median(after.log_odds - before.log_odds)))


def table(owners: Sequence[Owned], draws: int, correct: float) -> Iterator[str]:
    """A line for each owner, then for all."""
    yield f"{'':<18}{'of 12':>8}{'rerouted':>10}{'across':>8}{'shift':>7}"
    jobs = [Job(*owner, draw, correct) for owner in owners for draw in range(draws)]
    with ProcessPoolExecutor(PROCESSES) as pool:
        found = list(pool.map(ran, jobs))
    for at, (_, truth, _) in enumerate(owners):
        yield line(truth.stem, found[at * draws : (at + 1) * draws])
    yield line("all", found)


def line(name: str, runs: Sequence[Ran]) -> str:
    """What some runs did: medians of the twelve, means of the others."""
    twelve = statistics.median(12 * one.stood / max(1, one.taught) for one in runs)
    means = [statistics.mean(column) for column in zip(*((one.rerouted, one.across) for one in runs), strict=True)]
    shift = statistics.median(one.shift for one in runs)
    return f"{name:<18.18}{twelve:>8.1f}{means[0]:>9.2f}%{means[1]:>7.2f}%{shift:>+7.2f}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    parser.add_argument("--draws", type=int, default=20)
    parser.add_argument("--correct", type=float, default=0.5)
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory() as place:
        for one in table(owners_of(Path(place), arguments.mail, arguments.truth), arguments.draws, arguments.correct):
            print(one, flush=True)


if __name__ == "__main__":
    main()
