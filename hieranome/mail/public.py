"""Connections to the public network alone: whatever a message names, this machine's own network is never asked.

Every address a name stands for is looked at, and the connection goes to the very one that was. All of it, looking up
the name included, ends at one deadline. Nothing of the owner goes along: no cookie, no name of this program.
"""

from __future__ import annotations

import http.client
import ipaddress
import socket
import ssl
import threading
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from urllib.parse import urlsplit

from hieranome.core.errors import WorldError
from hieranome.core.sizes import sized
from hieranome.mail.deadline import ended_after

_PIECE = 65_536
PORTS = {"http": 80, "https": 443}
_NOT_PUBLIC = tuple(map(ipaddress.ip_network, ("100.64.0.0/10", "192.88.99.0/24")))
"""Networks the library's table calls public: shared by carriers (RFC 6598), old relays."""
_ASSIGNED = tuple(
    map(
        ipaddress.IPv6Network,
        """
        2001:200::/23 2001:400::/23 2001:600::/23 2001:800::/22 2001:c00::/23 2001:e00::/23 2001:1200::/23
        2001:1400::/22 2001:1800::/23 2001:1a00::/23 2001:1c00::/22 2001:2000::/19 2001:4000::/23 2001:4200::/23
        2001:4400::/23 2001:4600::/23 2001:4800::/23 2001:4a00::/23 2001:4c00::/23 2001:5000::/20 2001:8000::/19
        2001:a000::/20 2001:b000::/20 2003::/18 2400::/12 2410::/12 2600::/12 2610::/23 2620::/23 2630::/12 2800::/12
        2a00::/12 2a10::/12 2c00::/12
        """.split(),
    )
)
"""What of IPv6 is given out to be reached by everybody (IANA, IPv6 Global Unicast Address Space), without 6to4 (RFC
3056), which stands for IPv4 addresses."""
_NAT64 = ipaddress.IPv6Network("64:ff9b::/96")
"""Where the only way out is IPv6, names of IPv4 hosts are told as addresses of this network (RFC 6052)."""
_ISATAP = frozenset({0x00005EFE, 0x02005EFE})
"""What stands before an IPv4 address in an interface identifier of a tunnel within a site (RFC 5214, section 6.1)."""

Permit = Callable[[str], bool]
"""Whether an IP address may be connected to."""


class NotPublic(WorldError):
    """An address that is not one of the public network."""


class Unreached(WorldError):
    """A server that cannot be asked, or whose answer cannot be used."""


class TooLate(WorldError):
    """The deadline is over."""


def is_public(address: str) -> bool:
    """Whether an IP address belongs to the public network: one of IPv4 that everybody may reach, one of IPv6 that is
    given out for that and stands for no other, or the NAT64 form of the former."""
    try:
        one = ipaddress.ip_address(address)
    except ValueError:
        return False
    if isinstance(one, ipaddress.IPv6Address):
        if one in _NAT64:
            return is_public(str(ipaddress.IPv4Address(int(one) & 0xFFFFFFFF)))
        tunnelled = int(one) >> 32 & 0xFFFFFFFF in _ISATAP
        return one.is_global and not tunnelled and any(one in network for network in _ASSIGNED)
    return one.is_global and not one.is_multicast and not any(one in network for network in _NOT_PUBLIC)


@dataclass(frozen=True, slots=True)
class Deadline:
    """When all has to be over, by the monotonic clock."""

    at: float

    @classmethod
    def after(cls, seconds: float) -> Deadline:
        """A deadline so many seconds from now."""
        return cls(time.monotonic() + seconds)

    def left(self) -> float:
        """Seconds left. Raises :class:`TooLate` when there are none."""
        left = self.at - time.monotonic()
        if left <= 0:
            raise TooLate("It took too long.")
        return left


def _addresses(host: str, port: int, deadline: Deadline) -> list[str]:
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


def connect(scheme: str, host: str, port: int, permit: Permit, deadline: Deadline) -> socket.socket:
    """A connection to an address of the host that was looked at; by TLS, its handshake is still to come. Raises
    :class:`NotPublic`, :class:`TooLate`, OSError."""
    found = _addresses(host, port, deadline)
    if not found or not all(permit(address) for address in found):
        raise NotPublic(f"{host} lies in a private network, where mail has nothing to ask.")
    plain = socket.create_connection((found[0], port), timeout=deadline.left())
    if scheme == "http":
        return plain
    try:
        plain.settimeout(deadline.left())
        return ssl.create_default_context().wrap_socket(plain, server_hostname=host, do_handshake_on_connect=False)
    except BaseException:
        plain.close()
        raise


Dial = Callable[[str, str, int, Deadline], socket.socket]
"""A connection by scheme, host and port, made within a deadline; by TLS its handshake is still to come."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What a server answered: its status, where it leads to (may be empty), its bytes."""

    status: int
    location: str
    content: bytes


def by_public_network(permit: Permit = is_public) -> Dial:
    """Connections to addresses that may be connected to."""
    return lambda scheme, host, port, deadline: connect(scheme, host, port, permit, deadline)


def ask(
    url: str,
    dial: Dial,
    deadline: Deadline,
    most: int,
    *,
    method: str = "GET",
    headers: Mapping[str, str] | None = None,
    body: bytes | None = None,
) -> Answer:
    """Ask a web address once, following nowhere; at most ``most`` bytes are taken. Raises :class:`NotPublic`,
    :class:`TooLate`, :class:`Unreached`."""
    try:
        parts = urlsplit(url)
        scheme, host = parts.scheme.lower(), parts.hostname or ""
        port = parts.port or PORTS.get(scheme, 0)
        if scheme not in PORTS or not host:
            raise Unreached("This address is not one of the web.")
        path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
        target = path.encode("ascii", "ignore").decode().replace(" ", "%20")
        connection = http.client.HTTPConnection(host, port, timeout=deadline.left())
        connection.default_port = PORTS[scheme]
        connection.sock = dial(scheme, host, port, deadline)
    except (OSError, ValueError, http.client.HTTPException) as exc:
        raise Unreached(f"The server cannot be reached ({exc}).") from exc
    try:
        with ended_after(connection.sock, deadline.left()):
            if isinstance(connection.sock, ssl.SSLSocket):
                connection.sock.do_handshake()
            connection.request(method, target, body, dict(headers or {}))
            answer = connection.getresponse()
            return Answer(answer.status, answer.headers.get("location", ""), _content(answer, deadline, most))
    except (OSError, ValueError, http.client.HTTPException) as exc:
        deadline.left()
        raise Unreached(f"The server broke off ({exc}).") from exc
    finally:
        connection.close()


def _content(answer: http.client.HTTPResponse, deadline: Deadline, most: int) -> bytes:
    """What the answer holds. It ends with the length it told of, since the server may keep the connection; only where
    it told of none, with the connection (RFC 9112, section 6.3)."""
    found = bytearray()
    told = answer.length
    while told is None or len(found) < told:
        piece = answer.read1(_PIECE)
        deadline.left()  # a connection that was ended at the deadline looks like one that came to its end
        if not piece:
            break
        found += piece
        if len(found) > most:
            raise Unreached(f"The answer is larger than {sized(most)}.")
    if told is not None and len(found) < told:
        raise Unreached("The server broke off.")
    return bytes(found)
