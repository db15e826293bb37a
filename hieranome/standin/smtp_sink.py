"""A simulated submission server on loopback: takes mail, delivers it to the postboxes it knows, keeps the rest."""

from __future__ import annotations

import asyncio
import base64
import logging
import ssl
import warnings
from collections.abc import Container, Mapping
from dataclasses import dataclass, field

from aiosmtpd.smtp import SMTP, AuthResult, Envelope, LoginPassword, Session

from hieranome.standin.authorising import bearer_of
from hieranome.standin.loopback import Loopback
from hieranome.standin.postbox import INBOX, Full, Postbox


@dataclass(frozen=True, slots=True)
class Taken:
    """A message that was handed in: who from, whom to, its bytes."""

    sender: str
    recipients: list[str]
    raw: bytes


@dataclass(slots=True)
class SmtpFaults:
    """What goes wrong: recipients refused with a reply, senders (the empty one too), a reply to the message itself, a
    connection that breaks once before or after the message is kept."""

    refuse: dict[str, str] = field(default_factory=dict)
    refuse_sender: dict[str, str] = field(default_factory=dict)
    answer: str = ""
    drop_before_keeping: bool = False
    drop_after_keeping: bool = False


class SmtpSink(Loopback):
    """Takes mail on 127.0.0.1 from those who know a secret, or show a token that is good now. ``boxes`` are the
    postboxes of addresses it delivers to; ``limit`` is the most bytes of a message; ``without`` names ways to sign in
    it does not offer."""

    def __init__(
        self,
        secrets: Mapping[str, str],
        boxes: Mapping[str, Postbox] | None = None,
        *,
        port: int = 0,
        limit: int = 26_000_000,
        tls: ssl.SSLContext | None = None,
        tokens: Container[str] = (),
        without: tuple[str, ...] = (),
    ) -> None:
        self.taken: list[Taken] = []
        self.faults = SmtpFaults()
        self._secrets, self._boxes, self._limit, self._tls = secrets, boxes or {}, limit, tls
        self._tokens, self._without = tokens, without
        super().__init__("smtp-standin", port)

    async def _listen(self) -> asyncio.Server:
        return await self._loop.create_server(self._protocol, "127.0.0.1", self.port, ssl=self._tls)

    def _protocol(self) -> SMTP:
        logging.getLogger("mail.log").setLevel(logging.CRITICAL)
        with warnings.catch_warnings():
            # On loopback a secret may go unencrypted.
            warnings.simplefilter("ignore")
            return self._smtp()

    def _smtp(self) -> SMTP:
        return SMTP(
            self,
            hostname="standin.example",
            data_size_limit=self._limit,
            enable_SMTPUTF8=False,
            authenticator=self._authenticate,
            auth_required=True,
            auth_require_tls=False,
            auth_exclude_mechanism=self._without,
            loop=self._loop,
        )

    def _authenticate(
        self, _server: SMTP, _session: Session, _envelope: Envelope, _mechanism: str, data: object
    ) -> AuthResult:
        known = isinstance(data, LoginPassword) and self._secrets.get(data.login.decode()) == data.password.decode()
        return AuthResult(success=known, handled=known)

    async def auth_OAUTHBEARER(self, server: SMTP, args: list[str]) -> AuthResult:
        """Sign in with a token (RFC 7628)."""
        return await self._by_token(server, args)

    async def auth_XOAUTH2(self, server: SMTP, args: list[str]) -> AuthResult:
        """Sign in with a token, as it was done before."""
        return await self._by_token(server, args)

    async def _by_token(self, server: SMTP, args: list[str]) -> AuthResult:
        user, token = bearer_of(base64.b64decode(args[1] if len(args) > 1 else "").decode("utf-8", "replace"))
        if user in self._secrets and token in self._tokens:
            return AuthResult(success=True)
        await server.challenge_auth('{"status":"invalid_token"}')
        return AuthResult(success=False, handled=False)

    async def handle_MAIL(
        self, _server: SMTP, _session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        """Take or refuse a sender."""
        refused = self.faults.refuse_sender.get(address)
        if refused:
            return refused
        envelope.mail_from = address
        envelope.mail_options.extend(options)
        return "250 OK"

    async def handle_RCPT(
        self, _server: SMTP, _session: Session, envelope: Envelope, address: str, _options: list[str]
    ) -> str:
        """Take or refuse a recipient."""
        refused = self.faults.refuse.get(address)
        if refused:
            return refused
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, _session: Session, envelope: Envelope) -> str:
        """Take a message."""
        if self.faults.answer:
            return self.faults.answer
        if self.faults.drop_before_keeping:
            self.faults.drop_before_keeping = False
            return self._drop(server)
        content = envelope.content or b""
        raw = content if isinstance(content, bytes) else content.encode("utf-8", "surrogateescape")
        try:
            for address in envelope.rcpt_tos:
                if address in self._boxes:
                    self._boxes[address].append(INBOX, raw)
        except Full:
            return "452 4.2.2 the postbox is full"
        self.taken.append(Taken(str(envelope.mail_from), list(envelope.rcpt_tos), raw))
        if self.faults.drop_after_keeping:
            self.faults.drop_after_keeping = False
            return self._drop(server)
        return "250 2.0.0 taken"

    @staticmethod
    def _drop(server: SMTP) -> str:
        assert isinstance(server.transport, asyncio.Transport)
        server.transport.abort()
        return "421 4.3.0 gone"
