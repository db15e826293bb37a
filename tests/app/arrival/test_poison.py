"""One odd message among a hundred good ones: the hundred arrive, by file, by the page and over IMAP."""

from __future__ import annotations

import os
from collections.abc import Callable
from functools import partial
from multiprocessing.connection import Connection
from pathlib import Path
from unittest import mock

from hieranome.app.arrival import arrive, importing
from hieranome.app.arrival.arrive import receive
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.mailbox.syncing import sync
from hieranome.app.reading import processes
from hieranome.app.reading.processes import guarded, prepared, reading_of
from hieranome.app.reading.reading_process import ReadingProcess
from hieranome.app.teaching.undoing import undo
from hieranome.app.viewing import open_message
from hieranome.core.errors import CallerError, MessageUnreadable, NotFound, WorldError
from hieranome.core.features import extract
from hieranome.mail.imap import Imap
from hieranome.store import journal, messages
from tests.app.mailbox.case import account_at
from tests.app.reading.misbehaving import asleep, die, explode, fill, hang, late, miss, stillborn
from tests.mail.hostile import shapes
from tests.mail.servers import LOGIN, Standin
from tests.mail.test_sources import mbox
from tests.patience import PATIENCE, await_
from tests.support import NOON, ApiCase, RoomCase, crlf, letter

ODD = (
    "From: open comments", "From: groups", "From: colons", "Message-ID: high", "References: high", "In-Reply-To: high",
    "Content-Type: parameters", "Content-Type: quoted parameters", "charset utf-7 utf-7", "charset unicode_escape escapes",
    "charset punycode words", "Subject: words of utf-7", "Subject: words of escapes", "page div q", "page ruby",
    "page one tag", "tree nested 150", "tree empty parts", "tree headers", "tree zeros", "body x-uuencode uu", "event events",
)  # fmt: skip
"""Shapes that stopped a reader once."""
POISON = "poison"


def odd_messages(size: int = 20_000) -> list[bytes]:
    made = shapes()
    return [made[name](size) for name in ODD]


def good(number: int) -> bytes:
    return letter(f"Good {number}", at=NOON + number, body=f"Letter {number}.")


def mixed() -> list[bytes]:
    """A hundred good letters with the odd ones between them."""
    odd = odd_messages()
    return [raw for n in range(100) for raw in (good(n), *odd[n : n + 1])]


class ArriveTest(ApiCase):
    def good_ones(self) -> int:
        rows = self.room.reader().execute("SELECT count(*) FROM messages WHERE subject LIKE 'Good %'").fetchone()
        return int(rows[0])

    def test_by_file(self) -> None:
        """A Maildir of a hundred good letters and the odd ones: all of them are here."""
        box = self.folder / "Box"
        for name in ("cur", "new", "tmp"):
            (box / name).mkdir(parents=True)
        raws = mixed()
        for n, raw in enumerate(raws):
            (box / "cur" / f"{n:04}.host:2,S").write_bytes(raw)
        done = importing.run(self.room, importing.begin(self.room, box))
        self.assertEqual((done.state, done.added, self.good_ones()), ("done", len(raws), 100))

    def test_by_the_page(self) -> None:
        """Dropped as an mbox, every good letter arrives, and each message can be opened."""
        sent = self.client.post("/api/imports", files={"files": ("all.mbox", mbox(*mixed()))})
        self.assertEqual(sent.status_code, 202, sent.text)
        at = f"/api/imports/{sent.json()['id']}"
        await_("the import's end", lambda: self.client.get(at).json()["state"] in ("done", "failed"))
        self.assertEqual((self.client.get(at).json()["state"], self.good_ones()), ("done", 100))
        for row in self.room.reader().execute("SELECT id FROM messages WHERE subject NOT LIKE 'Good %'").fetchall():
            for path in ("", "/headers", "/source", "/thread"):
                answer = self.client.get(f"/api/messages/{row[0]}{path}")
                self.assertEqual(answer.status_code, 200, f"{row[0]}{path}: {answer.text[:200]}")
            self.assertIn(self.client.get(f"/api/messages/{row[0]}/html").status_code, (200, 404))


class OverImap(RoomCase):
    def test_history_and_arrivals(self) -> None:
        """The history with odd messages in it is read to its end, and what comes later arrives too."""
        standin = Standin()
        self.addCleanup(standin.close)
        raws = [crlf(raw) for raw in mixed()]
        for raw in raws[:60]:
            standin.box.append("INBOX", raw)
        imap = Imap.connect(standin.server, LOGIN, timeout=PATIENCE)
        self.addCleanup(imap.close)
        account = mailboxes.add(self.room, account_at(standin), imap.folders()).id
        self.assertTrue(read_history(self.room, imap, account))
        for raw in raws[60:]:
            standin.box.append("INBOX", raw)
        sync(self.room, imap, account)
        rows = self.room.reader().execute("SELECT count(*), sum(subject LIKE 'Good %') FROM messages").fetchone()
        self.assertEqual(tuple(rows), (len(raws), 100))


class StartTest(RoomCase):
    def started(self, work: Callable[[Connection], None], *starts: float) -> ReadingProcess:
        process = ReadingProcess(work, starts)
        self.addCleanup(process.end)
        return process

    def test_what_begins_late_is_tried_again(self) -> None:
        """With more patience, and the call is carried out then."""
        longer = [2.0**n for n in range(6)]  # the first that gets as far as to begin late is the one that is too slow
        process = self.started(partial(late, self.folder / "tried"), *longer, PATIENCE, PATIENCE)
        process.send(len, b"abc")
        self.assertEqual(process.answer(PATIENCE), 3)

    def test_what_does_not_begin_says_what_was_found_out(self) -> None:
        """That it ended, and how, or that it was slow; a later try is free to work."""
        for work, starts, why in (
            (stillborn, (PATIENCE, PATIENCE), r"in 2 tries: it ended as it began \(exit code 3\)"),
            (asleep, (0.1,), "in 1 tries: it had not begun after 0.1 seconds, so this machine is very busy"),
        ):
            process = self.started(work, *starts)
            with self.subTest(why), self.assertRaisesRegex(WorldError, why):
                process.send(len, b"abc")
            self.assertFalse(process.started)


class GuardTest(RoomCase):
    def test_whatever_happens_to_the_reader(self) -> None:
        """It raises, hangs, dies, or wants all memory: one clear error each, and the next call is answered."""
        for function in (explode, hang, die, fill):
            impatient = mock.patch.object(processes, "PATIENCE", 1.0 if function is hang else PATIENCE)
            with self.subTest(function.__name__), impatient, self.assertRaises(MessageUnreadable):
                guarded(function, b"x")
            self.assertEqual(reading_of(letter("Next")).facts.subject, "Next")

    def test_errors_of_our_own_come_through(self) -> None:
        """What a function says on purpose is said."""
        with self.assertRaises(NotFound):
            guarded(miss, b"x")

    def test_an_idle_process_that_was_killed_is_replaced(self) -> None:
        """Nobody notices that a process ended between two calls."""
        process = ReadingProcess()
        self.addCleanup(process.end)
        process.send(len, b"abc")
        self.assertEqual(process.answer(PATIENCE), 3)
        assert process._process is not None
        process._process.kill()
        process._process.join()
        with self.assertRaises((MessageUnreadable, OSError)):
            process.send(len, b"abc")
            process.answer(PATIENCE)
        process.end()
        process.send(len, b"ab")
        self.assertEqual(process.answer(PATIENCE), 2)

    def test_what_cannot_be_read_is_kept_whole(self) -> None:
        """On the Desk, shown as its source, told in the journal with nothing to undo; the next arrives."""
        raw = letter(POISON, body="its words")
        with mock.patch.object(processes, "prepare", explode):
            one = prepared(raw, NOON)
        self.assertIn("fault nobody thought of", one.trouble)
        with mock.patch.object(arrive, "prepared", return_value=one):
            number = receive(self.room, raw)
        assert number is not None
        row = self.row(number)
        self.assertEqual((row.place, row.decided_by, row.readable), ("desk", "unreadable", False))
        self.assertEqual(messages.raw(self.room.reader(), number), raw)
        opened = open_message(self.room, number)
        self.assertIn("its words", "\n".join(one.text for one in opened.passages))
        self.assertIn("kept whole", opened.warnings[0])
        step = journal.recent(self.room.reader(), 0, 1)[0]
        self.assertEqual((step.kind, step.undoable, step.messages), ("unreadable", False, 1))
        with self.assertRaises(CallerError):
            undo(self.room, step.id)
        self.take(good(1))

    def test_what_raises_while_it_is_stored_is_kept_whole(self) -> None:
        """A fault behind the reading (in the features, here) costs that message's reading and nothing else: neither in
        memory nor in the store is anything of the first try."""
        real = extract

        def faulty(facts: object, *rest: object) -> object:
            if getattr(facts, "subject", "") == POISON:
                raise ValueError("\ud800 cannot be")
            return real(facts, *rest)  # type: ignore[arg-type]

        with mock.patch.object(arrive, "extract", faulty):
            odd = self.take(letter(POISON, in_reply_to="<a@b.example>"))
            fine = self.take(good(2))
        self.assertEqual(self.row(odd).decided_by, "unreadable")
        self.assertTrue(self.row(fine).readable)
        before = dict(self.room.relations.items())
        self.reopen()
        self.assertEqual(dict(self.room.relations.items()), before)

    def test_a_file_whose_name_is_not_text(self) -> None:
        """A name of any bytes is no obstacle in a folder."""
        folder = self.folder / "odd"
        folder.mkdir()
        Path(os.fsdecode(os.fsencode(folder) + b"/\xff.eml")).write_bytes(good(1))
        done = importing.run(self.room, importing.begin(self.room, folder))
        self.assertEqual((done.state, done.added), ("done", 1))


class SkippedTest(ApiCase):
    def test_files_passed_over_are_named_with_the_reason(self) -> None:
        """In a folder: without headers, empty, compressed, a link that leads nowhere, a pipe."""
        folder = self.folder / "box"
        folder.mkdir()
        (folder / "good.eml").write_bytes(good(1))
        (folder / "words.txt").write_bytes(b"no header\nat all\n")
        (folder / "empty").write_bytes(b"")
        (folder / "packed.gz").write_bytes(b"\x1f\x8b\x08rest")
        (folder / "nowhere").symlink_to(folder / "gone")
        os.mkfifo(folder / "pipe")
        job = importing.begin(self.room, folder)
        told = {one["path"]: one["why"] for one in self.client.get(f"/api/imports/{job.id}").json()["skipped"]}
        self.assertEqual(set(told), {"words.txt", "empty", "packed.gz", "nowhere", "pipe"})
        for name, word in (
            ("words.txt", "not a mailbox"), ("empty", "is empty"), ("packed.gz", "Unpack"),
            ("nowhere", "cannot be read"), ("pipe", "no ordinary file"),
        ):  # fmt: skip
            self.assertIn(word, told[name])

    def test_the_owner_s_word_at_import(self) -> None:
        """Mail from the owner's address is own where the owner says so, and else as anybody's."""
        raw = letter("Mine", sender="Maren <maren@quillmark.example>", to="ilse@hall.example")
        for mine, place in (("false", False), ("true", True)):
            content = mbox(raw + mine.encode())
            job = self.client.post("/api/imports", files={"files": ("a.mbox", content)}, data={"mine": mine}).json()
            at = f"/api/imports/{job['id']}"
            await_("its end", lambda at=at: self.client.get(at).json()["state"] in ("done", "failed"))
            rows = self.room.reader().execute("SELECT place FROM messages ORDER BY id DESC LIMIT 1").fetchone()
            self.assertEqual(rows[0] == "sent", place)
