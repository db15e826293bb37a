"""Remote pictures, fetched by the server when the owner asks for them: nothing of the owner goes with the request.

Only raster pictures from public addresses are taken. Every address a name stands for is looked at before it is
connected to, and again after each redirect, so that no message can make this machine ask its own network.
"""

from __future__ import annotations

import http.client
import ipaddress
import socket
import ssl
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urljoin, urlsplit

from hieranome.core.errors import WorldError

MAX_BYTES = 5_000_000
MAX_REDIRECTS = 3
PATIENCE = 8.0
"""Seconds to wait for a connection, and for each piece of an answer."""
_PORTS = {"http": 80, "https": 443}
_SIGNS = (
    (b"\x89PNG\r\n\x1a\n", "image/png"),
    (b"\xff\xd8\xff", "image/jpeg"),
    (b"GIF87a", "image/gif"),
    (b"GIF89a", "image/gif"),
)


class PictureRefused(WorldError):
    """A remote picture that was not taken."""

    status = 502


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture's bytes and the media type they show."""

    content: bytes
    media_type: str


Permit = Callable[[str], bool]
Fetch = Callable[[str], Picture]


def is_public(address: str) -> bool:
    """Whether an IP address belongs to the public network."""
    try:
        one = ipaddress.ip_address(address)
    except ValueError:
        return False
    mapped = getattr(one, "ipv4_mapped", None)
    return bool((mapped or one).is_global) and not one.is_multicast


def fetch_picture(url: str, permit: Permit = is_public) -> Picture:
    """The picture at a web address. Raises :class:`PictureRefused`, which says why."""
    for _ in range(MAX_REDIRECTS + 1):
        status, location, content = _get(url, permit)
        if status in (301, 302, 303, 307, 308) and location:
            url = urljoin(url, location)
            continue
        if status != 200:
            raise PictureRefused(f"The sender's server answered {status} instead of the picture.")
        return Picture(content, raster_type(content))
    raise PictureRefused("The picture's address leads from one to the next without end.")


def raster_type(content: bytes) -> str:
    """The media type the bytes themselves show. Raises :class:`PictureRefused` for anything but raster pictures."""
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return "image/webp"
    found = next((kind for sign, kind in _SIGNS if content.startswith(sign)), None)
    if found is None:
        raise PictureRefused("What the sender's server sent is not a PNG, JPEG, GIF or WebP picture.")
    return found


def _get(url: str, permit: Permit) -> tuple[int, str, bytes]:
    try:
        parts = urlsplit(url)
        scheme, host = parts.scheme.lower(), parts.hostname or ""
        port = parts.port or _PORTS.get(scheme, 0)
        if scheme not in _PORTS or not host:
            raise PictureRefused("The picture's address is not one of the web.")
        path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        target = path.encode("ascii", "ignore").decode().replace(" ", "%20")
        connection = http.client.HTTPConnection(host, port, timeout=PATIENCE)
        connection.default_port = _PORTS[scheme]
        connection.sock = _connect(scheme, host, port, permit)
    except (OSError, ValueError, http.client.HTTPException) as exc:
        raise PictureRefused(f"The sender's server cannot be reached ({exc}).") from exc
    try:
        connection.request("GET", target, headers={"Accept": "image/png, image/jpeg, image/gif, image/webp"})
        answer = connection.getresponse()
        content = answer.read(MAX_BYTES + 1)
        if len(content) > MAX_BYTES:
            raise PictureRefused(f"The picture is larger than {MAX_BYTES // 1_000_000} MB.")
        return answer.status, answer.headers.get("location", ""), content
    except (OSError, ValueError, http.client.HTTPException) as exc:
        raise PictureRefused(f"The sender's server broke off ({exc}).") from exc
    finally:
        connection.close()


def _connect(scheme: str, host: str, port: int, permit: Permit) -> socket.socket:
    """A connection to an address of the host that was looked at."""
    found = [str(info[4][0]) for info in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)]
    if not found or not all(permit(address) for address in found):
        raise PictureRefused("The picture's address lies in a private network, where mail has nothing to fetch.")
    plain = socket.create_connection((found[0], port), timeout=PATIENCE)
    if scheme == "http":
        return plain
    try:
        return ssl.create_default_context().wrap_socket(plain, server_hostname=host)
    except BaseException:
        plain.close()
        raise
