"""A mailbox on a server, over IMAP (RFC 3501, RFC 9051), with whatever the server offers of its extensions.

Everything is addressed by UID. Foreign errors leave as ours; a broken connection is never repaired here, since only
the caller knows what was under way.
"""

from __future__ import annotations

import contextlib
import imaplib
import re
import select
import socket
import ssl
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal

from imapclient import IMAPClient
from imapclient.exceptions import IMAPClientAbortError, IMAPClientError, LoginError, ProtocolError
from imapclient.imap_utf7 import decode as decode_name
from imapclient.response_parser import parse_response

from hieranome.core.errors import (
    CallerError,
    CertificateRefused,
    ConnectionBroken,
    FolderMissing,
    HieranomeError,
    NotPermitted,
    SecretRefused,
    ServerFull,
    ServerRefused,
    ServerUnreachable,
)

Security = Literal["tls", "starttls", "plain"]
TIMEOUT = 30.0
"""Seconds a server may take to answer."""
LOCAL = ("127.0.0.1", "::1", "localhost")
"""Hosts to which a connection may go unencrypted."""
MAX_UIDS = 500
"""UIDs named in one command."""
UIDS_SEARCHED = 50_000
"""The span of UIDs asked for by one SEARCH, whose answer is one line that must not grow without bound."""
USES = {
    "\\inbox": "inbox",
    "\\sent": "sent",
    "\\drafts": "drafts",
    "\\archive": "archive",
    "\\trash": "trash",
    "\\junk": "junk",
}
_USUAL = {
    "sent": ("sent", "sent items", "sent mail", "sent messages"),
    "drafts": ("drafts",),
    "archive": ("archive", "archives"),
    "trash": ("trash", "deleted", "deleted items", "deleted messages", "bin"),
    "junk": ("junk", "spam", "junk mail", "junk e-mail", "bulk mail"),
}
_STATUS = ("MESSAGES", "UIDNEXT", "UIDVALIDITY")


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


@dataclass(frozen=True, slots=True)
class Status:
    """What a server tells of a folder without opening it; ``modseq`` is 0 where it keeps none."""

    validity: int
    uidnext: int
    messages: int
    modseq: int = 0


@dataclass(frozen=True, slots=True)
class Listed:
    """A folder on the server: its name, its hierarchy delimiter, its role (``inbox``, ``sent``, ``drafts``,
    ``archive``, ``trash``, ``junk`` or an empty string), its status where one was told."""

    name: str
    delimiter: str
    role: str
    status: Status | None = None


@dataclass(frozen=True, slots=True)
class Flags:
    """The marks of a message that Hieranome knows, and whether it waits to be expunged."""

    seen: bool = False
    answered: bool = False
    flagged: bool = False
    deleted: bool = False

    @classmethod
    def of(cls, words: Iterable[bytes | str | int]) -> Flags:
        """Out of the words of a FLAGS answer."""
        said = {(w.decode("ascii", "replace") if isinstance(w, bytes) else str(w)).lower() for w in words}
        return cls("\\seen" in said, "\\answered" in said, "\\flagged" in said, "\\deleted" in said)


@dataclass(frozen=True, slots=True)
class Meta:
    """What is known of a message before its bytes: flags, size in bytes, INTERNALDATE (Unix seconds), EMAILID
    (RFC 8474; empty where the server keeps none)."""

    uid: int
    flags: Flags
    size: int
    at: int
    email_id: str


@dataclass(frozen=True, slots=True)
class Changes:
    """What changed in a folder: new flags by UID; UIDs removed, or None where that was not told."""

    flags: dict[int, Flags]
    gone: list[int] | None


class Imap:
    """One signed-in connection. Not for several threads at once."""

    def __init__(self, server: Server, client: IMAPClient) -> None:
        self.server = server
        self.selected = ""
        self._uidnext = 0
        self._client = client
        self._offered = {str(c, "ascii").upper() if isinstance(c, bytes) else c for c in client.capabilities()}
        self.condstore = self.offers("CONDSTORE") and self.offers("ENABLE")
        self.qresync = self.condstore and self.offers("QRESYNC")

    @classmethod
    def connect(
        cls, server: Server, login: Login, *, timeout: float = TIMEOUT, trust: ssl.SSLContext | None = None
    ) -> Imap:
        """Reach a server and sign in.

        Raises :class:`ServerUnreachable`, :class:`CertificateRefused`, :class:`SecretRefused`,
        :class:`ConnectionBroken`. ``trust`` replaces the system's certificates.
        """
        context = check_security(server, trust)
        where = f"{server.host}, port {server.port}"
        try:
            client = IMAPClient(
                server.host, server.port, ssl=server.security == "tls", ssl_context=context, timeout=timeout
            )
        except ssl.SSLCertVerificationError as exc:
            raise untrusted(where, exc) from exc
        except (OSError, IMAPClientError, imaplib.IMAP4.error) as exc:
            raise unreachable("IMAP", where, exc) from exc
        client.normalise_times = False
        try:
            with _translated(where):
                if server.security == "starttls":
                    client.starttls(context)
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

    # --- folders -----------------------------------------------------------------------

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
                words = {_text(flag).lower() for flag in flags}
                if not words & {"\\noselect", "\\nonexistent"}:
                    status = status or self._status(name, items)
                    found.append(Listed(name, _text(delimiter or b""), _role(name, words), status))
        return _one_role_each(found)

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
                told[_folder_name(name)] = _status_of(values)
        found = []
        for line in listed:
            flags, delimiter, name = parse_response([line] if isinstance(line, bytes) else list(line))
            clean = _folder_name(name)
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
            told = self._client.select_folder(name)
        self.selected = name
        self._uidnext = int(told.get(b"UIDNEXT", 0))
        exists = int(told[b"EXISTS"])
        return Status(
            int(told.get(b"UIDVALIDITY", 1)),
            int(told.get(b"UIDNEXT", 0)),
            exists,
            int(told.get(b"HIGHESTMODSEQ", 0)),
        )

    def leave(self) -> None:
        """Leave the open folder, expunging nothing."""
        if self.selected and self.offers("UNSELECT"):
            with self._translated():
                self._client.unselect_folder()
            self.selected = ""

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

    def remove(self, name: str) -> None:
        """Take a folder away that is empty; one that is not stays."""
        if self.selected == name:
            self.select("INBOX")
        if self.status(name).messages == 0:
            with self._translated():
                self._client.delete_folder(name)

    # --- messages ----------------------------------------------------------------------

    def uids(self, above: int = 0) -> list[int]:
        """The UIDs of the open folder from ``above`` + 1 on, ascending."""
        found: set[int] = set()
        last = max(self._uidnext, above + 2)
        for low in range(above + 1, last, UIDS_SEARCHED):
            high = str(low + UIDS_SEARCHED - 1) if low + UIDS_SEARCHED < last else "*"
            with self._translated():
                found.update(self._client.search(["UID", f"{low}:{high}"]))
        return sorted(uid for uid in found if uid > above)

    def metas(self, uids: Sequence[int]) -> list[Meta]:
        """What is known of messages before their bytes; those that are gone are left out."""
        items = "FLAGS INTERNALDATE RFC822.SIZE" + (" EMAILID" if self.offers("OBJECTID") else "")
        found = []
        for part in _parts(uids):
            with self._translated():
                lines = self._fetch_lines(",".join(map(str, part)), f"({items})")
                found += [meta for line in lines if (meta := _meta(line)) is not None]
        return sorted(found, key=lambda one: one.uid)

    def _fetch_lines(self, uids: str, rest: str) -> list[Any]:
        """The untagged FETCH answers to a UID FETCH, as imaplib keeps them (a line, or one with its literal): parsing
        them by the library's grammar costs more than all else in a large folder."""
        imap = self._client._imap
        imap.response("FETCH")
        tag = imap._command("UID", "FETCH", uids, rest)
        kind, data = imap._command_complete("UID", tag)
        if kind != "OK":
            raise IMAPClientError(f"FETCH failed: {data!r}")
        return [line for line in imap.response("FETCH")[1] if line]

    def bodies(self, uids: Sequence[int]) -> dict[int, bytes]:
        """The bytes of messages, their \\Seen left as it is; those that are gone are left out."""
        if not uids:
            return {}
        with self._translated():
            lines = self._fetch_lines(",".join(map(str, uids)), "(BODY.PEEK[])")
        found = {}
        for at, line in enumerate(lines):
            if isinstance(line, tuple) and b"BODY[]" in line[0].upper():
                # The UID may stand before the literal or behind it.
                behind = lines[at + 1] if at + 1 < len(lines) else b""
                uid = _UID.search(line[0]) or _UID.search(_line(behind))
                if uid is not None:
                    found[int(uid[1])] = bytes(line[1])
        return found

    def changes(self, since: int) -> Changes:
        """What changed in the open folder since a mod-sequence; all flags where the server keeps none, or for 0."""
        modifiers = f" (CHANGEDSINCE {since}{' VANISHED' if self.qresync else ''})" if since and self.condstore else ""
        with self._translated():
            self._client._imap.response("VANISHED")
            lines = self._fetch_lines("1:*", f"(FLAGS){modifiers}")
            gone = self._client._imap.response("VANISHED")[1]
            flags = {int(uid[1]): _flags(line) for line in lines if (uid := _UID.search(_line(line)))}
        if not modifiers:
            return Changes(flags, None)
        return Changes(flags, _vanished(gone) if self.qresync else None)

    def mark(self, uids: Sequence[int], flags: Flags) -> None:
        """Set and clear \\Seen, \\Answered and \\Flagged as given; other flags stay."""
        wanted = {"\\Seen": flags.seen, "\\Answered": flags.answered, "\\Flagged": flags.flagged}
        for part in _parts(uids):
            with self._translated():
                for change, on in ((self._client.add_flags, True), (self._client.remove_flags, False)):
                    words = [word for word, value in wanted.items() if value == on]
                    if words:
                        change(part, words, silent=True)

    def move(self, uids: Sequence[int], target: str) -> dict[int, int]:
        """Move messages by MOVE (RFC 6851); the new UID of each, as far as it was told. Raises
        :class:`FolderMissing`."""
        with self._translated():
            self._client._imap.response("COPYUID")
            self._client.move(list(uids), target)
            return self._copied()

    def copy(self, uids: Sequence[int], target: str) -> dict[int, int]:
        """Copy messages; the new UID of each, as far as it was told. Raises :class:`FolderMissing`."""
        with self._translated():
            self._client._imap.response("COPYUID")
            self._client.copy(list(uids), target)
            return self._copied()

    def _copied(self) -> dict[int, int]:
        made: dict[int, int] = {}
        for line in self._client._imap.response("COPYUID")[1]:
            if line:
                _, old, new = line.decode("ascii").split()
                made.update(zip(_numbers(old), _numbers(new), strict=True))
        return made

    def set_deleted(self, uids: Sequence[int]) -> None:
        """Mark messages for removal."""
        with self._translated():
            self._client.add_flags(list(uids), ["\\Deleted"], silent=True)

    def deleted(self) -> list[int]:
        """The messages of the open folder that are marked for removal, by whomever."""
        with self._translated():
            return list(self._client.search("DELETED"))

    def expunge(self, uids: Sequence[int]) -> None:
        """Remove these messages, marked before (UIDPLUS, RFC 4315)."""
        with self._translated():
            self._client.uid_expunge(list(uids))

    def expunge_all(self) -> None:
        """Remove every message of the open folder that is marked for removal."""
        with self._translated():
            self._client.expunge()

    def append(self, folder: str, raw: bytes, flags: Flags, at: int) -> tuple[int, int] | None:
        """Put a message into a folder; its UIDVALIDITY and UID, where they are told. Raises :class:`ServerFull`,
        :class:`FolderMissing`."""
        words = [
            word
            for word, on in (("\\Seen", flags.seen), ("\\Answered", flags.answered), ("\\Flagged", flags.flagged))
            if on
        ]
        with self._translated():
            self._client._imap.response("APPENDUID")
            self._client.append(folder, raw, words, datetime.fromtimestamp(at, UTC))
            for line in self._client._imap.response("APPENDUID")[1]:
                if line:
                    validity, uid = line.split()
                    return int(validity), int(uid)
        return None

    def with_message_id(self, message_id: str) -> list[int]:
        """UIDs of the open folder whose Message-ID is the one given."""
        with self._translated():
            return sorted(self._client.search(["HEADER", "Message-ID", message_id]))

    # --- waiting -----------------------------------------------------------------------

    def wait(self, seconds: float, wake: socket.socket) -> bool:
        """Wait in the open folder until the server tells something, ``wake`` is readable, or the time is up; whether
        the server told something. Without IDLE it waits for ``wake`` and the time alone."""
        if not self.offers("IDLE") or not self.selected:
            select.select([wake], [], [], seconds)
            return False
        with self._translated():
            self._client.idle()
            connection = self._client.socket()
            pending = getattr(connection, "pending", None)
            ready = [connection] if pending and pending() else select.select([connection, wake], [], [], seconds)[0]
            _, more = self._client.idle_done()
            return connection in ready or bool(more)

    @contextlib.contextmanager
    def _translated(self) -> Iterator[None]:
        with _translated(f"{self.server.host}, port {self.server.port}"):
            yield


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


def untrusted(where: str, exc: ssl.SSLCertVerificationError) -> CertificateRefused:
    """What a certificate that failed is told as."""
    return CertificateRefused(
        f"The certificate of {where} is not to be trusted ({exc.verify_message}), so nothing was sent. Check the name "
        "of the server; if it is right, ask whoever runs it to renew the certificate."
    )


def unreachable(kind: str, where: str, exc: Exception) -> ServerUnreachable:
    """What a server that does not answer is told as."""
    why = "it did not answer in time" if isinstance(exc, TimeoutError) else (getattr(exc, "strerror", "") or str(exc))
    return ServerUnreachable(
        f"No {kind} server answers at {where} ({why}). Check the server's name and port, and whether it wants TLS from "
        "the start or STARTTLS."
    )


def _sign_in(client: IMAPClient, login: Login, where: str) -> None:
    try:
        if not login.bearer:
            client.login(login.user, login.secret)
        elif client.has_capability("AUTH=OAUTHBEARER"):
            client.oauthbearer_login(login.user, login.secret)
        else:
            client.oauth2_login(login.user, login.secret)
    except (LoginError, IMAPClientError, imaplib.IMAP4.error) as exc:
        if isinstance(exc, (IMAPClientAbortError, imaplib.IMAP4.abort)):
            raise
        what = "token" if login.bearer else "password"
        raise SecretRefused(
            f"{where} does not let {login.user} in with this {what}. Check both; many providers want an app password "
            "instead of the usual one."
        ) from None


@contextlib.contextmanager
def _translated(where: str) -> Iterator[None]:
    """Foreign errors become ours."""
    try:
        yield
    except HieranomeError:
        raise
    except ssl.SSLCertVerificationError as exc:
        raise untrusted(where, exc) from exc
    except (IMAPClientAbortError, imaplib.IMAP4.abort, OSError, EOFError, ProtocolError) as exc:
        raise ConnectionBroken(f"The connection to {where} broke ({exc}). It is made again by itself.") from exc
    except (IMAPClientError, imaplib.IMAP4.error) as exc:
        raise _refused(where, str(exc)) from exc
    except (ValueError, KeyError, IndexError, TypeError, AttributeError) as exc:
        # An answer cut off in its middle reaches us as whatever the parser stumbled over.
        raise ConnectionBroken(f"{where} gave an answer that cannot be read ({exc!r}).") from exc


def _refused(where: str, said: str) -> HieranomeError:
    upper = said.upper()
    if "OVERQUOTA" in upper or "QUOTA EXCEEDED" in upper or "OVER QUOTA" in upper:
        return ServerFull(
            f"The mailbox at {where} is full, so nothing more can be put there. Free some space on the server; it is "
            "tried again by itself."
        )
    if "NOPERM" in upper or "PERMISSION" in upper or "ACL" in upper.split() or "READ-ONLY" in upper:
        return NotPermitted(f"{where} does not permit this ({said}). Ask whoever runs it for the right to change it.")
    if any(code in upper for code in ("TRYCREATE", "NONEXISTENT", "DOESN'T EXIST", "NO SUCH")):
        return FolderMissing(f"The folder is not on {where} ({said}).")
    if "TOO LARGE" in upper or "TOOBIG" in upper or "LIMIT" in upper:
        return ServerRefused(f"{where} does not take a message of this size ({said}).")
    return ServerRefused(f"{where} refused a command ({said}).")


def _parts(uids: Sequence[int]) -> Iterator[list[int]]:
    for start in range(0, len(uids), MAX_UIDS):
        yield list(uids[start : start + MAX_UIDS])


def _numbers(text: str) -> list[int]:
    found: list[int] = []
    for part in text.split(","):
        first, _, last = part.partition(":")
        low, high = int(first), int(last or first)
        found += range(low, high + 1) if low <= high else range(low, high - 1, -1)
    return found


def _vanished(lines: Sequence[bytes | None]) -> list[int]:
    found: list[int] = []
    for line in lines:
        if line:
            words = re.sub(rb"^\(EARLIER\)\s*", b"", line, flags=re.IGNORECASE)
            found += _numbers(words.decode("ascii").strip())
    return found


def _text(word: bytes | str) -> str:
    return word.decode("ascii", "replace") if isinstance(word, bytes) else str(word)


def _folder_name(name: bytes | str | int) -> str:
    return str(decode_name(name) if isinstance(name, bytes) else name)


def _status_of(values: Sequence[Any]) -> Status:
    told = {_text(values[i]).upper(): int(values[i + 1]) for i in range(0, len(values) - 1, 2)}
    return Status(told["UIDVALIDITY"], told["UIDNEXT"], told["MESSAGES"], told.get("HIGHESTMODSEQ", 0))


_UID = re.compile(rb"\bUID (\d+)")
_FLAGS = re.compile(rb"\bFLAGS \(([^)]*)\)")
_SIZE = re.compile(rb"\bRFC822\.SIZE (\d+)")
_DATE = re.compile(rb'\bINTERNALDATE "([^"]*)"')
_EMAIL_ID = re.compile(rb"\bEMAILID \(([^)]*)\)")


def _line(line: Any) -> bytes:
    return bytes(line[0] if isinstance(line, tuple) else line)


def _flags(line: Any) -> Flags:
    told = _FLAGS.search(_line(line))
    return Flags.of(told[1].split()) if told else Flags()


def _meta(line: Any) -> Meta | None:
    """What a FETCH answer without literals tells; None for one that is about something else."""
    text = _line(line)
    uid, size, date, email_id = (one.search(text) for one in (_UID, _SIZE, _DATE, _EMAIL_ID))
    if uid is None or size is None:
        return None
    at = int(datetime.strptime(date[1].decode("ascii").strip(), "%d-%b-%Y %H:%M:%S %z").timestamp()) if date else 0
    return Meta(int(uid[1]), _flags(line), int(size[1]), at, email_id[1].decode("ascii") if email_id else "")


def _role(name: str, words: set[str]) -> str:
    if name.upper() == "INBOX":
        return "inbox"
    return next((role for word, role in USES.items() if word in words), "")


def _one_role_each(found: list[Listed]) -> list[Listed]:
    """Where the server names no folder for a use, the one with a usual name has it."""
    taken = {one.role for one in found}
    made = []
    for one in found:
        last = one.name.rpartition(one.delimiter)[2].lower() if one.delimiter else one.name.lower()
        role = one.role or next((r for r, names in _USUAL.items() if last in names and r not in taken), "")
        if role and not one.role:
            taken.add(role)
        made.append(Listed(one.name, one.delimiter, role, one.status))
    return made
