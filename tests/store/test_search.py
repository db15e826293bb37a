"""The search index agrees with reading every message."""

import random
import re
import sqlite3
import unicodedata
import unittest
from dataclasses import asdict
from datetime import UTC, datetime

from hieranome.app.arrival.arrive import receive
from hieranome.app.reading.incoming import words_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.conditions import All, Any, Held, Holds, Is, Node, Not, Stands, Tagged, Test, Words
from hieranome.core.files import kinds_of
from hieranome.core.matching import Mail, holds
from hieranome.core.query import read_query
from hieranome.core.text import folded
from hieranome.core.values import Names
from hieranome.demo import mailgen
from hieranome.mail.reading import correspondents_text, read
from hieranome.store import accounts, marked, messages, places, search, tags
from hieranome.store.accounts import NewAccount
from hieranome.store.messages import Message
from tests.generated import example, given, settings, st
from tests.support import NOON, OWNER, RoomCase, letter, store_of

NOW = datetime(2025, 11, 1, 12, tzinfo=UTC)
FOREIGN = [
    letter("会議室の予約について", sender="山田 <yamada@hall.example>", body="明日の会議室は三階です。", at=NOON + 1),
    letter("ขอเลื่อนการซ้อม", body="พรุ่งนี้ซ้อมไม่ได้ครับ", at=NOON + 2),
    letter("Überweisung für Müller", sender="Zoë Ångström <zoe@nord.example>", body="Größe naïve façade", at=NOON + 3),
    letter("Ρεπερτόριο", body="Το ρεπερτόριο της Τρίτης", at=NOON + 4),
    letter("dotted-words and under_scores", body="e-mail to a.b@c.example, 3.5 kg, it's 12:30", at=NOON + 5),
]
NUMBERS = ("seen", "answered", "flagged", "attachments", "size", "time", "score", "certainty")
_NO_SPACES = re.compile(r"[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7af\u0e00-\u0e7f]")


def fold(text: str) -> list[str]:
    """Words as a reader tells them apart: letters and digits in a row, without case and accents; a script without
    spaces letter by letter."""
    found: list[str] = []
    word = ""
    for one in text:
        if _NO_SPACES.match(one):
            found += [word, one]
            word = ""
        elif unicodedata.category(one)[0] in "LN":
            plain = unicodedata.normalize("NFD", one)[0] if "LATIN" in unicodedata.name(one, "") else one
            word += plain.lower()
        elif unicodedata.category(one) != "Mn":
            found.append(word)
            word = ""
    return [one for one in [*found, word] if one]


class Plain:
    """A message to be looked through word by word."""

    def __init__(self, row: Message, raw: bytes, held: bool, carried: set[int]) -> None:
        reading = read(raw)
        self.held = held
        self.tags = carried
        self.address = row.sender_address
        self.row = row
        self.mail = Mail(
            asdict(words_of(reading.facts, reading.text)),
            {name: float(getattr(row, name)) for name in NUMBERS},
            {"address": row.sender_address, "domain": reading.facts.sender.domain, "list": row.list_id},
            row.place,
            ["tours@quillmark.example"] if held else [],
            carried,
        )
        self.words = {
            "subject": fold(reading.facts.subject),
            "sender": fold(correspondents_text((reading.facts.sender,))),
            "recipients": fold(correspondents_text(reading.facts.to)),
            "cc": fold(correspondents_text(reading.facts.cc)),
            "list": fold(reading.facts.list_id),
            "files": [word for one in reading.facts.attachments for word in (*fold(one.name), *kinds_of(one))],
            "body": fold(reading.text),
        }

    def holds(self, node: Node) -> bool:
        """Whether the node holds for it."""
        if isinstance(node, Words):
            wanted = fold(node.text)
            return any(self._within(self.words[column], wanted, node.prefix) for column in node.columns)
        if isinstance(node, Test):
            value = float(getattr(self.row, node.field))
            compare = {
                "=": value == node.value,
                ">=": value >= node.value,
                "<": value < node.value,
                ">": value > node.value,
            }
            return compare[node.sign]
        if isinstance(node, Stands):
            return self.row.place == node.place
        if isinstance(node, Is):
            value = {"address": self.address, "domain": self.address.rpartition("@")[2], "list": self.row.list_id}
            return ("." + value[node.field]).endswith("." + node.value) and (
                node.field != "address" or value["address"] == node.value
            )
        if isinstance(node, Holds):
            return node.text in (self.address if node.column == "address" else self.row.subject).lower()
        if isinstance(node, Tagged):
            return bool(node.tags & self.tags)
        if isinstance(node, Held):
            return self.held and node.account in "tours@quillmark.example"
        if isinstance(node, Not):
            return not self.holds(node.part)
        if isinstance(node, Any):
            return any(self.holds(part) for part in node.parts)
        return all(self.holds(part) for part in node.parts)

    @staticmethod
    def _within(text: list[str], wanted: list[str], prefix: bool) -> bool:
        size = len(wanted)
        for at in range(len(text) - size + 1):
            piece = text[at : at + size]
            if piece == wanted or (prefix and piece[:-1] == wanted[:-1] and piece[-1].startswith(wanted[-1])):
                return True
        return False


class FoldedTest(unittest.TestCase):
    """Words are taken apart before a message is stored as the index takes them apart."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.db = sqlite3.connect(":memory:")
        cls.addClassCleanup(cls.db.close)
        cls.db.execute("CREATE VIRTUAL TABLE f USING fts5 (t, tokenize = 'unicode61 remove_diacritics 2')")
        cls.db.execute("CREATE VIRTUAL TABLE v USING fts5vocab (f, instance)")

    def tokens(self, text: str) -> list[str]:
        """What the index takes a text apart into."""
        self.db.execute("DELETE FROM f")
        self.db.execute("INSERT INTO f VALUES (?)", (text,))
        return [row[0] for row in self.db.execute("SELECT term FROM v ORDER BY offset")]

    @given(
        st.text(
            st.characters(
                max_codepoint=0x4FF, exclude_categories=["Cn", "Cs"], exclude_characters="\0\u037f\u01e0\u01e1"
            ),
            max_size=60,
        )
    )
    @example("Müller's naïve façade, Ångström İstanbul ŒUVRE ß ﬀ Größe e\u0301 ²½ x_y")
    @example("Ρεπερτόριο ΆΈ Щёлково йод ҐЄ עברית العربية ไทย 会議 한국어 𝒜 😀")
    @settings(max_examples=600)
    def test_the_same_words(self, text: str) -> None:
        """Latin, Greek, Cyrillic and what stands between them, as far as the index knows (Unicode 6.1)."""
        self.assertEqual(folded(text).split(), self.tokens(text))


class SearchAgreesTest(RoomCase):
    numbers: list[int]
    tags: dict[str, frozenset[int]]
    held: frozenset[int]
    filled: bytes
    plain: list[Plain]

    @classmethod
    def setUpClass(cls) -> None:
        cls.numbers, cls.tags, cls.plain = [], {}, []
        cls.filled = store_of(cls.fill)

    @classmethod
    def fill(cls, room: Mailroom) -> None:
        """Two hundred messages, some of them tagged, marked, and held by a mailbox."""
        room.set_owner([OWNER])
        with room.change():
            cls.numbers += [receive(room, one.raw) or 0 for one in mailgen.generate(220, 3)]
            cls.numbers += [receive(room, raw) or 0 for raw in FOREIGN]
        rng = random.Random(4)
        at = NewAccount("tours@quillmark.example", "", "tours", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
        with room.store.atomic() as db:
            account = accounts.add(db, at, NOON)
            insert = "INSERT INTO folders (account, name, role, place) VALUES (?, 'INBOX', 'inbox', 'desk')"
            folder = db.execute(insert, (account,)).lastrowid
            cls.held = frozenset(rng.sample(cls.numbers, 60))
            db.executemany(
                "INSERT INTO copies (folder, message, seen, answered, flagged, at, size, email_id)"
                " VALUES (?, ?, 0, 0, 0, 0, 0, '')",
                [(folder, number) for number in cls.held],
            )
            for name in ("One", "Two"):
                number = tags.add(db, name, 0, 0, name)
                cls.tags[name] = frozenset({number, *cls.tags.get("One", ())})
                tags.put_on(db, rng.sample(cls.numbers, 70), number)
            for mark in ("seen", "flagged"):
                marked.mark(db, rng.sample(cls.numbers, 90), mark, True)
        db = room.reader()
        carried = tags.of(db, cls.numbers)
        cls.plain = [
            Plain(messages.get(db, n), messages.raw(db, n), n in cls.held, set(carried.get(n, ()))) for n in cls.numbers
        ]

    def stored(self) -> bytes:
        return self.filled

    def setUp(self) -> None:
        super().setUp()
        self.titles = {place.name: place.title for place in places.every(self.room.reader())}
        self.rng = random.Random(4)

    def _term(self) -> str:
        rng = self.rng
        one = rng.choice(self.plain)
        column = rng.choice([name for name, words in one.words.items() if words])
        words = one.words[column]
        at = rng.randrange(len(words))
        word = words[at]
        kind = rng.randrange(11)
        operator = {"sender": "from", "recipients": "to", "files": "file"}.get(column, column)
        if kind == 0:
            return f'"{" ".join(words[at : at + rng.choice([2, 3])])}"'
        if kind == 1 and len(word) > 2 and not _NO_SPACES.search(word):
            return f"{word[: rng.randrange(2, len(word))]}*"
        if kind == 2:
            return f'{operator}:"{word}"'
        if kind == 3:
            return rng.choice(["mark:unread", "mark:flagged", "mark:read", "file:any", "mark:answered"])
        if kind == 4:
            return rng.choice(["bucket:desk", "bucket:shelf", "bucket:drain", 'bucket:"your call"'])
        if kind == 5:
            return rng.choice(["larger:2KB", "smaller:3KB", "score:20..70", "score:>60", "certainty:<50"])
        if kind == 6:
            day = datetime.fromtimestamp(one.row.time, UTC)
            return f"{rng.choice(['before', 'after', 'on'])}:{day:%Y-%m-%d}"
        if kind == 8:
            return rng.choice(["tag:one", "tag:two"])
        if kind == 9:
            domain = one.address.rpartition("@")[2]
            at = rng.randrange(max(1, len(one.row.subject) - 3))
            inside = one.row.subject[at : at + 4].replace('"', "").strip()
            exact = [f"from:{one.address}", f"from:@{domain}", f"from:@{domain.partition('.')[2]}"]
            exact += [f"list:{one.row.list_id}"] if one.row.list_id else []
            return rng.choice([*exact, *([f'subject:"*{inside}*"'] if inside.isascii() and inside else [])])
        if kind == 7:
            return rng.choice(["account:tours", "account:TOURS@quillmark.example", "account:nobody"])
        return f'"{word}"'

    def _line(self, depth: int = 2) -> str:
        parts = []
        for _ in range(self.rng.choice([1, 1, 2, 2, 3])):
            part = self._term() if depth == 0 or self.rng.random() < 0.75 else f"({self._line(depth - 1)})"
            parts.append(self.rng.choice(["", "", "", "not ", "-"]) + part)
        return self.rng.choice([" ", " or "]).join(parts)

    def test_two_hundred_random_lines(self) -> None:
        """Whatever is asked, the index finds what a reader of every message finds, in every order; and so do the
        conditions asked of each message before it is stored."""
        db = self.room.reader()
        some = 0
        for _ in range(200):
            line = self._line()
            with self.subTest(line):
                node = read_query(line, Names(self.titles, NOW, self.tags)).node
                wanted = {one.row.id for one in self.plain if one.holds(node)}
                self.assertEqual({one.row.id for one in self.plain if holds(node, one.mail)}, wanted)
                hits = search.first(db, node, "time")
                self.assertEqual(set(hits), wanted)
                some += 0 < len(wanted) < len(self.plain)
                for order in ("time", "importance"):
                    found = search.ordered(db, node, order, "", 500).messages  # type: ignore[arg-type]
                    self.assertEqual({one.id for one in found}, wanted)
                    known = search.page_of(db, search.first(db, node, order), order, 500).messages  # type: ignore[arg-type]
                    self.assertEqual(known, found)
                    key = "time" if order == "time" else "score"
                    keys = [(getattr(one, key), one.id) for one in found]
                    self.assertEqual(keys, sorted(keys, reverse=True))
                ranked = search.ranked(db, node, hits, "", 500).messages
                self.assertEqual({one.id for one in ranked}, wanted)
        self.assertGreater(some, 100)

    def test_pages_hold_every_hit_once(self) -> None:
        """Page by page, each order gives all hits once."""
        db = self.room.reader()
        node = All(())
        for order in ("time", "importance", "relevance"):
            seen: list[int] = []
            cursor = ""
            while True:
                if order == "relevance":
                    page = search.ranked(db, node, search.first(db, node, "time"), cursor, 30)
                else:
                    page = search.ordered(db, node, order, cursor, 30)  # type: ignore[arg-type]
                seen += [one.id for one in page.messages]
                cursor = page.next
                if not cursor:
                    break
            self.assertEqual(sorted(seen), sorted(self.numbers))
            self.assertEqual(len(seen), len(set(seen)))

    def test_relevance_puts_the_subject_first(self) -> None:
        """A word in the subject weighs more than one in a long text."""
        text = self.take(letter("Notes", body="word " * 80 + "bassoon " + "word " * 80, at=NOON + 90))
        subject = self.take(letter("The bassoon case", body="It came back.", at=NOON + 50))
        node = read_query("bassoon", Names(self.titles, NOW)).node
        db = self.room.reader()
        found = search.ranked(db, node, search.first(db, node, "time"), "", 10).messages
        self.assertEqual([one.id for one in found], [subject, text])

    def test_parts_of_words_without_spaces(self) -> None:
        """One, two or more characters of such a script are found wherever they stand."""
        for part in ("会", "会議", "議室", "会議室", "予約", "三階です", "室"):
            node = read_query(part, Names(self.titles, NOW)).node
            subjects = [self.row(number).subject for number in search.first(self.room.reader(), node, "time")]
            self.assertEqual(subjects, ["会議室の予約について"], part)
