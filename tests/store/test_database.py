"""The store: migrations, atomicity, full disks, counts, pages."""

import sqlite3
import subprocess
import sys
import tempfile
import unittest
from dataclasses import replace
from itertools import product
from pathlib import Path

from hieranome.core.errors import Conflict, NotFound, StaleCursor, StoreFull, StoreUnusable, WorldError
from hieranome.store import Database, marked, messages, places, scores
from hieranome.store.database import FILE_NAME, migrations, statements
from hieranome.store.listing import Listing, page
from tests.patience import PATIENCE
from tests.support import NOON, RoomCase, letter

READING_ON = """
import sys, threading, time
from pathlib import Path
from hieranome.store import Database

database = Database(Path(sys.argv[1]))
begun = threading.Event()

def read():
    db = database.reader()
    begun.set()
    count = "WITH RECURSIVE n (i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 3000000) SELECT max(i) FROM n"
    print(db.execute(count).fetchone()[0])

thread = threading.Thread(target=read)
thread.start()
begun.wait()
time.sleep(0.2)
database.close()
thread.join()
"""
"""A thread that goes on reading while the store is closed."""


class DatabaseTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name) / "data"

    def open(self) -> Database:
        database = Database(self.folder)
        self.addCleanup(database.close)
        return database

    def test_migrations_run_once_and_are_recorded(self) -> None:
        """Opening twice migrates once, and the record says what was applied."""
        self.open().close()
        database = self.open()
        applied = database.reader().execute("SELECT number, name FROM migrations").fetchall()
        self.assertEqual([tuple(row) for row in applied], [(n, name) for n, name, _ in migrations()])
        self.assertEqual(database.reader().execute("PRAGMA user_version").fetchone()[0], migrations()[-1][0])

    def test_migrations_are_numbered_without_gaps(self) -> None:
        """Numbers go up by one from one."""
        self.assertEqual([n for n, _, _ in migrations()], list(range(1, len(migrations()) + 1)))

    def test_scripts_are_split_with_triggers_whole(self) -> None:
        """A trigger's inner semicolons do not cut it."""
        script = "CREATE TABLE a (b);\nCREATE TRIGGER t AFTER INSERT ON a BEGIN\n DELETE FROM a;\n SELECT 1;\nEND;\n"
        self.assertEqual(len(list(statements(script))), 2)

    def test_a_failed_change_leaves_nothing(self) -> None:
        """An error inside atomic undoes all of it, nested parts too."""
        database = self.open()
        with self.assertRaises(ZeroDivisionError), database.atomic() as db:
            db.execute("INSERT INTO settings VALUES ('a', '1')")
            with database.atomic() as inner:
                inner.execute("INSERT INTO settings VALUES ('b', '1')")
            raise ZeroDivisionError
        self.assertEqual(database.reader().execute("SELECT count(*) FROM settings").fetchone()[0], 0)

    def test_readers_cannot_write(self) -> None:
        """A reader's connection refuses changes."""
        with self.assertRaises(sqlite3.OperationalError):
            self.open().reader().execute("INSERT INTO settings VALUES ('a', '1')")

    def test_closed_while_somebody_reads(self) -> None:
        """A thread that did not end in time ends its reading, and the process with all others."""
        done = subprocess.run(
            [sys.executable, "-c", READING_ON, str(self.folder)],
            capture_output=True,
            text=True,
            check=False,
            timeout=PATIENCE,
        )
        self.assertEqual((done.returncode, done.stdout.strip()), (0, "3000000"), done.stderr[-500:])

    def test_one_writer_a_folder(self) -> None:
        """A second Hieranome on the same folder is refused with the mend."""
        self.open()
        with self.assertRaisesRegex(Conflict, "in use by another"):
            Database(self.folder)

    def test_a_foreign_file_is_not_used(self) -> None:
        """A file that is no database is left as it is."""
        self.folder.mkdir()
        (self.folder / FILE_NAME).write_bytes(b"not a database at all" * 100)
        with self.assertRaisesRegex(StoreUnusable, "Choose another data folder"):
            Database(self.folder)
        self.assertTrue((self.folder / FILE_NAME).read_bytes().startswith(b"not a database"))

    def test_a_newer_file_is_not_touched(self) -> None:
        """A file of a newer version is refused."""
        database = self.open()
        with database.atomic() as db:
            db.execute("PRAGMA user_version = 999")
        database.close()
        with self.assertRaisesRegex(StoreUnusable, "newer Hieranome"):
            Database(self.folder)

    def test_a_folder_that_cannot_be_made(self) -> None:
        """A path below a file is a clear error."""
        self.folder.write_text("a file")
        with self.assertRaises(WorldError):
            Database(self.folder / "below")

    def test_the_data_file_is_the_owners_alone(self) -> None:
        """Nobody else on the machine may read it."""
        self.assertEqual(self.open().path.stat().st_mode & 0o077, 0)


class StandingTest(RoomCase):
    def test_a_full_disk_undoes_the_step_whole(self) -> None:
        """When the file cannot grow, nothing of the step is kept and everything before it is."""
        kept = self.take(letter("kept"))
        with self.room.store.atomic() as db:
            pages = db.execute("PRAGMA page_count").fetchone()[0]
            db.execute(f"PRAGMA max_page_count = {pages + 2}")
        before = self.state()
        with self.assertRaisesRegex(StoreFull, "Free some space"):
            for number in range(50):
                self.take(letter(f"too much {number}", body="word " * 20_000))
        with self.room.store.atomic() as db:
            db.execute("PRAGMA max_page_count = 1073741823")
        after = self.state()
        self.assertEqual({n: after[n] for n in before}, before)
        self.assertEqual(self.row(kept).subject, "kept")
        self.assertEqual(sum(p.total for p in places.every(self.room.reader())), len(after))
        self.take(letter("fits again"))

    def test_counts_follow_every_change(self) -> None:
        """Counts kept by triggers equal counts taken anew."""
        numbers = [self.take(letter(f"m{n}", at=NOON + n)) for n in range(12)]
        with self.room.store.atomic() as db:
            messages.move(db, numbers[0], "drain", "verdict")
            messages.move(db, numbers[1], "archive", "verdict")
            marked.mark(db, numbers[:5], "seen", True)
            db.execute("DELETE FROM messages WHERE id = ?", (numbers[2],))
        counted = {
            row[0]: (row[1], row[2])
            for row in self.room.reader().execute("SELECT place, count(*), sum(1 - seen) FROM messages GROUP BY place")
        }
        kept = {p.name: (p.total, p.unread) for p in places.every(self.room.reader()) if p.total}
        self.assertEqual(kept, counted)

    def test_pages_hold_every_message_once(self) -> None:
        """Paging by importance or by time gives all messages, in order, none twice."""
        for number in range(25):
            self.take(letter(f"m{number}", at=NOON + number % 7, body=f"body {number}"))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf', score = (id % 4) / 10.0")
            db.execute("UPDATE messages SET seen = id % 3 = 0")
        for order, unread_first in product(("importance", "time"), (False, True)):
            listing = Listing("shelf", order, unread_first)  # type: ignore[arg-type]
            with self.subTest(listing=listing):
                seen, cursor = [], ""
                while True:
                    found = page(self.room.reader(), listing, cursor, 4)
                    seen += found.messages
                    cursor = found.next
                    if not cursor:
                        break
                self.assertEqual(len({m.id for m in seen}), 25)
                keys = [(unread_first and not m.seen, getattr(m, listing.column), m.id) for m in seen]
                self.assertEqual(keys, sorted(keys, reverse=True))
        unread = page(self.room.reader(), Listing("shelf", unread_only=True), "", 100).messages
        self.assertEqual({m.seen for m in unread}, {False})

    def test_pages_use_their_index(self) -> None:
        """No page query sorts or scans the table."""
        for order in ("score", "time"):
            plan = self.room.reader().execute(
                "EXPLAIN QUERY PLAN SELECT id FROM messages"
                f" WHERE place = 'desk' AND seen = 0 AND ({order}, id) < (1, 1) "
                f"ORDER BY {order} DESC, id DESC LIMIT 10"
            )
            text = " ".join(row[3] for row in plan)
            self.assertIn(f"messages_by_{order}", text)
            self.assertNotIn("TEMP B-TREE", text)

    def test_a_cursor_of_another_list_is_refused(self) -> None:
        """A cursor made for one order does not page another, and rubbish is no cursor."""
        for number in range(3):
            self.take(letter(f"m{number}"))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk'")
        found = page(self.room.reader(), Listing("desk", "time"), "", 1)
        for cursor in (found.next, "rubbish"):
            with self.assertRaises(StaleCursor):
                page(self.room.reader(), Listing("desk", "importance"), cursor, 1)

    def test_unknown_things_are_said_to_be_unknown(self) -> None:
        """A message or place that does not exist is named."""
        with self.assertRaisesRegex(NotFound, "no message 77"):
            messages.get(self.room.reader(), 77)
        with self.assertRaisesRegex(NotFound, "no place called"):
            places.check(self.room.reader(), "attic")

    def test_words_are_found(self) -> None:
        """The index finds a message by words of its text, without regard to accents."""
        number = self.take(letter("Réunion", body="the harpsichord arrives"))
        for word in ("reunion", "harpsichord"):
            rows = self.room.reader().execute("SELECT rowid FROM words_index WHERE words_index MATCH ?", (word,))
            self.assertEqual([row[0] for row in rows], [number])

    def test_scores_are_written_in_place(self) -> None:
        """New numbers replace the old ones and nothing else."""
        number = self.take(letter())
        before = self.row(number)
        with self.room.store.atomic() as db:
            scores.rescore(db, [scores.Score(number, 0.5, 0.4, 0.6, 0.9, "drain")])
        self.assertEqual(
            self.row(number), replace(before, score=0.5, low_edge=0.4, high_edge=0.6, certainty=0.9, likely="drain")
        )
