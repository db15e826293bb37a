"""Messages, vectors, lessons and engines made for tests of the core."""

import random
from collections.abc import Iterator

from hieranome.core.engine import Engine
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.features import Vector, extract
from hieranome.core.groups import Context
from hieranome.core.judgement import Lesson
from hieranome.core.relations import Relations

WORDS = "rider risers stage offer rosin percent parcel invoice humid report viola horn coach hall visa stamp".split()
BUCKETS = ("desk", "shelf", "digest", "drain")


def made_facts(rng: random.Random) -> MessageFacts:
    """A random message."""
    number = rng.randrange(30)
    bulk = number % 3 == 0
    return MessageFacts(
        message_id=f"<{rng.random()}@x.example>",
        sender=Correspondent(f"writer{number}@house{number % 7}.example", f"Writer {number}"),
        to=(Correspondent("maren@quillmark.example"),),
        subject=" ".join(rng.choices(WORDS, k=4)),
        text=" ".join(rng.choices(WORDS, k=30)),
        sent_at=1_700_000_000 + rng.randrange(10**6),
        hour=rng.randrange(24),
        size=rng.randrange(500, 50_000),
        list_id=f"list{number}.example" if bulk else "",
        list_unsubscribe=bulk,
    )


def context() -> Context:
    return Context(Owner.of("maren@quillmark.example"), Relations())


def vectors(count: int, seed: int = 1) -> list[Vector]:
    rng = random.Random(seed)
    return [extract(made_facts(rng), context()) for _ in range(count)]


def lessons(count: int, seed: int = 2) -> Iterator[Lesson]:
    rng = random.Random(seed)
    for number, vector in enumerate(vectors(count, seed), 1):
        yield Lesson(number, vector, rng.choice(BUCKETS))


def taught(*given: Lesson) -> Engine:
    engine = Engine()
    for lesson in given:
        engine.learn(lesson)
    return engine


def numbers(engine: Engine, probes: list[Vector]) -> list[float]:
    return [n for j in engine.judge_all(probes) for n in (j.log_odds, j.certainty, *j.low.values())]
