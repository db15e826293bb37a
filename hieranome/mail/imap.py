"""The messages of the open folder on a server, over IMAP: looked for, fetched, marked, moved, waited for.

Everything is addressed by UID. What the server tells beside its answers is read too.
"""

from __future__ import annotations

import select
import socket
import ssl
from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, datetime
from typing import Any

from imapclient.exceptions import IMAPClientError

from hieranome.mail.imap_answers import (
    UID,
    Changes,
    Flags,
    Meta,
    flags_of,
    line_of,
    meta_of,
    numbers,
    text_of,
    vanished,
)
from hieranome.mail.imap_connection import Connection

MAX_UIDS = 500
"""UIDs named in one command."""
UIDS_SEARCHED = 50_000
"""The span of UIDs asked for by one SEARCH, whose answer is one line that must not grow without bound."""
MOST_SPANS = 20
"""Such spans that are asked for; a server may name any next UID up to 2^32."""


class Imap(Connection):
    """One signed-in connection. Not for several threads at once."""

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

    def takes(self, keywords: Iterable[str]) -> bool:
        """Whether the open folder keeps such keywords (PERMANENTFLAGS; RFC 9051, section 7.1: all where it tells
        none)."""
        if self._permanent is None:
            return True
        kept = {text_of(word).lower() for word in self._permanent}
        return "\\*" in kept or all(word.lower() in kept for word in keywords)

    def set_keywords(self, uids: Sequence[int], on: Sequence[str], off: Sequence[str]) -> None:
        """Set and clear keywords; other flags stay."""
        for part in _parts(uids):
            with self._translated():
                for change, words in ((self._client.add_flags, on), (self._client.remove_flags, off)):
                    if words:
                        change(part, list(words), silent=True)

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

    def take_away(self, uids: Sequence[int]) -> bool:
        """Remove messages of the open folder for good; whether they are gone. Without UIDPLUS (RFC 4315) nothing is
        removed while another program's mark for removal stands in the folder: they wait, marked, for the next time."""
        if not uids:
            return True
        self.set_deleted(uids)
        with self._translated():
            if self.offers("UIDPLUS"):
                self._client.uid_expunge(list(uids))
                return True
            if set(self._client.search("DELETED")) - set(uids):
                return False
        self.expunge_all()
        return True

    def set_deleted(self, uids: Sequence[int]) -> None:
        """Mark messages for removal."""
        with self._translated():
            self._client.add_flags(list(uids), ["\\Deleted"], silent=True)

    def expunge_all(self) -> None:
        """Remove every message of the open folder that is marked for removal."""
        with self._translated():
            self._client.expunge()

    def append(self, folder: str, raw: bytes, flags: Flags, at: int) -> tuple[int, int] | None:
        """Put a message into a folder; its UIDVALIDITY and UID, where they are told. Raises :class:`ServerFull`,
        :class:`FolderMissing`."""
        words = [
            word
            for word, on in (
                ("\\Seen", flags.seen),
                ("\\Answered", flags.answered),
                ("\\Flagged", flags.flagged),
                ("\\Draft", flags.draft),
            )
            if on
        ]
        words += sorted(flags.keywords)
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


def _parts(uids: Sequence[int]) -> Iterator[list[int]]:
    for start in range(0, len(uids), MAX_UIDS):
        yield list(uids[start : start + MAX_UIDS])
