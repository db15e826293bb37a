"""Seeing that a mail server answers, encrypted and under its own name, before anything is told to it."""

from __future__ import annotations

import socket
import ssl
import time
from collections.abc import Callable, Iterable, Iterator
from typing import Literal

from hieranome.mail.certificates import Certificate, unproven
from hieranome.mail.deadline import ended_after
from hieranome.mail.servers import PATIENCE, CertificateRefused, Server, unreachable, untrusted

Kind = Literal["imap", "smtp", "sieve"]
ADDRESSES = 3
"""Of the addresses a host has, so many are tried."""
Connect = Callable[[str, int, float], socket.socket]


def straight(host: str, port: int, timeout: float) -> socket.socket:
    """A connection without a detour, to one of the first addresses of a host, within ``timeout`` seconds of knowing
    them."""
    ends, failure = time.monotonic() + timeout, OSError(f"{host} has no address")
    for _, _, _, _, address in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)[:ADDRESSES]:
        try:
            return socket.create_connection((str(address[0]), port), max(0.1, ends - time.monotonic()))
        except OSError as exc:
            failure = exc
    raise failure


def greet(kind: Kind, server: Server, connect: Connect = straight, trust: ssl.SSLContext | None = None) -> None:
    """See that a server answers as one of its kind, encrypted; nobody signs in. However slowly it speaks, each of
    connecting, speaking in clear and encrypting ends in time. ``trust`` replaces the system's certificates. Raises
    :class:`ServerUnreachable` and :class:`CertificateRefused`."""
    context = trust or ssl.create_default_context()
    try:
        with connect(server.host, server.port, PATIENCE) as line:
            if server.security == "starttls":
                with ended_after(line, PATIENCE):
                    _expect(line, *_GREETING[kind])
                    _start_tls(line, kind)
            safe = context.wrap_socket(line, server_hostname=server.host, do_handshake_on_connect=False)
            with safe, ended_after(safe, PATIENCE):
                safe.do_handshake()
                if server.security == "tls":
                    _expect(safe, *_GREETING[kind])
    except ssl.SSLCertVerificationError as exc:
        raise untrusted(server, exc) from exc
    except (OSError, UnicodeError) as exc:
        raise unreachable(kind.upper(), server, exc) from exc


def distrusted(kind: Kind, server: Server, exc: ssl.SSLCertVerificationError) -> CertificateRefused:
    """What a certificate that failed is told as, with what stands in the one the server shows."""
    return untrusted(server, exc, _shown_by(kind, server))


def _shown_by(kind: Kind, server: Server) -> Certificate | None:
    """The certificate a server shows, whoever it is; None where it cannot be had. Nothing is said to it but what
    begins the encryption."""
    try:
        with straight(server.host, server.port, PATIENCE) as line:
            line.settimeout(PATIENCE)
            with ended_after(line, PATIENCE):
                if server.security == "starttls":
                    _expect(line, *_GREETING[kind])
                    _start_tls(line, kind)
                with unproven().wrap_socket(line, server_hostname=server.host) as safe:
                    return Certificate.of(safe.getpeercert(binary_form=True) or b"")
    except (OSError, ValueError):
        return None


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


_GREETING: dict[Kind, tuple[bytes, tuple[bytes, ...]]] = {
    "imap": (b"* OK", ()),
    "smtp": (b"220", ()),
    "sieve": (b"OK", (b'"',)),
}
"""What a server of each kind says first: how the last line of it begins, and those that may stand before it."""


def _expect(line: socket.socket, sign: bytes, before: Iterable[bytes] = ()) -> None:
    """Read answers up to one that begins as wanted and is the last of its kind; others may stand ``before`` it."""
    for answer in _lines(line):
        if answer.startswith(sign) and not answer.startswith(sign + b"-"):
            return
        if not answer.startswith((sign + b"-", *before)):
            break
    raise ConnectionError("the answer is not that of a mail server")


def _start_tls(line: socket.socket, kind: Kind) -> None:
    if kind == "imap":
        line.sendall(b"a STARTTLS\r\n")
        _expect(line, b"a OK", (b"* ",))
    elif kind == "sieve":
        line.sendall(b"STARTTLS\r\n")
        _expect(line, b"OK")
    else:
        line.sendall(b"EHLO [127.0.0.1]\r\n")
        _expect(line, b"250")
        line.sendall(b"STARTTLS\r\n")
        _expect(line, b"220")
