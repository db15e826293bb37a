"""Reading mail as it comes."""

import importlib.util
import unittest
from pathlib import Path

from hieranome.mail.headers import one_line, parse_date
from hieranome.mail.mime import parse
from hieranome.mail.people import addresses
from hieranome.mail.reading import read
from tests.mail.nasty import NASTY


def library_samples() -> list[Path]:
    """The sample messages of the standard library's own tests, where this Python has them."""
    spec = importlib.util.find_spec("test")
    roots = list(spec.submodule_search_locations or []) if spec else []
    return sorted(p for root in roots for p in Path(root, "test_email", "data").glob("*.txt"))


class NastyTest(unittest.TestCase):
    def test_reads_what_is_broken(self) -> None:
        """Every nasty message is read without an error, and its facts are usable text."""
        for name, raw in NASTY.items():
            with self.subTest(name):
                reading = read(raw)
                self.assertEqual(reading.facts.size, len(raw))
                for text in (reading.text, reading.facts.subject, reading.facts.sender.address):
                    text.encode("utf-8")
                for part in reading.parts:
                    found = parse(raw).find(part.path)
                    assert found is not None
                    self.assertIsInstance(found.content, bytes)

    def test_reads_the_samples_of_the_standard_library(self) -> None:
        """Its own test messages are read, where they are installed."""
        samples = library_samples()
        if not samples:
            self.skipTest("this Python ships without its tests; the nasty set covers the same ground")
        for path in samples:
            with self.subTest(path.name):
                self.assertEqual(read(path.read_bytes()).facts.size, path.stat().st_size)

    def test_only_headerless_mail_is_unreadable(self) -> None:
        """Other damage is a feature of a message, not a free pass."""
        self.assertFalse(read(NASTY["no header at all"]).facts.readable)
        self.assertTrue(read(NASTY["header without colon"]).facts.readable)
        self.assertTrue(read(NASTY["unclosed boundary"]).facts.readable)

    def test_texts_of_damaged_mail_survive(self) -> None:
        """What can be read of damaged mail is read."""
        self.assertIn("hello", read(NASTY["unclosed boundary"]).text)
        self.assertIn("hello", read(NASTY["unknown charset"]).text)
        self.assertEqual(read(NASTY["8-bit headers"]).facts.subject, "Réunion à midi")
        self.assertEqual(read(NASTY["raw utf-8 headers"]).facts.subject, "Réunion à midi ☂")
        self.assertEqual(read(NASTY["right to left"]).facts.subject, "שלום")


class HeaderTest(unittest.TestCase):
    def test_neighbouring_encoded_words_join(self) -> None:
        """A character split over two encoded words comes out whole."""
        self.assertEqual(one_line("=?utf-8?q?=C3?= =?utf-8?q?=A9t=C3=A9?="), "été")

    def test_addresses_with_quoted_names(self) -> None:
        """Commas and brackets in a quoted name do not split an address."""
        found = addresses('"Penderick, Milo (stage)" <Milo@Granary.example>, jess@hall.example')
        self.assertEqual([(c.name, c.address) for c in found], [
            ("Penderick, Milo (stage)", "milo@granary.example"), ("", "jess@hall.example"),
        ])  # fmt: skip

    def test_simple_and_general_parse_agree(self) -> None:
        """The short way for plain addresses gives what the long way gives."""
        for value in ("Jess Tarrant <jess@hall.example>", "jess@hall.example", '"Jess" <jess@hall.example>'):
            self.assertEqual(addresses(value), addresses(value + ", x@y.example")[:1])

    def test_dates_that_cannot_be(self) -> None:
        """Impossible dates are none, possible ones are seconds and the sender's hour."""
        self.assertIsNone(parse_date("Thirsday, 45 Foo"))
        self.assertIsNone(parse_date(""))
        self.assertEqual(parse_date("Tue, 04 Nov 2025 10:00:00 +0100"), (1762246800, 10))


class WhenTest(unittest.TestCase):
    def test_received_stands_in_for_a_missing_date(self) -> None:
        """A message without Date goes by the receiving machine's clock, and says so."""
        facts = read(NASTY["date from Received"]).facts
        self.assertEqual((facts.sent_at, facts.defects[0]), (1762246800, "date missing"))

    def test_a_date_that_does_not_fit_is_not_believed(self) -> None:
        """A date fifty years ahead of the receiving machine's clock does not float a message to the top."""
        facts = read(NASTY["date far in the future"]).facts
        self.assertEqual((facts.sent_at, facts.defects[0]), (1762246800, "date off"))


class PartsTest(unittest.TestCase):
    def test_file_names_lose_their_paths(self) -> None:
        """No attachment can name a place outside."""
        self.assertEqual(read(NASTY["path in file name"]).parts[0].name, ".._.._etc_passwd")

    def test_rfc_2231_names_are_put_together(self) -> None:
        """A continued, encoded file name comes out whole."""
        self.assertEqual(read(NASTY["rfc 2231 name"]).parts[0].name, "résumé.pdf")

    def test_html_is_read_as_text(self) -> None:
        """Scripts are not text; words are."""
        facts = read(NASTY["html only"]).facts
        self.assertEqual(facts.text, "Hello you")
        self.assertTrue(facts.html_only)

    def test_hidden_words_do_not_count(self) -> None:
        """Text that nobody sees is left out and noted."""
        raw = (
            b"From: a@b.example\nContent-Type: text/html\n\n<p>Seen</p><div style='display:none'>"
            + b"urgent " * 40
            + b"</div>"
        )
        facts = read(raw).facts
        self.assertEqual(facts.text, "Seen")
        self.assertIn("hidden text", facts.defects)

    def test_an_attached_message_is_a_part(self) -> None:
        """A message within a message is kept as an attachment with its source."""
        raw = NASTY["message in message"]
        part = parse(raw).find("1")
        assert part is not None
        self.assertIn(b"Subject: inner", part.content)


class ListTest(unittest.TestCase):
    def test_list_ids_from_many_headers(self) -> None:
        """List-Id, List-Post and older habits name the list."""
        for header, wanted in (
            ("List-Id: Halls <exchange.halls.example>", "exchange.halls.example"),
            ("List-Post: <mailto:exchange@halls.example>", "exchange@halls.example"),
            ("X-BeenThere: exchange@halls.example", "exchange@halls.example"),
            ("Mailing-List: list exchange@halls.example; contact x", "exchange@halls.example"),
            ("Sender: owner-exchange@halls.example", "exchange@halls.example"),
            ("List-Post: NO (posting not allowed on this list)", ""),
            ("List-Post: NO\nX-BeenThere: exchange@halls.example", "exchange@halls.example"),
            ("List-Post: no@halls.example", "no@halls.example"),
        ):
            self.assertEqual(read(f"From: a@b.example\n{header}\n\nx".encode()).facts.list_id, wanted, header)
