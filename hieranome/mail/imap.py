"""A mailbox on a server, over IMAP (RFC 3501, RFC 9051), with whatever the server offers of its extensions.

Everything is addressed by UID. Foreign errors leave as ours; a broken connection is never repaired here, since only
the caller knows what was under way.
"""

from __future__ import annotations

import contextlib
import imaplib
import secrets
import select
import socket
import ssl
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from typing import Any

from imapclient import IMAPClient
from imapclient.exceptions import IMAPClientAbortError, IMAPClientError, LoginError
from imapclient.response_parser import parse_response

from hieranome.core.errors import SecretRefused, ServerRefused
from hieranome.mail.imap_answers import (
    UID,
    VIRTUAL,
    Changes,
    Flags,
    Listed,
    Meta,
    Status,
    flags_of,
    folder_name,
    line_of,
    meta_of,
    numbers,
    one_role_each,
    role_of,
    status_of,
    text_of,
    vanished,
)
from hieranome.mail.imap_errors import translated
from hieranome.mail.servers import Login, Server, check_security, unreachable, untrusted

TIMEOUT = 30.0
"""Seconds a server may take to answer."""
MAX_UIDS = 500
"""UIDs named in one command."""
UIDS_SEARCHED = 50_000
"""The span of UIDs asked for by one SEARCH, whose answer is one line that must not grow without bound."""
MOST_SPANS = 20
"""Such spans that are asked for; a server may name any next UID up to 2^32."""
MAX_EXISTS = 5_000_000
"""Messages of a folder that are followed."""
MAX_LITERAL = 300_000_000
"""Bytes of one literal that are read."""
MAX_ANSWER = 400_000_000
"""Bytes of the answer to one command."""
_STATUS = ("MESSAGES", "UIDNEXT", "UIDVALIDITY")


class Imap:
    """One signed-in connection. Not for several threads at once."""

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
            with translated(where):
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

    # --- messages ----------------------------------------------------------------------

    def uids(self, above: int = 0) -> list[int]:
        """The UIDs of the open folder from ``above`` + 1 on, ascending: asked for by UID, or by number where the server
        says that UIDs are so far apart that this takes longer."""
        first, last, kind = above + 1, max(self._uidnext, above + 2), ["UID"]
        if last - first > MOST_SPANS * UIDS_SEARCHED:
            first, last, kind = 1, self._exists + 1, []
        found: set[int] = set()
        for low in range(first, last, UIDS_SEARCHED):
            high = str(low + UIDS_SEARCHED - 1) if low + UIDS_SEARCHED < last else "*"
            with self._translated():
                found.update(self._client.search([*kind, f"{low}:{high}"]))
        return sorted(uid for uid in found if uid > above)

    def metas(self, uids: Sequence[int]) -> list[Meta]:
        """What is known of messages before their bytes; those that are gone are left out."""
        items = "FLAGS INTERNALDATE RFC822.SIZE" + (" EMAILID" if self.offers("OBJECTID") else "")
        found = []
        for part in _parts(uids):
            with self._translated():
                lines = self._fetch_lines(",".join(map(str, part)), f"({items})")
                found += [meta for line in lines if (meta := meta_of(line)) is not None]
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
                uid = UID.search(line[0]) or UID.search(line_of(behind))
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
            flags = {int(uid[1]): flags_of(line) for line in lines if (uid := UID.search(line_of(line)))}
        if not modifiers:
            return Changes(flags, None)
        return Changes(flags, vanished(gone) if self.qresync else None)

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
                made.update(zip(numbers(old), numbers(new), strict=True))
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
            told = self._begin_idle()
            connection = self._client.socket()
            if not told and not self._read_already(connection):
                told = connection in select.select([connection, wake], [], [], seconds)[0]
            else:
                told = True
            _, more = self._client.idle_done()
            return told or bool(more)

    def _begin_idle(self) -> bool:
        """Begin IDLE (RFC 2177); whether the server told something before it said that it idles."""
        imap = self._client._imap
        tag = self._client._idle_tag = imap._command("IDLE")
        told = False
        while imap._get_response() is not None:
            if imap.tagged_commands.get(tag) is not None:
                raise IMAPClientError(f"IDLE failed: {imap.tagged_commands.pop(tag)!r}")
            told = True
        return told

    def _read_already(self, connection: socket.socket) -> bool:
        """Whether something the server told was read off the wire together with what came before it: waiting for the
        wire would miss that."""
        pending = getattr(connection, "pending", None)
        if pending and pending():
            return True
        before = connection.gettimeout()
        connection.setblocking(False)
        try:
            return bool(self._client._imap.file.peek(1))
        except (BlockingIOError, ssl.SSLWantReadError):
            return False
        finally:
            connection.settimeout(before)

    @contextlib.contextmanager
    def _translated(self) -> Iterator[None]:
        self._bounded.taken = 0
        with translated(f"{self.server.host}, port {self.server.port}"):
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


def _parts(uids: Sequence[int]) -> Iterator[list[int]]:
    for start in range(0, len(uids), MAX_UIDS):
        yield list(uids[start : start + MAX_UIDS])
