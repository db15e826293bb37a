"""Getting in: one owner, one password (argon2), sessions that end, and a limit on guesses."""

from __future__ import annotations

import hashlib
import json
import secrets
import threading
from collections.abc import Callable
from pathlib import Path

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from hieranome.app.vault import Vault, write_private
from hieranome.core.errors import CallerError, Conflict, NotSignedIn, TooOften

FILE = "entry.json"
SESSION = 30 * 86_400
"""Seconds a session lasts after its last use."""
FREE_GUESSES = 5
FIRST_DELAY, LAST_DELAY = 2, 900
"""Seconds until the next guess is heard, after the free ones: doubled with each that is wrong."""
SHORTEST = 10


class Entry:
    """Who may come in. ``open_to_all`` is the demo on this machine alone: nobody signs in there.

    Until a password is set, ``code`` sets the first one: it is printed where the server was started.
    """

    def __init__(self, folder: Path, vault: Vault, clock: Callable[[], int], *, open_to_all: bool = False) -> None:
        self._path = folder / FILE
        self._vault, self._clock = vault, clock
        self.open_to_all = open_to_all
        self.code = "" if open_to_all or self.has_password else secrets.token_urlsafe(9)
        self._hasher = PasswordHasher()
        self._sessions: dict[bytes, int] = {}
        self._wrong = 0
        self._heard_from = 0
        self._lock = threading.RLock()

    @property
    def has_password(self) -> bool:
        """Whether a password was set."""
        return bool(self._hash())

    def _hash(self) -> str:
        try:
            return str(json.loads(self._path.read_text(encoding="utf-8"))["hash"])
        except (OSError, ValueError, KeyError, TypeError):
            return ""

    def set_first(self, code: str, password: str) -> str:
        """Set the first password with the code that was printed; a session. Raises :class:`NotSignedIn`,
        :class:`Conflict`, :class:`CallerError` for a password too short."""
        with self._lock:
            if not self.code:
                raise Conflict("A password was set already. Sign in with it.")
            self._hear()
            if not secrets.compare_digest(code.strip().encode(), self.code.encode()):
                self._count_wrong()
                raise NotSignedIn(
                    "This is not the code that was printed where Hieranome was started. Look there again."
                )
            self.set_password(password)
            self.code = ""
            return self._begin()

    def set_password(self, password: str) -> None:
        """Set the password, and seal what was sealed with the one before anew. Raises :class:`CallerError` for one too
        short. All sessions end."""
        if len(password) < SHORTEST:
            raise CallerError(f"Choose a password of at least {SHORTEST} characters; several words are good.")
        with self._lock:
            self._vault.reseal(password)
            write_private(self._path, json.dumps({"hash": self._hasher.hash(password)}))
            self._sessions.clear()

    def change(self, old: str, new: str) -> str:
        """Change the password; a new session. Raises :class:`NotSignedIn` when the old one is wrong."""
        with self._lock:
            self._check(old)
            self._vault.unlock(old)
            self.set_password(new)
            return self._begin()

    def sign_in(self, password: str) -> str:
        """A session for who knows the password. Raises :class:`NotSignedIn`, :class:`TooOften`."""
        with self._lock:
            self._check(password)
            self._vault.unlock(password)
            return self._begin()

    def _check(self, password: str) -> None:
        self._hear()
        try:
            self._hasher.verify(self._hash(), password)
        except (VerificationError, InvalidHashError):
            self._count_wrong()
            raise NotSignedIn("This is not the password. Try again.") from None
        self._wrong = 0

    def _hear(self) -> None:
        left = self._heard_from - self._clock()
        if left > 0:
            raise TooOften(f"Too many wrong passwords. Try again in {left} seconds.")

    def _count_wrong(self) -> None:
        self._wrong += 1
        if self._wrong > FREE_GUESSES:
            delay = min(FIRST_DELAY * 2 ** (self._wrong - FREE_GUESSES - 1), LAST_DELAY)
            self._heard_from = self._clock() + delay

    def _begin(self) -> str:
        token = secrets.token_urlsafe(32)
        self._sessions[_mark(token)] = self._clock() + SESSION
        return token

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

    def sign_out(self, token: str) -> None:
        """End a session."""
        with self._lock:
            self._sessions.pop(_mark(token), None)


def _mark(token: str) -> bytes:
    return hashlib.sha256(token.encode("utf-8", "replace")).digest()
