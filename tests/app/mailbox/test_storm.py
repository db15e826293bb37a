"""Three hundred random steps against a server that fails: nothing is lost, doubled or learned twice."""

from __future__ import annotations

import random
from collections import Counter, defaultdict
from contextlib import contextmanager
from typing import Any

from hieranome.app import shaping_tags, tagging
from hieranome.app.filing import file_away
from hieranome.app.mailbox.syncing import sync
from hieranome.app.room.marks import mark
from hieranome.app.teaching.correct import correct
from hieranome.core.errors import WorldError
from hieranome.mail.imap import Imap
from hieranome.store import accounts, copies, keywords, messages, tags
from tests.app.arrival.test_poison import odd_messages
from tests.app.mailbox.case import MailboxCase
from tests.mail.outsider import DovecotByLine
from tests.mail.servers import LOGIN, MailServer, Standin
from tests.patience import PATIENCE
from tests.support import NOON, SOAK, crlf, letter

WITHOUT: tuple[tuple[str, ...], ...] = (
    (),
    ("MOVE",),
    ("MOVE", "UIDPLUS"),
    ("CONDSTORE", "QRESYNC"),
    ("QRESYNC",),
    ("OBJECTID",),
    ("LIST-STATUS", "SPECIAL-USE"),
    ("ENABLE",),
    ("UIDPLUS",),
    ("MOVE", "UIDPLUS", "CONDSTORE", "QRESYNC", "OBJECTID", "LIST-STATUS", "SPECIAL-USE", "ENABLE", "IDLE"),
)
"""What the server does not offer, in turn."""
BUCKETS = ("desk", "shelf", "digest", "drain")


class Killed(BaseException):
    """The process ends here."""


def subjects(found: Counter[bytes]) -> list[bytes]:
    """How messages begin to tell what they are about."""
    return [raw[at : at + 40] for raw in found.elements() if (at := max(0, raw.find(b"Subject"))) >= 0]


class Storm(MailboxCase):
    """The steps, and what must be true whenever the mailbox comes to rest."""

    STEPS = 300

    site: Standin | DovecotByLine

    def begin(self) -> Standin | DovecotByLine:
        """The server of this storm."""
        return Standin()

    def start_server(self) -> MailServer:
        self.site = self.begin()
        for name in ("Shelf", "Digest", "Drain"):
            self.site.box.create(f"Hieranome/{name}")
        self.site.box.create("Projects")
        return self.site

    def test_nothing_is_lost_whatever_fails(self) -> None:
        """Every copy somebody placed stands once on the server and once here; every lesson was made once."""
        rng = random.Random(20261125)
        self.odd = odd_messages(3_000)
        self.expected: Counter[bytes] = Counter()
        self.taught: list[tuple[int, str]] = []
        self.touched: set[int] = set()
        self.made = 0
        self.told: list[str] = []
        self.tagged: defaultdict[int, set[str]] = defaultdict(set)
        for name in ("Carnets", "Visas"):
            shaping_tags.make(self.room, name)
        for step in range(self.STEPS):
            if step % 30 == 0:
                self.site.offer(WITHOUT[step // 30 % len(WITHOUT)])
                self.site.drop_all()
            with self.subTest(step=step):
                try:
                    action = rng.choice(self.actions())
                    self.told.append(f"{step} {action}")
                    getattr(self, action)(rng)
                except Killed:
                    self.reopen()
                self.trouble(rng)
                if rng.random() < 0.5:
                    self.come_to_rest()
                    self.check()
        self.come_to_rest()
        self.check()
        self.assertGreater(len(self.taught), self.STEPS // 8)
        self.assertGreater(len(self.expected), self.STEPS // 8)

    def actions(self) -> list[str]:
        """The steps, some oftener than others."""
        return [
            *["arrival"] * 4,
            *["verdict"] * 4,
            *["move_there_at_random"] * 5,
            "copy_there",
            "expunge_there",
            "filed",
            "flag_here",
            "flag_there",
            *["tag_here", "tag_there"] * 2,
            "renumber",
        ]

    # --- what happens --------------------------------------------------------------------

    def arrival(self, rng: random.Random) -> None:
        """One to three messages come, some of them where a rule of the owner's puts them."""
        for _ in range(rng.randrange(1, 4)):
            self.made += 1
            raw = crlf(letter(f"Message {self.made}", at=NOON + self.made, body="x" * rng.randrange(400)))
            if self.made % 10 == 0:  # every tenth was made to break its reader
                raw = crlf(rng.choice(self.odd) + f"\n{self.made}\n".encode())
            self.site.box.append(rng.choice(["INBOX", "INBOX", "INBOX", "Projects", "Junk"]), raw)
            self.expected[self.kept(raw)] += 1

    def kept(self, raw: bytes) -> bytes:
        """What the server keeps of a message."""
        return raw

    def known(self, rng: random.Random) -> messages.Message | None:
        """A message that nothing was done to since the last rest and that stands on the server once."""
        rows = self.room.reader().execute(
            "SELECT message FROM copies WHERE uid IS NOT NULL AND stage = '' AND goal IS NULL"
            " GROUP BY message HAVING count(*) = 1 AND max(news) = 0 ORDER BY message"
        )
        free = [row[0] for row in rows if row[0] not in self.touched]
        if not free:
            return None
        number = rng.choice(free)
        row = self.row(number)
        return None if row.place == "trash" else row

    def verdict(self, rng: random.Random) -> None:
        """The owner corrects here."""
        row = self.known(rng)
        if row is not None:
            self.touched.add(row.id)
            belongs = rng.choice(BUCKETS)
            correct(self.room, [row.id], belongs)
            self.taught.append((row.id, belongs))

    def filed(self, rng: random.Random) -> None:
        """The owner files here."""
        row = self.known(rng)
        if row is not None:
            self.touched.add(row.id)
            file_away(self.room, [row.id], "archive")

    def where(self, row: messages.Message) -> tuple[str, int] | None:
        """Where another program sees a message: the folder and its UID."""
        raw = messages.raw(self.room.reader(), row.id)
        for folder in self.site.box.folders():
            for uid in self.site.box.uids(folder.name):
                if self.site.box.raw(folder.name, uid) == raw:
                    return folder.name, uid
        return None

    def move_there_at_random(self, rng: random.Random) -> None:
        """Another program moves a message between the inbox, the buckets and the owner's folders."""
        row = self.known(rng)
        found = self.where(row) if row else None
        if row is None or found is None:
            return
        target, place = rng.choice(
            [("INBOX", "desk"), ("Hieranome/Shelf", "shelf"), ("Hieranome/Digest", "digest"),
             ("Hieranome/Drain", "drain"), ("Projects", ""), ("Archive", ""), ("Junk", "drain")]
        )  # fmt: skip
        if target == found[0]:
            return
        self.touched.add(row.id)
        teaching = place and (target == "Junk" or found[0] not in ("Projects", "Archive"))
        stood = "desk" if row.place == "undecided" else row.place
        self.site.box.move(found[0], [found[1]], target)
        if teaching and place != stood:
            self.taught.append((row.id, place))

    def copy_there(self, rng: random.Random) -> None:
        """Another program copies a message into a folder."""
        row = self.known(rng)
        found = self.where(row) if row else None
        if row is not None and found is not None and found[0] != "Projects":
            self.touched.add(row.id)
            self.site.box.copy(found[0], [found[1]], "Projects")
            self.expected[messages.raw(self.room.reader(), row.id)] += 1

    def expunge_there(self, rng: random.Random) -> None:
        """Another program deletes a message for good."""
        row = self.known(rng)
        found = self.where(row) if row else None
        if row is not None and found is not None:
            self.touched.add(row.id)
            self.site.box.expunge(found[0], [found[1]])
            self.expected[messages.raw(self.room.reader(), row.id)] -= 1

    def flag_here(self, rng: random.Random) -> None:
        """The owner marks a message."""
        row = self.known(rng)
        if row is not None:
            self.touched.add(row.id)
            mark(self.room, [row.id], rng.choice(["read", "flagged"]))

    def flag_there(self, rng: random.Random) -> None:
        """Another program marks a message."""
        row = self.known(rng)
        found = self.where(row) if row else None
        if row is not None and found is not None:
            self.touched.add(row.id)
            self.site.box.flag(found[0], [found[1]], lambda flags: flags ^ {"\\Flagged"})

    def tag_here(self, rng: random.Random) -> None:
        """The owner puts a tag on, or takes it off."""
        row = self.known(rng)
        if row is not None:
            self.touched.add(row.id)
            tag = rng.choice(tags.every(self.room.reader()))
            carried = tag.id in tags.of(self.room.reader(), [row.id]).get(row.id, [])
            (tagging.take_off if carried else tagging.put_on)(self.room, [row.id], tag.id)
            self.tagged[row.id] ^= {tag.keyword}

    def tag_there(self, rng: random.Random) -> None:
        """Another program sets a keyword, or clears it, and may move the message at once."""
        row = self.known(rng)
        found = self.where(row) if row else None
        if row is not None and found is not None:
            self.touched.add(row.id)
            keyword = rng.choice(tags.every(self.room.reader())).keyword
            self.site.box.flag(found[0], [found[1]], lambda flags: flags ^ {keyword})
            self.tagged[row.id] ^= {keyword}
            if found[0] in ("Projects", "Archive") and rng.random() < 0.5:
                self.site.box.move(found[0], [found[1]], {"Projects": "Archive", "Archive": "Projects"}[found[0]])

    def renumber(self, rng: random.Random) -> None:
        """The server loses an index."""
        self.site.renumber(rng.choice(["INBOX", "Hieranome/Shelf", "Hieranome/Digest"]))

    # --- what fails ----------------------------------------------------------------------

    def trouble(self, rng: random.Random) -> None:
        """Something fails during the next look, or nothing."""
        faults = self.site.faults
        kind = rng.randrange(8)
        self.told[-1] += ("", " drop after", " drop before", " drop behind", " kill")[kind + 1 if kind < 4 else 0]
        if kind == 0:
            faults.drop_after = rng.randrange(50, 6000)
        elif kind == 1:
            faults.drop_before.add(rng.choice(["UID MOVE", "UID COPY", "UID STORE", "UID EXPUNGE", "EXPUNGE"]))
        elif kind == 2:
            faults.drop_behind.add(rng.choice(["UID MOVE", "UID COPY", "UID STORE", "UID EXPUNGE", "EXPUNGE"]))
        elif kind == 3:
            self.kill_after(rng.randrange(1, 12))

    def kill_after(self, transactions: int) -> None:
        """Let the process end at the beginning of a transaction to come."""
        whole = self.room.store.atomic
        left = [transactions]

        @contextmanager
        def atomic() -> Any:
            left[0] -= 1
            if left[0] < 0:
                raise Killed
            with whole() as db:
                yield db

        self.room.store.atomic = atomic  # type: ignore[method-assign]

    def come_to_rest(self) -> None:
        """Look until all is quiet, whatever fails on the way."""
        quiet = 0
        for _ in range(60):
            try:
                self.imap.uids() if self.imap.selected else None
                changed = sync(self.room, self.imap, self.account)
                quiet = 0 if changed else quiet + 1
            except Killed:
                self.reopen()
                quiet = 0
            except WorldError:
                quiet = 0
                self.imap.cut()
                self.connect_again()
            if quiet == 2:
                self.touched.clear()
                return
        self.fail("the mailbox does not come to rest")

    def connect_again(self) -> None:
        """Connect until it works."""
        for _ in range(10):
            try:
                self.imap = Imap.connect(self.server.server, LOGIN, timeout=PATIENCE)
            except WorldError:
                continue
            self.addCleanup(self.imap.close)
            return
        self.fail("the server cannot be reached")

    # --- what must hold ------------------------------------------------------------------

    def check(self) -> None:
        """At rest: the server, the record and what was done agree."""
        box = self.site.box
        there: Counter[bytes] = Counter()
        record: dict[str, list[int]] = {}
        for folder in accounts.folders(self.room.reader(), self.account):
            record[folder.name] = copies.uids(self.room.reader(), folder.id)
        for folder in box.folders():
            self.assertEqual(record[folder.name], box.uids(folder.name), folder.name)
            there.update(box.raw(folder.name, uid) for uid in box.uids(folder.name))
        lost, doubled = +self.expected - there, there - self.expected
        self.assertEqual((subjects(lost), subjects(doubled)), ([], []), f"lost or doubled; {self.told[-8:]}")
        for folder in accounts.folders(self.room.reader(), self.account):
            for copy in copies.in_folder(self.room.reader(), folder.id):
                self.assertEqual(box.raw(folder.name, copy.uid or 0), messages.raw(self.room.reader(), copy.message))
                self.assertEqual(copy.stage, "")
                if len(copies.of_message(self.room.reader(), copy.message)) == 1:
                    place = self.row(copy.message).place
                    self.assertEqual("desk" if place == "undecided" else place, folder.place)
        self.assertEqual(Counter(self.lessons()), Counter(self.taught))
        self.check_tags()

    def check_tags(self) -> None:
        """Every tagged message carries its tags here and there."""
        db = self.room.reader()
        names = {tag.id: tag.keyword for tag in tags.every(db)}
        carried = {number: {names[tag] for tag in those} for number, those in tags.of(db, list(self.tagged)).items()}
        self.assertEqual(carried, {number: words for number, words in self.tagged.items() if words}, self.told[-8:])
        for number, words in self.tagged.items():
            for copy in copies.of_message(db, number):
                if copy.uid is not None:
                    told = keywords.of_copy(db, copy.id)
                    self.assertEqual(told, {word.lower() for word in words}, self.told[-8:])
                    there = self.flags_there(accounts.folder(db, copy.folder).name, copy.uid)
                    self.assertEqual({w.lower() for w in there & set(names.values())}, told, self.told[-8:])

    def flags_there(self, folder: str, uid: int) -> frozenset[str]:
        """The flags another program sees."""
        found: list[frozenset[str]] = []

        def look(flags: frozenset[str]) -> frozenset[str]:
            found.append(flags)
            return flags

        self.site.box.flag(folder, [uid], look)
        return found[0]


class StormDovecot(Storm):
    """The same at Dovecot, over a line that breaks."""

    STEPS = 300 if SOAK else 40

    def begin(self) -> DovecotByLine:
        return DovecotByLine()

    def kept(self, raw: bytes) -> bytes:
        return raw.replace(b"\0", b"\x80")  # no literal carries NUL (RFC 9051, section 4.3)
