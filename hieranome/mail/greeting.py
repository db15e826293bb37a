"""Seeing that a mail server answers, encrypted and under its own name, before anything is told to it."""

from __future__ import annotations

import contextlib
import socket
import ssl
from collections.abc import Callable, Iterable, Iterator
from typing import Literal

from hieranome.mail.servers import Server, unreachable, untrusted

Kind = Literal["imap", "smtp"]
Connect = Callable[[str, int, float], socket.socket]

PATIENCE = 6.0
"""Seconds one server may take."""


def straight(host: str, port: int, timeout: float) -> socket.socket:
    """A connection without a detour."""
    return socket.create_connection((host, port), timeout)


def greet(kind: Kind, server: Server, connect: Connect = straight, trust: ssl.SSLContext | None = None) -> None:
    """See that a server answers as one of its kind, encrypted; nobody signs in. ``trust`` replaces the system's
    certificates. Raises :class:`ServerUnreachable` and :class:`CertificateRefused`."""
    where = f"{server.host}, port {server.port}"
    context = trust or ssl.create_default_context()
    try:
        with contextlib.ExitStack() as opened:
            line = opened.enter_context(connect(server.host, server.port, PATIENCE))
            line.settimeout(PATIENCE)
            if server.security == "tls":
                line = opened.enter_context(context.wrap_socket(line, server_hostname=server.host))
            _expect(line, b"* " if kind == "imap" else b"220")
            if server.security == "starttls":
                _start_tls(line, kind)
                opened.enter_context(context.wrap_socket(line, server_hostname=server.host))
    except ssl.SSLCertVerificationError as exc:
        raise untrusted(where, exc) from exc
    except (OSError, UnicodeError) as exc:
        raise unreachable(kind.upper(), where, exc) from exc


def _lines(line: socket.socket) -> Iterator[bytes]:
    """Answers line by line, at most four kilobytes of them. No byte beyond a line is taken."""
    for _ in range(20):
        held = b""
        while not held.endswith(b"\n"):
            piece = line.recv(1)
            if not piece or len(held) > 4096:
                raise ConnectionError("the answer is not that of a mail server")
            held += piece
        yield held


def _expect(line: socket.socket, sign: bytes, last: Iterable[bytes] = ()) -> None:
    """Read answers up to one that begins as wanted and is the last of its kind."""
    for answer in _lines(line):
        if answer.startswith(sign) and not answer.startswith(sign + b"-"):
            return
        if not answer.startswith((sign + b"-", *last)):
            break
    raise ConnectionError("the answer is not that of a mail server")


def _start_tls(line: socket.socket, kind: Kind) -> None:
    if kind == "imap":
        line.sendall(b"a STARTTLS\r\n")
        _expect(line, b"a OK", (b"* ",))
    else:
        line.sendall(b"EHLO [127.0.0.1]\r\n")
        _expect(line, b"250")
        line.sendall(b"STARTTLS\r\n")
        _expect(line, b"220")
