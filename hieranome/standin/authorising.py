"""A simulated authorisation server on loopback (RFC 6749, RFC 7636): gives codes, and tokens for codes; and what its
tokens look like when they are shown to a mail server (RFC 7628)."""

from __future__ import annotations

import asyncio
import base64
import hashlib
import json
import secrets
import ssl
from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import parse_qs, urlencode, urlsplit

from hieranome.standin.loopback import Loopback


def bearer_of(said: str) -> tuple[str, str]:
    """The user and the token of what OAUTHBEARER or XOAUTH2 says."""
    fields = dict(part.split("=", 1) for part in said.split("\1") if "=" in part)
    name = fields.get("user") or fields.get("n,a", "").rstrip(",").replace("=2C", ",").replace("=3D", "=")
    return name, fields.get("auth", "").removeprefix("Bearer ")


@dataclass(frozen=True, slots=True)
class _Code:
    challenge: str
    redirect: str
    client: str


class Authoriser(Loopback):
    """Gives codes at ``/authorise`` and tokens at ``/token``. ``good`` are the access tokens that are good now. An
    owner who ``refuses`` is sent back without a code; ``lasts`` is how many seconds a token is said to last; ``answer``
    replaces what is said at ``/token``."""

    def __init__(self, tls: ssl.SSLContext, client_secret: str = "") -> None:
        super().__init__("authorisation-standin", 0)
        self.good: set[str] = set()
        self.refuses = False
        self.lasts = 3600
        self.renews = True
        self.answer: tuple[str, bytes] | None = None
        self.forms: list[dict[str, str]] = []
        self._refresh: dict[str, str] = {}
        self._codes: dict[str, _Code] = {}
        self._client_secret, self._tls = client_secret, tls

    def authorise(self, url: str) -> str:
        """What an owner does in the browser: agrees, or refuses. The address the browser is sent back to."""
        asked = {name: values[0] for name, values in parse_qs(urlsplit(url).query).items()}
        if asked.get("response_type") != "code" or asked.get("code_challenge_method") != "S256":
            return f"{asked['redirect_uri']}?{urlencode({'error': 'invalid_request', 'state': asked['state']})}"
        if self.refuses:
            return f"{asked['redirect_uri']}?{urlencode({'error': 'access_denied', 'state': asked['state']})}"
        code = secrets.token_urlsafe(8)
        self._codes[code] = _Code(asked["code_challenge"], asked["redirect_uri"], asked["client_id"])
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}"

    def revoke(self) -> None:
        """Take back every right that was given."""
        self.good.clear()
        self._refresh.clear()

    async def _listen(self) -> asyncio.Server:
        return await asyncio.start_server(self._serve, "127.0.0.1", self.port, ssl=self._tls)

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        head = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1")
        length = next((int(line[15:]) for line in head.split("\r\n") if line.lower().startswith("content-length:")), 0)
        form = {name: values[0] for name, values in parse_qs((await reader.readexactly(length)).decode()).items()}
        target = head.split(" ", 2)[1]
        if target.startswith("/authorise"):
            told = f"HTTP/1.1 302 Found\r\nLocation: {self.authorise(target)}\r\nContent-Length: 0\r\n\r\n".encode()
        else:
            self.forms.append(form)
            status, body = self.answer or self._token(form)
            told = f"HTTP/1.1 {status}\r\nContent-Length: {len(body)}\r\nConnection: close\r\n\r\n".encode() + body
        writer.write(told)
        await writer.drain()
        writer.close()

    def _token(self, form: Mapping[str, str]) -> tuple[str, bytes]:
        client = form.get("client_id", "")
        if form.get("client_secret", "") != self._client_secret:
            return _refusal("invalid_client")
        if form.get("grant_type") == "refresh_token":
            if self._refresh.pop(form.get("refresh_token", ""), None) != client:
                return _refusal("invalid_grant")
        else:
            code = self._codes.pop(form.get("code", ""), None)
            proof = base64.urlsafe_b64encode(hashlib.sha256(form.get("code_verifier", "").encode()).digest())
            if code != _Code(proof.decode().rstrip("="), form.get("redirect_uri", ""), client):
                return _refusal("invalid_grant")
        access, refresh = secrets.token_urlsafe(16), secrets.token_urlsafe(16)
        self.good.add(access)
        told: dict[str, object] = {"access_token": access, "token_type": "Bearer", "expires_in": self.lasts}
        if self.renews:
            self._refresh[refresh] = client
            told["refresh_token"] = refresh
        return "200 OK", json.dumps(told).encode()


def _refusal(error: str) -> tuple[str, bytes]:
    return "400 Bad Request", json.dumps({"error": error, "error_description": "the grant is not good"}).encode()
