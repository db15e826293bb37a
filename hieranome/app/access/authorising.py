"""Authorisations under way: begun on the page, answered in the browser, made good for tokens, taken by a mailbox."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal
from urllib.parse import parse_qs, urlsplit

from hieranome.core.errors import CallerError, HieranomeError, NotFound
from hieranome.mail.oauth import Begun, Provider, Tokens, TokenServer, begin

LASTS = 900
"""Seconds within which the owner has to authorise."""
MOST = 20
"""Under way at once."""


@dataclass(frozen=True, slots=True)
class Authorisation:
    """One of them. ``error`` says why it was refused; ``tokens`` are there once it was granted."""

    provider: Provider
    begun: Begun
    at: float
    tokens: Tokens | None = None
    error: str = ""

    @property
    def state(self) -> Literal["waiting", "granted", "refused"]:
        """How far it is."""
        return "granted" if self.tokens else "refused" if self.error else "waiting"


class Authorisations:
    """All that are under way, in memory alone, by the state that goes to the provider and comes back."""

    def __init__(self, clock: Callable[[], float], servers: TokenServer) -> None:
        self._clock, self._servers = clock, servers
        self._held: dict[str, Authorisation] = {}
        self._lock = threading.Lock()

    def begin(self, provider: Provider, redirect: str) -> Begun:
        """Begin one. Raises :class:`CallerError` for addresses that are not HTTPS."""
        made = begin(provider, redirect)
        with self._lock:
            self._forget_old()
            self._held[made.state] = Authorisation(provider, made, self._clock())
            while len(self._held) > MOST:
                del self._held[next(iter(self._held))]
        return made

    def get(self, state: str) -> Authorisation:
        """One of them. Raises :class:`NotFound`."""
        with self._lock:
            self._forget_old()
            found = self._held.get(state)
        if found is None:
            raise NotFound("This authorisation is not under way, or began too long ago. Begin it anew.")
        return found

    def finish(self, returned: str) -> Authorisation:
        """Make good the address the browser came back to. A code is good once: a second call changes nothing. Raises
        :class:`CallerError` for an address that answers none that is under way, and what asking for tokens raises."""
        found = self.get(_state_in(returned))
        if found.state != "waiting":
            return found
        try:
            tokens, error = self._servers.redeem(found.provider, found.begun, returned), ""
        except HieranomeError as exc:
            tokens, error = None, str(exc)
        made = Authorisation(found.provider, found.begun, found.at, tokens, error)
        with self._lock:
            if self._held.get(found.begun.state) is found:
                self._held[found.begun.state] = made
        return made

    def granted(self, state: str) -> tuple[Provider, Tokens]:
        """Where one was granted, and the tokens. Raises :class:`CallerError` where it was not, yet."""
        found = self.get(state)
        if found.tokens is None:
            raise CallerError(found.error or "Authorise the mailbox in your browser first.")
        return found.provider, found.tokens

    def done(self, state: str) -> None:
        """Forget one whose tokens a mailbox keeps."""
        with self._lock:
            self._held.pop(state, None)

    def _forget_old(self) -> None:
        oldest = self._clock() - LASTS
        self._held = {state: one for state, one in self._held.items() if one.at >= oldest}


def _state_in(returned: str) -> str:
    try:
        return parse_qs(urlsplit(returned.strip()).query).get("state", [""])[0]
    except ValueError:
        raise CallerError("This is no web address. Copy the whole address the browser shows at the end.") from None
