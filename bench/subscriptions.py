"""Whether every subscription of made-up mail is found and none invented, and how long finding them takes.

    .venv/bin/python bench/subscriptions.py [--count 100000] [--seed 7 211 212 213]

The truth is what the generator meant each source as, never the headers; of a stream (--stream FILE.mbox ...), the ids
that stand in List-Id headers.
"""

from __future__ import annotations

import argparse
import platform
import re
import statistics
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from hieranome.app.arrival import importing  # noqa: E402
from hieranome.app.bulk import subscriptions  # noqa: E402
from hieranome.app.room.mailroom import Mailroom  # noqa: E402
from hieranome.core.buckets import SENT  # noqa: E402
from hieranome.demo import mailgen  # noqa: E402
from hieranome.demo.world import OWNER_ADDRESSES  # noqa: E402
from hieranome.store import described, messages  # noqa: E402

_LIST_ID = re.compile(rb"^List-Id:((?:.|\n[ \t])*)", re.MULTILINE | re.IGNORECASE)


def imported(folder: Path, mbox: Path, owner: tuple[str, ...]) -> Mailroom:
    """A mailroom with the mail of a file."""
    room = Mailroom(folder)
    room.set_owner(owner)
    importing.run(room, importing.begin(room, mbox))
    return room


def share(found: set[str], meant: set[str]) -> str:
    """Precision and recall of what was found."""
    right = len(found & meant)
    return f"precision {right / max(1, len(found)):.3f}, recall {right / max(1, len(meant)):.3f} ({len(meant)} meant)"


def by_generator(count: int, seed: int) -> None:
    """Compare with what the generator meant."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        made = {one.message_id: one.source for one in mailgen.generate(count, seed) if one.belongs != SENT}
        mailgen.write(count, seed, folder / "mail.mbox", None)
        room = imported(folder / "data", folder / "mail.mbox", OWNER_ADDRESSES)
        taken = []
        for _ in range(5):
            began = time.perf_counter()
            every = subscriptions.find(room)
            taken.append(time.perf_counter() - began)
        db = room.reader()
        source = dict(db.execute("SELECT source, message_id FROM messages WHERE summed >= 0").fetchall())
        meant = {made[message_id] for message_id in made if mailgen.writes_to_many(made[message_id])}
        found = {made[source[key]] for one in every for key in one.keys if key in source}
        print(f"seed {seed}, {messages.last_id(db)} messages: {share(found, meant)}; {len(every)} told as one each;")
        print(f"    found in {1000 * statistics.median(taken):.0f} ms; missed {sorted(meant - found)[:8]}")
        print(f"    invented {sorted(found - meant)[:8]}")
        room.close()


def by_headers(mbox: Path) -> None:
    """Compare with the List-Id headers of a stream, as far as its mail has them."""
    with tempfile.TemporaryDirectory() as name:
        room = imported(Path(name), mbox, ())
        db = room.reader()
        list_id = dict(db.execute("SELECT id, list_id FROM messages").fetchall())
        meant, having = set(), set()
        for number, raw in described.raws_between(db, 0, max(list_id), len(list_id)):
            said = _LIST_ID.search(raw.partition(b"\n\n")[0])
            if said:
                value = b" ".join(said.group(1).split()).decode("ascii", "replace")
                meant.add(value.rpartition("<")[2].rstrip("> ").lower())
                having.add(list_id[number])
        keys = {key for one in subscriptions.find(room) for key in one.keys}
        lists = {key.removeprefix("list:") for key in keys if key.startswith("list:")}
        print(f"{mbox.name}: {share(lists & having, meant)}; {len(lists - having)} lists without List-Id and ", end="")
        print(f"{len(keys) - len(lists)} senders by other signs")
        room.close()


def main() -> None:
    """Measure."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--count", type=int, default=20_000)
    parser.add_argument("--seed", type=int, nargs="*", default=[7, 211, 212, 213])
    parser.add_argument("--stream", type=Path, nargs="*", default=[])
    options = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    for seed in options.seed:
        by_generator(options.count, seed)
    for one in options.stream:
        by_headers(one)


if __name__ == "__main__":
    main()
