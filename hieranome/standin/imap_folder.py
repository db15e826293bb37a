"""The folder a connection to the simulated server has open: what it was told of it, the commands on its messages."""

from __future__ import annotations

import asyncio
from bisect import bisect_left
from collections.abc import Callable
from contextlib import suppress

from hieranome.standin.imap_parts import envelope, section, split, structure
from hieranome.standin.imap_search import Search
from hieranome.standin.imap_site import Site
from hieranome.standin.imap_wire import Dropped, Wire
from hieranome.standin.imap_words import (
    Word,
    bytes_of,
    from_utf7,
    internal_date,
    numbers,
    ranges,
    text_of,
)
from hieranome.standin.postbox import NoFolder, Postbox, Stored

_MACROS = {
    b"ALL": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE", b"ENVELOPE"],
    b"FAST": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE"],
    b"FULL": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE", b"ENVELOPE", b"BODY"],
}


class Refused(Exception):
    """A command is answered NO; the text may begin with a response code."""


class Malformed(Exception):
    """A command is answered BAD."""


class OpenFolder:
    """What a connection has open, if anything, and what is done to messages by it."""

    def __init__(self, site: Site, wire: Wire) -> None:
        self._server = site
        self._wire = wire
        self._box: Postbox | None = None
        self._folder = ""
        self._read_only = False
        self._shown: list[int] = []
        self._told_modseq = 0
        self._validity = 0
        self._condstore = False
        self._qresync = False
        self._woken = asyncio.Event()

    def _can(self, capability: str) -> bool:
        return capability in self._server.capabilities

    @property
    def _postbox(self) -> Postbox:
        assert self._box is not None
        return self._box

    async def _do_select(self, parsed: list[Word], *, read_only: bool = False) -> bytes:
        self._leave()
        state = self._postbox.folder(from_utf7(bytes_of(parsed[0])))
        options = parsed[1] if len(parsed) > 1 and isinstance(parsed[1], list) else []
        self._condstore = self._condstore or (b"CONDSTORE" in options and self._can("CONDSTORE"))
        read_only = read_only or state.name in self._server.read_only
        self._folder, self._read_only, self._validity = state.name, read_only, state.validity
        self._shown = self._postbox.uids(state.name)
        self._told_modseq = state.modseq
        await self._wire.say(b"* FLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft)")
        any_word = b"" if self._server.fixed_flags else b" \\*"
        kept = b"(\\Answered \\Flagged \\Deleted \\Seen \\Draft" + any_word + b")"
        await self._wire.say(b"* OK [PERMANENTFLAGS " + kept + b"] kept")
        await self._wire.say(b"* %d EXISTS" % len(self._shown))
        await self._wire.say(b"* 0 RECENT")
        await self._wire.say(b"* OK [UIDVALIDITY %d] valid" % state.validity)
        await self._wire.say(b"* OK [UIDNEXT %d] next" % state.uidnext)
        if self._can("CONDSTORE"):
            await self._wire.say(b"* OK [HIGHESTMODSEQ %d] highest" % state.modseq)
        if self._qresync and b"QRESYNC" in options:
            await self._resync(options[options.index(b"QRESYNC") + 1])
        return b"OK [READ-ONLY] done" if read_only else b"OK [READ-WRITE] done"

    async def _resync(self, asked: Word) -> None:
        if not isinstance(asked, list) or int(bytes_of(asked[0])) != self._validity:
            return
        since = int(bytes_of(asked[1]))
        gone = self._postbox.gone(self._folder, since)
        if gone:
            await self._wire.say(b"* VANISHED (EARLIER) " + ranges(gone).encode())
        for one in self._postbox.mail(self._folder, since):
            await self._wire.say(self._fetched(one, [b"UID", b"FLAGS", b"MODSEQ"]))

    async def _do_examine(self, parsed: list[Word]) -> bytes:
        return await self._do_select(parsed, read_only=True)

    def _leave(self) -> None:
        self._folder, self._shown = "", []

    async def _do_close(self, _: list[Word]) -> bytes:
        if not self._read_only:
            self._postbox.expunge(self._folder, self._deleted())
        self._leave()
        return b"OK done"

    async def _do_unselect(self, _: list[Word]) -> bytes:
        self._leave()
        return b"OK done"

    async def _do_check(self, _: list[Word]) -> bytes:
        return b"OK done"

    def _named(self, word: Word, by_uid: bool) -> list[int]:
        if by_uid:
            return numbers(bytes_of(word), self._shown)
        return [self._shown[n - 1] for n in numbers(bytes_of(word), list(range(1, len(self._shown) + 1)))]

    async def _do_fetch(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        asked = parsed[1] if isinstance(parsed[1], list) else _MACROS.get(bytes_of(parsed[1]).upper(), [parsed[1]])
        items = [bytes_of(item) for item in asked]
        options = parsed[2] if len(parsed) > 2 and isinstance(parsed[2], list) else []
        since = int(bytes_of(options[options.index(b"CHANGEDSINCE") + 1])) if b"CHANGEDSINCE" in options else 0
        if since:
            self._condstore = True
            items += [b"MODSEQ"]
        items = ([b"UID"] if by_uid else []) + [item for item in items if item.upper() != b"UID" or not by_uid]
        wanted = set(self._named(parsed[0], by_uid))
        if since and b"VANISHED" in options and self._qresync:
            gone = self._postbox.gone(self._folder, since)
            if gone:
                await self._wire.say(b"* VANISHED (EARLIER) " + ranges(gone).encode())
        span = (min(wanted), max(wanted)) if wanted else (1, 0)
        for one in self._postbox.mail(self._folder, since, *span):
            if one.uid in wanted:
                if not self._read_only and any(_sets_seen(item) for item in items):
                    self._postbox.flag(self._folder, [one.uid], lambda flags: flags | {"\\Seen"})
                with suppress(KeyError):  # another session removed it meanwhile
                    await self._wire.say(self._fetched(one, items))
        return b"OK done"

    def _fetched(self, one: Stored, items: list[bytes]) -> bytes:
        number = bisect_left(self._shown, one.uid) + 1
        told = b" ".join(self._item(one, item) for item in items)
        return b"* %d FETCH (" % number + told + b")"

    def _item(self, one: Stored, item: bytes) -> bytes:
        name = item.upper()
        simple = {
            b"UID": lambda: b"%d" % one.uid,
            b"FLAGS": lambda: b"(" + " ".join(sorted(one.flags)).encode() + b")",
            b"INTERNALDATE": lambda: internal_date(one.at),
            b"RFC822.SIZE": lambda: b"%d" % one.size,
            b"MODSEQ": lambda: b"(%d)" % one.modseq,
            b"EMAILID": lambda: b"(" + one.email_id.encode() + b")",
        }
        if name in simple:
            return name + b" " + simple[name]()
        raw = self._postbox.raw(self._folder, one.uid)
        if name == b"ENVELOPE":
            return b"ENVELOPE " + envelope(raw)
        if name in (b"BODYSTRUCTURE", b"BODY"):
            return name + b" " + structure(raw, extended=name == b"BODYSTRUCTURE")
        if name in (b"RFC822", b"RFC822.HEADER", b"RFC822.TEXT"):
            head, body = split(raw)
            data = {b"RFC822": raw, b"RFC822.HEADER": head, b"RFC822.TEXT": body}[name]
            return name + b" {%d}\r\n" % len(data) + data
        found = section(raw, item)
        if found is None:
            raise Malformed("no such item")
        return found[0] + b" {%d}\r\n" % len(found[1]) + found[1]

    async def _do_store(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        self._may_write()
        uids = self._named(parsed[0], by_uid)
        rest = [word for word in parsed[1:] if not (isinstance(word, list) and word and word[0] == b"UNCHANGEDSINCE")]
        what = text_of(rest[0]).upper()
        given = frozenset(text_of(flag) for flag in (rest[1] if isinstance(rest[1], list) else rest[1:]))
        low = {flag.lower() for flag in given}
        change: Callable[[frozenset[str]], frozenset[str]] = {
            "+": lambda flags: flags | {one for one in given if one.lower() not in {flag.lower() for flag in flags}},
            "-": lambda flags: frozenset(flag for flag in flags if flag.lower() not in low),
        }.get(what[0], lambda _: given)
        self._postbox.flag(self._folder, uids, change)
        silent = what.endswith(".SILENT")
        for one in self._postbox.mail(self._folder, self._told_modseq):
            if one.uid in uids and (not silent or self._condstore):
                items = [b"UID"] if by_uid else []
                items += [b"MODSEQ"] if self._condstore else []
                await self._wire.say(self._fetched(one, items + ([] if silent else [b"FLAGS"])))
        return b"OK done"

    async def _do_search(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        found = Search(self._postbox, self._folder, self._shown).run(parsed)
        told = [one.uid if by_uid else bisect_left(self._shown, one.uid) + 1 for one in found]
        await self._wire.say(b"* SEARCH" + b"".join(b" %d" % number for number in told))
        return b"OK done"

    async def _do_copy(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        target = from_utf7(bytes_of(parsed[1]))
        made = self._postbox.copy(self._folder, self._named(parsed[0], by_uid), target)
        if not made or not self._can("UIDPLUS"):
            return b"OK done"
        return b"OK " + self._copy_uid(target, made) + b" done"

    async def _do_move(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        self._may_write()
        target = from_utf7(bytes_of(parsed[1]))
        made = self._postbox.move(self._folder, self._named(parsed[0], by_uid), target)
        if made and self._can("UIDPLUS"):
            await self._wire.say(b"* OK " + self._copy_uid(target, made) + b" moved")
        return b"OK done"

    def _copy_uid(self, target: str, made: dict[int, int]) -> bytes:
        validity = self._postbox.folder(target).validity
        old, new = (",".join(str(n) for n in column) for column in zip(*made.items(), strict=True))
        return f"[COPYUID {validity} {old} {new}]".encode()

    def _deleted(self) -> list[int]:
        return [one.uid for one in self._postbox.mail(self._folder) if "\\Deleted" in one.flags]

    async def _do_expunge(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        self._may_write()
        if by_uid and not self._can("UIDPLUS"):
            raise Malformed("unknown command")
        wanted = self._deleted()
        if by_uid:
            named = set(self._named(parsed[0], by_uid))
            wanted = [uid for uid in wanted if uid in named]
        self._postbox.expunge(self._folder, wanted)
        return b"OK done"

    def _may_write(self) -> None:
        if self._read_only:
            raise Refused("[READ-ONLY] this folder is open for reading only")

    async def _do_idle(self, _: list[Word]) -> bytes:
        await self._wire.say(b"+ idling")
        await self._tell_changes()
        done = asyncio.ensure_future(self._wire.line())
        try:
            while not done.done():
                woken = asyncio.ensure_future(self._woken.wait())
                await asyncio.wait({done, woken}, return_when=asyncio.FIRST_COMPLETED)
                woken.cancel()
                self._woken.clear()
                if not done.done():
                    await self._tell_changes()
        finally:
            done.cancel()
        if not done.result():
            raise Dropped
        return b"OK done"

    async def _tell_changes(self) -> None:
        """Tell what changed in the selected folder since it was told last."""
        if not self._folder:
            return
        try:
            state = self._postbox.folder(self._folder)
        except NoFolder:
            await self._wire.say(b"* BYE the folder is gone")
            raise Dropped from None
        if state.validity != self._validity:
            await self._wire.say(b"* BYE the folder was made anew")
            raise Dropped
        if state.modseq == self._told_modseq:
            return
        now = self._postbox.uids(self._folder)
        still = set(now)
        await self._tell_gone([uid for uid in self._shown if uid not in still])
        if len(now) != len(self._shown):
            self._shown = now
            await self._wire.say(b"* %d EXISTS" % len(now))
        self._shown = now
        for one in self._postbox.mail(self._folder, self._told_modseq):
            await self._wire.say(self._fetched(one, [b"UID", b"FLAGS"] + ([b"MODSEQ"] if self._condstore else [])))
        self._told_modseq = state.modseq

    async def _tell_gone(self, gone: list[int]) -> None:
        if gone and self._qresync:
            await self._wire.say(b"* VANISHED " + ranges(gone).encode())
        for uid in gone:
            number = self._shown.index(uid) + 1
            self._shown.remove(uid)
            if not self._qresync:
                await self._wire.say(b"* %d EXPUNGE" % number)


def _sets_seen(item: bytes) -> bool:
    return item.upper().startswith((b"BODY[", b"RFC822.TEXT")) or item.upper() == b"RFC822"
