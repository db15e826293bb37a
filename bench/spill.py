"""What a lesson does to other people's mail, over the first sixty lessons of each of many owners.

    .venv/bin/python -m bench.spill [--mail FILE.mbox --truth FILE.csv ...]

The owners are those of bench.owners. Of each lesson: how much of the mail that came before it is of other senders and
lists and would be routed elsewhere now, and how much of that was right before and is wrong now; whether mail of a sender no lesson was about before, which belongs in the same bucket,
follows; and the largest share any one lesson has in the log-odds of mail of other senders and lists. At last, by how
much 36 lessons for low buckets in a row lower important mail of others.
"""

from __future__ import annotations

import argparse
import platform
import statistics
import tempfile
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np

from bench.lessons import COSTS, Known, prepared
from bench.owners import PROCESSES, Owned, owners_of
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.buckets import DESK
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Lesson
from hieranome.core.routing import Asking, route, settle_all
from hieranome.mail.sources import find

LESSONS = 60
NEGATIVE = 36
SAMPLE = 200
"""Messages in whose log-odds the share of each lesson is looked at."""


def source(one: Known) -> tuple[str, str]:
    """Who wrote it, and through what list."""
    return one.facts.sender.address, one.facts.list_id


def spill(mail: list[Known]) -> tuple[float, float, float, float]:
    """The mean share of others' mail rerouted by a lesson, and wrongly so, the share of like mail that follows a sender's
    first, and the largest share of one lesson in the log-odds of mail of others."""
    engine, asking = Engine(), Asking()
    rows = Rows.stacked([one.vector for one in mail])
    mine: dict[str, list[int]] = defaultdict(list)
    for at, one in enumerate(mail):
        mine[one.facts.sender.address].append(at)
    moved, astray, followed = [], [], []
    known: set[str] = set()
    taught: list[Known] = []
    for number, one in enumerate(mail):
        if len(taught) == LESSONS:
            break
        judgement = engine.judge(one.vector)
        place = route(judgement, COSTS, asking)
        if place == one.belongs:
            engine.leave(number, one.vector, place, judgement)
            continue
        before = settle_all(engine.weigh(rows), COSTS)
        engine.learn(Lesson(len(taught), one.vector, one.belongs, place))
        after = settle_all(engine.weigh(rows), COSTS)
        address, listed = source(one)
        others = [at for at, other in enumerate(mail[:number]) if apart(other, address, listed)]
        moved.append(sum(before[at] != after[at] for at in others) / max(1, number))
        lost = sum(before[at] == mail[at].belongs != after[at] for at in others)
        astray.append(lost / max(1, number))
        if address not in known:
            like = [at for at in mine[address] if mail[at].belongs == one.belongs and at != number]
            followed += [after[at] == one.belongs for at in like]
        known.add(address)
        taught.append(one)
    share = 0.0
    for other in mail[:: max(1, len(mail) // SAMPLE)]:
        for number, part in engine.lesson_parts(other.vector).items():
            if apart(other, *source(taught[number])):
                share = max(share, abs(part))
    return statistics.mean(moved), statistics.mean(astray), statistics.mean(followed), share


def apart(other: Known, address: str, listed: str) -> bool:
    """Whether a message has neither the sender nor the list."""
    return other.facts.sender.address != address and (not listed or other.facts.list_id != listed)


def lowered(mail: list[Known]) -> float:
    """By how many log-odds the first lessons for low buckets lower important mail of senders and lists they are not
    about; the mean over that mail."""
    engine = Engine()
    given = [one for one in mail if one.belongs != DESK][:NEGATIVE]
    taken = {part for one in given for part in source(one) if part}
    unseen = [one.vector for one in mail if one.belongs == DESK and not taken & set(source(one))]
    rows = Rows.stacked(unseen)
    before = engine.weigh(rows).log_odds
    for number, one in enumerate(given):
        engine.learn(Lesson(number, one.vector, one.belongs))
    return float(np.mean(before - engine.weigh(rows).log_odds))


def measured(owned: Owned) -> tuple[float, float, float, float, float]:
    """All figures of one owner."""
    mail, truth, who = owned
    known = prepared(list(mailbox(find(mail))), read_truth(truth).buckets, Owner.of(*who))
    return (*spill(known), lowered(known))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory() as place, ProcessPoolExecutor(PROCESSES) as pool:
        owners = owners_of(Path(place), arguments.mail, arguments.truth)
        found = list(pool.map(measured, owners))
    heads = f"{'others rerouted':>16}{'wrong now':>11}{'like follows':>14}{'largest share':>15}{'36 low lower by':>17}"
    print(f"{'':<18}{heads}")
    means = tuple(statistics.mean(column) for column in zip(*found, strict=True))
    for name, row in [*((one.stem, row) for (_, one, _), row in zip(owners, found, strict=True)), ("mean", means)]:
        moved, astray, follows, share, low = row
        print(f"{name:<18}{moved:>16.2%}{astray:>11.2%}{follows:>14.1%}{share:>15.2f}{low:>17.2f}")


if __name__ == "__main__":
    main()
