"""Certificates of servers: what stands in one, and trust in one by its fingerprint alone."""

from __future__ import annotations

import hashlib
import ssl
from dataclasses import dataclass

from cryptography import x509

from hieranome.mail.charsets import valid


@dataclass(frozen=True, slots=True)
class Certificate:
    """What a certificate says of itself, and its SHA-256 fingerprint; days as YYYY-MM-DD."""

    issuer: str
    first: str
    last: str
    fingerprint: str

    @classmethod
    def of(cls, der: bytes) -> Certificate:
        """Read one. Raises :class:`ValueError`."""
        found = x509.load_der_x509_certificate(der)
        issuer = " ".join(valid(found.issuer.rfc4514_string()).split())[:200]
        first, last = (f"{day:%Y-%m-%d}" for day in (found.not_valid_before_utc, found.not_valid_after_utc))
        return cls(issuer, first, last, fingerprint_of(der))


def fingerprint_of(der: bytes) -> str:
    """The SHA-256 fingerprint of a certificate, as pairs of capital hexadecimal digits between colons."""
    return hashlib.sha256(der).digest().hex(":").upper()


def unproven() -> ssl.SSLContext:
    """A context that takes any certificate: whoever uses it looks at the certificate before anything is said."""
    context = ssl.create_default_context()
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    return context


def pinned(fingerprint: str) -> ssl.SSLContext:
    """A context that takes the one certificate of that fingerprint and no other: its sockets end the handshake with
    :class:`ssl.SSLCertVerificationError` on any other, before a byte of the application goes out."""

    class Pinned(ssl.SSLSocket):
        def do_handshake(self, block: bool = False) -> None:
            super().do_handshake(block)
            shown = self.getpeercert(binary_form=True)
            if shown is None or fingerprint_of(shown) != fingerprint:
                raise ssl.SSLCertVerificationError("it is not the one you trusted")

    context = unproven()
    context.sslsocket_class = Pinned
    return context
