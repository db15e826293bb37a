"""Servers of scripts that are no friends: each answer is bounded in size and time, nothing is taken that came in clear
before the encryption, and what is said of it is one of our errors."""

from __future__ import annotations

import contextlib
import shutil
import socket
import ssl
import tempfile
import threading
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

from hieranome.core.errors import ConnectionBroken, SecretRefused, ServerRefused, WorldError
from hieranome.mail import managesieve
from hieranome.mail.managesieve import visit
from hieranome.mail.servers import CertificateRefused, Security, Server
from tests.mail.servers import LOGIN, contexts
from tests.patience import PATIENCE

GREETING = b'"IMPLEMENTATION" "made"\r\n"SASL" "PLAIN"\r\n"SIEVE" "fileinto include"\r\n"STARTTLS"\r\nOK "ready"\r\n'
Talk = Callable[[socket.socket], None]


class HostileTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="hieranome-test-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def serve(self, talk: Talk, security: Security = "plain", served: ssl.SSLContext | None = None) -> Server:
        """A server that talks to whoever comes as it is told."""
        listening = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(listening.close)

        def work() -> None:
            with contextlib.suppress(OSError):
                while True:
                    line, _ = listening.accept()
                    with contextlib.suppress(OSError), line:
                        if security == "tls" and served is not None:
                            line = served.wrap_socket(line, server_side=True)
                        talk(line)

        threading.Thread(target=work, daemon=True).start()
        host = "127.0.0.1" if security == "plain" else "localhost"
        return Server(host, listening.getsockname()[1], security)

    def fails(self, server: Server, error: type[WorldError], trust: ssl.SSLContext | None = None) -> str:
        """How a visit that lists the scripts is refused."""
        with self.assertRaises(error) as caught, visit(server, LOGIN, trust=trust) as there:
            there.listing()
        return str(caught.exception)

    def test_an_answer_without_end_is_cut_off(self) -> None:
        """Lines without end, a line without end, a literal of any length."""

        def lines(line: socket.socket) -> None:
            while True:
                line.sendall(b'"x" "y"\r\n' * 1_000)

        def one_line(line: socket.socket) -> None:
            while True:
                line.sendall(b"x" * 10_000)

        def literal(line: socket.socket) -> None:
            line.sendall(b"{99999999999999}\r\n")
            one_line(line)

        for talk in (lines, one_line, literal):
            with self.subTest(talk.__name__):
                self.assertIn("more than", self.fails(self.serve(talk), ConnectionBroken))

    def test_what_drips_is_ended(self) -> None:
        """A byte now and then, in clear and encrypted: the visit ends with its time."""
        served, trust = contexts(self.folder, 30, "localhost")

        def drips(line: socket.socket) -> None:
            while True:
                line.sendall(b"x")
                time.sleep(0.1)

        for server in (self.serve(drips), self.serve(drips, "tls", served)):
            with self.subTest(server.security), mock.patch.object(managesieve, "WHOLE", 1.0):
                began = time.monotonic()
                self.fails(server, ConnectionBroken, trust)
                self.assertLess(time.monotonic() - began, PATIENCE)

    def test_what_came_in_clear_is_forgotten(self) -> None:
        """What somebody put behind the answer to STARTTLS is not taken for the server's."""
        served, trust = contexts(self.folder, 30, "localhost")
        said: list[bytes] = []

        def talk(line: socket.socket) -> None:
            line.sendall(GREETING)
            line.recv(100)
            line.sendall(b'OK "go on"\r\n"SASL" "NONE"\r\nOK\r\n')
            with served.wrap_socket(line, server_side=True) as safe:
                safe.sendall(GREETING)
                said.append(safe.recv(1_000))
                safe.sendall(b'OK "in"\r\n')
                said.append(safe.recv(1_000))
                safe.sendall(b'"mine" ACTIVE\r\n"other"\r\nOK\r\n')
                safe.recv(1_000)

        with visit(self.serve(talk, "starttls"), LOGIN, trust=trust) as there:
            self.assertEqual(there.listing(), managesieve.Listing(frozenset({"mine", "other"}), "mine"))
        self.assertIn(b"AUTHENTICATE", said[0])

    def test_no_password_goes_out_before_the_server_is_known(self) -> None:
        """A certificate nobody trusts, and a server that would not be encrypted, hear nothing of it."""
        served, _ = contexts(self.folder, 30, "localhost")
        heard: list[bytes] = []

        def untrusted(line: socket.socket) -> None:
            heard.append(line.recv(1_000))

        def in_clear(line: socket.socket) -> None:
            line.sendall(GREETING.replace(b'"STARTTLS"\r\n', b""))
            heard.append(line.recv(1_000))

        self.fails(self.serve(untrusted, "tls", served), CertificateRefused)
        self.fails(self.serve(in_clear, "starttls"), ServerRefused)
        self.assertNotIn(b"AUTHENTICATE", b"".join(heard))

    def test_odd_answers_are_told_as_ours(self) -> None:
        """Cut off, no bytes of text, no capabilities, refusals that are none."""
        for answer in (
            b"", b"\xff\xfe\r\nOK\r\n", b"OK\r\n", b"NO\r\n", b'NO (QUOTA "\r\n', b"BYE\r\n", b"{5\r\n",
            b'"SASL"\r\nOK\r\n', b"NO {3}\r\nab", b'"SASL" "PLAIN"\r\nOK\r\nNO "no such \xff user"\r\n',
        ):  # fmt: skip
            with self.subTest(answer):
                self.fails(self.serve(lambda line, answer=answer: line.sendall(answer)), WorldError)  # type: ignore[misc]

    def test_a_refusal_does_not_repeat_the_secret(self) -> None:
        def talk(line: socket.socket) -> None:
            line.sendall(GREETING)
            line.recv(1_000)
            line.sendall(f'NO "{LOGIN.secret} is wrong"\r\n'.encode())
            line.recv(1_000)

        self.assertNotIn(LOGIN.secret, self.fails(self.serve(talk), SecretRefused))


if __name__ == "__main__":
    unittest.main()
