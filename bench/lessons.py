"""What one lesson does: to its sender's mail, to everybody else's, and to the clock.

    .venv/bin/python -m bench.lessons [--mail FILE.mbox --truth FILE.csv] [--owner ADDRESS]

Without --mail the mailbox is 6,000 generated messages of seed 7. Five parts: one lesson about a sender never seen;
two kinds of mail from one sender; undo against never having learned; speed beside scikit-learn's SGD, and memory;
verdicts and undo in a mailroom with its store.
"""

from __future__ import annotations

import argparse
import platform
import random
import resource
import statistics
import tempfile
import time
import tracemalloc
import warnings
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from bench.peers import sgd
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.kin import KIN_LIKENESS
from hieranome.app.teaching.undoing import undo
from hieranome.app.trial.backtest import mailbox, read_truth
from hieranome.core.buckets import UNDECIDED, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.gaussian import Floats, Rows, likeness
from hieranome.core.groups import Context
from hieranome.core.judgement import Given, Judgement, Lesson
from hieranome.core.relations import Relations
from hieranome.core.replay import Passing, Replay, replay
from hieranome.core.routing import settle, settle_all
from hieranome.core.silence import Silence
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.reading import read
from hieranome.mail.sources import find
from hieranome.store import journal, scores, standing

GENERATED = 6000
GENERATED_SEED = 7
ROOM = 6000
VERDICTS = 60
BEFORE = (0, 10, 20, 40, 60)
"""How many lessons the engine has had before the one whose effect is measured."""
TRIALS = 60
SURE = 0.7
"""The share of silences from which the regression has nothing to learn, about as it is on real mail."""
BUCKETS = ("desk", "shelf", "digest", "drain")
COSTS = Costs()


@dataclass(frozen=True, slots=True)
class Known:
    """One message with its vector and its truth."""

    facts: MessageFacts
    vector: Vector
    belongs: str


class Noting(Engine):
    """An engine that learns nothing and keeps every vector it is asked about."""

    def __init__(self) -> None:
        super().__init__()
        self.vectors: list[Vector] = []

    def judge(self, vector: Vector) -> Judgement:
        self.vectors.append(vector)
        return super().judge(vector)

    def learn(self, given: Given) -> None:
        """Nothing."""


def prepared(stream: Sequence[Passing], truth: dict[str, str], owner: Owner) -> list[Known]:
    """Every message with a truth, weighed with the sums up to it."""
    noting, facts = Noting(), {one.facts.message_id: one.facts for one in stream}
    predicted = list(replay(Replay(owner=owner, learner=noting), stream, truth))
    pairs = zip(predicted, noting.vectors, strict=True)
    return [Known(facts[one.message_id], vector, one.belongs) for one, vector in pairs]


def places(engine: Engine, mail: Sequence[Known]) -> list[str]:
    """Where each would be put if nothing were asked."""
    return settle_all(engine.weigh(Rows.stacked([one.vector for one in mail])), COSTS)


def taught_by_mistakes(mail: Sequence[Known], count: int) -> Engine:
    """An engine that had up to ``count`` mistakes corrected, in order of arrival."""
    engine = Engine()
    for number, one in enumerate(mail):
        if len(engine) == count:
            break
        place = settle(engine.judge(one.vector), COSTS)[0]
        if place != one.belongs:
            engine.learn(Lesson(number, one.vector, one.belongs, place))
    return engine


def one_lesson(mail: Sequence[Known], before: int, rng: random.Random) -> str:
    """After one correction of a sender never seen: what becomes of its like mail, and of everybody else's.

    Like mail is of the same sender and belongs in the same bucket. Others are counted as moved where the engine would
    route them elsewhere now, and as proposed where they are also like enough to be shown as kin: nothing that
    stands moves unasked.
    """
    engine = taught_by_mistakes(mail, before)
    known = {mail[number].facts.sender.address for number in engine.lesson_ids}
    stood = places(engine, mail)
    unseen: dict[str, list[int]] = defaultdict(list)
    for at, one in enumerate(mail):
        if one.facts.sender.address not in known:
            unseen[one.facts.sender.address].append(at)
    wrong = sorted(sender for sender, its in unseen.items() if stood[its[0]] != mail[its[0]].belongs)
    followed = of = 0
    moved, proposed = [], []
    right: list[tuple[bool, bool]] = []
    vectors = [one.vector for one in mail]
    for sender in rng.sample(wrong, min(TRIALS, len(wrong))):
        first = mail[unseen[sender][0]]
        engine.learn(Lesson(-1, first.vector, first.belongs))
        after = places(engine, mail)
        alike = [at for at in unseen[sender][1:] if mail[at].belongs == first.belongs]
        followed += sum(after[at] == first.belongs for at in alike)
        of += len(alike)
        others = len(mail) - len(unseen[sender])
        gone = [at for at, was in enumerate(stood) if was != after[at] and mail[at].facts.sender.address != sender]
        near: Sequence[float] | Floats = (
            likeness(Rows.stacked([vectors[at] for at in gone]), first.vector) if gone else []
        )
        kin = [at for at, like in zip(gone, near, strict=True) if like >= KIN_LIKENESS]
        moved.append(len(gone) / others)
        proposed.append(len(kin) / others)
        right += [(after[at] == mail[at].belongs, stood[at] == mail[at].belongs) for at in kin]
        engine.forget(-1)
    if not moved:
        return f"  after {len(engine):>3} lessons: no sender never seen stood wrong"
    return (
        f"  after {len(engine):>3} lessons, {len(moved):>2} senders: like mail followed {followed}/{of} "
        f"({followed / max(1, of):.1%}, bar 95%); others proposed as kin {_of(proposed)} (bar 0.5%), of these "
        f"{_shares(right)}; "
        f"routed elsewhere if they came now {_of(moved)}"
    )


def _shares(right: Sequence[tuple[bool, bool]]) -> str:
    """Of proposals, given whether each would be right and whether it was before, the shares."""
    count = max(1, len(right))
    return f"{sum(now for now, _ in right) / count:.0%} right, {sum(was for _, was in right) / count:.0%} right before"


def _of(shares: Sequence[float]) -> str:
    return f"{statistics.median(shares):.2%}, mean {statistics.mean(shares):.2%}"


def two_kinds(stream: Sequence[mailgen.Made]) -> Iterator[str]:
    """Senders that write two kinds of mail: split after two lessons about each kind."""
    owner = Owner.of(*OWNER_ADDRESSES)
    by_sender: dict[str, list[Known]] = defaultdict(list)
    for one in stream:
        if one.belongs in BUCKETS:
            facts = read(one.raw).facts
            by_sender[one.sender].append(Known(facts, extract(facts, Context(owner, Relations())), one.belongs))
    for sender, mail in sorted(by_sender.items()):
        kinds = sorted({one.belongs for one in mail})
        if len(kinds) != 2 or min(sum(one.belongs == kind for one in mail) for kind in kinds) < 5:
            continue
        engine = Engine()
        lessons = [one for kind in kinds for one in [m for m in mail if m.belongs == kind][:2]]
        for number, lesson in enumerate(lessons):
            engine.learn(Lesson(number, lesson.vector, lesson.belongs))
        rest = [one for one in mail if not any(one is lesson for lesson in lessons)]
        right = sum(place == one.belongs for place, one in zip(places(engine, rest), rest, strict=True))
        yield f"  {sender} ({' and '.join(kinds)}): {right}/{len(rest)} ({right / len(rest):.1%}, bar 95%)"


def given_at_random(mail: Sequence[Known], lessons: int, silences: int, rng: random.Random) -> list[Given]:
    """So many random lessons, and silences of random weights among them."""
    kinds = [True] * lessons + [False] * silences
    rng.shuffle(kinds)
    found: list[Given] = []
    for number, is_lesson in enumerate(kinds):
        vector = rng.choice(mail).vector
        if is_lesson:
            found.append(Lesson(number, vector, rng.choice(BUCKETS), rng.choice((*BUCKETS, UNDECIDED))))
        else:
            found.append(Silence(number, vector, rng.choice(BUCKETS), rng.random(), rng.random() < SURE, 0.0))
    return found


def undone(mail: Sequence[Known], rng: random.Random) -> str:
    """500 random lessons among 2,000 silences, 100 of the lessons undone in random order, against an engine that never
    saw the 100."""
    given = given_at_random(mail, 500, 2000, rng)
    gone = rng.sample([one for one in given if isinstance(one, Lesson)], 100)
    engine, never = Engine(), Engine()
    engine.learn_all(given)
    for start in range(0, len(gone), 10):
        engine.forget_all([lesson.id for lesson in gone[start : start + 10]])
    out = {lesson.id for lesson in gone}
    never.learn_all(one for one in given if one.id not in out)
    probes = [one.vector for one in mail[:1000]]
    apart = max(
        abs(a.log_odds - b.log_odds) for a, b in zip(engine.judge_all(probes), never.judge_all(probes), strict=True)
    )
    return f"  100 of 500 lessons among 2,000 silences undone: at most {apart:.1e} apart from never (bar 0)"


def median_ms(work: Callable[[], object], times: int) -> float:
    """The median of some runs, in milliseconds."""
    spent = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        spent.append(time.perf_counter() - began)
    return 1000 * statistics.median(spent)


def speed(mail: Sequence[Known], owner: Owner, rng: random.Random) -> Iterator[str]:
    """The clock, beside scikit-learn's SGD on the same features."""
    engine = taught_by_mistakes(mail, 400)
    relations, peer = Relations(), sgd("features")
    sample = [mail[rng.randrange(len(mail))] for _ in range(300)]
    facts, lessons = iter([*sample, *sample]), iter(sample)
    score = median_ms(lambda: engine.judge(extract(next(facts).facts, Context(owner, relations))), 300)
    for one in sample:
        peer.learn(Lesson(0, one.vector, one.belongs))
    peer_score = median_ms(lambda: peer.judge(next(lessons).vector), 200)
    yield f"  scoring, features included {score:.2f} ms (bar 1), SGD without features {peer_score:.2f} ms"
    many = given_at_random(mail, 5000, 50_000, rng)
    began = time.perf_counter()
    fresh = Engine()
    fresh.learn_all(many)
    learned = time.perf_counter() - began
    for start in range(0, 50_000, 1000):
        settle_all(fresh.weigh(Rows.stacked([mail[i % len(mail)].vector for i in range(start, start + 1000)])), COSTS)
    whole = time.perf_counter() - began
    told = f"rebuild from 5,000 lessons and 50,000 silences {learned:.1f} s (bar 10)"
    yield f"  {told}, with 50,000 messages judged anew {whole:.1f} s"
    del fresh
    tracemalloc.start()
    held = Engine()
    held.learn_all(many)
    yield f"  the engine holds {tracemalloc.get_traced_memory()[0] / 1e6:.0f} MB after them (bar 100)"
    tracemalloc.stop()


def in_a_room(owner: Owner, rng: random.Random) -> Iterator[str]:
    """Verdicts and their undo in a mailroom with its store: what the owner waits for."""
    with tempfile.TemporaryDirectory() as folder:
        room = Mailroom(Path(folder) / "data")
        room.set_owner(list(owner.addresses))
        for one in mailgen.generate(ROOM, GENERATED_SEED):
            receive(room, one.raw)
        numbers = [row[0] for row in room.reader().execute("SELECT id FROM messages WHERE place <> 'sent'")]
        looked, compared = len(scores.in_sight(room.reader())), len(standing.newest(room.reader()))
        verdict = median_ms(lambda: correct(room, [rng.choice(numbers)], rng.choice(BUCKETS)), VERDICTS)
        yield f"  a verdict, {looked:,} messages rescored, kin among {compared:,}, store: {verdict:.0f} ms (bar 150)"
        steps = [step.id for step in journal.recent(room.reader(), 0, VERDICTS) if step.undone_at is None]
        chosen = iter(rng.sample(steps[:50], 15))
        yield f"  undo of one of the last fifty, store included: {median_ms(lambda: undo(room, next(chosen)), 15):.0f} ms (bar 200)"
        room.close()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--mail", type=Path)
    parser.add_argument("--truth", type=Path)
    parser.add_argument("--owner", action="append", default=[])
    parser.add_argument("--only", choices=("one", "two", "undo", "speed", "room"))
    arguments = parser.parse_args()
    warnings.simplefilter("ignore")
    print(f"{platform.machine()}, Python {platform.python_version()}")
    rng = random.Random(1)
    with tempfile.TemporaryDirectory() as folder:
        path, truth, owner = arguments.mail, arguments.truth, Owner.of(*arguments.owner)
        if path is None:
            path, truth, owner = Path(folder) / "made.mbox", Path(folder) / "made.csv", Owner.of(*OWNER_ADDRESSES)
            mailgen.write(GENERATED, GENERATED_SEED, path, truth)
        mail = prepared(list(mailbox(find(path))), read_truth(truth).buckets, owner)
    parts: dict[str, Callable[[], Iterator[str]]] = {
        "one": lambda: (one_lesson(mail, before, rng) for before in BEFORE),
        "two": lambda: two_kinds(list(mailgen.generate(GENERATED, GENERATED_SEED))),
        "undo": lambda: iter([undone(mail, rng)]),
        "speed": lambda: speed(mail, owner, rng),
        "room": lambda: in_a_room(Owner.of(*OWNER_ADDRESSES), rng),
    }
    for name, part in parts.items():
        if arguments.only in (None, name):
            print(name)
            for line in part():
                print(line, flush=True)
    print(f"peak memory of this process {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")


if __name__ == "__main__":
    main()
