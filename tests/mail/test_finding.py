"""Finding servers: each way, wrong answers, and what never leaves this machine."""

import asyncio
import socket
import ssl
import tempfile
import time
import unittest
from pathlib import Path
from typing import TypeVar
from unittest import mock

from hieranome.core.errors import CallerError
from hieranome.mail.finding import MOST_NAMED, Finder, Found, servers_of
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.loopback import Loopback
from hieranome.standin.names import NameServer
from hieranome.standin.postbox import Postbox
from hieranome.standin.published import Publisher
from hieranome.standin.smtp_sink import SmtpSink
from tests.mail.servers import SECRET, USER, contexts
from tests.patience import PATIENCE

S = TypeVar("S", bound=Loopback)
ADDRESS = "Maren@hall.example"
NAMES = ("hall.example", "box.hall.example", "imap.hall.example", "mail.hall.example", "smtp.hall.example")
FOREIGN = "mail.provider.example"
PUBLISHED = b"""<?xml version="1.0"?><clientConfig version="1.1"><emailProvider id="hall.example">
<incomingServer type="pop3">
  <hostname>pop.hall.example</hostname><port>995</port><socketType>SSL</socketType>
</incomingServer>
<incomingServer type="imap">
  <hostname>box.hall.example</hostname><port>143</port><socketType>plain</socketType>
</incomingServer>
<incomingServer type="imap">
  <hostname>box.hall.example</hostname><port>1993</port><socketType>SSL</socketType>
  <username>%EMAILLOCALPART%</username>
</incomingServer>
<outgoingServer type="smtp">
  <hostname>box.hall.example</hostname><port>1465</port><socketType>SSL</socketType>
</outgoingServer>
</emailProvider></clientConfig>"""


class FindingCase(unittest.TestCase):
    """Hosts that all stand on loopback: which name and port lead where is a table."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="hieranome-test-"))
        self.served, self.trust = contexts(self.folder, 30, *NAMES, FOREIGN, "autoconfig.hall.example")
        box = Postbox()
        self.addCleanup(box.close)
        self.imap = self.start(ImapServer({USER: Account(box, SECRET)}, tls=self.served))
        self.smtp = self.start(SmtpSink({USER: SECRET}, tls=self.served))
        self.names = self.start(NameServer({}))
        self.roads: dict[tuple[str, int], int] = {}
        self.reached: list[tuple[str, int]] = []

    def start(self, server: S) -> S:
        """A stand-in, ended with the test."""
        server.start()
        self.addCleanup(server.close)
        return server

    def connect(self, host: str, port: int, timeout: float) -> socket.socket:
        self.reached.append((host, port))
        if (host, port) not in self.roads:
            raise ConnectionRefusedError(111, "Connection refused")
        return socket.create_connection(("127.0.0.1", self.roads[host, port]), timeout)

    def find(self, address: str = ADDRESS) -> Found:
        return Finder(self.names.resolver(), self.connect, self.trust).find(address)

    def told(self, found: Found) -> list[tuple[str, int, str, str] | None]:
        """Host, port, security and way of the two servers."""
        both = (found.imap, found.smtp)
        return [(one.server.host, one.server.port, one.server.security, one.how) if one else None for one in both]


class Speaker(Loopback):
    """Says the same to everybody, a byte at a time where it pauses between them."""

    def __init__(self, said: bytes, tls: ssl.SSLContext | None, pause: float = 0.0) -> None:
        super().__init__("speaker", 0)
        self._said, self._tls, self._pause = said, tls, pause

    async def _listen(self) -> asyncio.Server:
        return await asyncio.start_server(self._speak, "127.0.0.1", self.port, ssl=self._tls)

    async def _speak(self, _: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        try:
            for byte in [self._said] if not self._pause else [bytes([one]) for one in self._said]:
                writer.write(byte)
                await writer.drain()
                await asyncio.sleep(self._pause)
        except (OSError, asyncio.CancelledError):
            writer.transport.abort()
        finally:
            writer.close()


class WaysTest(FindingCase):
    def test_dns_names_them(self) -> None:
        """Services of DNS come first, in the order of their priority, and only those that answer count."""
        self.names.records = {
            "_imaps._tcp.hall.example": [(20, 1, 1993, "box.hall.example"), (10, 1, 993, "gone.hall.example")],
            "_submissions._tcp.hall.example": [(0, 1, 1465, "box.hall.example")],
        }
        self.roads = {("box.hall.example", 1993): self.imap.port, ("box.hall.example", 1465): self.smtp.port}
        found = self.find()
        self.assertEqual(
            self.told(found), [("box.hall.example", 1993, "tls", "dns"), ("box.hall.example", 1465, "tls", "dns")]
        )
        self.assertEqual((found.user, found.foreign), (ADDRESS, []))
        self.assertTrue(any("gone.hall.example" in one.what and one.why for one in found.tried))

    def test_the_domain_publishes_them(self) -> None:
        """A file over HTTPS names encrypted servers, and how the user name is spelled; what is in clear is left out."""
        web = self.start(Publisher(PUBLISHED, self.served))
        self.roads = {
            ("hall.example", 443): web.port,
            ("box.hall.example", 1993): self.imap.port,
            ("box.hall.example", 1465): self.smtp.port,
        }
        found = self.find()
        self.assertEqual([one and one.how for one in (found.imap, found.smtp)], ["published", "published"])
        self.assertEqual(found.user, "Maren")
        self.assertEqual(len(web.requests), 1)

    def test_usual_names_come_last(self) -> None:
        """Where nobody names them, the usual names below the domain are tried, STARTTLS among them."""
        box = Postbox()
        self.addCleanup(box.close)
        late = self.start(ImapServer({USER: Account(box, SECRET)}, start_tls=self.served))
        self.roads = {("mail.hall.example", 143): late.port, ("smtp.hall.example", 465): self.smtp.port}
        self.assertEqual(
            self.told(self.find()),
            [("mail.hall.example", 143, "starttls", "usual"), ("smtp.hall.example", 465, "tls", "usual")],
        )

    def test_one_found_here_and_one_there(self) -> None:
        """DNS names where mail is read alone: where it is sent is looked for further."""
        self.names.records = {"_imaps._tcp.hall.example": [(0, 0, 993, "box.hall.example")]}
        self.roads = {("box.hall.example", 993): self.imap.port, ("mail.hall.example", 465): self.smtp.port}
        self.assertEqual([one and one[3] for one in self.told(self.find())], ["dns", "usual"])

    def test_a_server_elsewhere_is_told_apart(self) -> None:
        """DNS may name another domain's server; that it is one is said, for the password would go there."""
        self.names.records = {"_imaps._tcp.hall.example": [(0, 0, 993, FOREIGN)]}
        self.roads = {(FOREIGN, 993): self.imap.port, ("smtp.hall.example", 465): self.smtp.port}
        self.assertEqual(self.find().foreign, [FOREIGN])


class WrongAnswersTest(FindingCase):
    def test_nothing_found_tells_all_that_was_tried(self) -> None:
        """No server: nothing is made up, and each attempt has its reason."""
        found = self.find()
        self.assertEqual(self.told(found), [None, None])
        self.assertTrue(found.tried and all(one.why for one in found.tried))

    def test_a_certificate_of_another_name_does_not_do(self) -> None:
        """Whoever answers must prove to be the host that was named; one that cannot is passed over, and it is said."""
        self.names.records = {"_imaps._tcp.hall.example": [(0, 0, 993, "other.hall.example")]}
        self.roads = {("other.hall.example", 993): self.imap.port}
        found = self.find()
        self.assertIsNone(found.imap)
        self.assertTrue(any("not to be trusted" in one.why for one in found.tried))

    def test_a_service_that_is_not_offered_and_a_broken_one(self) -> None:
        """A target of "." names nothing, and a DNS server that fails ends nothing."""
        self.names.records = {"_imaps._tcp.hall.example": [(0, 0, 0, "")]}
        self.assertIsNone(self.find().imap)
        self.names.broken = True
        self.roads = {("imap.hall.example", 993): self.imap.port}
        self.assertEqual([one and one[3] for one in self.told(self.find())], ["usual", None])

    def test_published_files_that_are_none(self) -> None:
        """Entities, endless files, redirects and nonsense name no server, and raise nothing."""
        bomb = b'<!DOCTYPE a [<!ENTITY b "bbbb">]><clientConfig>&b;</clientConfig>'
        for body, status in (
            (bomb, "200 OK"), (b'<?xml version="1.0" encoding="nonsense"?><clientConfig/>', "200 OK"),
            (b'<?xml version="1.0" encoding="hex"?><clientConfig/>', "200 OK"),
            (b"x" * 70_000, "200 OK"), (b"", "302 Found"), (b"<html>", "200 OK"),
            (PUBLISHED.replace(b"1993", b"99999").replace(b"box.hall", b"b\xc3\xb6x hall"), "200 OK"),
        ):  # fmt: skip
            with self.subTest(body=body[:30]):
                web = Publisher(body, self.served, status=status, headers="Location: https://evil.example/\r\n")
                web.start()
                self.roads = {("autoconfig.hall.example", 443): web.port}
                found = self.find()
                web.close()
                self.assertEqual(self.told(found), [None, None])
                self.assertTrue(next(o.why for o in found.tried if o.what.startswith("https://autoconfig")))
        self.assertNotIn("evil.example", {host for host, _ in self.reached})

    def test_a_server_that_is_none(self) -> None:
        """What answers with something else than a mail server's greeting is passed over."""
        self.roads = {("imap.hall.example", 993): self.smtp.port, ("smtp.hall.example", 465): self.imap.port}
        self.assertEqual(self.told(self.find()), [None, None])

    def test_a_server_that_says_goodbye_is_none(self) -> None:
        """An IMAP server that greets with BYE takes nobody in."""
        self.roads = {("imap.hall.example", 993): self.start(Speaker(b"* BYE full\r\n", self.served)).port}
        self.assertIsNone(self.find().imap)

    def test_what_drips_is_ended(self) -> None:
        """Servers that send a byte now and then, in clear, encrypted or over the web, hold nothing up."""
        drip = self.start(Speaker(b"* OK " + b"x" * 4000, self.served, pause=0.05))
        clear = self.start(Speaker(b"220-" + b"x" * 4000, None, pause=0.05))
        self.roads = {
            ("imap.hall.example", 993): drip.port,
            ("smtp.hall.example", 587): clear.port,
            ("hall.example", 443): drip.port,
        }
        with mock.patch("hieranome.mail.greeting.PATIENCE", 0.6), mock.patch("hieranome.mail.finding.PATIENCE", 0.6):
            began = time.monotonic()
            self.assertEqual(self.told(self.find()), [None, None])
        self.assertLess(time.monotonic() - began, PATIENCE)

    def test_no_more_servers_are_tried_than_a_few(self) -> None:
        """A domain that names hundreds makes nobody knock at hundreds, and odd names are not hosts."""
        named = [(0, 0, 993, f"h{number}.elsewhere.example") for number in range(60)]
        self.names.records = {"_imaps._tcp.hall.example": [(0, 0, 993, "a_b.example"), *named]}
        self.find()
        self.assertEqual(len({host for host, _ in self.reached if host.endswith("elsewhere.example")}), MOST_NAMED)
        self.assertNotIn("a_b.example", {host for host, _ in self.reached})

    def test_an_address_that_is_none_is_refused(self) -> None:
        """Without a domain nothing is asked."""
        for address in ("", "maren", "@hall.example", "a@", "a@b c.example", "a@" + "x" * 70 + ".example"):
            with self.subTest(address), self.assertRaises(CallerError):
                self.find(address)
        self.assertEqual((self.names.asked, self.reached), ([], []))

    def test_files_name_servers_in_their_order(self) -> None:
        """The parser by itself: kinds, ports and encryption as they stand."""
        named = [(one.kind, one.server.port, one.server.security) for one in servers_of(PUBLISHED)]
        self.assertEqual(named, [("imap", 1993, "tls"), ("smtp", 1465, "tls")])


class WhatLeavesTest(FindingCase):
    def test_only_the_domain_is_asked_for(self) -> None:
        """Neither the name before the @ nor anything secret is in any question or request."""
        web = self.start(Publisher(PUBLISHED, self.served))
        self.roads = {("hall.example", 443): web.port, ("autoconfig.hall.example", 443): web.port}
        self.find()
        self.assertEqual(len(self.names.asked), 4)
        told = " ".join([*self.names.asked, *web.requests, *(host for host, _ in self.reached)]).lower()
        self.assertIn("hall.example", told)
        self.assertNotIn("maren", told)

    def test_nobody_signs_in(self) -> None:
        """Servers are greeted; no password, no user name."""
        self.roads = {("imap.hall.example", 993): self.imap.port, ("smtp.hall.example", 465): self.smtp.port}
        self.find()
        self.assertFalse({"LOGIN", "AUTHENTICATE"} & set(self.imap.commands))
        self.assertEqual(self.smtp.taken, [])

    def test_an_untrusted_certificate_ends_it(self) -> None:
        """With the system's certificates the stand-ins prove nothing, so nothing is found."""
        self.roads = {("imap.hall.example", 993): self.imap.port, ("smtp.hall.example", 465): self.smtp.port}
        finder = Finder(self.names.resolver(), self.connect, ssl.create_default_context())
        self.assertEqual(self.told(finder.find(ADDRESS)), [None, None])
