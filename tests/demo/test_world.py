"""The demo's world: enough of it, made up, the same for the same seed."""

import csv
import io
import random
import re
import tempfile
import unittest
from collections import Counter
from datetime import datetime, timedelta
from pathlib import Path

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.evidence import explain
from hieranome.demo import days, house, mailgen
from hieranome.demo.grammar import LISTS, expand, sentences
from hieranome.demo.kinds import KINDS
from hieranome.demo.matters import MATTERS
from hieranome.demo.render import dated
from hieranome.demo.world import SENDERS
from hieranome.mail.mbox import read_mbox
from hieranome.mail.reading import read
from hieranome.store import lessons, messages, places
from tests.made_once import lay_demo
from tests.support import SOAK

TODAY = datetime(2026, 3, 10, 12, 0).astimezone()


class LettersTest(unittest.TestCase):
    def test_enough_is_written_by_hand(self) -> None:
        """At least 150 letters, each with its own subject and text, none of the grammar's."""
        written = [one for one in days.letters(TODAY) if one.belongs != "sent"]
        self.assertGreaterEqual(len(written), 150)
        self.assertEqual(len({read(one.raw).text for one in written}), len(written))

    def test_dates_are_relative_to_today(self) -> None:
        """Nothing lies in the future but what today still brings."""
        for one in days.letters(TODAY):
            self.assertLess(one.at.date(), TODAY.date() + timedelta(days=1))

    def test_every_address_is_made_up(self) -> None:
        """All domains end in .example."""
        raws = [one.raw for one in days.letters(TODAY)] + [one.raw for one in mailgen.generate(400, 1)]
        for raw in raws:
            for domain in re.findall(rb"[\w.+-]+@([\w.-]+\w)|https?://([\w.-]+)", raw.replace(b"=\r\n", b"")):
                name = (domain[0] or domain[1]).decode()
                self.assertTrue(name.endswith(".example"), name)


class GrammarTest(unittest.TestCase):
    def test_every_rule_expands_fully(self) -> None:
        """No bracket or name of the grammar is left in a text."""
        for one in mailgen.generate(1500, 2):
            reading = read(one.raw)
            self.assertNotRegex(reading.facts.subject, r"[|]|<[a-z_]+>")
            self.assertTrue(reading.facts.subject)

    def test_each_message_says_who_it_was_meant_to_come_from(self) -> None:
        """One address a source, whatever the headers say; nothing for the owner's own."""
        addresses: dict[str, set[str]] = {}
        for one in mailgen.generate(1500, 7):
            self.assertEqual(one.source == "", one.belongs == "sent")
            addresses.setdefault(one.source, set()).add(one.sender)
        self.assertEqual({len(found) for found in addresses.values()}, {1})
        self.assertGreater(len(addresses), 50)

    def test_names_in_rules_exist(self) -> None:
        """Every list and sender a kind names is there, and every sender has letters of its own matter."""
        own = mailgen._own("halls 3", mailgen.pool_sender("halls", 3))
        for kind in KINDS:
            rules = [rule for letters in kind.letters.values() for letter in letters for rule in letter]
            for name in re.findall(r"<([a-z_]+)", " ".join(rules)):
                self.assertIn(name, {**LISTS, **own, "stamp": ""})
            for key in kind.senders.split():
                self.assertTrue(key.startswith("*") or key in SENDERS, key)
                if "" not in kind.letters:
                    self.assertLessEqual(set(MATTERS[key]), set(kind.letters), key)

    def test_a_letter_is_about_one_thing(self) -> None:
        """What a subject names the text names too, and a hall writes of itself alone."""
        halls: dict[str, set[str]] = {}
        for one in mailgen.generate(1500, 8):
            reading = read(one.raw)
            subject, text = reading.facts.subject, reading.text
            if one.kind in ("travel asks", "travel tells", "carrier trouble"):
                for number in re.findall(r"\b\d{4}\b", subject):
                    self.assertIn(number, text, subject)
            if one.kind == "hall asks":
                named = re.findall("|".join(LISTS["hall"].split("|")), f"{subject} {text}", re.IGNORECASE)
                halls.setdefault(one.source, set()).update(name.lower() for name in named)
            self.assertNotRegex(f"{subject} {text}", r"\b[Aa] [aeio]")
        self.assertGreater(len(halls), 5)
        for source, named in halls.items():
            self.assertLessEqual(len(named), 1, source)

    def test_a_named_place_says_the_same_again(self) -> None:
        """A key is picked once, wherever it stands; sentences begin with a capital."""
        rng = random.Random(2)
        for _ in range(20):
            said: dict[str, str] = {}
            first, second = expand("<hall:a> <hall:a>", rng, said), expand("<hall:a>", rng, said)
            self.assertEqual(first, f"{second} {second}")
        self.assertEqual(sentences("a old hall. is it?  \n\n\n\nno"), "An old hall. Is it?\n\nNo")

    def test_twenty_in_a_row_do_not_look_alike(self) -> None:
        """Of any twenty neighbouring messages most subjects differ."""
        subjects = [read(one.raw).facts.subject for one in mailgen.generate(600, 3) if one.belongs != "sent"]
        for start in range(0, len(subjects) - 20, 20):
            self.assertGreaterEqual(len(set(subjects[start : start + 20])), 16)

    def test_nesting(self) -> None:
        """Brackets nest and names expand inside them."""
        self.assertEqual(expand("[a[b|b]|a[b]]", random.Random(1)), "ab")


class MailgenTest(unittest.TestCase):
    def write(self, seed: int) -> tuple[bytes, bytes]:
        with tempfile.TemporaryDirectory() as place:
            out, truth = Path(place, "m.mbox"), Path(place, "t.csv")
            mailgen.write(500, seed, out, truth)
            return out.read_bytes(), truth.read_bytes()

    def test_the_same_seed_writes_the_same_bytes(self) -> None:
        """Two runs agree, two seeds differ."""
        self.assertEqual(self.write(1), self.write(1))
        self.assertNotEqual(self.write(1)[0], self.write(2)[0])

    def test_mail_and_truth_belong_together(self) -> None:
        """Every message has a line of truth, in order, the owner's own as sent; dates do not go back."""
        content, table = self.write(4)
        facts = [read(m.raw).facts for m in read_mbox(io.BytesIO(content))]
        mine = {f.message_id for f in facts if f.sender.address.startswith("maren@")}
        rows = list(csv.DictReader(io.StringIO(table.decode())))
        self.assertEqual([row["message_id"] for row in rows], [f.message_id for f in facts])
        self.assertEqual({row["message_id"] for row in rows if row["bucket"] == "sent"}, mine)
        self.assertEqual([f.sent_at for f in facts], sorted(f.sent_at for f in facts))
        self.assertEqual(set(Counter(row["bucket"] for row in rows)), {"desk", "shelf", "digest", "drain", "sent"})

    def test_one_sender_writes_both_kinds(self) -> None:
        """Ticketing, carrier and bank write what matters and what does not."""
        belongs: dict[str, set[str]] = {}
        for one in mailgen.generate(6000, 5):
            belongs.setdefault(one.sender, set()).add(one.belongs)
        for key in ("ticketing", "tollgate_n", "bank", "sensors", "union"):
            self.assertIn("desk", belongs[SENDERS[key].address], key)
            self.assertGreater(len(belongs[SENDERS[key].address]), 1, key)


class HouseTest(unittest.TestCase):
    def test_the_demo_opens_and_goes_on(self) -> None:
        """Sixty days stand there, lessons were given, the rest of today arrives, a second start makes nothing anew."""
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place, "demo")
            lay_demo(folder)
            served = house.open_demo(folder)
            counts = {p.name: p.total for p in places.every(served.room.reader())}
            self.assertGreaterEqual(sum(counts.values()), 1800)
            self.assertGreater(counts["sent"], 50)
            self.assertGreater(len(lessons.ledger(served.room.reader(), 0, 100)), 10)
            self.evidence_adds_up(served.room)
            assert served.delivery is not None
            left = served.delivery.left
            self.assertGreaterEqual(left, 20)
            self.assertTrue(served.delivery.deliver_now())
            served.close()
            said: list[str] = []
            again = house.open_demo(folder, say=said.append)
            self.assertFalse([line for line in said if "Writing" in line])
            assert again.delivery is not None
            self.assertEqual(again.delivery.left, left - 1)
            again.close()

    def test_nothing_bears_a_time_that_has_not_come(self) -> None:
        """At whatever time of day the demo is opened, its mail is older; what arrives later is dated as it arrives."""
        for hour in (6, 11):
            now = TODAY.replace(hour=hour, minute=40)
            mail = days.world(days.opened(now))
            for one in (*mail.history, *mail.week, *mail.last_night):
                self.assertLessEqual(one.at, now)
            for one in (*mail.history[::50], *mail.last_night):
                self.assertEqual(read(one.raw).facts.sent_at, int(one.at.timestamp()))
            for one in mail.to_come:
                facts = read(dated(one.raw, one.at, now)).facts
                self.assertEqual((facts.message_id, facts.sent_at), (one.message_id, int(now.timestamp())))
            years = {one.at.year for one in mail.history}
            self.assertGreaterEqual(len(years), 3)

    def evidence_adds_up(self, room: Mailroom) -> None:
        """The evidence of messages of the demo that are weighed, one in eight or all, sums to its log-odds."""
        db = room.reader()
        numbers = [row[0] for row in db.execute("SELECT message FROM vectors")]
        for number in numbers if SOAK else numbers[::8]:
            facts, vector = read(messages.raw(db, number)).facts, messages.vectors(db, [number])[number]
            context = room.context(False)
            lines = explain(room.engine, vector, facts, context)
            log_odds = room.engine.judge(vector).log_odds
            self.assertAlmostEqual(sum(line.value for line in lines), log_odds, delta=1e-9)
            self.assertTrue(all(line.text or line.kind in ("lesson", "lessons") for line in lines))
            self.assertTrue(all(line.group for line in lines if line.kind in ("prior", "counted")))

    def test_a_folder_that_is_no_demo_is_not_cleared(self) -> None:
        """Only a demo's own data is made anew."""
        with tempfile.TemporaryDirectory() as place:
            kept = Path(place, "precious.txt")
            kept.write_text("keep me")
            house._clear(Path(place))
            self.assertTrue(kept.exists())


class ExchangesTest(unittest.TestCase):
    def test_what_awaits_whose_answer_is_told(self) -> None:
        """Each that was settled names a later message that is there; the same seed gives the same, beyond the count."""
        made = list(mailgen.generate(1_200, 6, exchanges=True))
        by_id = {one.message_id: one for one in made}
        self.assertEqual([one.at for one in made], sorted(one.at for one in made))
        self.assertEqual([one.raw for one in made], [one.raw for one in mailgen.generate(1_200, 6, exchanges=True)])
        self.assertEqual({one.awaits for one in made}, {"", "them", "owner", "promise"})
        for one in made:
            if one.settled_by:
                self.assertGreater(by_id[one.settled_by].at, one.at)
                self.assertTrue(one.awaits)
        plain = [one.message_id for one in mailgen.generate(1_200, 6)]
        self.assertEqual(plain, [one.message_id for one in made if not one.message_id.startswith("<x6.")])
