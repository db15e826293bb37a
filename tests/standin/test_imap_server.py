"""The stand-in is a mail server any program can use: what clients ask beyond what Hieranome does is answered right."""

from __future__ import annotations

import socket
import unittest
from datetime import UTC, date, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from imapclient import IMAPClient
from imapclient.exceptions import IMAPClientAbortError, IMAPClientError

from hieranome.mail.headers import one_line
from hieranome.mail.writing import Written, message_of, recipients
from hieranome.standin.imap_words import Unparsable, from_utf7, numbers, ranges, to_utf7, words
from hieranome.standin.postbox import FolderExists, Full, NoFolder, Postbox
from tests.mail.servers import SECRET, USER, Standin
from tests.patience import PATIENCE
from tests.support import NOON, crlf, letter


class Client(unittest.TestCase):
    """An ordinary client of the stand-in."""

    def setUp(self) -> None:
        self.standin = Standin()
        self.addCleanup(self.standin.close)
        self.client = self.connect()
        self.files = (("plan.txt", "text/plain", b"stage left"), ("stage.png", "image/png", bytes(200)))
        (sender,) = recipients("Ilse Vann <vann@northpier.example>")
        self.raw = message_of(
            Written(sender, recipients("maren@quillmark.example, b@birch.example"), subject="Grüße", body="Hello\n",
                    files=self.files),
            "<one@northpier.example>", datetime(2026, 9, 1, 8, tzinfo=UTC), with_bcc=False,
        )  # fmt: skip
        self.standin.box.append("INBOX", self.raw, ["\\Flagged"], datetime(2026, 9, 1, 8, tzinfo=UTC))
        self.standin.box.append("INBOX", crlf(letter("Second", at=NOON)), [], datetime(2026, 9, 3, 8, tzinfo=UTC))
        last = datetime(2026, 9, 5, 8, tzinfo=UTC)
        self.standin.box.append("INBOX", crlf(letter("Third", body="risers " * 900)), ["\\Seen"], last)
        self.client.select_folder("INBOX")

    def connect(self) -> IMAPClient:
        """Another connection, ended with the test."""
        made = IMAPClient("127.0.0.1", port=self.standin.imap.port, ssl=False, timeout=PATIENCE)
        made.login(USER, SECRET)
        self.addCleanup(made.shutdown)
        return made

    def test_an_envelope_tells_who_and_what(self) -> None:
        """Subject, people, ids as RFC 9051 has them."""
        envelope = self.client.fetch([1], ["ENVELOPE"])[1][b"ENVELOPE"]
        self.assertEqual(envelope.message_id, b"<one@northpier.example>")
        self.assertEqual((envelope.from_[0].mailbox, envelope.from_[0].host), (b"vann", b"northpier.example"))
        self.assertEqual([one.mailbox for one in envelope.to], [b"maren", b"b"])
        self.assertEqual(one_line(envelope.subject.decode()), "Grüße")

    def test_a_structure_and_its_sections_are_the_message(self) -> None:
        """Parts are told with type and size, and each can be fetched alone, whole or in part."""
        told = self.client.fetch([1], ["BODYSTRUCTURE", "BODY[HEADER]", "BODY[TEXT]", "BODY[2]", "BODY[3.MIME]"])[1]
        structure = told[b"BODYSTRUCTURE"]
        self.assertTrue(structure.is_multipart)
        self.assertEqual(
            [part[0] + b"/" + part[1] for part in structure[0]], [b"text/plain", b"text/plain", b"image/png"]
        )
        self.assertEqual(told[b"BODY[HEADER]"] + told[b"BODY[TEXT]"], self.raw)
        self.assertEqual(told[b"BODY[2]"].strip(), b"c3RhZ2UgbGVmdA==")
        self.assertIn(b"image/png", told[b"BODY[3.MIME]"])
        part = self.client.fetch([1], ["BODY.PEEK[]<10.25>"])[1]
        self.assertEqual(part[b"BODY[]<10>"], self.raw[10:35])
        fields = self.client.fetch([1], ["BODY.PEEK[HEADER.FIELDS (SUBJECT FROM)]"])[1]
        (head,) = [value for key, value in fields.items() if key.startswith(b"BODY[HEADER.FIELDS")]
        self.assertTrue(head.lower().startswith((b"from:", b"subject:")))
        self.assertNotIn(b"Message-ID", head)

    def test_reading_marks_seen_and_peeking_does_not(self) -> None:
        """BODY[] sets \\Seen, BODY.PEEK[] leaves it."""
        self.client.fetch([2], ["BODY.PEEK[]"])
        self.assertEqual(self.standin.box.mail("INBOX")[1].flags, frozenset())
        self.client.fetch([2], ["BODY[]"])
        self.assertEqual(self.standin.box.mail("INBOX")[1].flags, {"\\Seen"})

    def test_searches_find_what_they_ask(self) -> None:
        """Flags, days, sizes, headers, texts, choices and negations."""
        for criteria, wanted in (
            (["ALL"], [1, 2, 3]),
            (["FLAGGED"], [1]),
            (["UNSEEN"], [1, 2]),
            (["NOT", "FLAGGED", "UNSEEN"], [2]),
            (["OR", "FLAGGED", "SEEN"], [1, 3]),
            (["LARGER", 5000], [3]),
            (["SUBJECT", "second"], [2]),
            (["FROM", "vann@northpier"], [1]),
            (["TEXT", "risers risers"], [3]),
            (["HEADER", "Message-ID", "<one@northpier.example>"], [1]),
            (["SINCE", date(2026, 9, 2)], [2, 3]),
            (["BEFORE", date(2026, 9, 2)], [1]),
            (["ON", date(2026, 9, 3)], [2]),
            (["UID", "2:3", "SEEN"], [3]),
            (["KEYWORD", "$Nothing"], []),
        ):
            with self.subTest(criteria=criteria):
                self.assertEqual(sorted(self.client.search(criteria)), wanted)

    def test_another_session_is_told_of_everything(self) -> None:
        """New mail, flags and removals reach whoever has the folder open."""
        other = self.connect()
        other.select_folder("INBOX")
        self.client.add_flags([2], ["\\Answered"])
        self.client.delete_messages([1])
        self.client.expunge()
        self.standin.box.append("INBOX", crlf(letter("Fourth")))
        told = other.noop()[1]
        self.assertIn((1, b"EXPUNGE"), told)
        self.assertIn((3, b"EXISTS"), told)
        self.assertTrue(any(line[1] == b"FETCH" and b"\\Answered" in line[2][3] for line in told if len(line) > 2))
        self.assertEqual(sorted(other.search("ALL")), [2, 3, 4])

    def test_folders_are_made_renamed_and_taken_away(self) -> None:
        """With what is in them and below them; what is not there is told."""
        self.client.create_folder("Tours/Spring")
        self.client.append("Tours/Spring", crlf(letter("Kept")))
        self.client.rename_folder("Tours/Spring", "Tours/Autumn")
        names = [name for _, _, name in self.client.list_folders("", "Tours/*")]
        self.assertEqual(names, ["Tours/Autumn"])
        self.assertEqual(self.client.folder_status("Tours/Autumn", ["MESSAGES"])[b"MESSAGES"], 1)
        self.client.delete_folder("Tours/Autumn")
        for work in (
            lambda: self.client.select_folder("Tours/Autumn"),
            lambda: self.client.create_folder("Sent"),
            lambda: self.client.delete_folder("INBOX"),
        ):
            with self.assertRaises(IMAPClientError):
                work()

    def test_a_folder_open_for_reading_cannot_be_changed(self) -> None:
        """EXAMINE lets look, not touch."""
        self.client.select_folder("INBOX", readonly=True)
        self.client.fetch([2], ["BODY[]"])
        self.assertEqual(self.standin.box.mail("INBOX")[1].flags, frozenset())
        with self.assertRaises(IMAPClientError):
            self.client.move([2], "Archive")

    def test_commands_that_make_no_sense_are_answered_and_the_session_goes_on(self) -> None:
        """BAD, and the next command works."""
        with socket.create_connection(("127.0.0.1", self.standin.imap.port), timeout=PATIENCE) as raw:
            said = raw.makefile("rb")
            said.readline()
            raw.sendall(b"a FETCH 1 FLAGS\r\n")
            self.assertEqual(said.readline(), b"a BAD sign in first\r\n")
            raw.sendall(f"b LOGIN {USER} {SECRET}\r\n".encode())
            self.assertTrue(said.readline().startswith(b"b OK"))
            for line in (b"NONSENSE", b"FETCH 1 (FLAGS)", b"SELECT (INBOX", b"STATUS INBOX (PLENTY)", b"APPEND"):
                with self.subTest(line):
                    raw.sendall(b"c " + line + b"\r\n")
                    self.assertTrue(said.readline().startswith(b"c BAD"))
            raw.sendall(b"d NOOP\r\n")
            self.assertEqual(said.readline(), b"d OK done\r\n")
            said.close()

    def test_a_folder_taken_away_ends_the_sessions_in_it(self) -> None:
        """BYE, rather than silence."""
        self.client.create_folder("Gone")
        self.client.select_folder("Gone")
        self.standin.box.delete("Gone")
        with self.assertRaises((IMAPClientAbortError, IMAPClientError)):
            self.client.noop()


class Words(unittest.TestCase):
    """The grammar."""

    def test_lists_strings_and_literals_are_read(self) -> None:
        """As RFC 9051, section 9 writes them."""
        line = b'FETCH 1:3 (FLAGS BODY[HEADER.FIELDS (TO FROM)]<0.20>) "a \\"b\\"" {6}\r\nab\r\ncd'
        self.assertEqual(
            words(line),
            [b"FETCH", b"1:3", [b"FLAGS", b"BODY[HEADER.FIELDS (TO FROM)]<0.20>"], b'a "b"', b"ab\r\ncd"],
        )  # fmt: skip
        for bad in (b"FETCH (1", b"FETCH 1)", b'LOGIN "open'):
            with self.subTest(bad), self.assertRaises(Unparsable):
                words(bad)

    def test_sets_of_numbers(self) -> None:
        """Ranges in either order, and the highest."""
        here = [2, 3, 5, 9]
        for text, wanted in ((b"1:4", [2, 3]), (b"5:*", [5, 9]), (b"*", [9]), (b"9:3,2", here), (b"7", [])):
            self.assertEqual(numbers(text, here), wanted)
        self.assertEqual(ranges([5, 1, 2, 3, 9]), "1:3,5,9")
        with self.assertRaises(Unparsable):
            numbers(b"x", here)

    def test_names_in_any_script_go_there_and_back(self) -> None:
        """Modified UTF-7, as the RFC's own example has it."""
        self.assertEqual(to_utf7("~peter/mail/台北/日本語"), b"~peter/mail/&U,BTFw-/&ZeVnLIqe-")
        for name in ("Entwürfe & mehr", "後で", "a&b", "plain"):
            self.assertEqual(from_utf7(to_utf7(name)), name)


class Box(unittest.TestCase):
    """The account behind it."""

    def test_it_is_kept_in_a_file(self) -> None:
        """Closed and opened again it holds the same, under the same UIDs."""
        with TemporaryDirectory() as folder:
            box = Postbox(Path(folder, "box"))
            uid = box.append("INBOX", b"From: a@b.example\r\n\r\nx", ["\\Seen"])
            before = (box.folders(), box.mail("INBOX"))
            box.close()
            again = Postbox(Path(folder, "box"))
            self.assertEqual((again.folders(), again.mail("INBOX")), before)
            self.assertGreater(again.append("INBOX", b"From: a@b.example\r\n\r\ny"), uid)
            again.close()

    def test_what_does_not_fit_changes_nothing(self) -> None:
        """A copy that would be too much leaves the target as it was."""
        box = Postbox(capacity=100)
        uid = box.append("INBOX", bytes(60))
        with self.assertRaises(Full):
            box.copy("INBOX", [uid], "Archive")
        self.assertEqual((box.uids("INBOX"), box.uids("Archive")), ([uid], []))
        self.assertEqual(len(box.move("INBOX", [uid], "Archive")), 1)
        for work, error in (
            (lambda: box.create("Sent"), FolderExists),
            (lambda: box.append("Nowhere", b"x"), NoFolder),
            (lambda: box.move("Archive", [1], "Nowhere"), NoFolder),
        ):
            with self.assertRaises(error):
                work()
        self.assertEqual(len(box.uids("Archive")), 1)
        box.close()
