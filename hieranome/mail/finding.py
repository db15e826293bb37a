"""Finding the mail servers of an address: by DNS (RFC 6186, RFC 8314), by the autoconfiguration file its domain
publishes over HTTPS, or by the usual names below it.

Only the domain is asked for, never the address, and no password goes anywhere: of each server it is seen that it
answers under a certificate that proves it to be the one named. What stands outside the address's own domain is told
apart, for DNS answers can be forged and the owner should know where the password would go.
"""

from __future__ import annotations

import random
import ssl
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from typing import Literal
from xml.etree.ElementTree import Element, ParseError

import dns.exception
import dns.rdatatype
import dns.resolver
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from hieranome.core.errors import CallerError, ServerUnreachable
from hieranome.mail.greeting import Connect, Kind, greet, straight
from hieranome.mail.https import ask
from hieranome.mail.servers import PATIENCE, CertificateRefused, Security, Server

How = Literal["dns", "published", "usual"]

MOST_NAMED = 6
"""Servers of one kind that are tried, of those somebody names: strangers write these lists."""
_OF_HOSTS = set("abcdefghijklmnopqrstuvwxyz0123456789-.")
_SERVICES: tuple[tuple[Kind, str, Security], ...] = (
    ("imap", "_imaps._tcp", "tls"),
    ("imap", "_imap._tcp", "starttls"),
    ("smtp", "_submissions._tcp", "tls"),
    ("smtp", "_submission._tcp", "starttls"),
)
_PUBLISHED = (("autoconfig.{}", "/mail/config-v1.1.xml"), ("{}", "/.well-known/autoconfig/mail/config-v1.1.xml"))
_USUAL: tuple[tuple[Kind, str, int, Security], ...] = (
    ("imap", "imap.{}", 993, "tls"),
    ("imap", "mail.{}", 993, "tls"),
    ("imap", "{}", 993, "tls"),
    ("imap", "imap.{}", 143, "starttls"),
    ("imap", "mail.{}", 143, "starttls"),
    ("smtp", "smtp.{}", 465, "tls"),
    ("smtp", "mail.{}", 465, "tls"),
    ("smtp", "smtp.{}", 587, "starttls"),
    ("smtp", "mail.{}", 587, "starttls"),
    ("smtp", "{}", 465, "tls"),
)


@dataclass(frozen=True, slots=True)
class Named:
    """A server somebody names: what for, how it is reached, who named it; ``user`` is how the published file spells the
    user name, or empty."""

    kind: Kind
    server: Server
    how: How
    user: str = ""


@dataclass(frozen=True, slots=True)
class Attempt:
    """What was tried, and why it did not do; ``why`` is empty where it did."""

    what: str
    why: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """The servers of a domain, None where none was found; the user name they want, ``foreign`` hosts outside the
    domain, and all that was tried, in order."""

    imap: Named | None
    smtp: Named | None
    user: str
    foreign: list[str]
    tried: list[Attempt]


def domain_of(address: str) -> str:
    """The domain of an address, as DNS takes it. Raises :class:`CallerError` for what is none."""
    local, at, domain = address.strip().rpartition("@")
    try:
        ascii_domain = domain.encode("idna").decode("ascii").lower().rstrip(".")
    except UnicodeError:
        ascii_domain = ""
    if not (at and local and _is_host(ascii_domain)):
        raise CallerError(f"“{address.strip()}” is no mail address. Write it like ilse@hall.example.")
    return ascii_domain


class Finder:
    """Asks DNS and servers. ``resolver`` and ``connect`` reach the world, ``trust`` replaces the system's
    certificates."""

    def __init__(
        self,
        resolver: dns.resolver.Resolver | None = None,
        connect: Connect = straight,
        trust: ssl.SSLContext | None = None,
    ) -> None:
        self._resolver = resolver
        self._connect = connect
        self._trust = trust

    @cached_property
    def _trusted(self) -> ssl.SSLContext:
        """What certificates are proven by: read once, for there are many servers to try."""
        return self._trust or ssl.create_default_context()

    def find(self, address: str) -> Found:
        """The servers of an address's domain: the first of each kind that answers, in the order of the module."""
        domain = domain_of(address)
        tried: list[Attempt] = []
        chosen: dict[Kind, Named] = {}
        for way in (self._by_dns, self._published, self._usual):
            named, said = way(domain)
            tried += said
            for kind in ("imap", "smtp"):
                if kind not in chosen:
                    self._choose(kind, [one for one in named if one.kind == kind][:MOST_NAMED], chosen, tried)
            if len(chosen) == 2:
                break
        hosts = [one.server.host for one in chosen.values()]
        foreign = list(dict.fromkeys(host for host in hosts if not _within(host, domain)))
        spelled = next((one.user for one in chosen.values() if one.user), "%EMAILADDRESS%")
        return Found(chosen.get("imap"), chosen.get("smtp"), _user(spelled, address.strip()), foreign, tried)

    def _choose(self, kind: Kind, named: list[Named], chosen: dict[Kind, Named], tried: list[Attempt]) -> None:
        """Of the servers named, the first that answers; all are tried at once, so that a silent one costs no time."""
        with ThreadPoolExecutor(max(1, len(named))) as pool:
            for one, why in zip(named, pool.map(self._why_not, named), strict=True):
                if kind not in chosen:
                    tried.append(Attempt(f"{kind.upper()} at {one.server.host}, port {one.server.port}", why))
                    if not why:
                        chosen[kind] = one

    def _why_not(self, one: Named) -> str:
        try:
            greet(one.kind, one.server, self._connect, self._trusted)
        except CertificateRefused as exc:
            return str(exc)
        except ServerUnreachable as exc:
            return f"does not answer ({_reason(exc.__cause__)})"
        return ""

    def _by_dns(self, domain: str) -> tuple[list[Named], list[Attempt]]:
        with ThreadPoolExecutor(len(_SERVICES)) as pool:
            answers = list(pool.map(lambda service: self._srv(f"{service[1]}.{domain}"), _SERVICES))
        named, said = [], []
        for (kind, service, security), (targets, why) in zip(_SERVICES, answers, strict=True):
            said.append(Attempt(f"DNS, {service}.{domain}", why))
            named += [Named(kind, Server(host, port, security), "dns") for host, port in targets]
        return named, said

    def _srv(self, name: str) -> tuple[list[tuple[str, int]], str]:
        """The targets of a service (RFC 2782) in the order they are to be tried; a target of "." says there is
        none."""
        try:
            resolver = self._resolver or dns.resolver.get_default_resolver()
            answer = resolver.resolve(name, dns.rdatatype.SRV, lifetime=PATIENCE, search=False)
        except (dns.resolver.NXDOMAIN, dns.resolver.NoAnswer):
            return [], "names no server"
        except (dns.exception.DNSException, OSError) as exc:
            return [], f"cannot be asked ({type(exc).__name__})"
        targets = [(one.priority, one.weight, str(one.target).rstrip(".").lower(), one.port) for one in answer]
        targets = [one for one in targets if _is_host(one[2]) and one[3] > 0]
        targets.sort(key=lambda one: (one[0], -(random.random() ** (1.0 / (one[1] + 0.01)))))
        return [(host, port) for _, _, host, port in targets], "" if targets else "says there is none"

    def _published(self, domain: str) -> tuple[list[Named], list[Attempt]]:
        places = [(host.format(domain), path) for host, path in _PUBLISHED]
        with ThreadPoolExecutor(len(places)) as pool:
            answers = list(pool.map(lambda place: self._fetch(*place), places))
        named, said = [], []
        for (host, path), (content, why) in zip(places, answers, strict=True):
            servers: list[Named] = []
            if content:
                try:
                    servers = list(servers_of(content))
                    why = "" if servers else "names no encrypted server"
                except (ParseError, DefusedXmlException, ValueError, LookupError):
                    why = "cannot be read"
            said.append(Attempt(f"https://{host}{path}", why))
            named += servers
        return named, said

    def _fetch(self, host: str, path: str) -> tuple[bytes, str]:
        """A file over HTTPS; empty where there is none, with the reason."""
        try:
            status, content = ask(f"https://{host}{path}", "text/xml", connect=self._connect, trust=self._trusted)
        except OSError as exc:
            return b"", f"does not answer ({_reason(exc)})"
        return (content, "") if status == 200 else (b"", f"answers {status}")

    def _usual(self, domain: str) -> tuple[list[Named], list[Attempt]]:
        return [
            Named(kind, Server(host.format(domain), port, security), "usual") for kind, host, port, security in _USUAL
        ], []


def servers_of(content: bytes) -> Iterator[Named]:
    """The encrypted servers a published file names, in its order. Raises what parsing raises."""
    for provider in fromstring(content).iter("emailProvider"):
        for kind, tag in (("imap", "incomingServer"), ("smtp", "outgoingServer")):
            for one in provider.iter(tag):
                named = _server_of("imap" if kind == "imap" else "smtp", one)
                if named is not None and one.get("type", "").lower() == kind:
                    yield named


def _server_of(kind: Kind, described: Element) -> Named | None:
    told = {name: (described.findtext(name) or "").strip() for name in ("hostname", "port", "socketType", "username")}
    security: Security | None = {"SSL": "tls", "STARTTLS": "starttls"}.get(told["socketType"].upper())  # type: ignore[assignment]
    host = told["hostname"].lower().rstrip(".")
    if security is None or not _is_host(host) or not told["port"].isdecimal() or not 0 < int(told["port"]) < 65536:
        return None
    return Named(kind, Server(host, int(told["port"]), security), "published", told["username"][:254])


def _is_host(name: str) -> bool:
    return 0 < len(name) <= 253 and set(name) <= _OF_HOSTS


def _user(spelled: str, address: str) -> str:
    local, _, domain = address.rpartition("@")
    for mark, text in (("%EMAILADDRESS%", address), ("%EMAILLOCALPART%", local), ("%EMAILDOMAIN%", domain)):
        spelled = spelled.replace(mark, text)
    return spelled


def _reason(exc: BaseException | None) -> str:
    return str(getattr(exc, "strerror", None) or (exc if isinstance(exc, ConnectionError) else type(exc).__name__))


def _within(host: str, domain: str) -> bool:
    return host == domain or host.endswith(f".{domain}")
