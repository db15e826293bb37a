"""Getting in: one owner, one password (argon2), sessions that end, and a limit on guesses."""

from __future__ import annotations

import hashlib
import json
import secrets
import threading
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from hieranome.app.access.guesses import Guesses, place_of
from hieranome.app.access.vault import Vault, write_private
from hieranome.core.errors import CallerError, Conflict, NotSignedIn

FILE = "entry.json"
SESSION = 30 * 86_400
"""Seconds a session lasts after its last use."""
KNOWN = 20
"""Browsers that signed in before and are remembered: their guesses are counted apart from those of strangers."""
SHORTEST = 10


@dataclass(frozen=True, slots=True)
class Visitor:
    """Who tries to come in: the network address, and the mark a browser got when it signed in before, if any."""

    address: str
    mark: str = ""


@dataclass(frozen=True, slots=True)
class Admitted:
    """A session, and the mark by which this browser is known from now on."""

    session: str
    mark: str


class Entry:
    """Who may come in. ``open_to_all`` is the demo on this machine alone: nobody signs in there.

    Until a password is set, ``code`` sets the first one: it is printed where the server was started. Asking whether a
    session lasts never waits for a password that is being checked.
    """

    def __init__(self, folder: Path, vault: Vault, clock: Callable[[], int], *, open_to_all: bool = False) -> None:
        self._path = folder / FILE
        self._vault, self._clock = vault, clock
        self.open_to_all = open_to_all
        self.code = "" if open_to_all or self.has_password else secrets.token_urlsafe(9)
        self._hasher = PasswordHasher()
        self._sessions: dict[bytes, int] = {}
        self._guesses = Guesses(clock)
        self._changing = threading.RLock()
        """Held while the password is set; nobody waits for it but others who set one."""
        self._lock = threading.Lock()
        """Held for a moment, around the sessions."""
        self._checking = threading.Semaphore(2)
        """Passwords that are checked at the same time: each takes 64 MB."""

    @property
    def has_password(self) -> bool:
        """Whether a password was set."""
        return bool(self._kept().get("hash"))

    def _kept(self) -> dict[str, Any]:
        try:
            found = json.loads(self._path.read_text(encoding="utf-8"))
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def _known(self) -> list[str]:
        return [str(one) for one in self._kept().get("known", []) if isinstance(one, str)][-KNOWN:]

    def _place(self, visitor: Visitor) -> str:
        """Where a guess comes from: a browser that was in before, or else its network address."""
        marked = _mark(visitor.mark).hex()
        return f"browser {marked}" if visitor.mark and marked in self._known() else place_of(visitor.address)

    def set_first(self, code: str, password: str, visitor: Visitor) -> Admitted:
        """Set the first password with the code that was printed; a session. Raises :class:`NotSignedIn`,
        :class:`Conflict`, :class:`CallerError` for a password too short."""
        if not self.code:
            raise Conflict("A password was set already. Sign in with it.")
        place = self._place(visitor)
        self._guesses.begin(place)
        if not secrets.compare_digest(code.strip().encode("utf-8", "replace"), self.code.encode()):
            raise NotSignedIn("This is not the code that was printed where Hieranome was started. Look there again.")
        self._guesses.right(place)
        with self._changing:
            if not self.code:
                raise Conflict("A password was set already. Sign in with it.")
            self.set_password(password)
            self.code = ""
            return self._begin(visitor)

    def set_password(self, password: str) -> None:
        """Set the password, and seal what was sealed with the one before anew. Raises :class:`CallerError` for one too
        short. All sessions end."""
        if len(password) < SHORTEST:
            raise CallerError(f"Choose a password of at least {SHORTEST} characters; several words are good.")
        with self._changing:
            self._vault.reseal(password)
            write_private(self._path, json.dumps({"hash": self._hasher.hash(password)}))
            with self._lock:
                self._sessions.clear()

    def change(self, old: str, new: str, visitor: Visitor) -> Admitted:
        """Change the password; a new session. Raises :class:`NotSignedIn` when the old one is wrong."""
        self._check(old, visitor)
        with self._changing:
            self._vault.unlock(old)
            self.set_password(new)
            return self._begin(visitor)

    def sign_in(self, password: str, visitor: Visitor) -> Admitted:
        """A session for who knows the password. Raises :class:`NotSignedIn`, :class:`TooOften`."""
        self._check(password, visitor)
        with self._changing:
            self._vault.unlock(password)
            return self._begin(visitor)

    def _check(self, password: str, visitor: Visitor) -> None:
        place = self._place(visitor)
        self._guesses.begin(place)
        try:
            with self._checking:
                self._hasher.verify(str(self._kept().get("hash", "")), password)
        except (VerificationError, InvalidHashError):
            raise NotSignedIn("This is not the password. Try again.") from None
        self._guesses.right(place)

    def _begin(self, visitor: Visitor) -> Admitted:
        """A session; the browser is known from now on."""
        mark = visitor.mark
        known = self._known()
        if not mark or _mark(mark).hex() not in known:
            mark = secrets.token_urlsafe(24)
            kept = self._kept() | {"known": [*known, _mark(mark).hex()][-KNOWN:]}
            write_private(self._path, json.dumps(kept))
        token = secrets.token_urlsafe(32)
        with self._lock:
            self._sessions[_mark(token)] = self._clock() + SESSION
        return Admitted(token, mark)

    def is_in(self, token: str) -> bool:
        """Whether a session is one that lasts."""
        if self.open_to_all:
            return True
        with self._lock:
            ends = self._sessions.get(_mark(token), 0)
            if ends <= self._clock():
                self._sessions.pop(_mark(token), None)
                return False
            self._sessions[_mark(token)] = self._clock() + SESSION
            return True

    def lasts(self, token: str) -> bool:
        """Whether a session lasts, without counting that as a use of it."""
        with self._lock:
            return self.open_to_all or self._sessions.get(_mark(token), 0) > self._clock()

    def sign_out(self, token: str) -> None:
        """End a session."""
        with self._lock:
            self._sessions.pop(_mark(token), None)


def _mark(token: str) -> bytes:
    return hashlib.sha256(token.encode("utf-8", "replace")).digest()
