"""A routine of ten things done to five hundred messages of a large mailbox, as one step, and that step undone.

    .venv/bin/python -m bench.routines [--count 100000] [--data FOLDER]

With --data the mailbox there is used, made where it is not there; what is measured is a copy of it.
"""

from __future__ import annotations

import argparse
import platform
import statistics
import tempfile
import time
from pathlib import Path

from bench.api import fill
from bench.copies import copied
from hieranome.app import shaping_tags
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.routines import keeping, running
from hieranome.app.teaching.correct import MAX_AT_ONCE
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import phrasing
from hieranome.core.routines import Action, Routine
from hieranome.store import accounts, drafts
from hieranome.store.accounts import NewAccount

ROUNDS = 5
ME = "maren@hieranome.example"


def ten(room: Mailroom) -> list[tuple[str, tuple[Action, ...]]]:
    """Routines of ten things: with a lesson for a bucket, and with replies."""
    tags = [str(shaping_tags.make(room, f"of the routine {n}").id) for n in range(6)]
    phrase = str(phrasing.keep(room, "ack", "Dear {first name|all},\n\nthank you for “{subject}”.").id)
    tagged = tuple(Action("tag", one) for one in tags)
    marks = (Action("due", "in 3 days"), Action("read"))
    return [
        ("ten, filed", (*tagged, *marks, Action("archive"), Action("next"))),
        ("ten, a lesson each", (*tagged, *marks, Action("bucket", "shelf"), Action("next"))),
        ("ten, a reply each", (*tagged[:5], *marks, Action("reply", phrase), Action("archive"), Action("next"))),
    ]


def measure(room: Mailroom) -> None:
    """How long each takes, and undoing it."""
    with room.change() as db:
        account = accounts.add(db, NewAccount(ME, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), room.clock())
        drafts.put_identity(db, drafts.Identity(ME, account, "Maren", ""))
    db = room.reader()
    numbers = [row[0] for row in db.execute("SELECT id FROM messages WHERE decided_by = 'model' ORDER BY time DESC")]
    for title, actions in ten(room):
        kept = keeping.keep(room, Routine(0, title, "", actions)).routine.id
        did, undid = [], []
        for at in range(ROUNDS):
            began = time.perf_counter()
            done = running.run(room, kept, numbers[at * MAX_AT_ONCE : (at + 1) * MAX_AT_ONCE])
            did.append(time.perf_counter() - began)
            assert len(done.messages) == MAX_AT_ONCE, done.refused
            began = time.perf_counter()
            undo(room)
            undid.append(time.perf_counter() - began)
        print(
            f"{title:20} {statistics.median(did):6.2f} s (longest {max(did):.2f}), undone {statistics.median(undid):.2f} s"
        )


def main() -> None:
    """Fill a mailbox, or take the one there is, and measure on a copy."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--data", type=Path, default=None)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        source = asked.data or Path(folder, "filled")
        if not source.exists():
            fill(source, asked.count)
        print(f"{platform.machine()}, Python {platform.python_version()}, {ROUNDS} rounds of {MAX_AT_ONCE} messages")
        with copied(source) as room:
            measure(room)


if __name__ == "__main__":
    main()
