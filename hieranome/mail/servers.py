"""Mail servers: how they are reached, who signs in, and how what goes wrong with them is told."""

from __future__ import annotations

import ssl
from dataclasses import dataclass
from typing import Literal

from hieranome.core.errors import CallerError, ServerUnreachable, WorldError
from hieranome.mail.certificates import Certificate, pinned
from hieranome.mail.charsets import valid

Security = Literal["tls", "starttls", "plain"]
PATIENCE = 6.0
"""Seconds a server may take to show who it is."""
LOCAL = ("127.0.0.1", "::1", "localhost")
"""Hosts to which a connection may go unencrypted."""


@dataclass(frozen=True, slots=True)
class Server:
    """How a server is reached: its host, port, how the connection is encrypted. ``pin`` is the fingerprint of the one
    certificate the owner trusts it by, whatever the system thinks of it; empty where the system decides."""

    host: str
    port: int
    security: Security = "tls"
    pin: str = ""

    def __str__(self) -> str:
        """As it is told."""
        return f"{self.host}, port {self.port}"


class CertificateRefused(WorldError):
    """A mail server's certificate is not to be trusted. ``shown`` is the certificate, where it could be had, and
    ``server`` the server that showed it."""

    status = 502

    def __init__(self, said: str, server: Server, shown: Certificate | None) -> None:
        super().__init__(said)
        self.server = server
        self.shown = shown


@dataclass(frozen=True, slots=True)
class Login:
    """Who signs in, and with what; ``bearer`` says that the secret is a token (RFC 7628) and no password."""

    user: str
    secret: str
    bearer: bool = False

    def __repr__(self) -> str:
        """The user alone: a secret is never printed."""
        return f"Login({self.user!r})"


def check_security(server: Server, trust: ssl.SSLContext | None) -> ssl.SSLContext | None:
    """The context a connection is encrypted with. Raises :class:`CallerError` for one that would go unencrypted to
    another machine."""
    if server.security == "plain":
        if server.host not in LOCAL:
            raise CallerError(
                f"The connection to {server.host} would not be encrypted, so the password would go out in clear. "
                "Choose TLS or STARTTLS."
            )
        return None
    return pinned(server.pin) if server.pin else trust or ssl.create_default_context()


def quoted(said: bytes | str, login: Login | None) -> str:
    """What a server said to whoever signs in, to be put behind a sentence; empty when it said nothing, or repeats the
    secret."""
    text = said.decode("utf-8", "replace") if isinstance(said, bytes) else said
    shown = " ".join(valid(text).split())[:300]
    repeats = login is not None and login.secret in text
    return f" (it says: “{shown}”)" if shown and not repeats else ""


def untrusted(
    server: Server, exc: ssl.SSLCertVerificationError, shown: Certificate | None = None
) -> CertificateRefused:
    """What a certificate that failed is told as, with what stands in it where it was looked at."""
    why = getattr(exc, "verify_message", "") or str(exc)
    of_it = (
        f"It was issued by {shown.issuer}, is valid from {shown.first} to {shown.last}, and its SHA-256 fingerprint is "
        f"{shown.fingerprint}. "
        if shown
        else ""
    )
    return CertificateRefused(
        f"The certificate of {server} is not to be trusted ({why}), so nothing was sent. {of_it}Check the name of the "
        "server; if it is right, ask whoever runs it to renew the certificate, or for its fingerprint.",
        server,
        shown,
    )


def unreachable(kind: str, where: Server, exc: Exception) -> ServerUnreachable:
    """What a server that does not answer is told as."""
    why = "it did not answer in time" if isinstance(exc, TimeoutError) else (getattr(exc, "strerror", "") or str(exc))
    return ServerUnreachable(
        f"No {kind} server answers at {where} ({why}). Check the server's name and port, and whether it wants TLS from "
        "the start or STARTTLS."
    )
