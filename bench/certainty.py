"""How often mail called quite sure, fairly sure and not sure of its side of the Desk stands on the right one.

    .venv/bin/python -m bench.certainty [--mail FILE.mbox --truth FILE.csv ...] [--correct 1 --correct 0.3]

The owners are those of :mod:`bench.owners`. Every message is judged before its truth is seen; told is what follows the
first quarter, what is asked about among it.
"""

from __future__ import annotations

import argparse
import platform
import random
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from bench.owners import PROCESSES, Owned, owners_of
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.buckets import DESK, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.features import Vector
from hieranome.core.figures import EARLY, Share
from hieranome.core.judgement import Judgement
from hieranome.core.replay import Replay, replay
from hieranome.core.routing import FAIRLY_SURE, QUITE_SURE, bounds
from hieranome.mail.sources import find

WORDS = ("quite sure", "fairly sure", "not sure")
DESK_BEGINS = bounds(Costs()).desk


class Saying(Engine):
    """An engine that keeps what it said of every message."""

    def __init__(self) -> None:
        super().__init__()
        self.said: list[Judgement] = []

    def judge(self, vector: Vector) -> Judgement:
        self.said.append(super().judge(vector))
        return self.said[-1]


def word_of(judgement: Judgement) -> str:
    """What a message is called, by the end of its doubt that is nearer to the other side."""
    low, high = judgement.band
    chance = low if judgement.importance >= DESK_BEGINS else 1.0 - high
    return WORDS[0 if chance >= QUITE_SURE else 1 if chance >= FAIRLY_SURE else 2]


def counted(owned: Owned, correct: float) -> dict[str, tuple[int, int]]:
    """For each word how many messages of an owner were called so, and how many of those stood on the right side."""
    mail, truth, addresses = owned
    saying = Saying()
    run = Replay(owner=Owner.of(*addresses), correct=correct, draw=random.Random(1).random, learner=saying)
    predicted = list(replay(run, mailbox(find(mail)), read_truth(truth).buckets))
    found = dict.fromkeys(WORDS, (0, 0))
    pairs = list(zip(predicted, saying.said, strict=True))
    for one, said in pairs[int(EARLY * len(pairs)) :]:
        called, right = found[word_of(said)]
        good = (said.importance >= DESK_BEGINS) == (one.belongs == DESK)
        found[word_of(said)] = (called + 1, right + good)
    return found


def table(owners: Sequence[Owned], correct: float) -> Iterator[str]:
    """A line for each word."""
    with ProcessPoolExecutor(PROCESSES) as pool:
        every = list(pool.map(counted, owners, [correct] * len(owners)))
    whole = sum(called for found in every for called, _ in found.values())
    yield f"corrected {correct:.0%}, {len(owners)} owners, {whole} messages"
    for word in WORDS:
        shares = [Share(found[word][1], found[word][0]) for found in every if found[word][0]]
        called, right = sum(one.whole for one in shares), sum(one.part for one in shares)
        worst = min(one.value for one in shares)
        yield f"  {word:<12} {called / whole:6.1%} of them; right {right / called:.1%}, of the worst owner's {worst:.1%}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    parser.add_argument("--correct", type=float, action="append", default=[])
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory() as place:
        owners = owners_of(Path(place), arguments.mail, arguments.truth)
        for correct in arguments.correct or [1.0, 0.3]:
            for line in table(owners, correct):
                print(line, flush=True)


if __name__ == "__main__":
    main()
