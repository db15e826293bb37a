"""Remote pictures, fetched by the server when the owner asks for them: nothing of the owner goes with the request.

Only raster pictures from public addresses are taken. Every address a name stands for is looked at before it is
connected to, and again after each redirect, so that no message can make this machine ask its own network. The whole of
it, looking up names and redirects included, ends at one deadline.
"""

from __future__ import annotations

import http.client
import ipaddress
import socket
import ssl
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from urllib.parse import urljoin, urlsplit

from hieranome.core.errors import WorldError
from hieranome.mail.deadline import ended_after

MAX_BYTES = 5_000_000
MAX_REDIRECTS = 3
PATIENCE = 10.0
"""Seconds one picture may take in all."""
_PIECE = 65_536
_PORTS = {"http": 80, "https": 443}
_SIGNS = (
    (b"\x89PNG\r\n\x1a\n", "image/png"),
    (b"\xff\xd8\xff", "image/jpeg"),
    (b"GIF87a", "image/gif"),
    (b"GIF89a", "image/gif"),
)
_NOT_PUBLIC = tuple(map(ipaddress.ip_network, ("fec0::/10", "100.64.0.0/10", "192.88.99.0/24")))
"""Networks the library's table calls public: site-local (RFC 3879), shared by carriers (RFC 6598), old relays."""
_LOCAL_NAT64 = ipaddress.IPv6Network("64:ff9b:1::/48")
_WITH_IPV4 = (
    (ipaddress.IPv6Network("64:ff9b::/96"), 0),
    (_LOCAL_NAT64, 0),
    (ipaddress.IPv6Network("2002::/16"), 80),
    (ipaddress.IPv6Network("::/96"), 0),
    (ipaddress.IPv6Network("::ffff:0:0/96"), 0),
    (ipaddress.IPv6Network("::ffff:0:0:0/96"), 0),
)
"""Networks whose addresses stand for an IPv4 address, and how many bits stand behind it: NAT64 (RFC 6052, RFC 8215),
6to4 (RFC 3056), IPv4-compatible and -mapped (RFC 4291), IPv4-translated (RFC 2765)."""


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
    """Whether an IP address belongs to the public network; one that stands for an IPv4 address, whether that does."""
    try:
        one = ipaddress.ip_address(address)
    except ValueError:
        return False
    if isinstance(one, ipaddress.IPv6Address):
        inside = list(_ipv4_inside(one))
        if inside:
            return all(is_public(str(ipaddress.IPv4Address(number))) for number in inside)
        if one.teredo is not None:
            return False
    return one.is_global and not one.is_multicast and not any(one in network for network in _NOT_PUBLIC)


def _ipv4_inside(one: ipaddress.IPv6Address) -> Iterator[int]:
    """The IPv4 addresses an IPv6 address may stand for, as numbers."""
    number = int(one)
    for network, behind in _WITH_IPV4:
        if one in network:
            yield (number >> behind) & 0xFFFFFFFF
    around_the_middle = (number >> 64 & 0xFFFF) << 16 | (number >> 40 & 0xFFFF)
    if one in _LOCAL_NAT64 and around_the_middle:  # RFC 6052, section 2.2: with a prefix of 48 bits
        yield around_the_middle


@dataclass(frozen=True, slots=True)
class _Deadline:
    """When all has to be over, by the monotonic clock."""

    at: float

    def left(self) -> float:
        """Seconds left. Raises :class:`PictureRefused` when there are none."""
        left = self.at - time.monotonic()
        if left <= 0:
            raise PictureRefused(f"The sender's server did not send the picture within {PATIENCE:.0f} seconds.")
        return left


def fetch_picture(url: str, permit: Permit = is_public, patience: float = PATIENCE) -> Picture:
    """The picture at a web address, within ``patience`` seconds. Raises :class:`PictureRefused`, which says why."""
    deadline = _Deadline(time.monotonic() + patience)
    for _ in range(MAX_REDIRECTS + 1):
        status, location, content = _get(url, permit, deadline)
        if status in (301, 302, 303, 307, 308) and location:
            try:
                url = urljoin(url, location)
            except ValueError as exc:
                raise PictureRefused("The picture's address leads to one that is none.") from exc
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


def _get(url: str, permit: Permit, deadline: _Deadline) -> tuple[int, str, bytes]:
    try:
        parts = urlsplit(url)
        scheme, host = parts.scheme.lower(), parts.hostname or ""
        port = parts.port or _PORTS.get(scheme, 0)
        if scheme not in _PORTS or not host:
            raise PictureRefused("The picture's address is not one of the web.")
        path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        target = path.encode("ascii", "ignore").decode().replace(" ", "%20")
        connection = http.client.HTTPConnection(host, port, timeout=deadline.left())
        connection.default_port = _PORTS[scheme]
        connection.sock = _connect(scheme, host, port, permit, deadline)
    except (OSError, ValueError, http.client.HTTPException) as exc:
        raise PictureRefused(f"The sender's server cannot be reached ({exc}).") from exc
    try:
        with ended_after(connection.sock, deadline.left()):
            if isinstance(connection.sock, ssl.SSLSocket):
                connection.sock.do_handshake()
            connection.request("GET", target, headers={"Accept": "image/png, image/jpeg, image/gif, image/webp"})
            answer = connection.getresponse()
            return answer.status, answer.headers.get("location", ""), _content(answer, deadline)
    except (OSError, ValueError, http.client.HTTPException) as exc:
        deadline.left()
        raise PictureRefused(f"The sender's server broke off ({exc}).") from exc
    finally:
        connection.close()


def _content(answer: http.client.HTTPResponse, deadline: _Deadline) -> bytes:
    found = bytearray()
    while piece := answer.read1(_PIECE):
        found += piece
        deadline.left()
        if len(found) > MAX_BYTES:
            raise PictureRefused(f"The picture is larger than {MAX_BYTES // 1_000_000} MB.")
    return bytes(found)


def _addresses(host: str, port: int, deadline: _Deadline) -> list[str]:
    """The addresses a name stands for; looking them up cannot be ended, but it is not waited for beyond the
    deadline."""
    found: list[str] = []
    failed: list[OSError | UnicodeError] = []

    def look_up() -> None:
        try:
            found.extend(str(info[4][0]) for info in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM))
        except (OSError, UnicodeError) as exc:
            failed.append(exc)

    thread = threading.Thread(target=look_up, daemon=True)
    thread.start()
    thread.join(deadline.left())
    deadline.left()
    if failed:
        raise OSError(str(failed[0]))
    return found


def _connect(scheme: str, host: str, port: int, permit: Permit, deadline: _Deadline) -> socket.socket:
    """A connection to an address of the host that was looked at; by TLS, its handshake is still to come."""
    found = _addresses(host, port, deadline)
    if not found or not all(permit(address) for address in found):
        raise PictureRefused("The picture's address lies in a private network, where mail has nothing to fetch.")
    plain = socket.create_connection((found[0], port), timeout=deadline.left())
    if scheme == "http":
        return plain
    try:
        plain.settimeout(deadline.left())
        return ssl.create_default_context().wrap_socket(plain, server_hostname=host, do_handshake_on_connect=False)
    except BaseException:
        plain.close()
        raise
