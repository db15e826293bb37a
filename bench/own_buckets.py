"""Eight buckets of the owner's own, taught by three examples each: what arrives there, and what else does.

    .venv/bin/python -m bench.own_buckets [--messages 6000] [--seed 7]

Mail is generated; each of eight kinds it is written as gets a bucket. The first three messages of a kind are put there,
the next ten are looked at and taught nothing; all other mail is corrected wherever it was put wrong.
"""

from __future__ import annotations

import argparse
import platform
from collections import Counter

from hieranome.core.buckets import BUILT_IN, SENT, Bucket, Costs
from hieranome.core.engine import Engine
from hieranome.core.facts import Owner
from hieranome.core.features import extract
from hieranome.core.groups import Context
from hieranome.core.judgement import Lesson
from hieranome.core.relations import Relations
from hieranome.core.routing import settle
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.reading import read

OWN = {
    "carrier status": False,
    "travel tells": False,
    "parcels": False,
    "receipts": False,
    "bank": False,
    "union": False,
    "invitations": True,
    "hall asks": True,
}
"""The kinds with a bucket, and whether it is Desk-like."""
EXAMPLES, LOOKED_AT = 3, 10


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--messages", type=int, default=6000)
    parser.add_argument("--seed", type=int, default=7)
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    engine = Engine([*BUILT_IN, *(Bucket(kind, kind, important) for kind, important in OWN.items())])
    owner, relations, costs = Owner.of(*OWNER_ADDRESSES), Relations(), Costs()
    seen: Counter[str] = Counter()
    arrived: Counter[str] = Counter()
    others = strayed = 0
    where: Counter[tuple[str, str]] = Counter()
    for number, one in enumerate(mailgen.generate(arguments.messages, arguments.seed)):
        if one.belongs == SENT:
            continue
        facts = read(one.raw).facts
        vector = extract(facts, Context(owner, relations))
        judgement = engine.judge(vector)
        place = settle(judgement, costs)[0]
        seen[one.kind] += 1
        if one.kind in OWN:
            if seen[one.kind] <= EXAMPLES:
                engine.learn(Lesson(number, vector, one.kind, place))
            elif seen[one.kind] <= EXAMPLES + LOOKED_AT:
                arrived[one.kind] += place == one.kind
                where[one.kind, place] += place != one.kind
        else:
            others += 1
            strayed += place in OWN
            where[one.kind, place] += place in OWN
            if place != one.belongs:
                engine.learn(Lesson(number, vector, one.belongs, place))
            else:
                engine.leave(number, vector, place, judgement)
    for kind in OWN:
        of = max(0, min(LOOKED_AT, seen[kind] - EXAMPLES))
        astray = ", ".join(f"{count} in {place}" for (k, place), count in where.items() if k == kind and count)
        print(f"{kind:<16} {arrived[kind]:>2} of {of} arrived (bar 9){'; ' + astray if astray else ''}")
    print(f"other mail in one of the eight: {strayed} of {others} ({strayed / others:.2%}, bar 1%)")
    print("  " + ", ".join(f"{k} in {p} {c}" for (k, p), c in where.items() if c and k not in OWN))


if __name__ == "__main__":
    main()
