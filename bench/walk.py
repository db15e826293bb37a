"""A mailbox used by two programs while one of them is killed again and again: is anything lost or doubled?

    .venv/bin/python bench/walk.py [--server dovecot] [--count 1000] [--arrivals 200] [--seconds 120] [--kills 10] [--seed 1]

The application runs as its owner would run it, in a process of its own. Meanwhile another mail program moves, copies,
removes and flags at random in the same mailbox, mail arrives, and the process is ended with SIGKILL and started again.
Then both ways of leaving are gone. After each, every message (by the digest of its bytes) must stand on the server as
often as the other program left it, and the store must agree with the server folder by folder.
"""

from __future__ import annotations

import argparse
import hashlib
import json
import os
import platform
import random
import re
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from datetime import UTC, datetime
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from imapclient import IMAPClient
from imapclient.exceptions import IMAPClientError

sys.path.insert(0, str(Path(__file__).parent.parent))

from hieranome.demo import mailgen
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store.database import FILE_NAME
from tests.mail.servers import SECRET, USER, Dovecot, MailServer, Standin
from tests.support import OWNER

PASSWORD = "a-password-for-the-walk"
DOOMED = "Doomed"
"""Where the other program gathers what it removes: it knows that way which messages it removed, and not the
application."""
PATIENCE = 300.0


class Served:
    """The application in a process of its own."""

    def __init__(self, data: Path, port: int) -> None:
        self.data, self.port = data, port
        self.cookie = ""
        self.start()

    def start(self) -> None:
        """Start the process, and sign in."""
        command = [sys.executable, "-m", "hieranome.cli", "serve", "--data", str(self.data), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        self.process.stdout.readline()
        if not self.cookie:
            code = self.process.stdout.readline().rsplit(" ", 1)[1].strip()
            self.ask("POST", "/api/entry/first", {"code": code, "password": PASSWORD})
        else:
            self.ask("POST", "/api/entry", {"password": PASSWORD})

    def kill(self) -> None:
        """End it as a power cut would, and start it again."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        self.start()

    def close(self) -> None:
        """End it."""
        self.process.terminate()
        self.process.wait(30)

    def ask(self, method: str, path: str, body: object = None) -> Any:
        """What the application answers."""
        connection = HTTPConnection("127.0.0.1", self.port, timeout=60)
        headers = {"x-hieranome": "1", "content-type": "application/json", "cookie": self.cookie}
        connection.request(method, path, None if body is None else json.dumps(body), headers)
        answer = connection.getresponse()
        for value in answer.headers.get_all("set-cookie") or ():
            name = value.split(";")[0]
            if "-known" not in name:
                self.cookie = name
        told = answer.read()
        if answer.status >= 400:
            raise RuntimeError(f"{method} {path}: {answer.status} {told[:300]!r}")
        return json.loads(told) if told else None


class Other:
    """Another program in the same mailbox. ``expected`` counts the messages it left there, by digest."""

    def __init__(self, server: MailServer, seed: int) -> None:
        self.server = server
        self.random = random.Random(seed)
        self.expected: Counter[str] = Counter()
        self.done: Counter[str] = Counter()
        self.client = self.connect()

    def connect(self) -> IMAPClient:
        """A connection signed in."""
        at = self.server.server
        made = IMAPClient(at.host, at.port, ssl=False, timeout=60)
        made.login(USER, SECRET)
        return made

    def append(self, raw: bytes, at: datetime, flags: list[str]) -> None:
        """Mail arrives."""
        self.client.append("INBOX", raw, flags, at)
        self.expected[digest(raw)] += 1

    def step(self) -> None:
        """One thing at random, in a folder at random, with one message or a few."""
        names = [n for f, _, n in self.client.list_folders() if b"\\Noselect" not in f and n != DOOMED]
        source = self.random.choice(names)
        self.client.select_folder(source)
        there = self.client.search()
        if not there:
            return
        uids = self.random.sample(there, min(len(there), self.random.randrange(1, 4)))
        kind = self.random.choice(["move", "move", "copy", "remove", "flag", "flag"])
        targets = [one for one in names if one not in (source, "Sent", "Drafts")]
        if kind == "flag":
            self.client.add_flags(uids, self.random.choice([["\\Seen"], ["\\Flagged"], ["\\Answered"]]), silent=True)
            self.done[kind] += len(uids)
            return
        target = DOOMED if kind == "remove" else self.random.choice(targets)
        bodies = {uid: digest(told[b"BODY[]"]) for uid, told in self.client.fetch(uids, ["BODY.PEEK[]"]).items()}
        self.client._imap.response("COPYUID")
        (self.client.copy if kind == "copy" else self.client.move)(uids, target)
        carried = [uid for line in self.client._imap.response("COPYUID")[1] if line for uid in _uids(line.split()[1])]
        self.done[kind] += len(carried)
        if kind == "copy":
            self.expected.update(bodies[uid] for uid in carried)
        elif kind == "remove":
            self.client.select_folder(DOOMED)
            doomed = self.client.search()
            self.expected.subtract(
                digest(told[b"BODY[]"]) for told in self.client.fetch(doomed, ["BODY.PEEK[]"]).values()
            )
            self.client.delete_messages(doomed, silent=True)
            self.client.uid_expunge(doomed)

    def standing(self) -> dict[str, dict[int, str]]:
        """What stands in every folder: digests by UID."""
        client = self.connect()
        found = {}
        for flags, _, name in client.list_folders():
            if b"\\Noselect" not in flags:
                client.select_folder(name, readonly=True)
                uids = client.search()
                told = client.fetch(uids, ["BODY.PEEK[]"]) if uids else {}
                found[name] = {uid: digest(one[b"BODY[]"]) for uid, one in told.items()}
        client.logout()
        return found


def digest(raw: bytes) -> str:
    """By which a message is known, whatever its line ends."""
    return hashlib.sha256(raw.replace(b"\r\n", b"\n")).hexdigest()


def _uids(text: bytes) -> list[int]:
    found: list[int] = []
    for part in text.decode("ascii").split(","):
        first, _, last = part.partition(":")
        found += range(int(first), int(last or first) + 1)
    return found


def walk(served: Served, other: Other, arguments: argparse.Namespace) -> None:
    """The two minutes, and the kills."""
    arriving = list(mailgen.generate(arguments.arrivals, arguments.seed + 100))
    start, failed = time.monotonic(), []

    def work() -> None:
        sent = 0
        while (now := time.monotonic() - start) < arguments.seconds:
            try:
                while sent < len(arriving) * now / arguments.seconds:
                    other.append(arriving[sent].raw, datetime.now(UTC), [])
                    sent += 1
                other.step()
            except IMAPClientError as exc:
                # A folder may have gone, or a message been moved by the application between two commands.
                failed.append(str(exc)[:100])
            time.sleep(other.random.uniform(0.0, 0.2))
        for one in arriving[sent:]:
            other.append(one.raw, datetime.now(UTC), [])

    thread = threading.Thread(target=work)
    thread.start()
    for number in range(arguments.kills):
        until = arguments.seconds * (number + other.random.random()) / arguments.kills
        time.sleep(max(0.0, until - (time.monotonic() - start)))
        served.kill()
    thread.join()
    print(f"the other program: {dict(other.done)}; refused {len(failed)}; {arguments.kills} kills")


def rest(served: Served, number: int) -> float:
    """Wait until the mailbox is at rest; seconds it took."""
    start, quiet = time.monotonic(), 0
    while time.monotonic() - start < PATIENCE:
        before = served.ask("GET", "/api/mailboxes")["mailboxes"][0]
        served.ask("POST", f"/api/mailboxes/{number}/look")
        time.sleep(3)
        now = served.ask("GET", "/api/mailboxes")["mailboxes"][0]
        calm = now["state"] == "watching" and not now["waiting"] and not now["error"]
        quiet = quiet + 1 if calm and now["synced_at"] > before["synced_at"] else 0
        if quiet == 4:
            return time.monotonic() - start
    raise SystemExit(f"the mailbox does not come to rest: {now}")


def compare(other: Other, data: Path | None, what: str) -> bool:
    """Whether the server holds what it should, and the store agrees; says what differs."""
    found = other.standing()
    there = Counter(one for folder in found.values() for one in folder.values())
    expected = +other.expected
    lost, doubled = expected - there, there - expected
    apart: dict[str, tuple[object, int]] = {}
    if data is not None:
        db = sqlite3.connect(f"file:{data / FILE_NAME}?mode=ro", uri=True)
        kept: dict[str, set[int]] = {}
        for name, uid in db.execute(
            "SELECT f.name, c.uid FROM folders AS f LEFT JOIN copies AS c ON c.folder = f.id AND c.uid IS NOT NULL"
            " WHERE f.present = 1"
        ):
            kept.setdefault(name, set()).update([uid] if uid is not None else [])
        db.close()
        apart = {
            name: (len(set(found[name]) - kept.get(name, set())), len(kept.get(name, set()) - set(found[name])))
            for name in found
            if name in kept and set(found[name]) != kept[name]
        }
        apart |= {name: ("unknown", len(uids)) for name, uids in found.items() if name not in kept and uids}
    verdict = "agrees" if not (lost or doubled or apart) else "DIFFERS"
    print(
        f"{what}: {verdict}; {sum(there.values())} messages on the server, {sum(expected.values())} expected, "
        f"{sum(lost.values())} lost, {sum(doubled.values())} doubled, folders apart {apart}"
    )
    return verdict == "agrees"


def connect(served: Served, server: MailServer, sink: SmtpSink) -> int:
    """Connect the mailbox, let its history be read and its mail be routed; its number."""
    at = server.server
    described = {
        "address": OWNER, "name": "Maren", "user": USER, "secret": SECRET, "kept": "file",
        "imap_host": at.host, "imap_port": at.port, "imap_security": "plain",
        "smtp_host": "127.0.0.1", "smtp_port": sink.port, "smtp_security": "plain",
    }  # fmt: skip
    number = int(served.ask("POST", "/api/mailboxes", described)["id"])
    while served.ask("GET", "/api/mailboxes")["mailboxes"][0]["state"] != "watching":
        time.sleep(0.5)
    served.ask("POST", f"/api/mailboxes/{number}/routing", {"on": True})
    return number


def leave(served: Served, number: int, how: str) -> None:
    """Leave the mailbox one way."""
    served.ask("POST", f"/api/mailboxes/{number}/leaving", {"how": how})
    while (told := served.ask("GET", f"/api/mailboxes/{number}/leaving"))["state"] == "busy":
        time.sleep(0.5)
    print(f"leaving ({how}): {told['state']}, {told['there']} there, {told['brought_back']} brought back, "
          f"{len(told['missing'])} missing {told['error']}")  # fmt: skip
    served.ask("DELETE", f"/api/mailboxes/{number}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--server", choices=("dovecot", "standin"), default="dovecot")
    for name, value in (("count", 1000), ("arrivals", 200), ("seconds", 120), ("kills", 10), ("seed", 1)):
        parser.add_argument(f"--{name}", type=int, default=value)
    parser.add_argument("--port", type=int, default=8055)
    arguments = parser.parse_args()
    print(f"{platform.machine()}, {os.cpu_count()} cores, {arguments.server}, seed {arguments.seed}")
    server: MailServer = Dovecot() if arguments.server == "dovecot" else Standin()
    sink = SmtpSink({USER: SECRET})
    sink.start()
    folder = Path(tempfile.mkdtemp(prefix="hieranome-walk-"))
    served = Served(folder / "data", arguments.port)
    try:
        other = Other(server, arguments.seed)
        for name in (DOOMED, "Projects"):
            other.client.create_folder(name)
        for one in mailgen.generate(arguments.count, arguments.seed):
            flags = [word for word, on in (("\\Seen", one.read), ("\\Answered", one.answered)) if on]
            other.append(one.raw, one.at, flags)
        number = connect(served, server, sink)
        walk(served, other, arguments)
        print(f"at rest after {rest(served, number):.0f} s")
        good = compare(other, served.data, "after the walk")
        leave(served, number, "keep")
        good = compare(other, None, "left, folders kept") and good
        number = connect(served, server, sink)
        rest(served, number)
        good = compare(other, served.data, "connected again") and good
        leave(served, number, "back")
        good = compare(other, None, "left, all put back") and good
        left = [name for name in other.standing() if re.match(r"Hieranome", name)]
        print(f"folders of ours that are left: {left}")
    finally:
        served.close()
        sink.close()
        server.close()
        shutil.rmtree(folder, ignore_errors=True)
    sys.exit(not good)


if __name__ == "__main__":
    main()
