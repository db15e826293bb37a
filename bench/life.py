"""Owners who work through weeks in the application, with habits: what looking past mail and runs of lessons come to.

    .venv/bin/python -m bench.life [--mail FILE.mbox --truth FILE.csv ...] [--draws 5] [--correct 0.5] [--messages 2484]

Each owner knows where every message belongs. Mail arrives day by day in a mailroom of its own, by the use cases of the
application: buckets are opened in an order, rows stand in sight and are gone past, mistakes that are seen are corrected
with a chance, questions are answered. Every habit is passed twice, with mail looked past teaching and without, on the
same draws. Printed are regret, early regret, buried and noise of what arrived (as the other measurements have them),
what the second look offers in the end and how much of it is right, the share of the standing mistakes it offers that an
engine taught all lessons three times over would mend, how many promises were made of what the next message of a
sender or list does and how many of those were kept, and how far stored scores and the model's differ at most, before
and after the work behind, in points. Without --mail two generated mailboxes stand for owners.
"""

from __future__ import annotations

import argparse
import platform
import random
import statistics
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from bench.owners import NAMES, PROCESSES, Owned, owners_of
from hieranome.app import second_look
from hieranome.app.arrival.arrive import take_in
from hieranome.app.reading.incoming import Incoming, prepare
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import look_past, set_teaches
from hieranome.app.teaching.promise import key_of
from hieranome.app.trial.backtest import read_truth
from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF, UNDECIDED
from hieranome.core.engine import Engine
from hieranome.core.figures import figures
from hieranome.core.judgement import Lesson
from hieranome.core.replay import Predicted
from hieranome.core.routing import settle
from hieranome.core.times import DAY
from hieranome.mail.sources import find, items
from hieranome.store import lessons, listing, messages, scores
from hieranome.store.listing import Listing

DAILY = 60
"""Messages a day."""
ROWS = 40
"""Rows of a bucket that are gone past in one sitting."""
WEEK = 7
OPENED_EVERY = {DESK: 1, SHELF: 1, DIGEST: 2, DRAIN: 14}
"""Every how many days who looks at a bucket at all looks at it."""
BUILT_IN = (DESK, SHELF, DIGEST, DRAIN)
START = 1_760_000_000


@dataclass(frozen=True, slots=True)
class Habit:
    """How an owner works: which buckets are opened, whether their rows are gone past or letters that matter opened
    alone, and which corrections are made, on which days of the week (0: each)."""

    name: str
    opens: tuple[str, ...] = BUILT_IN
    scrolls: bool = True
    onto_desk: bool = True
    off_desk: bool = True
    on_day: int = 0


HABITS = (
    Habit("scrolls everything"),
    Habit("scrolls the Desk only", opens=(DESK,)),
    Habit("opens what matters, never scrolls", scrolls=False),
    Habit("corrects onto the Desk only", off_desk=False),
    Habit("corrects away from the Desk only", onto_desk=False),
    Habit("corrects in one run on Fridays", on_day=5),
)


@dataclass(frozen=True, slots=True)
class Job:
    """One life: the mail, whose truth, the habit, which draw, what share of mistakes seen is corrected, whether mail
    looked past teaches, how many messages there are."""

    mail: Path
    truth: Path
    owner: tuple[str, ...]
    habit: Habit
    draw: int
    correct: float
    teaches: bool
    most: int


@dataclass(frozen=True, slots=True)
class Lived:
    """What a life came to: the figures in the order of :data:`NAMES`; what the second look offers, how much of it is
    right, how many standing mistakes a refit would mend and how many of those are offered; the farthest a stored score
    was from the model's, in points, before and after the work behind; the promises made whose message came, and kept."""

    figures: tuple[float, ...]
    offered: int
    right: int
    mendable: int
    found: int
    apart: float
    after: float
    promised: int
    kept: int


_MAIL: dict[Path, list[Incoming]] = {}


def _mail(path: Path) -> list[Incoming]:
    if path not in _MAIL:
        _MAIL[path] = [prepare(item.raw, START) for source in find(path) for item in items(source)]
    return _MAIL[path]


class Life:
    """One owner in one mailroom."""

    def __init__(self, job: Job, room: Mailroom, clock: Clock, truth: Mapping[str, str]) -> None:
        self._job, self._room, self._clock, self._truth = job, room, clock, truth
        self._rng = random.Random(job.draw)
        self._belongs: dict[int, str] = {}
        self._passed: set[tuple[int, str]] = set()
        self._noticed: dict[int, str] = {}
        self._promises: dict[str, str] = {}
        self.promised = self.kept = 0
        self.predicted: list[Predicted] = []
        set_teaches(room, job.teaches)

    def live(self) -> None:
        """Every day of it."""
        mail = _mail(self._job.mail)[: self._job.most]
        for day, start in enumerate(range(0, len(mail), DAILY), 1):
            self._clock.now += DAY
            self._arrive(mail[start : start + DAILY])
            self._answer()
            for place in self._job.habit.opens:
                if day % OPENED_EVERY[place] == 0:
                    self._sit(place)
            if not self._job.habit.on_day or day % WEEK == self._job.habit.on_day:
                self._correct()

    def _arrive(self, mail: Sequence[Incoming]) -> None:
        with self._room.change() as db:
            for one in mail:
                belongs = self._truth.get(one.facts.message_id)
                number = take_in(self._room, db, replace(one, facts=replace(one.facts, sent_at=self._clock.now)))
                if number is not None and belongs in BUILT_IN:
                    row = messages.get(db, number)
                    self._belongs[number] = belongs
                    self._compare(row)
                    if row.place in (*BUILT_IN, UNDECIDED):
                        self.predicted.append(
                            Predicted(one.facts.message_id, row.score, row.certainty, row.place, belongs, False)
                        )

    def _compare(self, row: messages.Message) -> None:
        """Whether a message does what was promised of the next of its sender or list."""
        promised = self._promises.pop(key_of(row), "")
        self.promised += bool(promised)
        self.kept += promised == row.place

    def _teach(self, number: int, belongs: str) -> None:
        outcome = correct(self._room, [number], belongs, follow=False)
        key = key_of(messages.get(self._room.reader(), number))
        self._promises[key] = outcome.promise.place if outcome.promise else ""

    def _answer(self) -> None:
        """Questions are answered, each with what is so."""
        for row in listing.page(self._room.reader(), Listing(UNDECIDED, "time", False, False), "", ROWS).messages:
            if row.id in self._belongs:
                self._teach(row.id, self._belongs[row.id])

    def _sit(self, place: str) -> None:
        """The newest of a bucket that nobody went past yet, in one sitting; mistakes are noticed as they are seen."""
        rows = listing.page(self._room.reader(), Listing(place, "time", False, False), "", 3 * ROWS).messages
        fresh = [row.id for row in rows if (row.id, place) not in self._passed and row.id in self._belongs][:ROWS]
        self._passed.update((number, place) for number in fresh)
        wrong = [number for number in fresh if self._belongs[number] != place]
        for number in wrong:
            wanted = self._job.habit.onto_desk if self._belongs[number] == DESK else self._job.habit.off_desk
            if wanted and self._rng.random() < self._job.correct:
                self._noticed[number] = self._belongs[number]
        if self._job.habit.scrolls:
            look_past(self._room, [(number, place) for number in fresh if number not in self._noticed])

    def _correct(self) -> None:
        for number, belongs in self._noticed.items():
            self._teach(number, belongs)
        self._noticed.clear()

    def apart(self) -> float:
        """How far stored scores of standing mail are from the model's at most, in points."""
        db, worst = self._room.reader(), 0.0
        numbers = scores.weighed(db, sorted(self._belongs))
        for start in range(0, len(numbers), 500):
            some = numbers[start : start + 500]
            held = [one[0] for one in scores.scores(db, some)]
            judged = self._room.engine.judge_all(self._room.vectors.of(db, some))
            worst = max(worst, *(100 * abs(a - b.importance) for a, b in zip(held, judged, strict=True)))
        return worst

    def second_look(self) -> tuple[int, int, int, int]:
        """Offered, right among them, mistakes a refit over all lessons would mend, offered among those."""
        db = self._room.reader()
        offered = {m.id: one.target for one in second_look.offers(self._room) for m in one.messages}
        known = {number: target for number, target in offered.items() if number in self._belongs}
        right = sum(target == self._belongs[number] for number, target in known.items())
        refit = Engine(self._room.engine.buckets)
        taught = [one for one in lessons.teaching(db) if isinstance(one, Lesson)]
        for again in range(3):
            refit.learn_all(replace(one, id=one.id + again * 1_000_000) for one in taught)
        mendable = found = 0
        for row in self._standing_mistakes():
            (judged,) = refit.judge_all(self._room.vectors.of(db, [row]))
            if settle(judged, self._room.costs)[0] == self._belongs[row]:
                mendable += 1
                found += row in offered
        return len(known), right, mendable, found

    def _standing_mistakes(self) -> Iterator[int]:
        since = self._clock.now - second_look.DAYS * DAY
        for row in messages.get_many(self._room.reader(), list(self._belongs)):
            across = (row.place == DESK) != (self._belongs[row.id] == DESK)
            if row.decided_by == "model" and row.time > since and across:
                yield row.id


class Clock:
    """A clock that is put on day by day."""

    def __init__(self) -> None:
        self.now = START

    def __call__(self) -> int:
        return self.now


def lived(job: Job) -> Lived:
    """One life, from its first day to its last."""
    clock = Clock()
    with tempfile.TemporaryDirectory(prefix="hieranome-life-") as place:
        room = Mailroom(Path(place), clock)
        room.set_owner(job.owner)
        life = Life(job, room, clock, read_truth(job.truth).buckets)
        life.live()
        apart = life.apart()
        Rescorer(room).pass_over()
        offered = life.second_look()
        after = life.apart()
        room.close()
    found = figures(life.predicted)
    shares = (found.buried.value, found.noise.value, found.asked.value)
    told = (found.regret, found.early_regret, *(100 * one for one in shares), 100 * found.calibration_error)
    return Lived(told, *offered, apart, after, life.promised, life.kept)


def table(owners: Sequence[Owned], draws: Sequence[int], correct: float, most: int) -> Iterator[str]:
    """A line for each habit, with mail looked past teaching and without."""
    yield (
        f"{'habit':<36}{'teaches':<8}"
        + "".join(f"{name:>9.9}" for name in NAMES[:5])
        + "  offered right found apart promises kept"
    )
    ways = [(habit, teaches) for habit in HABITS for teaches in (True, False) if teaches <= habit.scrolls]
    jobs = [
        Job(m, t, w, habit, d, correct, teaches, most) for habit, teaches in ways for m, t, w in owners for d in draws
    ]
    with ProcessPoolExecutor(PROCESSES) as pool:
        results = pool.map(lived, jobs)
        done: dict[tuple[str, bool], list[Lived]] = {}
        for habit, teaches in ways:
            mine = done[habit.name, teaches] = [next(results) for _ in range(len(owners) * len(draws))]
            yield line(habit.name, teaches, mine)
    for habit in HABITS:
        if habit.scrolls:
            pairs = zip(done[habit.name, True], done[habit.name, False], strict=True)
            apart = [a.figures[0] - b.figures[0] for a, b in pairs]
            error = statistics.stdev(apart) / len(apart) ** 0.5 if len(apart) > 1 else 0.0
            yield f"{habit.name:<36}regret with it less without: {statistics.mean(apart):+.2f}, standard error {error:.2f}"


def line(name: str, teaches: bool, mine: Sequence[Lived]) -> str:
    """What lives of one habit came to."""
    means = [statistics.mean(column) for column in zip(*(one.figures for one in mine), strict=True)]
    offered, right = sum(one.offered for one in mine), sum(one.right for one in mine)
    mendable, found = sum(one.mendable for one in mine), sum(one.found for one in mine)
    apart, after = max(one.apart for one in mine), max(one.after for one in mine)
    promised, kept = sum(one.promised for one in mine), sum(one.kept for one in mine)
    shares = f"{100 * right / max(1, offered):>4.0f} % {found}/{mendable}"
    numbers = "".join(f"{value:>9.2f}" for value in means[:5])
    return f"{name:<36}{'yes' if teaches else 'no':<8}{numbers}{offered:>9} {shares} {apart:.1f}, {after:.1f} {kept}/{promised}"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path, action="append", default=[])
    parser.add_argument("--draws", type=int, default=1)
    parser.add_argument("--correct", type=float, default=0.5)
    parser.add_argument("--messages", type=int, default=2_484)
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    with tempfile.TemporaryDirectory() as place:
        owners = owners_of(Path(place), arguments.mail, arguments.truth)
        for one in table(owners, range(1, arguments.draws + 1), arguments.correct, arguments.messages):
            print(one, flush=True)


if __name__ == "__main__":
    main()
