"""Mail servers: how they are reached, who signs in, and how what goes wrong with them is told."""

from __future__ import annotations

import ssl
from dataclasses import dataclass
from typing import Literal

from cryptography import x509
from cryptography.hazmat.primitives import hashes

from hieranome.core.errors import CallerError, CertificateRefused, ServerUnreachable
from hieranome.mail.charsets import valid

Security = Literal["tls", "starttls", "plain"]
PATIENCE = 6.0
"""Seconds a server may take to show who it is."""
LOCAL = ("127.0.0.1", "::1", "localhost")
"""Hosts to which a connection may go unencrypted."""


@dataclass(frozen=True, slots=True)
class Server:
    """How a server is reached: its host, port, how the connection is encrypted."""

    host: str
    port: int
    security: Security = "tls"


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
    return trust or ssl.create_default_context()


def quoted(said: bytes | str, login: Login | None) -> str:
    """What a server said to whoever signs in, to be put behind a sentence; empty when it said nothing, or repeats the
    secret."""
    text = said.decode("utf-8", "replace") if isinstance(said, bytes) else said
    shown = " ".join(valid(text).split())[:300]
    repeats = login is not None and login.secret in text
    return f" (it says: “{shown}”)" if shown and not repeats else ""


def untrusted(where: str, exc: ssl.SSLCertVerificationError, server: Server | None = None) -> CertificateRefused:
    """What a certificate that failed is told as; of a server with TLS from the start, with what stands in it."""
    shown = _certificate(server) if server is not None and server.security == "tls" else ""
    return CertificateRefused(
        f"The certificate of {where} is not to be trusted ({exc.verify_message}), so nothing was sent. {shown}Check "
        "the name of the server; if it is right, ask whoever runs it to renew the certificate."
    )


def _certificate(server: Server) -> str:
    """Who issued the certificate a server shows, for how long, and its fingerprint; empty where it cannot be had.
    Nothing is sent over the connection it is asked for on."""
    try:
        pem = ssl.get_server_certificate((server.host, server.port), timeout=PATIENCE)
        found = x509.load_pem_x509_certificate(pem.encode("ascii"))
        issuer = " ".join(valid(found.issuer.rfc4514_string()).split())[:200]
        print_of_it = found.fingerprint(hashes.SHA256()).hex(":").upper()
    except (OSError, ValueError):
        return ""
    first, last = (f"{day:%Y-%m-%d}" for day in (found.not_valid_before_utc, found.not_valid_after_utc))
    return f"It was issued by {issuer}, is valid from {first} to {last}, and its SHA-256 fingerprint is {print_of_it}. "


def unreachable(kind: str, where: str, exc: Exception) -> ServerUnreachable:
    """What a server that does not answer is told as."""
    why = "it did not answer in time" if isinstance(exc, TimeoutError) else (getattr(exc, "strerror", "") or str(exc))
    return ServerUnreachable(
        f"No {kind} server answers at {where} ({why}). Check the server's name and port, and whether it wants TLS from "
        "the start or STARTTLS."
    )
