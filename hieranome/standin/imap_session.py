"""One connection to the simulated IMAP server: its commands and what it was told of the selected folder."""

from __future__ import annotations

import asyncio
import base64
import binascii
from bisect import bisect_left
from collections.abc import Awaitable, Callable
from contextlib import suppress
from fnmatch import fnmatchcase
from typing import TYPE_CHECKING

from hieranome.standin.imap_parts import envelope, section, split, structure
from hieranome.standin.imap_search import Search
from hieranome.standin.imap_wire import Dropped, Wire
from hieranome.standin.imap_words import (
    Unparsable,
    Word,
    from_utf7,
    internal_date,
    numbers,
    parse_internal_date,
    quoted,
    ranges,
    to_utf7,
    words,
)
from hieranome.standin.postbox import FolderExists, FolderState, Full, NoFolder, Postbox, Stored

if TYPE_CHECKING:
    from hieranome.standin.imap_server import ImapServer

_BEFORE_LOGIN = {"CAPABILITY", "NOOP", "LOGOUT", "LOGIN", "AUTHENTICATE", "STARTTLS", "ID"}
_BY_NUMBER = {"FETCH", "STORE", "SEARCH", "COPY", "MOVE", "EXPUNGE"}
_SELECTED = _BY_NUMBER | {"CLOSE", "UNSELECT", "CHECK"}
_NEEDS = {"MOVE": "MOVE", "IDLE": "IDLE", "ENABLE": "ENABLE", "NAMESPACE": "NAMESPACE", "UNSELECT": "UNSELECT"}
_MACROS = {
    b"ALL": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE", b"ENVELOPE"],
    b"FAST": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE"],
    b"FULL": [b"FLAGS", b"INTERNALDATE", b"RFC822.SIZE", b"ENVELOPE", b"BODY"],
}


class _No(Exception):
    """A command is answered NO; the text may begin with a response code."""


class _Bad(Exception):
    """A command is answered BAD."""


class Session:
    """A connection from its greeting to its end."""

    def __init__(self, server: ImapServer, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self._server = server
        self._wire = Wire(reader, writer, server.faults)
        self._box: Postbox | None = None
        self._folder = ""
        self._read_only = False
        self._shown: list[int] = []
        self._told_modseq = 0
        self._validity = 0
        self._condstore = False
        self._qresync = False
        self._stop_listening: Callable[[], None] = lambda: None
        self._woken = asyncio.Event()
        self._loop = asyncio.get_running_loop()

    # --- the connection ----------------------------------------------------------------

    def drop(self) -> None:
        """Break the connection."""
        self._wire.drop()

    async def run(self) -> None:
        """Greet, then carry out one command after another."""
        try:
            await self._wire.say(b"* OK [CAPABILITY " + self._capability() + b"] the postbox is open")
            while (line := await self._wire.command()) is not None:
                if not await self._carry_out(line):
                    break
        except (Dropped, OSError, asyncio.IncompleteReadError):
            self.drop()
        finally:
            self._stop_listening()

    async def _carry_out(self, line: bytes) -> bool:
        tag, _, rest = line.partition(b" ")
        try:
            parsed = words(rest)
        except (Unparsable, ValueError) as exc:
            await self._wire.say(tag.strip() + b" BAD " + str(exc).encode())
            return True
        name = _text(parsed.pop(0)).upper() if parsed else ""
        if name == "UID" and parsed:
            name = f"UID {_text(parsed.pop(0)).upper()}"
        self._server.commands.append(name)
        faults = self._server.faults
        for names, when in ((faults.drop_before, "before"), (faults.drop_behind, "behind")):
            if name in names:
                names.discard(name)
                if when == "behind":
                    await self._answer(name, parsed)
                raise Dropped
        status = await self._answer(name, parsed)
        if name not in ("FETCH", "STORE", "SEARCH", "LOGOUT"):
            await self._tell_changes()
        await self._wire.say(tag + b" " + status)
        if name == "STARTTLS" and status.startswith(b"OK") and self._server.start_tls is not None:
            await self._wire.start_tls(self._server.start_tls)
        return name != "LOGOUT"

    async def _answer(self, name: str, parsed: list[Word]) -> bytes:
        plain = name.removeprefix("UID ")
        refused = self._server.faults.refuse.get(name)
        if refused:
            return refused.encode()
        if self._box is None and plain not in _BEFORE_LOGIN:
            return b"BAD sign in first"
        if plain in _SELECTED and not self._folder:
            return b"BAD select a folder first"
        if plain in _NEEDS and not self._can(_NEEDS[plain]):
            return b"BAD unknown command"
        handler: Callable[..., Awaitable[bytes]] | None = getattr(self, f"_do_{plain.lower()}", None)
        if handler is None:
            return b"BAD unknown command"
        try:
            return await (handler(parsed, by_uid=name.startswith("UID ")) if plain in _BY_NUMBER else handler(parsed))
        except (Unparsable, _Bad, IndexError, ValueError) as exc:
            return b"BAD " + str(exc).encode("ascii", "replace")
        except NoFolder:
            code = b"[TRYCREATE] " if plain in ("APPEND", "COPY", "MOVE") else b"[NONEXISTENT] "
            return b"NO " + code + b"there is no such folder"
        except FolderExists:
            return b"NO [ALREADYEXISTS] there is such a folder"
        except Full:
            return b"NO [OVERQUOTA] the postbox is full"
        except _No as exc:
            return b"NO " + str(exc).encode()

    def _can(self, capability: str) -> bool:
        return capability in self._server.capabilities

    def _capability(self) -> bytes:
        offered = sorted(self._server.capabilities, key=lambda c: c != "IMAP4rev1")
        if self._server.start_tls is not None and not self._wire.encrypted:
            offered.append("STARTTLS")
        return " ".join(offered).encode()

    @property
    def _postbox(self) -> Postbox:
        assert self._box is not None
        return self._box

    # --- getting in --------------------------------------------------------------------

    async def _do_capability(self, _: list[Word]) -> bytes:
        await self._wire.say(b"* CAPABILITY " + self._capability())
        return b"OK done"

    async def _do_noop(self, _: list[Word]) -> bytes:
        return b"OK done"

    async def _do_id(self, _: list[Word]) -> bytes:
        await self._wire.say(b'* ID ("name" "standin")')
        return b"OK done"

    async def _do_logout(self, _: list[Word]) -> bytes:
        await self._wire.say(b"* BYE until next time")
        return b"OK done"

    async def _do_starttls(self, _: list[Word]) -> bytes:
        if self._server.start_tls is None:
            raise _Bad("unknown command")
        return b"OK begin"

    async def _do_login(self, parsed: list[Word]) -> bytes:
        user, secret = (_text(word) for word in parsed)
        return self._enter(user, lambda account_secret, _token: account_secret == secret)

    async def _do_authenticate(self, parsed: list[Word]) -> bytes:
        method = _text(parsed[0]).upper()
        if len(parsed) > 1:
            given = _text(parsed[1])
        else:
            await self._wire.say(b"+ ")
            given = (await self._wire.line()).decode("ascii", "replace").strip()
        try:
            said = base64.b64decode(given).decode("utf-8", "replace")
        except binascii.Error as exc:
            raise _Bad("that is not base64") from exc
        if method == "PLAIN":
            _, user, secret = said.split("\0")
            return self._enter(user, lambda account_secret, _token: account_secret == secret)
        fields = dict(part.split("=", 1) for part in said.split("\1") if "=" in part)
        user = fields.get("user") or fields.get("n,a", "").rstrip(",")
        token = fields.get("auth", "").removeprefix("Bearer ")
        status = self._enter(user, lambda _secret, known: bool(known) and known == token)
        if status.startswith(b"NO"):
            await self._wire.say(b"+ " + base64.b64encode(b'{"status":"invalid_token"}'))
            await self._wire.line()
        return status

    def _enter(self, user: str, allowed: Callable[[str, str], bool]) -> bytes:
        account = self._server.accounts.get(user)
        if account is None or not allowed(account.secret, account.token):
            return b"NO [AUTHENTICATIONFAILED] wrong user or secret"
        self._box = account.box
        self._stop_listening = self._box.listen(self._wake)
        return b"OK [CAPABILITY " + self._capability() + b"] welcome"

    def _wake(self) -> None:
        with suppress(RuntimeError):  # the server has ended
            self._loop.call_soon_threadsafe(self._woken.set)

    async def _do_enable(self, parsed: list[Word]) -> bytes:
        made = [_text(word).upper() for word in parsed if self._can(_text(word).upper())]
        self._condstore = self._condstore or bool({"CONDSTORE", "QRESYNC"} & set(made))
        self._qresync = self._qresync or "QRESYNC" in made
        await self._wire.say(b"* ENABLED " + " ".join(made).encode())
        return b"OK done"

    # --- folders -----------------------------------------------------------------------

    async def _do_namespace(self, _: list[Word]) -> bytes:
        await self._wire.say(b'* NAMESPACE (("" "/")) NIL NIL')
        return b"OK done"

    async def _do_list(self, parsed: list[Word]) -> bytes:
        if parsed and isinstance(parsed[0], list):
            parsed.pop(0)
        patterns = parsed[1] if isinstance(parsed[1], list) else [parsed[1]]
        options = parsed[3] if len(parsed) > 3 and isinstance(parsed[3], list) else []
        status = next((options[i + 1] for i, o in enumerate(options) if o == b"STATUS"), None)
        if patterns == [b""]:
            await self._wire.say(b'* LIST (\\Noselect) "/" ""')
            return b"OK done"
        every = self._postbox.folders()
        for state in every:
            if any(_matches(state.name, from_utf7(_bytes(p))) for p in patterns):
                await self._wire.say(
                    b"* LIST (" + self._attributes(state, every) + b') "/" ' + quoted(to_utf7(state.name))
                )
                if isinstance(status, list):
                    await self._wire.say(self._status(state.name, status))
        return b"OK done"

    async def _do_lsub(self, parsed: list[Word]) -> bytes:
        return await self._do_list(parsed)

    def _attributes(self, state: FolderState, every: list[FolderState]) -> bytes:
        below = any(other.name.startswith(f"{state.name}/") for other in every)
        made = ["\\HasChildren" if below else "\\HasNoChildren"]
        if state.use and self._can("SPECIAL-USE"):
            made.append(state.use)
        return " ".join(made).encode()

    async def _do_status(self, parsed: list[Word]) -> bytes:
        items = parsed[1]
        if not isinstance(items, list):
            raise _Bad("name the items in brackets")
        await self._wire.say(self._status(from_utf7(_bytes(parsed[0])), items))
        return b"OK done"

    def _status(self, name: str, items: list[Word]) -> bytes:
        state = self._postbox.folder(name)
        total, unseen, deleted, size = self._postbox.counts(name)
        values = {
            b"MESSAGES": total,
            b"UIDNEXT": state.uidnext,
            b"UIDVALIDITY": state.validity,
            b"UNSEEN": unseen,
            b"RECENT": 0,
            b"SIZE": size,
            b"DELETED": deleted,
        }
        if self._can("CONDSTORE"):
            values[b"HIGHESTMODSEQ"] = state.modseq
        asked = [_bytes(item).upper() for item in items]
        if any(item not in values for item in asked):
            raise _Bad("no such status item")
        told = b" ".join(b"%s %d" % (item, values[item]) for item in asked)
        return b"* STATUS " + quoted(to_utf7(name)) + b" (" + told + b")"

    async def _do_create(self, parsed: list[Word]) -> bytes:
        self._postbox.create(from_utf7(_bytes(parsed[0])).rstrip("/"))
        return b"OK done"

    async def _do_delete(self, parsed: list[Word]) -> bytes:
        name = from_utf7(_bytes(parsed[0]))
        if name.upper() == "INBOX":
            raise _No("INBOX stays")
        self._postbox.delete(name)
        return b"OK done"

    async def _do_rename(self, parsed: list[Word]) -> bytes:
        self._postbox.rename(from_utf7(_bytes(parsed[0])), from_utf7(_bytes(parsed[1])))
        return b"OK done"

    async def _do_subscribe(self, _: list[Word]) -> bytes:
        return b"OK done"

    async def _do_unsubscribe(self, _: list[Word]) -> bytes:
        return b"OK done"

    async def _do_select(self, parsed: list[Word], *, read_only: bool = False) -> bytes:
        self._leave()
        state = self._postbox.folder(from_utf7(_bytes(parsed[0])))
        options = parsed[1] if len(parsed) > 1 and isinstance(parsed[1], list) else []
        self._condstore = self._condstore or (b"CONDSTORE" in options and self._can("CONDSTORE"))
        read_only = read_only or state.name in self._server.read_only
        self._folder, self._read_only, self._validity = state.name, read_only, state.validity
        self._shown = self._postbox.uids(state.name)
        self._told_modseq = state.modseq
        await self._wire.say(b"* FLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft)")
        await self._wire.say(b"* OK [PERMANENTFLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft \\*)] kept")
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
        if not isinstance(asked, list) or int(_bytes(asked[0])) != self._validity:
            return
        since = int(_bytes(asked[1]))
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

    # --- messages ----------------------------------------------------------------------

    async def _do_append(self, parsed: list[Word]) -> bytes:
        name = from_utf7(_bytes(parsed[0]))
        flags = [_text(flag) for flag in parsed[1]] if isinstance(parsed[1], list) else []
        date = parse_internal_date(_bytes(parsed[-2])) if len(parsed) > 2 and not isinstance(parsed[-2], list) else None
        uid = self._postbox.append(name, _bytes(parsed[-1]), flags, date)
        if not self._can("UIDPLUS"):
            return b"OK done"
        return b"OK [APPENDUID %d %d] done" % (self._postbox.folder(name).validity, uid)

    def _named(self, word: Word, by_uid: bool) -> list[int]:
        if by_uid:
            return numbers(_bytes(word), self._shown)
        return [self._shown[n - 1] for n in numbers(_bytes(word), list(range(1, len(self._shown) + 1)))]

    async def _do_fetch(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        asked = parsed[1] if isinstance(parsed[1], list) else _MACROS.get(_bytes(parsed[1]).upper(), [parsed[1]])
        items = [_bytes(item) for item in asked]
        options = parsed[2] if len(parsed) > 2 and isinstance(parsed[2], list) else []
        since = int(_bytes(options[options.index(b"CHANGEDSINCE") + 1])) if b"CHANGEDSINCE" in options else 0
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
            raise _Bad("no such item")
        return found[0] + b" {%d}\r\n" % len(found[1]) + found[1]

    async def _do_store(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        self._may_write()
        uids = self._named(parsed[0], by_uid)
        rest = [word for word in parsed[1:] if not (isinstance(word, list) and word and word[0] == b"UNCHANGEDSINCE")]
        what = _text(rest[0]).upper()
        given = frozenset(_text(flag) for flag in (rest[1] if isinstance(rest[1], list) else rest[1:]))
        change: Callable[[frozenset[str]], frozenset[str]] = {
            "+": lambda flags: flags | given,
            "-": lambda flags: flags - given,
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
        target = from_utf7(_bytes(parsed[1]))
        made = self._postbox.copy(self._folder, self._named(parsed[0], by_uid), target)
        if not made or not self._can("UIDPLUS"):
            return b"OK done"
        return b"OK " + self._copy_uid(target, made) + b" done"

    async def _do_move(self, parsed: list[Word], *, by_uid: bool) -> bytes:
        self._may_write()
        target = from_utf7(_bytes(parsed[1]))
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
            raise _Bad("unknown command")
        wanted = self._deleted()
        if by_uid:
            named = set(self._named(parsed[0], by_uid))
            wanted = [uid for uid in wanted if uid in named]
        self._postbox.expunge(self._folder, wanted)
        return b"OK done"

    def _may_write(self) -> None:
        if self._read_only:
            raise _No("[READ-ONLY] this folder is open for reading only")

    # --- what others do ----------------------------------------------------------------

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


def _bytes(word: Word) -> bytes:
    if isinstance(word, list):
        raise Unparsable("a list stands where a word should")
    return word


def _text(word: Word) -> str:
    return _bytes(word).decode("utf-8", "replace")


def _sets_seen(item: bytes) -> bool:
    return item.upper().startswith((b"BODY[", b"RFC822.TEXT")) or item.upper() == b"RFC822"


def _matches(name: str, pattern: str) -> bool:
    """Whether a mailbox name meets a LIST pattern; ``%`` stops at the hierarchy."""
    shape = pattern.replace("[", "[[]").replace("?", "[?]")
    if "%" in shape and "*" not in shape and name.count("/") != shape.count("/"):
        return False
    shape = shape.replace("%", "*")
    return fnmatchcase(name, shape) or (name == "INBOX" and fnmatchcase("inbox", shape.lower()))
