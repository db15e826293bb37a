"""A mailbox on a server, at the stand-in and at Dovecot: the first reading, a quiet look, a move made elsewhere.

    .venv/bin/python bench/servers.py [--count 5000] [--rounds 3]

The first reading (stored, indexed, scored, placed) is set against the sum, in the same run, of a bare fetch and of what
reading mail cannot avoid.
"""

from __future__ import annotations

import argparse
import platform
import statistics
import sys
import tempfile
import threading
import time
from pathlib import Path

from imapclient import IMAPClient

sys.path.insert(0, str(Path(__file__).parent.parent))

from bench.stages import unavoidable
from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.syncing import sync
from hieranome.app.mailbox.watching import Watcher
from hieranome.app.room.mailroom import Mailroom
from hieranome.demo import mailgen
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import lessons
from tests.app.mailbox.case import account_at
from tests.mail.servers import LOGIN, SECRET, Dovecot, MailServer, Standin
from tests.support import OWNER

SLICE = 200
QUIET_FOLDERS = 20
LOOKS = 20
MOVES = 10


def fill(server: MailServer, count: int) -> None:
    """Put generated mail into the inbox, and folders beside it."""
    imap = Imap.connect(server.server, LOGIN)
    for one in mailgen.generate(count, 3):
        imap.append("INBOX", one.raw, Flags(seen=one.read, answered=one.answered), int(one.at.timestamp()))
    for number in range(QUIET_FOLDERS - len(imap.folders())):
        imap.create(f"Folder {number}")
    imap.close()


def bare_fetch(server: MailServer) -> tuple[float, list[list[bytes]]]:
    """Seconds IMAPClient takes to fetch the inbox in slices, and what it fetched."""
    client = IMAPClient(server.server.host, port=server.server.port, ssl=False)
    client.login(LOGIN.user, LOGIN.secret)
    start = time.perf_counter()
    client.select_folder("INBOX", readonly=True)
    uids = client.search("ALL")
    fetched = []
    for at in range(0, len(uids), SLICE):
        told = client.fetch(uids[at : at + SLICE], ["BODY.PEEK[]", "FLAGS", "INTERNALDATE"])
        fetched.append([data[b"BODY[]"] for data in told.values()])
    seconds = time.perf_counter() - start
    client.logout()
    return seconds, fetched


def first_reading(server: MailServer, folder: Path) -> tuple[float, Mailroom, Imap, int]:
    """Seconds from an empty store to a mailbox read and weighed."""
    room = Mailroom(folder)
    imap = Imap.connect(server.server, LOGIN)
    start = time.perf_counter()
    account = mailboxes.add(room, account_at(server), imap.folders()).id
    read_history(room, imap, account)
    return time.perf_counter() - start, room, imap, account


def quiet_looks(room: Mailroom, imap: Imap, account: int) -> list[float]:
    """Milliseconds of looks that find nothing."""
    while sync(room, imap, account):
        pass
    found = []
    for _ in range(LOOKS):
        start = time.perf_counter()
        sync(room, imap, account)
        found.append(1000 * (time.perf_counter() - start))
    return found


def moves_elsewhere(server: MailServer, room: Mailroom, account: int) -> list[float]:
    """Seconds from a move another program makes out of the inbox to the lesson here, under IDLE."""
    vault = Vault(room.store.folder)
    vault.put(OWNER, SECRET, "file")
    mailboxes.route(room, account, on=True)
    watcher = Watcher(room, Logins(vault), account)
    watcher.start()
    other = Imap.connect(server.server, LOGIN)
    settled(room)
    found = []
    for number in range(MOVES):
        row = (
            room.reader()
            .execute(
                "SELECT c.uid FROM copies AS c JOIN folders AS f ON f.id = c.folder JOIN messages AS m ON m.id = c.message"
                " WHERE f.role = 'inbox' AND c.uid IS NOT NULL AND m.place = 'desk' AND m.decided_by = 'model'"
                " ORDER BY m.id LIMIT 1 OFFSET ?",
                (number,),
            )
            .fetchone()
        )
        known = lessons.state(room.reader())
        learned = threading.Event()
        stop = room.events.listen(lambda: learned.set() if lessons.state(room.reader()) != known else None)  # noqa: B023
        other.select("INBOX")
        start = time.perf_counter()
        other.move([row[0]], "Hieranome/Shelf")
        learned.wait(60)
        found.append(time.perf_counter() - start)
        stop()
        settled(room)
    watcher.close()
    other.close()
    return found


def settled(room: Mailroom) -> None:
    """Wait until nothing is left to be moved, and a moment longer for the watcher to sit in IDLE."""
    while room.reader().execute("SELECT 1 FROM copies WHERE goal IS NOT NULL OR stage <> '' LIMIT 1").fetchone():
        time.sleep(0.1)
    time.sleep(1.5)


def measure(name: str, server: MailServer, count: int, rounds: int) -> None:
    """All figures at one server."""
    fill(server, count)
    print(f"{name}, {count:,} messages")
    ratios = []
    for number in range(rounds):
        with tempfile.TemporaryDirectory() as place:
            fetch, fetched = bare_fetch(server)
            _, stages = unavoidable(fetched, Path(place))
            total = fetch + sum(stages.values())
            seconds, room, imap, account = first_reading(server, Path(place) / "data")
            ratios.append(seconds / total)
            told = ", ".join(f"{stage} {took:.1f}" for stage, took in stages.items())
            print(f"  bare fetch {fetch:.1f}, {told}: {total:.1f} s; read, scored and placed {seconds:.1f} s")
            if number == rounds - 1:
                looks = quiet_looks(room, imap, account)
                print(f"  quiet look at {QUIET_FOLDERS}+ folders: {statistics.median(looks):.1f} ms (bar: 50)")
                moves = moves_elsewhere(server, room, account)
                print(
                    f"  move elsewhere to lesson: median {statistics.median(moves):.2f} s, most {max(moves):.2f} (bar: 2)"
                )
            imap.close()
            room.close()
    print(f"  ratio: median {statistics.median(ratios):.2f} of {', '.join(f'{r:.2f}' for r in ratios)} (bar: 2)")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=5_000)
    parser.add_argument("--rounds", type=int, default=3)
    arguments = parser.parse_args()
    print(f"{platform.machine()}, Python {platform.python_version()}")
    for name, make in (("stand-in", Standin), ("Dovecot", Dovecot)):
        server: MailServer = make()
        try:
            measure(name, server, arguments.count, arguments.rounds)
        finally:
            server.close()


if __name__ == "__main__":
    main()
