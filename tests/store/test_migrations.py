"""Data of an older version is brought forward whole."""

import re
import sqlite3
import tempfile
import unittest
import zlib
from pathlib import Path

from hieranome.core.conditions import Words
from hieranome.core.text import spaced
from hieranome.store import Database, accounts, lessons, places, search, settings
from hieranome.store.database import FILE_NAME, migrations, statements
from hieranome.store.schema import WHY, schema

GONE_OUT = (
    568766995,
    863214997,
    603732819,
    2949023734,
    3987382047,
    199418658,
    1518284482,
    577848107,
    2117601019,
    1597990198,
    2285365145,
    3239531640,
    1711573414,
    1551397059,
    898215053,
    4282039356,
    2718944039,
    1579945760,
    4231358401,
    2626335663,
    1695305601,
    2817819213,
    1228724469,
    4074228515,
    2795008822,
    1094914638,
    381343871,
    1940278928,
    3426337994,
    2969391223,
    4284571442,
    2058723984,
    1268135400,
    3635054671,
    1056757050,
    3172031691,
    87239084,
    3452629567,
    1221221941,
    1668343591,
    953923280,
    708199130,
    1039750548,
    249118597,
)
"""The CRC-32 of each migration: data folders were made by them, so none is ever changed. What is to be otherwise stands
in another migration behind them, whose CRC-32 is added here."""


class DescribedTest(unittest.TestCase):
    def test_none_that_went_out_is_changed(self) -> None:
        """A folder made by it could not be opened any more."""
        files = sorted((Path(migrations.__code__.co_filename).parent / "migrations").glob("*.sql"))
        self.assertEqual([zlib.crc32(one.read_bytes()) for one in files], list(GONE_OUT), [one.name for one in files])

    def test_the_schema_is_written_down(self) -> None:
        """docs/schema.sql is what the migrations make, and every table and trigger says why it is there."""
        kept = (Path(__file__).parent.parent.parent / "docs" / "schema.sql").read_text(encoding="utf-8")
        self.assertEqual(kept, schema(), "run make schema")
        made = set(re.findall(r"^CREATE (?:VIRTUAL )?(?:TABLE|TRIGGER) \"?(\w+)", kept, re.MULTILINE))
        self.assertEqual(made, set(WHY))
        self.assertEqual(kept.count("\n-- ") - 1, len(WHY))


class ForwardTest(unittest.TestCase):
    def setUp(self) -> None:
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name) / "data"
        self.folder.mkdir()

    def before(self, last: int) -> sqlite3.Connection:
        """A data file as the migrations up to ``last`` leave it."""
        db = sqlite3.connect(self.folder / FILE_NAME, isolation_level=None)
        db.create_function("spaced", 1, spaced)
        for number, name, script in migrations()[:last]:
            for statement in statements(script):
                db.execute(statement)
            db.execute("INSERT INTO migrations VALUES (?, ?, 0)", (number, name))
            db.execute(f"PRAGMA user_version = {number:d}")
        return db

    def test_words_are_laid_out_anew(self) -> None:
        """Mail stored with sender and recipients in one is found by either, by its list, and by parts of words of a
        script without spaces."""
        db = self.before(2)
        db.execute("INSERT INTO threads VALUES (1, 0)")
        db.execute(
            """
            INSERT INTO messages VALUES (1, x'00', '<a@x.example>', 1, 'rider', 100, 'ilse@hall.example', 'Ilse Brandt',
                'hall.example', 'section9.union.example', 'Rider', 'x', 10, 0, 1, 0, 0, 0, 'shelf', 'model',
                0.5, 0.4, 0.6, 0.9, 'shelf', 0.1, 1)
            """
        )
        people = "Ilse Brandt ilse@hall.example Maren Aldous maren@quillmark.example"
        db.execute("INSERT INTO words VALUES (1, 'Rider', ?, '明日の会議室は三階です')", (people,))
        db.execute(
            "INSERT INTO words_index (rowid, subject, people, body) SELECT message, subject, people, body FROM words"
        )
        db.close()
        database = Database(self.folder)
        self.addCleanup(database.close)
        reader = database.reader()
        for column, text, found in (
            ("sender", "ilse", True),
            ("sender", "maren", False),
            ("recipients", "maren", True),
            ("recipients", "ilse", False),
            ("list", "section9", True),
            ("body", "会議", True),
            ("subject", "rider", True),
        ):
            hits = search.first(reader, Words((column,), text), "time")  # type: ignore[arg-type]
            self.assertEqual(hits, [1] if found else [], (column, text))
        shelf = places.get(reader, "shelf")
        self.assertEqual((shelf.total, shelf.rhythm, shelf.own), (1, "daily", False))
        self.assertEqual(places.get(reader, "drafts").total, 0)

    def test_scores_of_an_earlier_engine_are_written_anew(self) -> None:
        """Mail that another engine scored is scored again after the first start, also where no lesson was given; a new
        file has nothing to score."""
        db = self.before(10)
        db.execute("INSERT INTO threads (id) VALUES (1)")
        names = [row[1] for row in db.execute("PRAGMA table_info(messages)")]
        kinds = {row[1]: row[2] for row in db.execute("PRAGMA table_info(messages)")}
        filled = {"TEXT": "", "INTEGER": 1, "REAL": 0.5, "BLOB": b""}
        values = [filled[kinds[name]] if name != "place" else "shelf" for name in names]
        db.execute(f"INSERT INTO messages VALUES ({', '.join('?' * len(names))})", values)
        db.close()
        database = Database(self.folder)
        self.addCleanup(database.close)
        reader = database.reader()
        self.assertNotEqual(settings.value(reader, settings.SCORED, lessons.NONE), lessons.state(reader))
        fresh = Database(self.folder.parent / "fresh")
        self.addCleanup(fresh.close)
        self.assertEqual(settings.value(fresh.reader(), settings.SCORED, lessons.NONE), lessons.state(fresh.reader()))

    def test_mailboxes_and_mail_of_before_pins_and_sources(self) -> None:
        """Nothing is trusted by a fingerprint or authorised, and the sums by source are those of the mail there is."""
        db = self.before(12)
        db.execute(
            "INSERT INTO accounts (address, name, user, bearer, imap_host, imap_port, imap_security, smtp_host,"
            " smtp_port, smtp_security, prefix, added_at)"
            " VALUES ('a@b.example', '', 'a', 0, 'h', 1, 'tls', 'h', 1, 'tls', '', 0)"
        )
        db.execute("INSERT INTO threads (id) VALUES (1)")
        columns = [(row[1], row[2]) for row in db.execute("PRAGMA table_info(messages)")]
        filled = {"TEXT": "", "INTEGER": 0, "REAL": 0.5, "BLOB": b""}
        for number in range(1, 8):
            values = {name: filled[kind] for name, kind in columns} | {
                "id": number, "digest": bytes([number]), "thread": 1, "place": "shelf", "time": 100 + number,
                "seen": number % 2, "list_id": "l.example" if number < 4 else "", "sender_address": "s@h.example",
            }  # fmt: skip
            marks = ", ".join("?" * len(values))
            db.execute(f"INSERT INTO messages ({', '.join(values)}) VALUES ({marks})", [*values.values()])
        db.commit()
        db.close()
        database = Database(self.folder)
        self.addCleanup(database.close)
        (account,) = accounts.every(database.reader())
        self.assertEqual((account.imap_pin, account.smtp_pin, account.token_url), ("", "", ""))
        kept = database.reader().execute("SELECT source, total, unread, newest FROM sources ORDER BY source")
        self.assertEqual(
            [tuple(row) for row in kept], [("address:s@h.example", 4, 2, 107), ("list:l.example", 3, 1, 103)]
        )

    def test_a_broken_step_leaves_the_file_as_it_was(self) -> None:
        """When a migration fails, the file stays at the version before and can be tried again."""
        db = self.before(2)
        db.execute("CREATE TABLE searches (taken TEXT)")
        db.close()
        with self.assertRaisesRegex(Exception, "searches"):
            Database(self.folder)
        db = sqlite3.connect(self.folder / FILE_NAME)
        self.addCleanup(db.close)
        self.assertEqual(db.execute("PRAGMA user_version").fetchone()[0], 2)
        self.assertEqual(len(db.execute("SELECT people FROM words").fetchall()), 0)
