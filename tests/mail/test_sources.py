"""Mbox, Maildir and single messages on disk."""

import gzip
import io
import os
import shutil
import tempfile
import unittest
from pathlib import Path

from hieranome.core.errors import NotMail, Unreadable
from hieranome.mail.mbox import read_mbox, write_message
from hieranome.mail.sources import find, items
from tests.generated import given, settings, st
from tests.support import letter

STAMP = "Tue Nov  4 10:00:00 2025"


def mbox(*messages: bytes) -> bytes:
    file = io.BytesIO()
    for raw in messages:
        write_message(file, raw, "a@b.example", STAMP)
    return file.getvalue()


class MboxTest(unittest.TestCase):
    def raws(self, content: bytes) -> list[bytes]:
        return [message.raw for message in read_mbox(io.BytesIO(content))]

    def test_what_is_written_is_read(self) -> None:
        """Messages with From lines in them come back byte for byte."""
        first = b"Subject: one\n\nFrom here on\n>From there\n>>From afar\n"
        second = b"Subject: two\n\nbody\n"
        self.assertEqual(self.raws(mbox(first, second)), [first, second])

    @settings(max_examples=60)
    @given(st.lists(st.sampled_from([b"From x\n", b">From x\n", b"text\n", b"\n", b">>>From y\n"]), max_size=12))
    def test_any_lines_come_back(self, lines: list[bytes]) -> None:
        """Whatever lines a message has, reading the written mbox gives them back."""
        raw = b"Subject: x\n\n" + b"".join(lines)
        deep = b"Subject: y\n\n>From z\n"
        self.assertEqual(self.raws(mbox(raw, deep)), [raw, deep])

    def test_single_quoting_leaves_quoted_quotes(self) -> None:
        """In a file that quotes only plain From lines, a single mark is taken away."""
        content = f"From a@b.example {STAMP}\nSubject: x\n\n>From the sea\n\n".encode()
        self.assertEqual(self.raws(content), [b"Subject: x\n\nFrom the sea\n"])

    def test_from_lines_in_text_are_no_separators(self) -> None:
        """A paragraph that begins with From does not cut a message in two."""
        content = f"From a@b.example {STAMP}\nSubject: x\n\nhello\n\nFrom now on all is well\n\n".encode()
        self.assertEqual(len(self.raws(content)), 1)

    def test_separators_of_many_shapes(self) -> None:
        """Zones, missing seconds and odd senders still separate."""
        for line in ("From MAILER-DAEMON Fri Jul  8 12:08 2011", "From a b@c Tue Nov  4 10:00:00 +0100 2025",
                     "From - Tue Nov 04 10:00:00 2025", "From x Tue Nov  4 10:00:00 CET 2025"):  # fmt: skip
            content = f"From a {STAMP}\nSubject: 1\n\nx\n\n{line}\nSubject: 2\n\ny\n".encode()
            self.assertEqual(len(self.raws(content)), 2, line)

    def test_windows_line_ends(self) -> None:
        """An mbox with CRLF is read, its messages keep their line ends."""
        content = mbox(b"Subject: 1\n\nx\n", b"Subject: 2\n\ny\n").replace(b"\n", b"\r\n")
        self.assertEqual(self.raws(content), [b"Subject: 1\r\n\r\nx\r\n", b"Subject: 2\r\n\r\ny\r\n"])

    def test_a_truncated_mbox_keeps_what_is_there(self) -> None:
        """The last message of a cut file is kept as far as it goes."""
        content = mbox(b"Subject: 1\n\nx\n", b"Subject: 2\n\na long body that is cut\n")[:-20]
        self.assertEqual(len(self.raws(content)), 2)

    def test_reading_goes_on_at_an_offset(self) -> None:
        """From where one message ended, the next is read."""
        content = mbox(*(f"Subject: {n}\n\nx\n".encode() for n in range(5)))
        found = list(read_mbox(io.BytesIO(content)))
        rest = list(read_mbox(io.BytesIO(content), found[2].end))
        self.assertEqual([m.raw for m in rest], [m.raw for m in found[3:]])


class FindTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def file(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content)
        return path

    def refusal(self, path: Path, kind: type[Exception] = NotMail) -> str:
        with self.assertRaises(kind) as caught:
            find(path)
        return str(caught.exception)

    def test_kinds_are_told_apart(self) -> None:
        """An mbox, a message and a Maildir in one folder are all found."""
        self.file("a.mbox", mbox(letter()))
        self.file("b.eml", letter())
        self.file("Box/cur/1.host:2,RS", letter("in the Maildir"))
        (self.folder / "Box/tmp").mkdir()
        self.file("Box/tmp/half", b"not yet delivered")
        self.file("notes.txt", b"no mail at all")
        self.assertEqual(sorted(f.kind for f in find(self.folder)), ["eml", "maildir", "mbox"])

    def test_maildir_flags(self) -> None:
        """Seen, replied and flagged come from the file name."""
        self.file("Box/cur/1.host:2,FRS", letter())
        (item,) = items(find(self.folder)[0])
        self.assertEqual((item.seen, item.answered, item.flagged), (True, True, True))

    def test_status_headers(self) -> None:
        """Read and answered come from the Status headers of an mbox."""
        path = self.file("a.mbox", mbox(b"Status: RO\nX-Status: A\n" + letter(), letter("new")))
        first, second = items(find(path)[0])
        self.assertEqual((first.seen, first.answered, second.seen), (True, True, False))

    def test_nothing_there(self) -> None:
        """A path that does not exist is named."""
        self.assertIn("There is nothing at", self.refusal(self.folder / "no", Unreadable))

    def test_not_a_mailbox(self) -> None:
        """A text that is no mail is refused, with what would be one."""
        self.assertIn("not a mailbox", self.refusal(self.file("x.txt", b"hello there\nno mail\n")))

    def test_an_empty_file_and_an_empty_folder(self) -> None:
        """Emptiness is said as such."""
        self.assertIn("is empty", self.refusal(self.file("e.mbox", b"")))
        (self.folder / "sub").mkdir()
        self.assertIn("holds no mail", self.refusal(self.folder / "sub"))

    def test_compressed_files(self) -> None:
        """A gzip is named as such, with the mend."""
        self.assertIn("Unpack it first", self.refusal(self.file("a.mbox.gz", gzip.compress(mbox(letter())))))

    def test_a_path_that_may_not_be_read(self) -> None:
        """No permission is a clear sentence."""
        path = self.file("a.mbox", mbox(letter()))
        path.chmod(0)
        self.addCleanup(path.chmod, 0o600)
        if os.access(path, os.R_OK):
            self.skipTest("this account may read everything")
        self.assertIn("cannot be read", self.refusal(path, Unreadable))

    def test_a_device_is_refused(self) -> None:
        """What is neither file nor folder is no source of mail."""
        self.assertIn("neither a file nor a folder", self.refusal(Path("/dev/null")))
