"""Remote pictures: taken from public addresses, as pictures, and nothing else."""

import socket
import threading
import time
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

from hieranome.mail.public import is_public
from hieranome.mail.remote import MAX_BYTES, PictureRefused, fetch_picture, raster_type
from tests.patience import PATIENCE

PNG = b"\x89PNG\r\n\x1a\n" + b"\x00" * 40


class Shop(BaseHTTPRequestHandler):
    """A sender's web server: a picture, a page that is none, a picture too large, roads that lead nowhere."""

    asked: list[tuple[str, dict[str, str]]]

    def do_GET(self) -> None:
        self.asked.append((self.path, dict(self.headers)))
        answers = {
            "/harp.png": (200, PNG, {}),
            "/page": (200, b"<svg onload='alert(1)'/>", {"content-type": "image/png"}),
            "/large": (200, PNG + b"\x00" * MAX_BYTES, {}),
            "/moved": (302, b"", {"location": "/harp.png"}),
            "/round": (302, b"", {"location": "/round"}),
            "/inward": (302, b"", {"location": "http://10.0.0.1/harp.png"}),
        }
        status, body, headers = answers.get(self.path.split("?")[0], (404, b"", {}))
        self.send_response(status)
        for name, value in {**headers, "content-length": str(len(body))}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        """Say nothing."""


@contextmanager
def shop() -> Iterator[tuple[str, list[tuple[str, dict[str, str]]]]]:
    """A shop open on loopback: its address, and what it was asked."""
    asked: list[tuple[str, dict[str, str]]] = []
    server = ThreadingHTTPServer(("127.0.0.1", 0), type("OneShop", (Shop,), {"asked": asked}))
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}", asked
    finally:
        server.shutdown()
        thread.join()
        server.server_close()


def loopback(address: str) -> bool:
    return address.startswith("127.")


class RemoteTest(unittest.TestCase):
    def test_a_picture_is_fetched_with_nothing_of_the_owners(self) -> None:
        """No cookie, no referrer, no name of a program goes with the request."""
        with shop() as (address, asked):
            picture = fetch_picture(f"{address}/harp.png?id=7", loopback)
        self.assertEqual((picture.content, picture.media_type), (PNG, "image/png"))
        path, headers = asked[0]
        self.assertEqual(path, "/harp.png?id=7")
        self.assertEqual({name.lower() for name in headers}, {"host", "accept", "accept-encoding"})

    def test_redirects_are_followed_a_little(self) -> None:
        """One step on is fine; going round and round ends."""
        with shop() as (address, _):
            self.assertEqual(fetch_picture(f"{address}/moved", loopback).content, PNG)
            with self.assertRaisesRegex(PictureRefused, "without end"):
                fetch_picture(f"{address}/round", loopback)

    def test_the_owners_own_network_is_never_asked(self) -> None:
        """Neither directly, nor by a redirect, nor by a name."""
        with shop() as (address, asked):
            for url in (f"{address}/harp.png", address.replace("127.0.0.1", "localhost") + "/harp.png"):
                with self.assertRaisesRegex(PictureRefused, "private network"):
                    fetch_picture(url)
            self.assertEqual(asked, [])
            with self.assertRaisesRegex(PictureRefused, "private network"):
                fetch_picture(f"{address}/inward", loopback)

    def test_only_pictures_are_taken(self) -> None:
        """What its bytes do not show to be a raster picture is refused, whatever it is called."""
        with shop() as (address, _):
            for path, why in (("/page", "not a PNG"), ("/large", "larger than 5 MB"), ("/gone", "answered 404")):
                with self.assertRaisesRegex(PictureRefused, why):
                    fetch_picture(address + path, loopback)

    def test_addresses_that_are_none(self) -> None:
        """Other schemes, missing hosts and nonsense are refused in a sentence."""
        for url in ("file:///etc/hostname", "http://", "http://[::1", "ftp://x.example/a", "http://a:99999/x", ""):
            with self.assertRaises(PictureRefused, msg=url):
                fetch_picture(url)

    def test_which_addresses_are_public(self) -> None:
        """Loopback, private, link-local, mapped and multicast addresses are not."""
        for address in ("127.0.0.1", "10.1.2.3", "192.168.0.1", "169.254.169.254", "::1", "fe80::1", "::ffff:10.0.0.1",
                        "224.0.0.1", "0.0.0.0", "fd00::1", "nonsense"):  # fmt: skip
            self.assertFalse(is_public(address), address)
        for address in ("93.184.216.34", "2606:2800:220:1:248:1893:25c8:1946"):
            self.assertTrue(is_public(address), address)

    def test_raster_types_by_their_bytes(self) -> None:
        """The four kinds are told by how they begin."""
        for begin, kind in ((b"GIF89a", "gif"), (b"\xff\xd8\xff\xe0", "jpeg"), (b"RIFF\0\0\0\0WEBP", "webp")):
            self.assertEqual(raster_type(begin + b"\0" * 9), f"image/{kind}")


class PublicTest(unittest.TestCase):
    def test_addresses_that_stand_for_others(self) -> None:
        """Nothing that stands for another address but NAT64, and of IPv6 what is given out alone."""
        for address, public in (
            ("8.8.8.8", True), ("2001:4860:4860::8888", True), ("10.0.0.1", False), ("127.0.0.1", False), ("0.0.0.0", False),
            ("169.254.1.1", False), ("100.64.0.1", False), ("224.0.0.1", False), ("255.255.255.255", False), ("::1", False),
            ("::", False), ("fe80::1", False), ("fc00::1", False), ("fec0::1", False), ("feff::1", False), ("ff02::1", False),
            ("64:ff9b::a00:1", False), ("64:ff9b::808:808", True), ("64:ff9b:1::7f00:1", False), ("64:ff9b:1::808:808", False),
            ("64:ff9b:1:7f00:0:100:808:808", False), ("2002:7f00:1::", False), ("2002:808:808::1", False), ("::7f00:1", False),
            ("::10.1.2.3", False), ("::ffff:10.0.0.1", False), ("::ffff:8.8.8.8", False), ("::ffff:0:10.0.0.1", False),
            ("2a00:1450::5efe:8.8.8.8", False), ("2600::200:5efe:10.0.0.1", False), ("2a00:1450::5eff:8.8.8.8", True),
            ("3fff::1", False), ("2001:db8::1", False), ("2d00::1", False), ("3000::1", False), ("4000::1", False),
            ("5f00::1", False), ("2003:4000::1", False), ("2003::1", True), ("2c0f:fb50::1", True), ("e000::1", False),
            ("2001:0:4136:e378:8000:63bf:3fff:fdd2", False), ("fe80::1%eth0", False), ("no address", False), ("", False),
        ):  # fmt: skip
            with self.subTest(address):
                self.assertEqual(is_public(address), public)


class SlowTest(unittest.TestCase):
    def test_what_drips_ends_at_the_deadline(self) -> None:
        """A server that sends a byte now and then, in its head or its body, is left at the deadline, and so is one that
        takes the connection and says nothing, by TLS as well."""
        for scheme, said in (("http", b"HTTP/1.1 200 OK\r\nX: "), ("http", b"HTTP/1.1 200 OK\r\n\r\n"), ("https", b"")):
            with self.subTest(scheme=scheme, said=said), dripping(said) as port:
                began = time.monotonic()
                with self.assertRaises(PictureRefused):
                    fetch_picture(f"{scheme}://127.0.0.1:{port}/a.png", loopback, patience=1.0)
                self.assertLess(time.monotonic() - began, PATIENCE)


@contextmanager
def dripping(said: bytes) -> Iterator[int]:
    """A server that says something and then a byte every tenth of a second; its port."""
    ended = threading.Event()

    def serve() -> None:
        while not ended.is_set():
            try:
                taken, _ = listening.accept()
            except OSError:
                return
            with taken:
                try:
                    taken.sendall(said)
                    while not ended.wait(0.1):
                        taken.sendall(b"x")
                except OSError:
                    continue

    with socket.create_server(("127.0.0.1", 0)) as listening:
        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        yield listening.getsockname()[1]
        ended.set()
        listening.shutdown(socket.SHUT_RDWR)
        thread.join(PATIENCE)
