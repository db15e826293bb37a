"""The engine beside common learners: the same stream, the same protocol, the same run.

    .venv/bin/python -m bench.engine [--mail FILE.mbox --truth FILE.csv [--truth ...]] [--owner ADDRESS]

Without --mail the stream is 3,000 generated messages of seed 7. Every mistake is corrected; the last lines give the
engine's regret where three mistakes in ten are, the median over nine seeds. Time is of scoring (vector and
judgement) and of learning (a lesson), in milliseconds.
"""

from __future__ import annotations

import argparse
import platform
import random
import statistics
import tempfile
import time
import warnings
from collections.abc import Mapping, Sequence
from pathlib import Path

from rich.console import Console
from rich.table import Table

from bench.peers import WAYS, Peer, peers
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.facts import Owner
from hieranome.core.figures import Figures, Share, figures
from hieranome.core.replay import Passing, Replay, replay
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.sources import find

GENERATED = 3000
GENERATED_SEED = 7
SEEDS = range(1, 10)


def measured(
    stream: Sequence[Passing], truth: Mapping[str, str], owner: Owner, learner: Peer | None, correct: float, seed: int
) -> tuple[Figures, Replay, int]:
    """One pass: the figures, the run with its times, and how many lessons there were."""
    run = Replay(
        owner=owner, learner=learner, correct=correct, draw=random.Random(seed).random, watch=time.perf_counter
    )
    predicted = list(replay(run, stream, truth))
    return figures(predicted), run, sum(one.corrected for one in predicted)


def _counts(share: Share) -> str:
    return f"{share.value:.1%} ({share.part}/{share.whole})"


def _named(learner: Peer | None) -> str:
    return f"{learner.name}, {learner.way}" if learner else "this engine"


def compare(console: Console, name: str, stream: Sequence[Passing], truth: Mapping[str, str], owner: Owner) -> None:
    """Print the table of one stream."""
    table = Table(
        "learner", "regret", "early", "buried", "noise", "asked", "corrected", "score ms", "learn ms", title=name
    )
    engine_regret = 0.0
    least = dict.fromkeys(WAYS, float("inf"))
    for learner in (None, *peers()):
        found, run, lessons = measured(stream, truth, owner, learner, 1.0, 1)
        if learner is None:
            engine_regret = found.regret
        else:
            least[learner.way] = min(least[learner.way], found.regret)
        table.add_row(
            _named(learner),
            f"{found.regret:.1f}",
            f"{found.early_regret:.1f}",
            _counts(found.buried),
            _counts(found.noise),
            f"{found.asked.value:.1%}",
            f"{found.corrections.value:.1%}",
            f"{1000 * run.scoring / found.messages:.2f}",
            f"{1000 * run.learning / max(1, lessons):.2f}",
        )
    console.print(table)
    for way, regret in least.items():
        console.print(f"the best peer, {way}: {regret / max(0.01, engine_regret):.1f} times the engine's regret")
    sparse = [measured(stream, truth, owner, None, 0.3, seed)[0].regret for seed in SEEDS]
    console.print(f"three in ten corrected: {statistics.median(sparse):.1f} ({min(sparse):.1f} to {max(sparse):.1f})\n")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    parser.add_argument("--owner", action="append", default=[])
    arguments = parser.parse_args()
    warnings.simplefilter("ignore")
    console = Console(width=130)
    console.print(f"{platform.machine()}, Python {platform.python_version()}")
    owner = Owner.of(*arguments.owner)
    with tempfile.TemporaryDirectory() as place:
        mail, truths = arguments.mail, arguments.truth
        if mail is None:
            mail, truths, owner = Path(place) / "made.mbox", [Path(place) / "made.csv"], Owner.of(*OWNER_ADDRESSES)
            mailgen.write(GENERATED, GENERATED_SEED, mail, truths[0])
        stream = list(mailbox(find(mail)))
        for truth in truths:
            compare(console, truth.stem, stream, read_truth(truth).buckets, owner)


if __name__ == "__main__":
    main()
