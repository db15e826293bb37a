"""Unsubscribing on the wire: what headers say, which signatures speak for it, and that nobody but the public is
asked."""

from __future__ import annotations

import base64
import contextlib
import socket
import threading
import unittest
from dataclasses import replace
from unittest.mock import patch

import dkim
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric import rsa

from hieranome.core.authentication import parse_results
from hieranome.core.signatures import BOTH, POST, UNSUBSCRIBE, Signature, covers_all, found_good
from hieranome.mail.public import by_public_network
from hieranome.mail.unsubscribing import Mailto, harmless, post_one_click, verified, ways
from hieranome.standin.unsubscribing import UnsubscribeEndpoint
from tests.mail.test_remote import dripping

MAILTO = "<mailto:leave@shop.example?subject=stop&cc=x@y.example&body=a%0Ab>"
LEAVE = f"List-Unsubscribe: <https://shop.example/leave?u=1>, {MAILTO}\n"
CLICK = "List-Unsubscribe-Post: List-Unsubscribe=One-Click\n"
ONCE = {UNSUBSCRIBE: 1, POST: 1}


def raw(head: str) -> bytes:
    """A message with some headers."""
    return f"From: News <news@shop.example>\n{head}Subject: x\n\ny\n".encode()


class WaysTest(unittest.TestCase):
    def test_what_headers_say(self) -> None:
        """A web address with one click, and a message of recipient, subject and text alone."""
        found = ways(raw(LEAVE + CLICK))
        self.assertEqual((found.web, found.one_click), ("https://shop.example/leave?u=1", True))
        self.assertEqual(found.mailto, Mailto("leave@shop.example", "stop", "unsubscribe"))

    def test_one_click_asks_for_all_of_it(self) -> None:
        """HTTPS, and both headers once; else a person has to open the page."""
        for head in (
            LEAVE,
            LEAVE + "List-Unsubscribe-Post: yes\n",
            LEAVE + CLICK + CLICK,
            LEAVE.replace("https:", "http:") + CLICK,
            LEAVE + LEAVE + CLICK,
            CLICK,
        ):
            self.assertFalse(ways(raw(head)).one_click, head)
        self.assertEqual(ways(raw(LEAVE + LEAVE + CLICK)).web, "")

    def test_odd_values(self) -> None:
        """Nothing is taken from what is no address of web or mail; folded and spaced ones are put together."""
        for value in (
            "leave@shop.example", "<javascript:alert(1)>", "<https://>", "<ftp://x.example>", "<mailto:>",
            "<mailto:a,b@x.example>", "<mailto:a@x.example,c@x.example>", f"<https://x.example/{'a' * 3000}>",
            "<https://[::1>", "<" * 9_000, "=?utf-8?q?=3C?=",
        ):  # fmt: skip
            found = ways(raw(f"List-Unsubscribe: {value}\n"))
            self.assertEqual((found.web, found.mailto), ("", None), value[:40])
        folded = ways(raw("List-Unsubscribe: <https://shop.example/\n a/b>\n"))
        self.assertEqual(folded.web, "https://shop.example/a/b")
        self.assertEqual(
            ways(raw("List-Unsubscribe: <mailto:a@x.example?Subject=x%0D%0ABcc:%20y@z.example>\n")).mailto,
            Mailto("a@x.example", "unsubscribe", ""),
        )


class SignatureTest(unittest.TestCase):
    def signature(self, headers: tuple[str, ...] = BOTH, mark: str = "abcdefgh1234", selector: str = "s1") -> Signature:
        return Signature("shop.example", selector, headers, mark)

    def speaks(self, results: str, *signatures: Signature, counts: dict[str, int] | None = None) -> bool:
        good = found_good(signatures, parse_results(results))
        return any(covers_all(one, counts or ONCE, BOTH) for one in good)

    def test_a_passing_result_is_matched_to_its_signature(self) -> None:
        """By domain and mark, else by the only one of its domain and selector."""
        one, other = self.signature(), self.signature(("from",), "zzzzzzzz9999", "s2")
        self.assertTrue(self.speaks("dkim=pass header.d=shop.example header.b=AbCdEfGh", one, other))
        self.assertFalse(self.speaks("dkim=pass header.d=shop.example header.b=zzzzzzzz", one, other))
        self.assertFalse(self.speaks("dkim=pass header.d=shop.example header.b=abc", one))
        self.assertFalse(self.speaks("dkim=pass header.d=shop.example", one, other))
        self.assertTrue(self.speaks("dkim=pass header.d=shop.example header.s=s1", one, other))
        self.assertTrue(self.speaks("dkim=pass header.i=@shop.example", one))
        self.assertFalse(self.speaks("dkim=pass header.d=other.example header.b=abcdefgh", one))
        self.assertFalse(self.speaks("dkim=fail header.d=shop.example header.b=abcdefgh", one))
        self.assertFalse(self.speaks("spf=pass smtp.mailfrom=shop.example", one))
        self.assertFalse(self.speaks("dkim=pass", one))

    def test_both_headers_are_covered(self) -> None:
        """Each once, or signed more often than it stands."""
        good = "dkim=pass header.d=shop.example header.b=abcdefgh"
        self.assertFalse(self.speaks(good, self.signature((UNSUBSCRIBE,))))
        self.assertFalse(self.speaks(good, self.signature(), counts={UNSUBSCRIBE: 2, POST: 1}))
        self.assertTrue(
            self.speaks(good, self.signature((UNSUBSCRIBE,) * 3 + (POST,)), counts={UNSUBSCRIBE: 2, POST: 1})
        )
        self.assertFalse(self.speaks(good, self.signature(), counts={UNSUBSCRIBE: 1, POST: 0}))

    def test_checked_by_its_key(self) -> None:
        """A signature holds by the key in the DNS; not when a header it covers was changed, nor without the key."""
        key = rsa.generate_private_key(65537, 2048)
        pem = key.private_bytes(
            serialization.Encoding.PEM, serialization.PrivateFormat.TraditionalOpenSSL, serialization.NoEncryption()
        )
        public = key.public_key().public_bytes(
            serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo
        )
        message = raw(LEAVE + CLICK).replace(b"\n", b"\r\n")
        head = dkim.sign(message, b"s1", b"shop.example", pem, include_headers=[b"from", *(h.encode() for h in BOTH)])
        signed = head + message

        def look_up(name: bytes, _patience: float) -> bytes:
            return b"v=DKIM1; p=" + base64.b64encode(public) if name.startswith(b"s1._domainkey.shop.example") else b""

        def speaks(one: Signature) -> bool:
            return covers_all(one, ways(signed).counts, BOTH)

        self.assertTrue(verified(signed, ways(signed), speaks, look_up))
        changed = signed.replace(b"u=1", b"u=2")
        self.assertFalse(verified(changed, ways(changed), speaks, look_up))
        self.assertFalse(verified(signed, ways(signed), speaks, lambda _name, _patience: b""))
        self.assertFalse(verified(message, ways(message), speaks, look_up))
        partly = dkim.sign(message, b"s1", b"shop.example", pem, include_headers=[b"from"]) + message
        self.assertFalse(verified(partly, ways(partly), speaks, look_up))
        for digests, holds in ((b"sha1", False), (b"sha1 : sha256", True), (b"SHA256", True)):
            said = b"v=DKIM1; h=" + digests + b"; p=" + base64.b64encode(public)
            self.assertEqual(verified(signed, ways(signed), speaks, lambda *_, said=said: said), holds, digests)

    def test_what_has_expired_holds_no_more(self) -> None:
        """By the second, not by hours."""
        one = Signature("shop.example", "s1", BOTH, "abc", expires=1_000)
        found = replace(ways(raw(LEAVE + CLICK)), signatures=(one,))
        with patch("dkim.DKIM.verify", return_value=True):
            self.assertTrue(verified(raw(LEAVE + CLICK), found, lambda _: True, lambda *_: b"", now=999))
            self.assertFalse(verified(raw(LEAVE + CLICK), found, lambda _: True, lambda *_: b"", now=1_001))

    def test_both_readers_see_the_same_headers(self) -> None:
        """What the checker reads otherwise than we do speaks for nothing."""
        one = Signature("shop.example", "s1", BOTH, "abc")
        found = replace(ways(raw(LEAVE + CLICK)), signatures=(one,))
        with patch("dkim.DKIM.verify", return_value=True):
            self.assertFalse(verified(raw(LEAVE + LEAVE + CLICK), found, lambda _: True, lambda *_: b""))

    def test_what_may_stand_in_the_owners_mail(self) -> None:
        """A command and the name or mark of a list; nothing that says more."""
        for text in (
            "unsubscribe", "Unsubscribe shop-news", "signoff NEWS-L", "unsubscribe a1b2 c3d4", "unsub:8f3a/2c", "STOP",
            "unsubscribe=abc@x.example",
        ):  # fmt: skip
            self.assertEqual(harmless(text), text)
        for text in (
            "", "My resignation", "I-resign-as-of-2026", "stop the payment", "leave the firm",
            "unsubscribe " + "a" * 300,
            "unsubscribe and I resign today", "unsubscribe\u202e", "unsubscribe <b>", "ünsubscribe", "a1b2c3", "yes",
            "remove director", "unsubscribe me, please!",
        ):  # fmt: skip
            self.assertEqual(harmless(text), "", text)


class RequestTest(unittest.TestCase):
    def test_the_four_manners(self) -> None:
        """What came of it is told as it is; the request is the one POST of RFC 8058, without a cookie."""
        with UnsubscribeEndpoint({"fail.example": "fails", "page.example": "page", "lie.example": "lies"}) as endpoint:
            for host, said in (("obey", "accepted"), ("fail", "failed"), ("page", "page"), ("lie", "accepted")):
                outcome = post_one_click(f"https://{host}.example/leave?u=1", endpoint.dial)
                self.assertEqual(outcome.said, said, host)
            self.assertEqual(endpoint.left, {"obey.example"})
            self.assertEqual(
                [host for host, _, _ in endpoint.asked], [f"{h}.example" for h in ("obey", "fail", "page", "lie")]
            )
            for _, head, body in endpoint.asked:
                self.assertTrue(head.startswith("POST /leave?u=1 HTTP/1.1"))
                self.assertEqual(body, b"List-Unsubscribe=One-Click")
                self.assertNotIn("cookie", head.lower())
                self.assertNotIn("hieranome", head.lower())

    def test_nobody_but_the_public_is_asked(self) -> None:
        """Loopback, private, link-local, decimal and mapped addresses, and names for them: none is connected to."""
        with UnsubscribeEndpoint({}) as endpoint:
            for host in (
                "127.0.0.1", "localhost", "10.0.0.1", "192.168.1.1", "169.254.169.254", "2130706433",
                "0x7f000001", "0177.0.0.1", "[::1]", "[::ffff:127.0.0.1]", "[fe80::1]", "[fc00::1]",
                "[64:ff9b::7f00:1]", "0.0.0.0",
            ):  # fmt: skip
                outcome = post_one_click(f"https://{host}:{endpoint.port}/leave")
                self.assertEqual(outcome.said, "unreached", host)
            self.assertEqual(endpoint.asked, [])

    def test_a_name_that_changes_its_mind(self) -> None:
        """The address that was looked at is the one connected to: a name is looked up once."""
        answers = iter(["93.184.216.34", "127.0.0.1"])
        looked: list[str] = []
        connected: list[tuple[str, int]] = []

        def look_up(host: str, port: int, **_: object) -> list[tuple[object, ...]]:
            looked.append(host)
            return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", (next(answers), port))]

        def connect(address: tuple[str, int], **_: object) -> socket.socket:
            connected.append(address)
            raise ConnectionRefusedError(111, "refused")

        with patch("socket.getaddrinfo", look_up), patch("socket.create_connection", connect):
            self.assertEqual(post_one_click("https://rebinds.example/leave").said, "unreached")
        self.assertEqual((looked, connected), (["rebinds.example"], [("93.184.216.34", 443)]))

    def test_an_answer_without_end(self) -> None:
        """A server that drips in its head or its body is left when the time is over, one that floods once it has said
        too much, one that breaks off; one that only keeps the connection open has answered."""
        with patch("hieranome.mail.unsubscribing.PATIENCE", 0.6):
            for said in (b"HTTP/1.1 200 OK\r\nX: ", b"HTTP/1.1 200 OK\r\n\r\n"):
                with dripping(said) as port:
                    dripped = post_one_click(f"http://127.0.0.1:{port}/", by_public_network(lambda _: True))
                self.assertEqual((dripped.said, "within" in dripped.words), ("unreached", True), said)
        flooded = post_one_click("http://x.example/", lambda *_: _saying(b"HTTP/1.1 200 OK\r\n\r\n" + bytes(200_000)))
        self.assertEqual((flooded.said, flooded.words), ("unreached", "The answer is larger than 64 KB."))
        open_still = post_one_click(
            "http://x.example/", lambda *_: _saying(b"HTTP/1.1 200 OK\r\nContent-Length: 4\r\n\r\nDone", still=True)
        )
        self.assertEqual(open_still.said, "accepted")
        short = post_one_click(
            "http://x.example/", lambda *_: _saying(b"HTTP/1.1 200 OK\r\nContent-Length: 9\r\n\r\nDone")
        )
        self.assertEqual((short.said, "broke off" in short.words), ("unreached", True))
        broken = post_one_click("http://x.example/", lambda *_: _saying(b""))
        self.assertEqual((broken.said, "broke off" in broken.words), ("unreached", True))
        self.assertEqual(post_one_click("nonsense").said, "unreached")


def _saying(said: bytes, *, still: bool = False) -> socket.socket:
    """A connection whose other end hears, says something and is gone, or ``still`` there until ours is closed."""
    ours, theirs = socket.socketpair()

    def speak() -> None:
        with theirs, contextlib.suppress(OSError):
            heard = b""
            while b"One-Click" not in heard:
                heard += theirs.recv(9_000)
            theirs.sendall(said)
            while still and theirs.recv(9_000):
                pass

    threading.Thread(target=speak, daemon=True).start()
    return ours


if __name__ == "__main__":
    unittest.main()
