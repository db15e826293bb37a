"""Topics found from a sentence and ten answers: is what arrives afterwards found, and nothing else?

    .venv/bin/python -m bench.topics [--developed] [--mailbox FOLDER]

Six kinds of mail, said and fixed beforehand (:mod:`bench.topics_said`), in three generated mailboxes that nothing was
developed on. Each time the first question the page shows is answered, by what the message was written as; the last third
of the mail arrives then. With ``--mailbox`` also how long a topic takes in a mailbox that is there (it is copied).
"""

from __future__ import annotations

import argparse
import platform
import shutil
import statistics
import tempfile
import time
from pathlib import Path

from bench.copies import copied
from bench.topics_said import DEVELOPED, KEPT_ASIDE, MESSAGES, SAID
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.topics.answering import answer, describe, turn
from hieranome.app.topics.finding import find_here
from hieranome.app.topics.telling import tell
from hieranome.core.buckets import SENT
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.store import tags

ANSWERS = 10
PRECISION, RECALL = 0.9, 0.7


def share(part: int, whole: int) -> float:
    """A share, 0 of nothing."""
    return part / whole if whole else 0.0


class Box:
    """A generated mailbox: two thirds of it are here, the last third arrives."""

    def __init__(self, folder: Path, seed: int) -> None:
        made = [one for one in mailgen.generate(MESSAGES, seed) if one.belongs != SENT]
        self.room = Mailroom(folder)
        self.room.set_owner(OWNER_ADDRESSES)
        here = len(made) * 2 // 3
        for one in made[:here]:
            receive(self.room, one.raw)
        self.clock = int(made[here - 1].at.timestamp())
        self.room.clock = lambda: self.clock
        self.rest = made[here:]
        self.kinds = {one.message_id: one.kind for one in made}
        rows = self.room.reader().execute("SELECT id, message_id FROM messages")
        self.kind_of = {row[0]: self.kinds.get(row[1], "") for row in rows}

    def teach(self, kind: str, sentence: str) -> tuple[int, int]:
        """Describe a kind and answer; its tag, and how many of the answers were yes."""
        kept = describe(self.room, sentence, kind)
        yes = 0
        for _ in range(ANSWERS):
            first = tell(self.room, kept.id).asks[0]
            belongs = self.kind_of[first.message.id] == kind
            answer(self.room, kept.id, [first.message.id], belongs, drawn=first.drawn)
            yes += belongs
        if yes:
            turn(self.room, kept.id, True, "")
        return kept.tag, yes

    def arrive(self) -> dict[int, str]:
        """Let the last third arrive; the kind each message was written as."""
        arrived = {}
        for one in self.rest:
            self.clock = int(one.at.timestamp())
            number = receive(self.room, one.raw)
            if number is not None:
                arrived[number] = one.kind
        return arrived


def measure(seed: int) -> list[tuple[float, float]]:
    """Precision and recall of each kind in one mailbox, on what arrived after the answers."""
    folder = Path(tempfile.mkdtemp(prefix="hieranome-bench-"))
    try:
        box = Box(folder / "data", seed)
        taught = {kind: box.teach(kind, sentence) for kind, sentence in SAID.items()}
        arrived = box.arrive()
        found = []
        for kind, (tag, yes) in taught.items():
            carry = {n for n in tags.carrying(box.room.reader(), tag) if n in arrived}
            asked = box.room.reader().execute(
                "SELECT count(*) FROM topic_found AS f JOIN topics AS t ON t.id = f.topic WHERE t.tag = ? AND f.asked = 1",
                (tag,),
            )
            right = sum(arrived[n] == kind for n in carry)
            there = sum(one == kind for one in arrived.values())
            precision, recall = share(right, len(carry)), share(right, there)
            found.append((precision, recall))
            print(
                f"  {seed} {kind:<16} {yes:>2} yes of {ANSWERS}; precision {precision:.2f} recall {recall:.2f}"
                f" ({right} of {there}, {len(carry) - right} wrong, {asked.fetchone()[0]} asked)"
            )
        box.room.close()
        return found
    finally:
        shutil.rmtree(folder)


def clock_all(mailbox: Path) -> None:
    """How long describing, looking, answering and finding take in a big mailbox."""
    with copied(mailbox) as room:
        times: dict[str, list[float]] = {}

        def timed(name: str, began: float) -> None:
            times.setdefault(name, []).append(1_000 * (time.perf_counter() - began))

        for kind, sentence in SAID.items():
            began = time.perf_counter()
            kept = describe(room, sentence, f"bench {kind}")
            timed("described", began)
            for at in range(3):
                began = time.perf_counter()
                told = tell(room, kept.id)
                timed("looked at", began)
                began = time.perf_counter()
                answer(room, kept.id, [told.asks[0].message.id], at != 1)
                timed("answered", began)
        began = time.perf_counter()
        find_here(room, kept.id)
        timed("found among all that is here", began)
        count = room.reader().execute("SELECT count(*) FROM messages").fetchone()[0]
        print(f"{count:,} messages, milliseconds:")
        for name, values in times.items():
            print(f"  {name}: median {statistics.median(values):,.0f}, most {max(values):,.0f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--developed", action="store_true", help="measure on the mailboxes it was developed on")
    parser.add_argument("--mailbox", type=Path, help="the folder of a mailbox to take times in")
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    found = [one for seed in (DEVELOPED if arguments.developed else KEPT_ASIDE) for one in measure(seed)]
    precision, recall = (statistics.median(values) for values in zip(*found, strict=True))
    good = sum(p >= PRECISION and r >= RECALL for p, r in found)
    print(
        f"median precision {precision:.2f} (bar {PRECISION}), recall {recall:.2f} (bar {RECALL}); {good} of {len(found)}"
    )
    if arguments.mailbox:
        clock_all(arguments.mailbox)


if __name__ == "__main__":
    main()
