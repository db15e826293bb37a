"""One connection to the simulated IMAP server: getting in, and the commands on folders."""

from __future__ import annotations

import asyncio
import base64
import binascii
from collections.abc import Awaitable, Callable
from contextlib import suppress
from fnmatch import fnmatchcase

from hieranome.standin.authorising import bearer_of
from hieranome.standin.imap_folder import Malformed, OpenFolder, Refused
from hieranome.standin.imap_site import Account, Site
from hieranome.standin.imap_wire import Dropped, Wire
from hieranome.standin.imap_words import (
    Unparsable,
    Word,
    bytes_of,
    from_utf7,
    parse_internal_date,
    quoted,
    text_of,
    to_utf7,
    words,
)
from hieranome.standin.postbox import FolderExists, FolderState, Full, NoFolder

_BEFORE_LOGIN = {"CAPABILITY", "NOOP", "LOGOUT", "LOGIN", "AUTHENTICATE", "STARTTLS", "ID"}
_BY_NUMBER = {"FETCH", "STORE", "SEARCH", "COPY", "MOVE", "EXPUNGE"}
_SELECTED = _BY_NUMBER | {"CLOSE", "UNSELECT", "CHECK"}
_NEEDS = {"MOVE": "MOVE", "IDLE": "IDLE", "ENABLE": "ENABLE", "NAMESPACE": "NAMESPACE", "UNSELECT": "UNSELECT"}


class Session(OpenFolder):
    """A connection from its greeting to its end."""

    def __init__(self, site: Site, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        super().__init__(site, Wire(reader, writer, site.faults))
        self._stop_listening: Callable[[], None] = lambda: None
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
        name = text_of(parsed.pop(0)).upper() if parsed else ""
        if name == "UID" and parsed:
            name = f"UID {text_of(parsed.pop(0)).upper()}"
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
        except (Unparsable, Malformed, IndexError, ValueError) as exc:
            return b"BAD " + str(exc).encode("ascii", "replace")
        except NoFolder:
            code = b"[TRYCREATE] " if plain in ("APPEND", "COPY", "MOVE") else b"[NONEXISTENT] "
            return b"NO " + code + b"there is no such folder"
        except FolderExists:
            return b"NO [ALREADYEXISTS] there is such a folder"
        except Full:
            return b"NO [OVERQUOTA] the postbox is full"
        except Refused as exc:
            return b"NO " + str(exc).encode()

    def _capability(self) -> bytes:
        offered = sorted(self._server.capabilities, key=lambda c: c != "IMAP4rev1")
        if self._server.start_tls is not None and not self._wire.encrypted:
            offered.append("STARTTLS")
        return " ".join(offered).encode()

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
            raise Malformed("unknown command")
        return b"OK begin"

    async def _do_login(self, parsed: list[Word]) -> bytes:
        user, secret = (text_of(word) for word in parsed)
        return self._enter(user, lambda account: account.secret == secret)

    async def _do_authenticate(self, parsed: list[Word]) -> bytes:
        method = text_of(parsed[0]).upper()
        if len(parsed) > 1:
            given = text_of(parsed[1])
        else:
            await self._wire.say(b"+ ")
            given = (await self._wire.line()).decode("ascii", "replace").strip()
        try:
            said = base64.b64decode(given).decode("utf-8", "replace")
        except binascii.Error as exc:
            raise Malformed("that is not base64") from exc
        if method == "PLAIN":
            _, user, secret = said.split("\0")
            return self._enter(user, lambda account: account.secret == secret)
        user, token = bearer_of(said)
        status = self._enter(user, lambda account: token in account.tokens)
        if status.startswith(b"NO"):
            await self._wire.say(b"+ " + base64.b64encode(b'{"status":"invalid_token"}'))
            await self._wire.line()
        return status

    def _enter(self, user: str, allowed: Callable[[Account], bool]) -> bytes:
        account = self._server.accounts.get(user)
        if account is None or not allowed(account):
            return b"NO [AUTHENTICATIONFAILED] wrong user or secret"
        self._box = account.box
        self._stop_listening = self._box.listen(self._wake)
        return b"OK [CAPABILITY " + self._capability() + b"] welcome"

    def _wake(self) -> None:
        with suppress(RuntimeError):  # the server has ended
            self._loop.call_soon_threadsafe(self._woken.set)

    async def _do_enable(self, parsed: list[Word]) -> bytes:
        made = [text_of(word).upper() for word in parsed if self._can(text_of(word).upper())]
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
            if any(_matches(state.name, from_utf7(bytes_of(p))) for p in patterns):
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
            raise Malformed("name the items in brackets")
        await self._wire.say(self._status(from_utf7(bytes_of(parsed[0])), items))
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
        asked = [bytes_of(item).upper() for item in items]
        if any(item not in values for item in asked):
            raise Malformed("no such status item")
        told = b" ".join(b"%s %d" % (item, values[item]) for item in asked)
        return b"* STATUS " + quoted(to_utf7(name)) + b" (" + told + b")"

    async def _do_create(self, parsed: list[Word]) -> bytes:
        self._postbox.create(from_utf7(bytes_of(parsed[0])).rstrip("/"))
        return b"OK done"

    async def _do_delete(self, parsed: list[Word]) -> bytes:
        name = from_utf7(bytes_of(parsed[0]))
        if name.upper() == "INBOX":
            raise Refused("INBOX stays")
        self._postbox.delete(name)
        return b"OK done"

    async def _do_rename(self, parsed: list[Word]) -> bytes:
        self._postbox.rename(from_utf7(bytes_of(parsed[0])), from_utf7(bytes_of(parsed[1])))
        return b"OK done"

    async def _do_subscribe(self, _: list[Word]) -> bytes:
        return b"OK done"

    async def _do_unsubscribe(self, _: list[Word]) -> bytes:
        return b"OK done"

    async def _do_append(self, parsed: list[Word]) -> bytes:
        name = from_utf7(bytes_of(parsed[0]))
        flags = [text_of(flag) for flag in parsed[1]] if isinstance(parsed[1], list) else []
        dated = len(parsed) > 2 and not isinstance(parsed[-2], list)
        date = parse_internal_date(bytes_of(parsed[-2])) if dated else None
        uid = self._postbox.append(name, bytes_of(parsed[-1]), flags, date)
        if not self._can("UIDPLUS"):
            return b"OK done"
        return b"OK [APPENDUID %d %d] done" % (self._postbox.folder(name).validity, uid)


def _matches(name: str, pattern: str) -> bool:
    """Whether a mailbox name meets a LIST pattern; ``%`` stops at the hierarchy."""
    shape = pattern.replace("[", "[[]").replace("?", "[?]")
    if "%" in shape and "*" not in shape and name.count("/") != shape.count("/"):
        return False
    shape = shape.replace("%", "*")
    return fnmatchcase(name, shape) or (name == "INBOX" and fnmatchcase("inbox", shape.lower()))
