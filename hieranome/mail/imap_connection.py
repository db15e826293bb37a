"""A connection to a mail server over IMAP (RFC 3501, RFC 9051), with whatever it offers of its extensions, and the
folders there.

Foreign errors leave as ours; a broken connection is never repaired here, since only the caller knows what was under
way.
"""

from __future__ import annotations

import contextlib
import imaplib
import secrets
import socket
import ssl
from collections.abc import Iterator, Sequence
from typing import Any, Self

from imapclient import IMAPClient
from imapclient.exceptions import IMAPClientAbortError, IMAPClientError, LoginError
from imapclient.response_parser import parse_response

from hieranome.core.errors import SecretRefused, ServerRefused
from hieranome.mail.greeting import distrusted
from hieranome.mail.imap_answers import (
    VIRTUAL,
    Listed,
    Status,
    folder_name,
    one_role_each,
    role_of,
    status_of,
    text_of,
)
from hieranome.mail.imap_errors import translated
from hieranome.mail.servers import Login, Server, check_security, quoted, unreachable

TIMEOUT = 30.0
"""Seconds a server may take to answer."""
MAX_EXISTS = 5_000_000
"""Messages of a folder that are followed."""
MAX_LITERAL = 300_000_000
"""Bytes of one literal that are read."""
MAX_ANSWER = 400_000_000
"""Bytes of the answer to one command."""
_STATUS = ("MESSAGES", "UIDNEXT", "UIDVALIDITY")


class Connection:
    """One connection, signed in; one folder at a time is open in it."""

    def __init__(self, server: Server, client: IMAPClient) -> None:
        self.server = server
        self.selected = ""
        self._uidnext = self._exists = 0
        self._client = client
        self._bounded = _Bounded(client)
        self._offered = {str(c, "ascii").upper() if isinstance(c, bytes) else c for c in client.capabilities()}
        self.condstore = self.offers("CONDSTORE") and self.offers("ENABLE")
        self.qresync = self.condstore and self.offers("QRESYNC")

    @classmethod
    def connect(
        cls, server: Server, login: Login, *, timeout: float = TIMEOUT, trust: ssl.SSLContext | None = None
    ) -> Self:
        """Reach a server and sign in.

        Raises :class:`ServerUnreachable`, :class:`CertificateRefused`, :class:`SecretRefused`,
        :class:`ConnectionBroken`. ``trust`` replaces the system's certificates.
        """
        context = check_security(server, trust)
        where = str(server)
        try:
            client = IMAPClient(
                server.host, server.port, ssl=server.security == "tls", ssl_context=context, timeout=timeout
            )
        except ssl.SSLCertVerificationError as exc:
            raise distrusted("imap", server, exc) from exc
        except (OSError, IMAPClientError, imaplib.IMAP4.error) as exc:
            raise unreachable("IMAP", server, exc) from exc
        client.normalise_times = False
        try:
            with translated(where):
                if server.security == "starttls":
                    _encrypt(client, server, context)
                client.socket().setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                _sign_in(client, login, where)
                made = cls(server, client)
                if made.condstore:
                    client.enable("QRESYNC" if made.qresync else "CONDSTORE")
                return made
        except BaseException:
            with contextlib.suppress(Exception):
                client.shutdown()
            raise

    def offers(self, capability: str) -> bool:
        """Whether the server offers a capability."""
        return capability in self._offered

    def close(self) -> None:
        """Sign out; never raises."""
        with contextlib.suppress(Exception):
            self._client.logout()
        self.cut()

    def cut(self) -> None:
        """Close the socket without a word; never raises."""
        with contextlib.suppress(Exception):
            self._client.shutdown()

    def folders(self) -> list[Listed]:
        """All folders that can hold mail, each with its status; one command where LIST-STATUS is offered."""
        items = (*_STATUS, "HIGHESTMODSEQ") if self.condstore else _STATUS
        with self._translated():
            if self.selected:
                # Of the open folder some servers tell what they told last, until they are asked for news.
                self._client.noop()
            if self.offers("LIST-STATUS"):
                told = self._list_status(items)
            else:
                told = [(flags, delimiter, name, None) for flags, delimiter, name in self._client.list_folders()]
            found = []
            for flags, delimiter, name, status in told:
                words = {text_of(flag).lower() for flag in flags}
                if not words & {"\\noselect", "\\nonexistent"}:
                    status = status or self._status(name, items)
                    role = role_of(name, words)
                    found.append(Listed(name, text_of(delimiter or b""), role, status, bool(words & VIRTUAL)))
        return one_role_each(found)

    def personal(self) -> str:
        """What the names of one's own folders must begin with (NAMESPACE, RFC 2342); mostly nothing."""
        if not self.offers("NAMESPACE"):
            return ""
        with self._translated():
            own = self._client.namespace().personal
        return folder_name(own[0][0]) if own else ""

    def _list_status(self, items: Sequence[str]) -> list[tuple[Any, Any, str, Status | None]]:
        imap = self._client._imap
        for kind in ("LIST", "STATUS"):
            imap.response(kind)
        kind, _ = imap._simple_command("LIST", '""', '"*"', "RETURN", f"(SPECIAL-USE STATUS ({' '.join(items)}))")
        listed = [one for one in imap.response("LIST")[1] if one]
        told: dict[str, Status] = {}
        for line in imap.response("STATUS")[1]:
            if line:
                name, values = parse_response([line])
                told[folder_name(name)] = status_of(values)
        found = []
        for line in listed:
            flags, delimiter, name = parse_response([line] if isinstance(line, bytes) else list(line))
            clean = folder_name(name)
            found.append((flags, delimiter, clean, told.get(clean)))
        return found

    def status(self, name: str) -> Status:
        """The status of one folder. Raises :class:`FolderMissing`."""
        with self._translated():
            if name == self.selected:
                self._client.noop()
            return self._status(name, (*_STATUS, "HIGHESTMODSEQ") if self.condstore else _STATUS)

    def _status(self, name: str, items: Sequence[str]) -> Status:
        told = self._client.folder_status(name, list(items))
        return Status(
            int(told[b"UIDVALIDITY"]),
            int(told[b"UIDNEXT"]),
            int(told[b"MESSAGES"]),
            int(told.get(b"HIGHESTMODSEQ", 0)),
        )

    def select(self, name: str) -> Status:
        """Open a folder; what it holds. Raises :class:`FolderMissing`."""
        with self._translated():
            try:
                told = self._client.select_folder(name)
            except imaplib.IMAP4.readonly:
                # A folder this account may only look at, say a shared one.
                told = self._client.select_folder(name, readonly=True)
        self.selected = name
        self._permanent = told.get(b"PERMANENTFLAGS")
        self._uidnext = int(told.get(b"UIDNEXT", 0))
        exists = self._exists = int(told[b"EXISTS"])
        if exists > MAX_EXISTS:
            raise ServerRefused(
                f"{self.server.host} says that {name} holds {exists:,} messages, more than can be read."
            )
        return Status(
            int(told.get(b"UIDVALIDITY", 1)),
            int(told.get(b"UIDNEXT", 0)),
            exists,
            int(told.get(b"HIGHESTMODSEQ", 0)),
        )

    def create(self, name: str) -> None:
        """Make a folder, which may be there already, and subscribe to it so that other programs show it."""
        with self._translated():
            try:
                self._client.create_folder(name)
            except IMAPClientError as exc:
                if not self._client.folder_exists(name):
                    raise exc
            with contextlib.suppress(IMAPClientError):
                self._client.subscribe_folder(name)

    def remove(self, name: str) -> bool:
        """Take a folder away that is empty; whether it is gone. One that is not stays.

        Between a look and a removal another program may put mail into it, which would be lost with it. So it is given a
        name nobody else knows first, looked at once more, and then removed or given its name back.
        """
        if self.selected == name:
            self.select("INBOX")
        if self.status(name).messages:
            return False
        aside = f"{name}-{secrets.token_hex(6)}"
        with self._translated():
            self._client.rename_folder(name, aside)
        with self._translated():
            empty = int(self._client.folder_status(aside, ["MESSAGES"])[b"MESSAGES"]) == 0
            if empty:
                self._client.delete_folder(aside)
            else:
                self._client.rename_folder(aside, name)
        return empty

    @contextlib.contextmanager
    def _translated(self) -> Iterator[None]:
        self._bounded.taken = 0
        with translated(str(self.server)):
            yield


class _Bounded:
    """Stands before what imaplib reads from the wire: no literal and no answer without end."""

    def __init__(self, client: IMAPClient) -> None:
        imap = client._imap
        self.taken = 0
        self._read, self._readline = imap.read, imap.readline
        imap.read, imap.readline = self.read, self.readline

    def read(self, size: int) -> bytes:
        """A literal, unless it is longer than any message."""
        if size > MAX_LITERAL:
            raise imaplib.IMAP4.abort(f"a literal of {size:,} bytes was announced")
        return self._count(self._read(size))

    def readline(self) -> bytes:
        """A line, unless the answer to the command at hand has no end."""
        return self._count(self._readline())

    def _count(self, data: bytes) -> bytes:
        self.taken += len(data)
        if self.taken > MAX_ANSWER:
            raise imaplib.IMAP4.abort(f"an answer of more than {MAX_ANSWER:,} bytes came")
        return data


def _encrypt(client: IMAPClient, server: Server, context: ssl.SSLContext | None) -> None:
    try:
        client.starttls(context)
    except ssl.SSLCertVerificationError as exc:
        raise distrusted("imap", server, exc) from exc


def _said(exc: Exception) -> bytes | str:
    """What the server answered to a refused sign-in."""
    said = exc.args[0] if exc.args else ""
    if isinstance(said, bytes):
        return said
    text = str(said)
    return text[2:-1] if text[:2] in ("b'", 'b"') else text


def _sign_in(client: IMAPClient, login: Login, where: str) -> None:
    try:
        if not login.bearer and f"{login.user}{login.secret}".isascii():
            client.login(login.user, login.secret)
        elif not login.bearer:
            client.plain_login(login.user, login.secret)  # RFC 4616: LOGIN says ASCII alone
        elif client.has_capability("AUTH=OAUTHBEARER"):
            client.oauthbearer_login(login.user, login.secret)
        else:
            client.oauth2_login(login.user, login.secret)
    except (LoginError, IMAPClientError, imaplib.IMAP4.error) as exc:
        if isinstance(exc, (IMAPClientAbortError, imaplib.IMAP4.abort)):
            raise
        what = "token" if login.bearer else "password"
        raise SecretRefused(
            f"{where} does not let {login.user} in with this {what}{quoted(_said(exc), login)}. Check both; many "
            "providers want an app password instead of the usual one."
        ) from None
