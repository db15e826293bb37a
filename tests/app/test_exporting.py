"""Everything goes out and comes in again elsewhere: the same mail, lessons and scores."""

from __future__ import annotations

import json
import mailbox
import os
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hieranome.app.arrival.arrive import receive
from hieranome.app.exporting import MAX_LINE, export, restore
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.app.topics import answering
from hieranome.app.topics.learning import active
from hieranome.core.errors import CallerError, Conflict, HieranomeError
from hieranome.store import messages
from hieranome.store.transfer import TABLES
from tests.support import OWNER, RoomCase, letter, offer

OF_THE_MAILBOX = {"accounts", "folders", "copies", "copy_keywords", "identities", "scripts", "proposals", "proposed"}
BEING_DONE = {
    "draft_copies",
    "imports",
    "import_files",
    "import_skipped",
    "leaving",
}
MADE_OF_THE_REST = {"raw", "words", "sources", "weekly", "draining", "migrations"}


class Exporting(RoomCase):
    """A mailroom that was worked in."""

    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(offer(n)) for n in range(6)]
        self.numbers.append(
            self.take(letter("Odd ends", body="From the hall\n>From quoted\n>>From twice").rstrip(b"\n"))
        )
        self.numbers.append(self.take(letter("Zeilenenden", body="eins\nzwei").replace(b"\n", b"\r\n")))
        correct(self.room, [self.numbers[0]], "digest")
        correct(self.room, [self.numbers[6]], "desk")
        correct(self.room, [self.numbers[1]], "drain")
        undo(self.room)
        kept = answering.describe(self.room, "offers of stands", "Offers")
        answering.answer(self.room, kept.id, self.numbers[:2], True)
        answering.turn(self.room, kept.id, True, "digest")
        self.zip = self.folder / "out.zip"

    def elsewhere(self) -> Mailroom:
        """A new data folder."""
        room = Mailroom(self.folder / "new", self.clock)
        self.addCleanup(room.close)
        return room

    def test_scores_buckets_and_lessons_are_the_same(self) -> None:
        """To the last digit, and the model judges new mail the same."""
        self.assertEqual(export(self.room, self.zip), 8)
        room = self.elsewhere()
        self.assertEqual(restore(room, self.zip), 8)
        for table in (
            "messages",
            "lessons",
            "sums",
            "steps",
            "moves",
            "places",
            "settings",
            "vectors",
            "topics",
            "topic_answers",
        ):
            rows = [
                [tuple(row) for row in one.reader().execute(f"SELECT * FROM {table} ORDER BY 1, 2")]
                for one in (self.room, room)
            ]
            self.assertEqual(rows[0], rows[1], table)
        for number in self.numbers:
            self.assertEqual(messages.raw(room.reader(), number), messages.raw(self.room.reader(), number))
            vector = messages.vectors(room.reader(), [number])[number]
            here, there = room.engine.judge(vector), self.room.engine.judge(vector)
            self.assertAlmostEqual(here.importance, there.importance, delta=1e-9)
            found = [active(one)[0].topic.score(vector) for one in (room, self.room)]
            self.assertAlmostEqual(*found, delta=1e-9)

    def test_every_table_is_taken_along_or_known_not_to_be(self) -> None:
        """Servers are not, nor what is being done, nor what is made of the rest."""
        rows = self.room.reader().execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        there = {row[0] for row in rows if not row[0].startswith(("words_", "sqlite_"))}
        self.assertEqual(there, {*TABLES, *OF_THE_MAILBOX, *BEING_DONE, *MADE_OF_THE_REST})

    def test_search_finds_what_it_found(self) -> None:
        """Words are indexed anew."""
        export(self.room, self.zip)
        room = self.elsewhere()
        restore(room, self.zip)
        found = room.reader().execute("SELECT count(*) FROM words_index WHERE words_index MATCH 'stand*'").fetchone()
        self.assertEqual(found[0], 6)

    def test_nothing_but_a_file_is_written_over(self) -> None:
        """A device, a folder, or a link to one stays what it is, and nothing is left beside it."""
        pipe, folder, link = self.folder / "pipe", self.folder / "there", self.folder / "link"
        os.mkfifo(pipe)
        folder.mkdir()
        link.symlink_to(os.devnull)
        for target in (pipe, folder, link):
            with self.assertRaisesRegex(CallerError, "no ordinary file"):
                export(self.room, target)
        self.assertTrue(pipe.is_fifo() and folder.is_dir() and link.is_symlink())
        self.assertTrue(Path(os.devnull).is_char_device())
        self.assertEqual(list(self.folder.glob("*.part")), [])
        self.zip.write_bytes(b"older")
        self.assertEqual(export(self.room, self.zip), 8)

    def test_the_mail_is_in_ordinary_mboxes(self) -> None:
        """Any program that reads mbox reads it."""
        export(self.room, self.zip)
        with tempfile.TemporaryDirectory() as folder, zipfile.ZipFile(self.zip) as archive:
            archive.extractall(folder)
            counts = {}
            for path in Path(folder, "mail").glob("*.mbox"):
                box = mailbox.mbox(path)
                counts[path.stem] = len(box)
                box.close()
        stood: dict[str, int] = {}
        for number in self.numbers:
            stood[self.row(number).place] = stood.get(self.row(number).place, 0) + 1
        self.assertEqual(counts, stood)

    def test_mail_that_is_here_is_not_overwritten(self) -> None:
        """An export comes into an empty folder only."""
        export(self.room, self.zip)
        before = self.state()
        with self.assertRaises(Conflict):
            restore(self.room, self.zip)
        self.assertEqual(self.state(), before)

    def test_a_damaged_export_brings_nothing_in(self) -> None:
        """Cut off, changed or of another kind: one clear error, and the folder stays empty."""
        export(self.room, self.zip)
        whole = self.zip.read_bytes()
        changed = self.folder / "changed.zip"
        with zipfile.ZipFile(self.zip) as old, zipfile.ZipFile(changed, "w") as new:
            for name in old.namelist():
                data = old.read(name)
                new.writestr(name, data.replace(b"percent", b"PERCENT") if name.endswith(".mbox") else data)
        for name, content in (
            ("cut", whole[: len(whole) // 2]),
            ("text", b"no zip"),
            ("changed", changed.read_bytes()),
        ):
            with self.subTest(name=name):
                bad = self.folder / f"{name}.bad"
                bad.write_bytes(content)
                room = Mailroom(self.folder / f"room-{name}", self.clock)
                with self.assertRaises(HieranomeError):
                    restore(room, bad)
                self.assertEqual(room.reader().execute("SELECT count(*) FROM messages").fetchone()[0], 0)
                self.assertGreater(room.reader().execute("SELECT count(*) FROM places").fetchone()[0], 5)
                room.close()

    def test_another_format_is_told(self) -> None:
        """A newer export says what to do."""
        with zipfile.ZipFile(self.zip, "w") as archive:
            archive.writestr("about.json", '{"format": 99, "version": "9.0"}')
        with self.assertRaisesRegex(CallerError, "format 99"):
            restore(self.elsewhere(), self.zip)


ROUTINE = {"id": 1, "name": "A", "key": "", "changed_at": 1, "actions": '[{"verb": "fly", "target": ""}]'}
_CIRCLE = {"name": "All", "who": "all", "line": "", "texts": {"": "Gone."}}
_NOTICE = {"on": True, "begins": 9, "ends": 3, "days": 7, "circles": [_CIRCLE]}
AWAY = {"key": "away", "value": json.dumps(_NOTICE)}


def words(said: dict[str, object]) -> str:
    """What a topic looks for, as it is stored."""
    return json.dumps({"said": said, "beside": []})


class MalformedTest(RoomCase):
    """What is no whole export comes in not at all."""

    made = 0

    def setUp(self) -> None:
        super().setUp()
        source = Mailroom(self.folder / "source", self.clock)
        source.set_owner([OWNER])
        for number in range(4):
            receive(source, letter(f"Letter {number}"))
        correct(source, [1], "shelf")
        kept = answering.describe(source, "letters to confirm the risers", "Letters")
        answering.answer(source, kept.id, [1, 2], True)
        export(source, self.folder / "whole.zip")
        source.close()
        with zipfile.ZipFile(self.folder / "whole.zip") as archive:
            self.parts = {name: archive.read(name) for name in archive.namelist()}

    def refused(self, changed: dict[str, bytes | None]) -> str:
        """An export with some parts changed, or left out; how it is refused, with nothing brought in."""
        file = self.folder / "changed.zip"
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, content in (self.parts | changed).items():
                if content is not None:
                    archive.writestr(name, content)
        self.made += 1
        room = Mailroom(self.folder / f"target-{self.made}", self.clock)
        self.addCleanup(room.close)
        with self.assertRaises(HieranomeError) as caught:
            restore(room, file)
        count = room.reader().execute("SELECT count(*) FROM messages").fetchone()[0]
        self.assertEqual((count, len(room.engine), dict(room.relations.items())), (0, 0, {}))
        self.assertIsNotNone(receive(room, letter("Still at work")))
        return str(caught.exception)

    def lines(self, table: str, change: Callable[[dict[str, Any]], object]) -> dict[str, bytes | None]:
        """A table with every line changed."""
        name = f"{table}.jsonl"
        rows = [json.loads(line) for line in self.parts[name].splitlines()]
        for row in rows:
            change(row)
        return {name: b"\n".join(json.dumps(row).encode() for row in rows)}

    def test_what_is_malformed_is_refused_whole(self) -> None:
        """Parts missing, lines that are none, nesting, numbers, lengths and places that cannot be, a model that is
        none."""
        deep = b"[" * 100_000
        for name, changed in {
            "no about": {"about.json": None},
            "about is a list": {"about.json": b"[]"},
            "about nests": {"about.json": deep},
            "another format": {"about.json": b'{"format": 99}'},
            "no messages": {"messages.jsonl": None},
            "no mbox": {"mail/shelf.mbox": None},
            "lines nest": {"sums.jsonl": deep},
            "a line is a number": {"sums.jsonl": b"7\n"},
            "a line is cut": {"threads.jsonl": b'{"id": '},
            "a line is endless": {"sums.jsonl": b'"' + b"x" * (MAX_LINE + 10)},
            "an unknown column": self.lines("messages", lambda row: row.update(surprise=1)),
            "a column of SQL": self.lines("sums", lambda row: row.update({"key) VALUES (1); --": 1})),
            "an offset below": self.lines("messages", lambda row: row.update(offset=-5)),
            "an offset beyond": self.lines("messages", lambda row: row.update(offset=10**12)),
            "a length below": self.lines("messages", lambda row: row.update(length=-1)),
            "a length beyond": self.lines("messages", lambda row: row.update(length=10**12)),
            "a number beyond": self.lines("messages", lambda row: row.update(size=2**70)),
            "a place that is not": self.lines("messages", lambda row: row.update(place="attic")),
            "a digest of another": self.lines("messages", lambda row: row.update(digest={"base64": "AAAA"})),
            "a vector that is none": self.lines("vectors", lambda row: row.update(features={"base64": "AAE="})),
            "a vector of text": self.lines("vectors", lambda row: row.update(features="x")),
            "a lesson of nothing": self.lines("lessons", lambda row: row.update(features={"base64": "AAE="})),
            "a topic's words are none": self.lines("topics", lambda row: row.update(words="[]")),
            "a topic's words count too much": self.lines("topics", lambda row: row.update(words=words({"a": 1e9}))),
            "a topic's words count text": self.lines("topics", lambda row: row.update(words=words({"a": "b"}))),
            "a topic learns from nothing": self.lines("topics", lambda row: row.update(others='["x"]')),
            "a topic's bucket is not": self.lines("topics", lambda row: row.update(bucket="attic")),
            "an answer about nothing": self.lines("topic_answers", lambda row: row.update(message=99)),
            "a routine of nothing": {"routines.jsonl": json.dumps(ROUTINE | {"actions": "[]"}).encode()},
            "a routine of what nobody can": {"routines.jsonl": json.dumps(ROUTINE).encode()},
            "a queue without states": {"queues.jsonl": b'{"id": 1, "name": "Cases", "of": "bucket", "target": "desk"}'},
            "a notice that ends before it begins": {"settings.jsonl": json.dumps(AWAY).encode()},
            "settings of another kind": self.lines("settings", lambda row: row.update(value="[[[")),
        }.items():
            with self.subTest(name):
                self.assertTrue(self.refused(changed))

    def test_what_is_no_zip_is_refused(self) -> None:
        """Neither a text nor half an export is one."""
        whole = (self.folder / "whole.zip").read_bytes()
        for content in (b"", b"no zip", whole[:-40], whole[: len(whole) // 2]):
            file = self.folder / "part.zip"
            file.write_bytes(content)
            with self.assertRaises(HieranomeError):
                restore(self.room, file)

    def test_the_whole_one_comes_in(self) -> None:
        """After all refusals, what is whole is taken."""
        self.refused({"about.json": None})
        self.assertEqual(restore(self.room, self.folder / "whole.zip"), 4)
