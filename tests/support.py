"""What tests share: made-up messages, rooms in folders of their own, a client of the API."""

from __future__ import annotations

import mailbox
import os
import shutil
import socket
import tempfile
import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime
from email.message import EmailMessage
from email.utils import format_datetime
from functools import cache
from pathlib import Path

from fastapi.testclient import TestClient

from hieranome.app.arrival.arrive import receive, take_in
from hieranome.app.reading.incoming import Placed, prepare
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.demo import mailgen
from hieranome.store import messages, places
from hieranome.store.database import FILE_NAME
from hieranome.web.application import build

OWNER = "maren@quillmark.example"
NOON = 1_760_000_000
MARK = {"x-hieranome": "1"}
SOAK = bool(os.environ.get("HIERANOME_SOAK"))
"""Whether the long run was asked for ('make soak')."""
QUICK = bool(os.environ.get("HIERANOME_QUICK"))
"""Whether the short run was asked for ('make quick'): what is tried at random is tried less often."""


def letter(
    subject: str = "Rider for the 19th",
    *,
    sender: str = "Oskar Brandel <brandel@salthall.example>",
    to: str = OWNER,
    body: str = "Can you confirm the risers today?",
    at: int = NOON,
    message_id: str = "",
    **headers: str,
) -> bytes:
    """A plain message; keyword headers use underscores for dashes."""
    message = EmailMessage()
    message["From"] = sender
    message["To"] = to
    message["Subject"] = subject
    message["Date"] = format_datetime(datetime.fromtimestamp(at, UTC))
    message["Message-ID"] = message_id or f"<{abs(hash((subject, sender, body, at)))}@made.example>"
    for name, value in headers.items():
        message[name.replace("_", "-")] = value
    message.set_content(body)
    return message.as_bytes()


def crlf(raw: bytes) -> bytes:
    """A message as it goes over the wire."""
    return raw.replace(b"\r\n", b"\n").replace(b"\n", b"\r\n")


def offer(number: int, sender: str = "Birch & Bow <news@birchbow.example>") -> bytes:
    """Bulk mail of one kind."""
    return letter(
        f"Offer {number}: {10 + number} percent on stands",
        sender=sender,
        to="m.aldous@oldharbour.example",
        body=f"Save {10 + number} percent on every stand until Sunday. Free shipping.",
        at=NOON + number,
        List_Id="<news.birchbow.example>",
        List_Unsubscribe="<https://birchbow.example/leave>",
        Precedence="bulk",
    )


FOLDERS = {"desk": "Inbox", "shelf": "Later", "digest": "Newsletters", "sent": "Sent"}


def fill_archive(folder: Path, count: int, seed: int = 5) -> None:
    """An archive of mail from the demo's world: an mbox for each bucket, and the Drain's as a Maildir."""
    folder.mkdir(exist_ok=True)
    junk = mailbox.Maildir(folder / "Junk")
    boxes = {bucket: mailbox.mbox(folder / f"{name}.mbox") for bucket, name in FOLDERS.items()}
    for one in mailgen.generate(count, seed):
        boxes.get(one.belongs, junk).add(one.raw)
    for box in boxes.values():
        box.close()


class Clock:
    """A clock that is set by hand and goes on by one second a look."""

    def __init__(self, now: int = NOON) -> None:
        self.now = now

    def __call__(self) -> int:
        self.now += 1
        return self.now


def store_of(fill: Callable[[Mailroom], object]) -> bytes:
    """A store filled in a folder of its own, for many tests to begin with."""
    with tempfile.TemporaryDirectory() as folder:
        room = Mailroom(Path(folder), Clock())
        fill(room)
        room.close()
        return (Path(folder) / FILE_NAME).read_bytes()


@cache
def fresh_store() -> bytes:
    """A store with nothing in it, migrated once for all tests of a process."""
    return store_of(lambda _: None)


class RoomCase(unittest.TestCase):
    """A test with a mailroom in a folder of its own."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="hieranome-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.clock = Clock()
        (self.folder / "data").mkdir(mode=0o700)
        (self.folder / "data" / FILE_NAME).write_bytes(self.stored())
        self.room = Mailroom(self.folder / "data", self.clock)
        self.addCleanup(lambda: self.room.close())
        self.room.set_owner([OWNER])

    def stored(self) -> bytes:
        """The store the test begins with."""
        return fresh_store()

    def take(self, raw: bytes) -> int:
        """Let a message arrive; its id."""
        number = receive(self.room, raw)
        assert number is not None
        return number

    def take_sent(self, raw: bytes) -> int:
        """Let a message the owner wrote come in from Sent; its id."""
        incoming = replace(prepare(raw, self.clock()), stands=Placed("sent", "own"))
        with self.room.change() as db:
            number = take_in(self.room, db, incoming)
        assert number is not None
        return number

    def row(self, number: int) -> messages.Message:
        """A stored message."""
        return messages.get(self.room.reader(), number)

    def standing_in(self, place: str) -> int:
        """The count of a place."""
        return next(p.total for p in places.every(self.room.reader()) if p.name == place)

    def state(self) -> dict[int, tuple[str, str, float]]:
        """Where every message stands, by what, with which score."""
        rows = self.room.reader().execute("SELECT id, place, decided_by, score FROM messages")
        return {row[0]: (row[1], row[2], row[3]) for row in rows}

    def reopen(self) -> None:
        """Close the room and open it again from its folder."""
        self.room.close()
        self.room = Mailroom(self.folder / "data", self.clock)


class ApiCase(RoomCase):
    """A test with a client of the API."""

    def setUp(self) -> None:
        super().setUp()
        self.served = Service.of(self.room, open_to_all=True)
        self.client = TestClient(build(self.served, hosts=("testserver",)), headers=MARK)
        self.client.__enter__()
        self.addCleanup(self.client.__exit__, None, None, None)


def nobody(host: str, _port: int, _timeout: float) -> socket.socket:
    """A network in which no host answers."""
    raise ConnectionRefusedError(111, f"{host} refused")
