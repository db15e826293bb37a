"""Import: whole, once, resumable, clear when it cannot."""

import contextlib
import hashlib
import multiprocessing
import os
import random
import signal
import sqlite3
import subprocess
import sys
from pathlib import Path

from hieranome.app.arrival import importing
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import NotMail, StoreFull, Unreadable
from hieranome.core.routing import MOST_ASKED, worth_asking
from hieranome.demo import mailgen
from hieranome.store import imports, messages, places
from hieranome.store.database import FILE_NAME
from tests.mail.nasty import NASTY
from tests.mail.test_sources import mbox
from tests.patience import await_
from tests.support import NOON, OWNER, RoomCase, letter


def digests(room: Mailroom) -> set[bytes]:
    return {row[0] for row in room.reader().execute("SELECT digest FROM messages")}


class ImportTest(RoomCase):
    def bring(self, path: Path) -> imports.ImportJob:
        return importing.run(self.room, importing.begin(self.room, path, mine=True))

    def file(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
        return path

    def test_a_folder_of_everything(self) -> None:
        """Mbox, message and Maildir in one folder come in together, every byte kept."""
        raws = [letter(f"m{n}", body=f"body {n}") for n in range(6)]
        self.file("mail/a.mbox", mbox(raws[0], raws[1]))
        self.file("mail/b.eml", raws[2])
        self.file("mail/Box/cur/1.h:2,S", raws[3])
        self.file("mail/Box/new/2.h", raws[4])
        self.file("mail/note.txt", b"no mail")
        job = self.bring(self.folder / "mail")
        self.assertEqual((job.state, job.added, job.known), ("done", 5, 0))
        self.assertEqual(digests(self.room), {hashlib.sha256(r).digest() for r in raws[:5]})

    def test_nasty_mail_comes_in_without_loss(self) -> None:
        """Every broken message of an mbox is kept as it is."""
        nasty = [raw if raw.endswith(b"\n") else raw + b"\n" for raw in NASTY.values()]
        self.bring(self.file("n.mbox", mbox(*nasty)))
        self.assertLessEqual({hashlib.sha256(r).digest() for r in nasty if b"\r" not in r}, digests(self.room))

    def test_twice_adds_nothing(self) -> None:
        """Importing again changes no count and no place."""
        path = self.file("a.mbox", mbox(*(letter(f"m{n}") for n in range(5))))
        self.bring(path)
        before = self.state()
        job = self.bring(path)
        self.assertEqual((job.added, job.known), (0, 5))
        self.assertEqual(self.state(), before)

    def test_the_questions_worth_most_are_asked(self) -> None:
        """Of a history with more doubtful mail than may be asked about, what asking saves most about, whatever the
        order."""
        raws = [
            letter(
                f"Note {n}",
                sender=f"p{n}@hall{n}.example",
                body="Here it is. " * (n % 7) + "Please? " * (n % 5),
                at=NOON + n,
            )
            for n in range(40)
        ]
        self.bring(self.file("a.mbox", mbox(*raws)))
        db = self.room.reader()
        worth = {
            row[0]: worth_asking(self.room.engine.judge(messages.vectors(db, [row[0]])[row[0]]), self.room.costs)[1]
            for row in db.execute("SELECT id FROM messages")
        }
        asked = {row[0] for row in db.execute("SELECT id FROM messages WHERE place = 'undecided'")}
        self.assertEqual(len(asked), MOST_ASKED)
        self.assertGreaterEqual(min(worth[one] for one in asked), max(worth[one] for one in worth if one not in asked))
        self.assertNotEqual(asked, set(sorted(n for n in worth if worth[n] > 0)[:MOST_ASKED]))  # not the first ten
        self.assertEqual(sum(self.room.asking.past), MOST_ASKED)

    def test_history_is_read_before_mail_is_placed(self) -> None:
        """Who is answered is known for messages that came before the answers."""
        early = letter("Early question", message_id="<e@x.example>", at=1_759_000_000)
        answers = [
            letter(f"Re: {n}", sender=OWNER, to="brandel@salthall.example", body=str(n), In_Reply_To=f"<{n}@x.example>")
            for n in range(4)
        ]
        self.bring(self.file("a.mbox", mbox(early, *answers)))
        weighed = self.room.reader().execute("SELECT score FROM messages WHERE place <> 'sent'").fetchone()[0]
        room = Mailroom(self.folder / "fresh", self.clock)
        self.addCleanup(room.close)
        importing.run(room, importing.begin(room, self.file("b.mbox", mbox(early))))
        self.assertGreater(weighed, room.reader().execute("SELECT score FROM messages").fetchone()[0])

    def test_dealt_with_mail_is_not_put_on_the_desk(self) -> None:
        """What was answered weeks ago goes to the Archive, what is new to the Desk."""
        old = b"Status: RO\nX-Status: A\n" + letter("Old question?", at=1_759_000_000, message_id="<o@x.example>")
        new = letter("New question?", at=1_760_000_000, body="Can you decide today?")
        sent = [letter(f"Re: {n}", sender=OWNER, to="brandel@salthall.example", body=str(n)) for n in range(6)]
        self.bring(self.file("a.mbox", mbox(old, new, *sent)))
        stands = dict(
            self.room.reader().execute("SELECT subject, place FROM messages WHERE place <> 'sent'").fetchall()
        )
        self.assertEqual(stands["Old question?"], "archive")
        self.assertIn(stands["New question?"], ("desk", "undecided"))

    def test_clear_errors_and_nothing_half_done(self) -> None:
        """Not a mailbox, nothing there, an empty folder: a sentence each and no job."""
        (self.folder / "empty").mkdir()
        for path, kind in (
            (self.file("x.txt", b"no mail at all\n"), NotMail),
            (self.folder / "absent", Unreadable),
            (self.folder / "empty", NotMail),
            (self.file("a.gz", b"\x1f\x8b\x08" + bytes(50)), NotMail),
        ):
            with self.assertRaises(kind):
                importing.begin(self.room, path)
        self.assertEqual(imports.recent(self.room.reader()), [])

    def test_a_truncated_mbox_comes_in_as_far_as_it_goes(self) -> None:
        """The cut last message is kept too."""
        job = self.bring(self.file("cut.mbox", mbox(*(letter(f"m{n}") for n in range(4)))[:-25]))
        self.assertEqual((job.state, job.added), ("done", 4))

    def test_a_full_disk_stops_and_goes_on(self) -> None:
        """With the disk full the import says so and keeps whole batches; with room again it goes on to the end."""
        path = self.file("a.mbox", mbox(*(letter(f"m{n}", body=f"{n} " + os.urandom(900).hex()) for n in range(700))))
        with self.room.store.atomic() as db:
            pages = db.execute("PRAGMA page_count").fetchone()[0]
            db.execute(f"PRAGMA max_page_count = {pages + 400}")
        with self.assertRaises(StoreFull):
            self.bring(path)
        kept = len(digests(self.room))
        self.assertEqual(kept % importing.BATCH, 0)
        self.assertLess(kept, 700)
        with self.room.store.atomic() as db:
            db.execute("PRAGMA max_page_count = 1073741823")
        job = self.bring(path)
        self.assertEqual((job.state, job.added), ("done", 700))

    def test_progress_is_told(self) -> None:
        """Progress goes up to the size of the file."""
        path = self.file("a.mbox", mbox(*(letter(f"m{n}") for n in range(450))))
        seen = []
        importing.run(self.room, importing.begin(self.room, path), lambda job: seen.append(job.bytes_done))
        self.assertEqual(seen, sorted(seen))
        self.assertEqual(seen[-1], path.stat().st_size)


class ReaderTest(RoomCase):
    def test_a_reader_that_dies_costs_nothing(self) -> None:
        """When a reading process is killed, what it was reading is read by another, and all mail arrives."""
        path = self.folder / "many.mbox"
        mailgen.write(3000, 4, path, None)
        job = importing.begin(self.room, path)
        killed: list[int] = []

        def kill(_: imports.ImportJob) -> None:
            for child in multiprocessing.active_children():
                if child.pid and not killed:
                    os.kill(child.pid, signal.SIGKILL)
                    killed.append(child.pid)

        done = importing.run(self.room, job, kill)
        self.assertTrue(killed)
        self.assertEqual((done.state, len(digests(self.room))), ("done", done.added))
        unreadable = self.room.reader().execute("SELECT count(*) FROM messages WHERE readable = 0").fetchone()[0]
        self.assertEqual(unreadable, 0)
        self.assertGreaterEqual(done.added, 3000)


class KillTest(RoomCase):
    COUNT = 1500

    def test_killed_at_any_moment_it_ends_with_the_same_mail(self) -> None:
        """Killed several times and started again, an import holds what an unbroken one holds, counts included."""
        path = self.folder / "many.mbox"
        mailgen.write(self.COUNT, 3, path, None)
        whole = Mailroom(self.folder / "whole", self.clock)
        self.addCleanup(whole.close)
        importing.run(whole, importing.begin(whole, path))
        target = self.folder / "killed"
        rng = random.Random(9)
        kills = 0
        for many in sorted(rng.sample(range(self.COUNT), 5)):
            process = self.start(path, target)
            await_("messages, or its end", lambda p=process, n=many: p.poll() is not None or self.held(target) >= n)
            if process.poll() is None:
                process.send_signal(signal.SIGKILL)
                kills += 1
            process.wait()
        self.assertEqual(self.start(path, target).wait(), 0)
        self.assertGreater(kills, 0)
        broken = Mailroom(target, self.clock)
        self.addCleanup(broken.close)
        self.assertEqual(digests(broken), digests(whole))
        self.assertEqual(len(digests(broken)), len(set(digests(broken))))
        self.assertEqual(places.every(broken.reader()), places.every(whole.reader()))
        self.assertEqual(dict(broken.relations.items()), dict(whole.relations.items()))

    @staticmethod
    def held(target: Path) -> int:
        """How many messages a data folder holds by now."""
        with (
            contextlib.suppress(sqlite3.OperationalError),
            contextlib.closing(sqlite3.connect(f"file:{target / FILE_NAME}?mode=ro", uri=True)) as db,
        ):
            return int(db.execute("SELECT count(*) FROM messages").fetchone()[0])
        return 0

    @staticmethod
    def start(path: Path, target: Path) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "hieranome.cli", "import", str(path), "--data", str(target)]
        return subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
