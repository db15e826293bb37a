"""Scripts at a mail server, through ManageSieve (RFC 5804): looked at, put there, chosen, taken away.

sievelib speaks the protocol; the connection is made here, so that it is encrypted as the owner's other connections are,
and bounded in time and in what is read of it.
"""

from __future__ import annotations

import contextlib
import socket
import ssl
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from sievelib import managesieve

from hieranome.core.errors import ConnectionBroken, HieranomeError, SecretRefused, ServerRefused
from hieranome.mail.charsets import valid
from hieranome.mail.deadline import ended_after
from hieranome.mail.greeting import distrusted
from hieranome.mail.servers import Login, Server, check_security, quoted, unreachable

PORT = 4190
MOST_READ = 400_000
"""Bytes read of one connection at the most: several times any script, and the library takes short lines ever slower."""
PATIENCE = 15.0
"""Seconds a server may take for each answer."""
WHOLE = 60.0
"""Seconds one visit may take."""


@dataclass(frozen=True, slots=True)
class Listing:
    """The scripts that are at a server, and the one that runs (empty: none)."""

    names: frozenset[str]
    active: str


class _Bounded:
    """A connection of which no more is read than any script needs."""

    def __init__(self, sock: socket.socket) -> None:
        self._sock = sock
        self._left = MOST_READ

    def recv(self, size: int) -> bytes:
        """What came, unless it was too much."""
        data = self._sock.recv(min(size, 65_536))
        self._left -= len(data)
        if self._left < 0:
            raise managesieve.Error(f"an answer of more than {MOST_READ:,} bytes came")
        return data

    def __getattr__(self, name: str) -> Any:
        return getattr(self._sock, name)


class Scripts:
    """One visit to a server, signed in."""

    def __init__(self, client: managesieve.Client, where: str) -> None:
        self._client = client
        self._where = where

    @property
    def extensions(self) -> frozenset[str]:
        """The Sieve extensions the server runs, in lower case."""
        return frozenset(one.lower() for one in self._client.get_sieve_capabilities() or ())

    def listing(self) -> Listing:
        """What is there."""
        found = self._client.listscripts()
        if found is None:
            raise self._refused("list the scripts")
        active, others = found
        return Listing(frozenset(others) | ({active} if active else set()), active or "")

    def get(self, name: str) -> str:
        """The text of a script."""
        text = self._client.getscript(name)
        if text is None:
            raise self._refused(f"give the script “{name}”")
        return str(text)

    def put(self, name: str, text: str) -> None:
        """Put a script there, in place of one of that name. The server refuses what it cannot run."""
        if not self._client.putscript(name, text):
            raise self._refused(f"take the script “{name}”")

    def choose(self, name: str) -> None:
        """Let a script run, and no other; none, where the name is empty."""
        if not self._client.setactive(name):
            raise self._refused(f"run the script “{name}”" if name else "run no script")

    def remove(self, name: str) -> None:
        """Take a script away. One that runs cannot be."""
        if not self._client.deletescript(name):
            raise self._refused(f"take the script “{name}” away")

    def _refused(self, what: str) -> ServerRefused:
        return ServerRefused(f"{self._where} would not {what}{quoted(self._client.errmsg or b'', None)}.")


@contextlib.contextmanager
def visit(server: Server, login: Login, *, trust: ssl.SSLContext | None = None) -> Iterator[Scripts]:
    """Connect, sign in, and leave at the end.

    Raises :class:`ServerUnreachable`, :class:`CertificateRefused`, :class:`SecretRefused`,
    :class:`ConnectionBroken`, and within it :class:`ServerRefused`.
    """
    context = check_security(server, trust)
    where = str(server)
    try:
        raw = socket.create_connection((server.host, server.port), PATIENCE)
    except OSError as exc:
        raise unreachable("ManageSieve", server, exc) from exc
    client = managesieve.Client(server.host, server.port)
    with contextlib.ExitStack() as held, _translated(where):
        held.callback(_close, client, raw)
        held.enter_context(ended_after(raw, WHOLE))
        if server.security == "tls":
            client.sock = _Bounded(held.enter_context(_encrypted(raw, server, context)))
        else:
            client.sock = _Bounded(raw)
        _ask(client, "get_capabilities")
        if server.security == "starttls":
            _agree_on_tls(client, server)
            client.sock = _Bounded(held.enter_context(_encrypted(raw, server, context)))
            _ask(client, "get_capabilities")
        _enter(client, login, where)
        yield Scripts(client, where)
        with contextlib.suppress(managesieve.Error, OSError):
            client.logout()


def _ask(client: managesieve.Client, name: str, *given: Any) -> Any:
    """The library makes its own connection in one piece; this is one of the pieces."""
    return getattr(client, f"_Client__{name}")(*given)


def _agree_on_tls(client: managesieve.Client, server: Server) -> None:
    if not client.has_tls_support():
        raise ServerRefused(f"{server} does not offer to be encrypted. Choose another port, or TLS from the beginning.")
    code, _ = _ask(client, "send_command", "STARTTLS")
    if code != "OK":
        raise ServerRefused(f"{server} would not be encrypted.")
    # What came in clear behind the answer is nobody's: it may have been put there on the way (RFC 5804, section 2.2).
    client._Client__read_buffer = b""
    client._Client__capabilities = {}


@contextlib.contextmanager
def _encrypted(raw: socket.socket, server: Server, context: ssl.SSLContext | None) -> Iterator[socket.socket]:
    """The connection encrypted, for as long as a visit may take: it has a descriptor of its own, which is ended too."""
    assert context is not None
    try:
        safe = context.wrap_socket(raw, server_hostname=server.host)
    except ssl.SSLCertVerificationError as exc:
        raise distrusted("sieve", server, exc) from exc
    with safe, ended_after(safe, WHOLE):
        yield safe


def _enter(client: managesieve.Client, login: Login, where: str) -> None:
    token = "OAUTHBEARER" if "OAUTHBEARER" in client.get_sasl_mechanisms() else "XOAUTH2"
    way = token if login.bearer else "PLAIN"
    if not _ask(client, "authenticate", login.user, login.secret, "", way):
        raise SecretRefused(
            f"{where} does not let {login.user} in{quoted(client.errmsg or b'', login)}. It is asked with the user "
            "name and password of the mailbox; check whether its scripts are kept elsewhere."
        )


@contextlib.contextmanager
def _translated(where: str) -> Iterator[None]:
    """Within it, foreign errors become ours."""
    try:
        yield
    except HieranomeError:
        raise
    except (managesieve.Error, OSError) as exc:
        raise ConnectionBroken(f"The connection to {where} broke ({valid(str(exc))[:300]}). Try again.") from exc
    except (ValueError, KeyError, IndexError, TypeError, AttributeError, RecursionError) as exc:
        # An answer that is none reaches us as whatever the reader of it stumbled over.
        raise ConnectionBroken(f"{where} gave an answer that cannot be read ({valid(repr(exc))[:300]}).") from exc


def _close(client: managesieve.Client, raw: socket.socket) -> None:
    for one in (client.sock, raw):
        with contextlib.suppress(OSError):
            if one is not None:
                one.close()
    client.sock = None
