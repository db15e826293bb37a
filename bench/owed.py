"""How well what is owed is told, both ways, and how long it takes.

    .venv/bin/python -m bench.owed [--developed] [--mailbox FOLDER]

A generated mailbox is imported as history; the lists are then compared with what each message was written to await, over
the days within which anything is owed: before anything was let go, and after the owner let go, one after the other, the
first twenty lines that are wrong. Without ``--developed`` on three mailboxes that nothing was developed on. With
``--mailbox`` also how long the lists take in a mailbox that is there (it is copied).
"""

from __future__ import annotations

import argparse
import platform
import tempfile
import time
from pathlib import Path

from bench.copies import copied
from hieranome.app.arrival import importing
from hieranome.app.following import owing
from hieranome.app.following.owing import DAYS, let_go, owed
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.times import DAY
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.mail.mbox import write_message

MESSAGES = 6_000
LETTING_GO = 20
DEVELOPED, KEPT_ASIDE = (9001, 9002, 9003, 9101, 9102, 9103, 9201, 9202, 9203), (9301, 9302, 9303)


class Box:
    """A generated mailbox, imported, with what each of its messages awaits."""

    def __init__(self, folder: Path, seed: int) -> None:
        made = list(mailgen.generate(MESSAGES, seed, exchanges=True))
        file = folder / "m.mbox"
        with file.open("wb") as out:
            for one in made:
                raw = mailgen.with_status(one).replace(b"\r\n", b"\n")
                write_message(out, raw, one.sender, one.at.strftime("%a %b %e %H:%M:%S %Y"))
        end = int(made[-1].at.timestamp()) + 3_600
        self.room = Mailroom(folder / "data", clock=lambda: end)
        self.room.set_owner(OWNER_ADDRESSES)
        importing.run(self.room, importing.begin(self.room, file, mine=True))
        ids = dict(self.room.reader().execute("SELECT message_id, id FROM messages").fetchall())
        recent = [one for one in made if one.at.timestamp() >= end - DAYS * DAY]
        still = [one for one in recent if one.awaits and not one.settled_by]
        self.they = {ids[one.message_id] for one in still if one.awaits == "them"}
        self.you = {ids[one.message_id] for one in still if one.awaits in ("owner", "promise")}


def measured(found: set[int], meant: set[int]) -> tuple[float, float]:
    """Precision and recall."""
    right = len(found & meant)
    return right / max(1, len(found)), right / max(1, len(meant))


def lists(room: Mailroom) -> tuple[list[owing.Owed], list[owing.Owed]]:
    """Both lists, whole."""
    return owed(room)


def measure(seed: int) -> None:
    """Both lists of one mailbox, before and after twenty letting-go's."""
    with tempfile.TemporaryDirectory() as place:
        box = Box(Path(place), seed)
        for side in range(2):
            name, meant = (("they owe you", box.they), ("you owe them", box.you))[side]
            before = measured({one.message.id for one in lists(box.room)[side]}, meant)
            gone = 0
            while gone < LETTING_GO:
                wrong = next((one for one in lists(box.room)[side] if one.message.id not in meant), None)
                if wrong is None:
                    break
                let_go(box.room, [wrong.message.id], promised=wrong.promised)
                gone += 1
            after = measured({one.message.id for one in lists(box.room)[side]}, meant)
            print(
                f"  {seed} {name}: precision {before[0]:.2f} recall {before[1]:.2f} of {len(meant)};"
                f" after {gone} let go {after[0]:.2f} and {after[1]:.2f}",
                flush=True,
            )


def clock_all(mailbox: Path) -> None:
    """How long the lists take in a big mailbox."""
    with copied(mailbox, 3_600) as room:
        for _ in range(3):
            start = time.perf_counter()
            they, you = owed(room)
            print(f"  {len(they)} and {len(you)} lines in {(time.perf_counter() - start) * 1000:,.0f} ms")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--developed", action="store_true", help="measure on the mailboxes it was developed on")
    parser.add_argument("--mailbox", type=Path, help="the folder of a mailbox to take times in")
    given = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    for seed in DEVELOPED if given.developed else KEPT_ASIDE:
        measure(seed)
    if given.mailbox:
        clock_all(given.mailbox)


if __name__ == "__main__":
    main()
