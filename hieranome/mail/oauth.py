"""Tokens instead of a password: OAuth 2.0 (RFC 6749) for a program on the owner's machine (RFC 8252), with PKCE
(RFC 7636).

The owner says who they are to their provider in the browser; what comes back on the loopback address is a code, which
is good for tokens only together with the verifier that never left this machine. The access token signs in at the mail
servers; when it has run out, the refresh token gets the next.
"""

from __future__ import annotations

import json
import secrets
import ssl
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any
from urllib.parse import urlsplit

from oauthlib.oauth2 import OAuth2Error, WebApplicationClient

from hieranome.core.errors import CallerError, SecretRefused, ServerUnreachable
from hieranome.mail.charsets import valid
from hieranome.mail.greeting import Connect, straight
from hieranome.mail.https import ask

EARLY = 60
"""Seconds before its end an access token counts as run out."""
SHORTEST, LONGEST = 30, 366 * 86_400
"""Seconds an access token is taken to last, whatever its server says."""


class TokenRefused(SecretRefused):
    """The authorisation server gives no token: the owner has to authorise anew."""


@dataclass(frozen=True, slots=True)
class Provider:
    """Where an owner authorises, where tokens are had, as which client, and for what; ``secret`` is the client's, empty
    where it has none."""

    authorise_url: str
    token_url: str
    client_id: str
    scope: str
    secret: str = ""

    def __repr__(self) -> str:
        """The client alone: a secret is never printed."""
        return f"Provider({self.client_id!r})"


@dataclass(frozen=True, slots=True)
class Tokens:
    """What signs in, until when (seconds since 1970; 0: nobody said), what gets the next, and the client's secret."""

    access: str
    until: int
    refresh: str
    secret: str = ""

    def __repr__(self) -> str:
        """No secret is ever printed."""
        return "Tokens()"

    def has_run_out(self, now: float) -> bool:
        """Whether it is time for the next."""
        return bool(self.until) and now > self.until - EARLY

    def kept(self) -> str:
        """As they are kept with the secrets."""
        return json.dumps(asdict(self))

    @classmethod
    def of(cls, kept: str) -> Tokens:
        """What was kept. Raises :class:`TokenRefused` for what is no such thing."""
        try:
            return cls(**json.loads(kept))
        except (TypeError, ValueError) as exc:
            raise TokenRefused("The tokens of this mailbox cannot be read. Authorise it anew under Mailboxes.") from exc


@dataclass(frozen=True, slots=True)
class Begun:
    """An authorisation under way: where the owner goes, and by what the answer is known and made good."""

    url: str
    redirect: str
    state: str
    verifier: str


def begin(provider: Provider, redirect: str) -> Begun:
    """Begin: the address the owner authorises at. Raises :class:`CallerError` for addresses that are not HTTPS."""
    for url in (provider.authorise_url, provider.token_url):
        try:
            sound = urlsplit(url).scheme == "https" and bool(urlsplit(url).hostname)
        except ValueError:
            sound = False
        if not sound:
            raise CallerError(
                f"“{url}” is no address to authorise at. Write it whole, as your provider does: https://…"
            )
    client = WebApplicationClient(provider.client_id)
    verifier, state = client.create_code_verifier(64), secrets.token_urlsafe(32)
    url = client.prepare_request_uri(
        provider.authorise_url,
        redirect_uri=redirect,
        scope=provider.scope or None,
        state=state,
        code_challenge=client.create_code_challenge(verifier, "S256"),
        code_challenge_method="S256",
    )
    return Begun(str(url), redirect, state, verifier)


class TokenServer:
    """Asks authorisation servers for tokens. ``connect`` reaches the world, ``trust`` replaces the system's
    certificates."""

    def __init__(
        self,
        clock: Callable[[], float] = time.time,
        connect: Connect = straight,
        trust: ssl.SSLContext | None = None,
    ) -> None:
        self._clock, self._connect, self._trust = clock, connect, trust

    def now(self) -> float:
        """The time by which tokens run out."""
        return self._clock()

    def redeem(self, provider: Provider, begun: Begun, returned: str) -> Tokens:
        """The tokens for the address the browser came back to. Raises :class:`TokenRefused` where the owner or the
        server refused, :class:`CallerError` for another address, :class:`ServerUnreachable`."""
        client = WebApplicationClient(provider.client_id)
        try:
            # The library insists on HTTPS; on loopback the redirect is not encrypted (RFC 8252, section 8.3).
            secure = "https:" + returned.partition(":")[2]
            code = str(client.parse_request_uri_response(secure, begun.state)["code"])
        except OAuth2Error as exc:
            if exc.error in ("mismatching_state", "missing_code"):
                raise CallerError(
                    "This is not the address the authorisation came back to. Copy the whole address the browser shows "
                    "at the end."
                ) from None
            raise self._refused(provider, exc) from None
        form = {
            "grant_type": "authorization_code",
            "code": code,
            "redirect_uri": begun.redirect,
            "client_id": provider.client_id,
            "code_verifier": begun.verifier,
        }
        tokens = self._tokens(provider, form, (code,))
        if not tokens.refresh:
            raise TokenRefused(
                f"{_host(provider)} gave a token that ends and none to renew it, so mail could be read for an hour at "
                "most. Add what your provider asks for lasting access to the scope (often “offline_access”) or to the "
                "address."
            )
        return tokens

    def renew(self, provider: Provider, tokens: Tokens) -> Tokens:
        """The next tokens. Raises :class:`TokenRefused` where the right was taken back, :class:`ServerUnreachable`."""
        provider = replace(provider, secret=tokens.secret)
        form = {"grant_type": "refresh_token", "refresh_token": tokens.refresh, "client_id": provider.client_id}
        found = self._tokens(provider, form, (tokens.refresh,))
        return replace(found, refresh=found.refresh or tokens.refresh)

    def _tokens(self, provider: Provider, form: dict[str, str], hidden: tuple[str, ...]) -> Tokens:
        if provider.secret:
            form["client_secret"] = provider.secret
        try:
            status, content = ask(
                provider.token_url, "application/json", form, connect=self._connect, trust=self._trust
            )
            if status >= 500:
                raise ConnectionError(f"it answers {status}")
        except OSError as exc:
            why = exc if isinstance(exc, ConnectionError) else getattr(exc, "strerror", None) or type(exc).__name__
            raise ServerUnreachable(
                f"{_host(provider)}, which gives the token for this mailbox, cannot be asked ({why}). It is tried "
                "again by itself."
            ) from exc
        found = self._parsed(provider, content, (*hidden, provider.secret, form.get("code_verifier", "")))
        lasts = found.get("expires_in")
        until = int(self._clock() + min(max(SHORTEST, lasts), LONGEST)) if lasts else 0
        return Tokens(_printable(found["access_token"]), until, _printable(found.get("refresh_token")), provider.secret)

    def _parsed(self, provider: Provider, content: bytes, hidden: tuple[str, ...]) -> dict[str, Any]:
        try:
            text = content.decode("utf-8", "replace")
            found = dict(WebApplicationClient(provider.client_id).parse_request_body_response(text))
        except OAuth2Error as exc:
            raise self._refused(provider, exc, hidden) from None
        except (ValueError, TypeError, AttributeError, KeyError, ArithmeticError, RecursionError, Warning):
            found = {}
        if not _printable(found.get("access_token")):
            raise ServerUnreachable(
                f"{_host(provider)} gave an answer that is no token. Check the address where tokens are had."
            )
        return found

    @staticmethod
    def _refused(provider: Provider, exc: OAuth2Error, hidden: tuple[str, ...] = ()) -> TokenRefused:
        said = " ".join(valid(f"{exc.error or ''}: {exc.description or ''}").split()).strip(": ")[:300]
        quoted = f" (it says: “{said}”)" if said and not any(one and one in said for one in hidden) else ""
        return TokenRefused(
            f"{_host(provider)} gives no token for this mailbox{quoted}. Authorise it anew under Mailboxes; if that is "
            "refused, check the client and the scope with your provider."
        )


def _host(provider: Provider) -> str:
    return urlsplit(provider.token_url).hostname or provider.token_url


def _printable(value: object) -> str:
    """A token as it can go out, or nothing."""
    return value if isinstance(value, str) and value.isascii() and value.isprintable() else ""
