"""Who may ask: hosts, origins and the mark every change must carry; and the policy of our own pages.

The page and its API answer only under loopback names (or hosts given at start). A change must come
from our own origin: a foreign Origin, a cross-site Sec-Fetch-Site or a missing mark is refused. A page
elsewhere cannot set the mark without a preflight, and no preflight is ever granted.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from http.cookies import CookieError, SimpleCookie
from ipaddress import ip_address
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

MARK = "x-hieranome"
SMALL, USUAL, FILES = 16_384, 4_000_000, 40_000_000
"""Bytes a request may carry: to sign in, to any other place, with the files of a draft. An import has no bound: it is
written to the disk as it comes, and only for who is signed in."""
LOOPBACK = ("127.0.0.1", "localhost", "::1")
CHANGES = frozenset({"POST", "PUT", "PATCH", "DELETE"})

PAGE_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; frame-src 'self'; form-action 'none'; base-uri 'none'; frame-ancestors 'none'"
)


def host_name(value: str) -> str:
    """The host of a Host header or an origin, without port and brackets."""
    if "//" not in value:
        value = f"//{value}"
    try:
        return (urlsplit(value).hostname or "").lower()
    except ValueError:
        return ""


def session_of(headers: Mapping[str, str], cookie: str) -> str:
    """The session a request carries, or an empty string."""
    try:
        found = SimpleCookie(headers.get("cookie", "")).get(cookie)
    except CookieError:
        return ""
    return found.value if found else ""


_ENCLOSURES = re.compile(r"/api/drafts/\d+/attachments")


SENT_ALONG = {
    "content-security-policy": PAGE_POLICY,
    "x-content-type-options": "nosniff",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
    "x-dns-prefetch-control": "off",
}
"""Headers of every answer that does not set them itself."""


STRICT_TRANSPORT = "max-age=31536000"
"""What browsers are told where the program is reached by TLS under a name (RFC 6797): a year of TLS alone."""


def is_named(host: str) -> bool:
    """Whether a Host header is a name, and neither an address nor this very machine."""
    name = host_name(host)
    try:
        ip_address(name.strip("[]"))
    except ValueError:
        return name not in LOOPBACK and not name.endswith(".localhost")
    return False


class _TooLarge(Exception):
    """A request carries more than it may."""


def most_bytes(path: str) -> int | None:
    """How much a request to a path may carry; None where there is no bound."""
    if path == "/api/imports":
        return None
    if path.startswith("/api/entry"):
        return SMALL
    return FILES if _ENCLOSURES.fullmatch(path) else USUAL


def same_origin(origin: str, host: str, *, secure: bool) -> bool:
    """Whether an Origin header names this very server: its scheme, its name and its port (RFC 6454, section 5)."""
    scheme = "https" if secure else "http"
    try:
        said, ours = urlsplit(origin), urlsplit(f"{scheme}://{host}")
        default = 443 if secure else 80
        return (said.scheme, said.hostname, said.port or default) == (scheme, ours.hostname, ours.port or default)
    except ValueError:
        return False


OPEN = ("/api/entry", "/api/entry/first", "/api/openapi.json")
"""What is answered to those who are not signed in, besides the page itself."""


def _declared(headers: Headers) -> int:
    """The length a request says it has; 0 where it says none that can be read."""
    said = headers.get("content-length", "")
    return int(said) if said.isascii() and said.isdecimal() and len(said) < 18 else 0


def _too_large(most: int) -> JSONResponse:
    said = f"The request is larger than {most:,} bytes, the most that is taken here. Nothing of it was kept."
    return JSONResponse({"detail": said}, status_code=413, headers={"connection": "close"})


class Guard:
    """ASGI middleware that refuses strangers and sets the security headers of every answer. ``is_in`` tells whether
    the session in the cookie lasts; whoever has none is answered only what is open to all."""

    def __init__(
        self,
        app: ASGIApp,
        hosts: Iterable[str] = LOOPBACK,
        *,
        cookie: str = "",
        secure: bool = False,
        is_in: Callable[[str], bool] = lambda _: True,
    ) -> None:
        self._app = app
        self._hosts = frozenset(h.lower() for h in hosts)
        self._cookie, self._is_in, self._secure = cookie, is_in, secure

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle one ASGI connection."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        answer = self._answer_at_once(scope)
        if answer is not None:
            await answer(scope, receive, send)
            return
        await self._pass_on(scope, receive, send)

    def _answer_at_once(self, scope: Scope) -> JSONResponse | None:
        """What is answered without asking the application: a refusal, or None."""
        headers, path = Headers(scope=scope), scope["path"]
        refused = self._refusal(scope["method"], headers)
        if refused:
            return JSONResponse({"detail": refused}, status_code=403)
        if path.startswith("/api") and path not in OPEN and not self._is_in(session_of(headers, self._cookie)):
            return JSONResponse({"detail": "Sign in first."}, status_code=401)
        most = most_bytes(path)
        return _too_large(most) if most is not None and _declared(headers) > most else None

    async def _pass_on(self, scope: Scope, receive: Receive, send: Send) -> None:
        path = scope["path"]
        most = most_bytes(path)
        strict = self._secure and is_named(Headers(scope=scope).get("host", ""))
        taken, begun = 0, False
        too_large = False

        async def receive_bounded() -> Message:
            nonlocal taken, too_large
            message = await receive()
            taken += len(message.get("body", b""))
            if most is not None and taken > most:
                too_large = True
                raise _TooLarge
            return message

        async def send_guarded(message: Message) -> None:
            nonlocal begun
            if too_large and not begun:
                return  # what the application makes of the error is not the answer
            if message["type"] == "http.response.start":
                begun = True
                headers = MutableHeaders(scope=message)
                for name, value in SENT_ALONG.items():
                    headers.setdefault(name, value)
                if strict:
                    headers.setdefault("strict-transport-security", STRICT_TRANSPORT)
                if path.startswith("/api"):
                    headers.setdefault("cache-control", "no-store")
            await send(message)

        try:
            await self._app(scope, receive_bounded, send_guarded)
        except _TooLarge:
            if begun:
                raise
        if too_large and not begun and most is not None:
            await _too_large(most)(scope, receive, send)

    def _refusal(self, method: str, headers: Headers) -> str:
        host = headers.get("host", "")
        if host_name(host) not in self._hosts:
            return f"This server does not answer under the name {host!r}. Open it by the address it printed."
        site = headers.get("sec-fetch-site", "same-origin")
        if site == "cross-site" and (method in CHANGES or headers.get("sec-fetch-mode") != "navigate"):
            return "Requests from other sites are refused."
        if method not in CHANGES:
            return ""
        origin = headers.get("origin")
        if origin is not None and not same_origin(origin, host, secure=self._secure):
            return f"Changes from the origin {origin!r} are refused; make them on Hieranome's own page."
        if site not in ("same-origin", "none"):
            return "Changes from other sites are refused."
        if MARK not in headers:
            return f"A change must carry the header {MARK}: 1."
        return ""
