"""Old mail put in the Trash in one step at Dovecot, undone, put away again and taken out for good: how long each takes
until the server rests, and whether every folder holds the same bytes after the way back.

    .venv/bin/python -m bench.old_mail [--count 10000]
"""

from __future__ import annotations

import argparse
import platform
import tempfile
import time
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path

from hieranome.app import emptying
from hieranome.app.bulk import old_mail
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.syncing import sync
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.undoing import undo
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from tests.app.mailbox.case import account_at
from tests.mail.servers import LOGIN, Dovecot
from tests.support import NOON, crlf, letter

WEEK = 604_800
YOUNG = 100


def fill(imap: Imap, count: int) -> None:
    """Old notices in the inbox and in the archive, and some young mail."""
    imap.create("Archive")
    for number in range(count + YOUNG):
        weeks = 60 + number % 200 if number < count else 1
        raw = letter(f"Notice {number}", sender="Meter <meter@room.example>", at=NOON - weeks * WEEK, body="z" * 900)
        flags = Flags(seen=number % 3 == 0)
        imap.append("Archive" if number % 4 == 0 else "INBOX", crlf(raw), flags, NOON - number)


def held(imap: Imap) -> dict[str, list[tuple[bytes, Flags]]]:
    """The bytes (as digests) and marks of every message of every folder that holds any."""
    found = {}
    for one in imap.folders():
        imap.select(one.name)
        uids = imap.uids()
        flags = {meta.uid: meta.flags for at in range(0, len(uids), 500) for meta in imap.metas(uids[at : at + 500])}
        bodies: dict[int, bytes] = {}
        for at in range(0, len(uids), 500):
            bodies |= imap.bodies(uids[at : at + 500])
        if bodies:
            found[one.name] = sorted(((sha256(raw).digest(), flags[uid]) for uid, raw in bodies.items()), key=repr)
    return found


def measure(room: Mailroom, server: Dovecot, count: int) -> None:
    """The steps one after the other."""
    imap, other = Imap.connect(server.server, LOGIN), Imap.connect(server.server, LOGIN)
    fill(other, count)
    account = mailboxes.add(room, account_at(server), imap.folders()).id
    read_history(room, imap, account)
    mailboxes.route(room, account, on=True)

    def settle() -> None:
        while sync(room, imap, account):
            pass

    def timed(what: str, work: Callable[[], object]) -> None:
        began = time.perf_counter()
        work()
        here = time.perf_counter() - began
        settle()
        print(
            f"{what:<28}{here:>8.2f} s here, {time.perf_counter() - began:>8.2f} s until the server rests", flush=True
        )

    settle()
    before = held(other)
    keys = ["address:meter@room.example"]
    timed("put away", lambda: old_mail.put_away(room, keys, 52, "source"))
    print({name: len(mail) for name, mail in held(other).items()})
    timed("undone", lambda: undo(room))
    print("every folder as before, to the byte and mark:", held(other) == before, flush=True)
    timed("put away again", lambda: old_mail.put_away(room, keys, 52, "source"))
    timed("taken out for good", lambda: emptying.empty(room, emptying.look(room).messages))
    emptier = emptying.Emptier(room)
    began = time.perf_counter()
    emptier.work()
    print(f"gone here after {time.perf_counter() - began:.2f} s more: {emptying.look(room)}")
    print({name: len(mail) for name, mail in held(other).items()})
    emptier.close()
    imap.close()
    other.close()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=10_000)
    count = parser.parse_args().count
    print(f"{platform.machine()}, Python {platform.python_version()}, {count:,} old messages at Dovecot")
    server = Dovecot()
    with tempfile.TemporaryDirectory() as folder:
        room = Mailroom(Path(folder), lambda: NOON)
        try:
            measure(room, server, count)
        finally:
            room.close()
            server.close()


if __name__ == "__main__":
    main()
