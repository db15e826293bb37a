"""A server may tell what it likes: no answer is without end, no number is taken at its word."""

from __future__ import annotations

import socket
import threading
import unittest
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from hieranome.app.mailbox.syncing import _without
from hieranome.core.errors import ConnectionBroken, HieranomeError
from hieranome.mail import imap_connection as wire
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import folder_name, meta_of, numbers, spans, vanished
from hieranome.mail.servers import Login, Server
from tests.patience import PATIENCE

Answers = dict[bytes, Callable[[bytes], Iterator[bytes]]]
"""What is sent before the tagged OK, by command."""


def _greeting(_: bytes) -> Iterator[bytes]:
    yield b"* CAPABILITY IMAP4rev1 ENABLE CONDSTORE QRESYNC\r\n"


def _opened(uidnext: int, exists: int = 3) -> Callable[[bytes], Iterator[bytes]]:
    def answer(_: bytes) -> Iterator[bytes]:
        yield b"* %d EXISTS\r\n* OK [UIDVALIDITY 1] x\r\n* OK [UIDNEXT %d] x\r\n" % (exists, uidnext)
        yield b"* OK [HIGHESTMODSEQ 9] x\r\n"

    return answer


@contextmanager
def serving(answers: Answers) -> Iterator[tuple[Imap, list[bytes]]]:
    """A connection to a server that answers as told, and the commands it got."""
    asked: list[bytes] = []
    known: Answers = {b"CAPABILITY": _greeting, b"LOGIN": lambda _: iter(()), **answers}

    def serve() -> None:
        taken, _ = listening.accept()
        with taken, taken.makefile("rb") as lines:
            try:
                taken.sendall(b"* OK ready\r\n")
                for line in lines:
                    tag, _, command = line.strip().partition(b" ")
                    asked.append(command)
                    name = command.removeprefix(b"UID ").split(b" ")[0].upper()
                    for piece in known.get(name, lambda _: iter(()))(command):
                        taken.sendall(piece)
                    taken.sendall(tag + b" OK done\r\n")
            except OSError:
                return

    with socket.create_server(("127.0.0.1", 0)) as listening:
        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        server = Server("127.0.0.1", listening.getsockname()[1], "plain")
        made = Imap.connect(server, Login("u", "p"), timeout=PATIENCE)
        try:
            yield made, asked
        finally:
            made.cut()
            thread.join(PATIENCE)


class BoundsTest(unittest.TestCase):
    def refused(self, answers: Answers, ask: Callable[[Imap], object]) -> str:
        with serving(answers) as (imap, _):
            imap.select("INBOX")
            with self.assertRaises(HieranomeError) as caught:
                ask(imap)
        return str(caught.exception)

    def test_a_next_uid_of_four_billion(self) -> None:
        """It does not become eighty thousand questions."""

        def found(command: bytes) -> Iterator[bytes]:
            yield b"* SEARCH 5 4294967290 4294967294\r\n"

        with serving({b"SELECT": _opened(2**32 - 1), b"SEARCH": found}) as (imap, asked):
            imap.select("INBOX")
            self.assertEqual(imap.uids(), [5, 4294967290, 4294967294])
            self.assertEqual(imap.uids(4294967290), [4294967294])
            self.assertLess(len(asked), 10)

    def test_a_folder_of_billions(self) -> None:
        """A folder that says to hold more than can be is refused in a sentence."""
        many = {b"SELECT": _opened(9, exists=4_000_000_000)}
        with serving(many) as (imap, _), self.assertRaisesRegex(HieranomeError, "holds 4,000,000,000 messages"):
            imap.select("INBOX")

    def test_a_literal_of_a_hundred_gigabytes(self) -> None:
        """It is not waited for."""

        def literal(_: bytes) -> Iterator[bytes]:
            yield b"* 1 FETCH (UID 1 BODY[] {99999999999}\r\n"

        said = self.refused({b"SELECT": _opened(9), b"FETCH": literal}, lambda imap: imap.bodies([1]))
        self.assertIn("was announced", said)

    def test_an_endless_line(self) -> None:
        """The connection is given up after a megabyte."""

        def line(_: bytes) -> Iterator[bytes]:
            yield b"* 1 FETCH ("
            while True:
                yield b"x" * 65_536

        self.refused({b"SELECT": _opened(9), b"FETCH": line}, lambda imap: imap.changes(0))

    def test_endless_lines(self) -> None:
        """An answer that never comes to its end is given up."""

        def lines(_: bytes) -> Iterator[bytes]:
            while True:
                yield b"* 1 FETCH (UID 1 FLAGS ())\r\n" * 2_000

        before, wire.MAX_ANSWER = wire.MAX_ANSWER, 5_000_000
        self.addCleanup(setattr, wire, "MAX_ANSWER", before)
        said = self.refused({b"SELECT": _opened(9), b"FETCH": lines}, lambda imap: imap.changes(0))
        self.assertIn("more than 5,000,000 bytes", said)

    def test_vanished_spans_of_any_length(self) -> None:
        """Ten million gone UIDs cost nothing: what is known is looked for among them."""
        gone = vanished([b"(EARLIER) 1:10000000,20000000:4294967295", None])
        self.assertEqual(_without({3, 15_000_000, 30_000_000}, gone), {15_000_000})
        self.assertEqual(_without({1, 2, 3}, spans("3:2")), {1})

    def test_sets_that_are_none(self) -> None:
        """Numbers beyond 32 bits, words, and sets too long to be about anything of ours are refused."""
        for text in ("1:99999999999", "x", "1:", "", "²", "1:1000000"):
            with self.subTest(text), self.assertRaises(ValueError):
                numbers(text)

    def test_names_of_folders_are_text(self) -> None:
        """Whatever modified UTF-7 a server sends."""
        for name in (b"&2AA-", b"&AGE-", b"Entw&APw-rfe", b"&", b"&&&", b"\xff\xfe"):
            try:
                folder_name(name).encode("utf-8")
            except (UnicodeDecodeError, ValueError) as exc:
                self.assertNotIsInstance(exc, UnicodeEncodeError)

    def test_a_date_that_is_none_costs_the_date_alone(self) -> None:
        """One message with a day no calendar has never keeps a mailbox from being read."""
        for date in (
            b"17-Sep-102 22:15:01 +0000",
            b"31-Feb-2026 22:15:01 +0000",
            b"\xff",
            b"",
            b"01-Jan-0001 00:00:00 +0000",
        ):
            told = meta_of(b'1 (UID 5 FLAGS (\\Seen) RFC822.SIZE 9 INTERNALDATE "' + date + b'" EMAILID (\xff))')
            assert told is not None
            self.assertEqual((told.uid, told.size, told.at, told.flags.seen), (5, 9, 0, True))
        good = meta_of(b'1 (UID 5 RFC822.SIZE 9 INTERNALDATE " 7-Sep-2026 22:15:01 +0200")')
        assert good is not None
        self.assertEqual(good.at, 1_788_812_101)

    def test_a_broken_connection_says_so(self) -> None:
        """What the server says last may be anything."""

        def odd(_: bytes) -> Iterator[bytes]:
            yield b"* BYE \xff\xfe\xed\xa0\x80\r\n"
            raise OSError

        with serving({b"SELECT": _opened(9), b"FETCH": odd}) as (imap, _):
            imap.select("INBOX")
            with self.assertRaises(ConnectionBroken) as caught:
                imap.changes(0)
            str(caught.exception).encode("utf-8")
