"""Getting in: one password, sessions, a limit on guesses; and where secrets are kept."""

from __future__ import annotations

import stat
import tempfile
import unittest
from pathlib import Path

import keyring
from fastapi.testclient import TestClient
from keyring.backend import KeyringBackend
from keyring.errors import KeyringLocked

from hieranome.app.access.entry import SESSION
from hieranome.app.access.guesses import FREE_GUESSES
from hieranome.app.access.vault import FILE, Vault, has_keyring
from hieranome.app.service import Service
from hieranome.core.errors import Conflict, WorldError
from hieranome.web.application import build
from tests.support import MARK, RoomCase

PASSWORD = "a quill and a mark"


class EntryCase(RoomCase):
    """A server that nobody is signed in to."""

    def setUp(self) -> None:
        super().setUp()
        self.served = Service.of(self.room)
        self.app = build(self.served, hosts=("testserver",), port=8025)
        self.client = self.stranger()
        self.code = self.served.entry.code

    def stranger(self) -> TestClient:
        """Another browser."""
        client = TestClient(self.app, headers=MARK)
        self.addCleanup(client.close)
        return client

    def set_first(self) -> None:
        """Set the first password."""
        answer = self.client.post("/api/entry/first", json={"code": self.code, "password": PASSWORD})
        self.assertEqual(answer.status_code, 200, answer.text)


class Entering(EntryCase):
    def test_nobody_is_answered_before_signing_in(self) -> None:
        """Every path of the API but those for signing in is closed; the page itself is served."""
        for path, operations in self.app.openapi()["paths"].items():
            if path.startswith("/api/entry"):
                continue
            for method in operations:
                with self.subTest(path=path, method=method):
                    answer = self.client.request(method.upper(), path.replace("{", "").replace("}", ""))
                    self.assertEqual(answer.status_code, 401)
        self.assertNotEqual(self.client.get("/").status_code, 401)

    def test_the_first_password_needs_the_code(self) -> None:
        """Without it nothing is set; with it its session is in, and the code is spent."""
        wrong = self.client.post("/api/entry/first", json={"code": "guess", "password": PASSWORD})
        self.assertEqual(wrong.status_code, 401)
        self.assertTrue(self.client.get("/api/entry").json()["first"])
        self.set_first()
        self.assertEqual(self.client.get("/api/places").status_code, 200)
        again = self.stranger().post("/api/entry/first", json={"code": self.code, "password": "another one"})
        self.assertEqual(again.status_code, 409)

    def test_the_cookie_is_for_this_site_and_no_script(self) -> None:
        """HttpOnly, SameSite=Strict, named apart from a neighbour port's; Secure where it is reached by TLS."""
        answer = self.client.post("/api/entry/first", json={"code": self.code, "password": PASSWORD})
        cookie = answer.headers["set-cookie"]
        self.assertTrue(cookie.startswith("hieranome-8025="))
        for word in ("HttpOnly", "SameSite=strict", "Path=/"):
            self.assertIn(word, cookie)
        self.assertNotIn("Secure", cookie)
        tls = TestClient(build(self.served, hosts=("testserver",), port=8025, secure=True), headers=MARK)
        self.addCleanup(tls.close)
        self.assertIn("Secure", tls.post("/api/entry", json={"password": PASSWORD}).headers["set-cookie"])

    def test_tls_alone_where_it_has_a_name(self) -> None:
        """A browser is told to use nothing else (RFC 6797) where the program is reached by TLS under a name; never for
        an address or this machine."""
        hosts = ("mail.quillmark.example", "127.0.0.1", "localhost", "::1")
        for secure, host, told in (
            (True, "mail.quillmark.example", True), (True, "mail.quillmark.example:8443", True),
            (True, "127.0.0.1", False), (True, "localhost:8025", False), (True, "[::1]:8025", False),
            (False, "mail.quillmark.example", False),
        ):  # fmt: skip
            client = TestClient(build(self.served, hosts=hosts, secure=secure), headers={**MARK, "host": host})
            self.addCleanup(client.close)
            headers = client.get("/").headers
            self.assertEqual("strict-transport-security" in headers, told, (secure, host))
            self.assertEqual(headers["x-dns-prefetch-control"], "off")

    def test_signing_in_and_out(self) -> None:
        """A session lasts until it is ended, or unused too long; another browser has none."""
        self.set_first()
        other = self.stranger()
        self.assertEqual(other.get("/api/places").status_code, 401)
        self.assertEqual(other.post("/api/entry", json={"password": PASSWORD}).status_code, 200)
        self.assertEqual(other.get("/api/places").status_code, 200)
        other.delete("/api/entry")
        self.assertEqual(other.get("/api/places").status_code, 401)
        self.assertEqual(self.client.get("/api/places").status_code, 200)
        self.clock.now += SESSION + 10
        self.assertEqual(self.client.get("/api/places").status_code, 401)

    def test_guesses_are_heard_slower_and_slower(self) -> None:
        """After the free ones even the right password must wait."""
        self.set_first()
        other = self.stranger()
        for _ in range(FREE_GUESSES + 1):
            self.assertEqual(other.post("/api/entry", json={"password": "wrong"}).status_code, 401)
        refused = other.post("/api/entry", json={"password": PASSWORD})
        self.assertEqual(refused.status_code, 429)
        self.assertIn("Try again in", refused.json()["detail"])
        self.clock.now += 60
        self.assertEqual(other.post("/api/entry", json={"password": PASSWORD}).status_code, 200)

    def test_a_changed_password_ends_every_other_session(self) -> None:
        """Who changed it stays in."""
        self.set_first()
        other = self.stranger()
        other.post("/api/entry", json={"password": PASSWORD})
        wrong = self.client.put("/api/entry/password", json={"old": "wrong", "new": "quite another one"})
        self.assertEqual(wrong.status_code, 401)
        self.client.put("/api/entry/password", json={"old": PASSWORD, "new": "quite another one"})
        self.assertEqual(self.client.get("/api/places").status_code, 200)
        self.assertEqual(other.get("/api/places").status_code, 401)
        short = self.client.put("/api/entry/password", json={"old": "quite another one", "new": "short"})
        self.assertEqual(short.status_code, 422)

    def test_neither_password_nor_code_is_stored_or_told(self) -> None:
        """Only an argon2 hash, in a file of the owner's alone."""
        self.set_first()
        file = self.room.store.folder / "entry.json"
        self.assertIn("$argon2", file.read_text())
        self.assertEqual(stat.S_IMODE(file.stat().st_mode), 0o600)
        everything = b"".join(one.read_bytes() for one in self.room.store.folder.iterdir() if one.is_file())
        self.assertNotIn(PASSWORD.encode(), everything)
        self.assertNotIn(self.code.encode(), everything)

    def test_a_change_from_elsewhere_is_refused_with_a_session_too(self) -> None:
        """Host, origin, site and mark are looked at whoever is signed in."""
        self.set_first()
        for headers in (
            {"origin": "https://evil.example"},
            {"sec-fetch-site": "cross-site"},
            {"host": "evil.example"},
        ):
            with self.subTest(headers):
                self.assertEqual(self.client.post("/api/undo", headers=headers).status_code, 403)
        bare = TestClient(self.app, cookies=self.client.cookies)
        self.addCleanup(bare.close)
        self.assertEqual(bare.post("/api/undo").status_code, 403)


class Keeping(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)
        self.vault = Vault(self.folder)

    def test_a_sealed_secret_needs_the_password(self) -> None:
        """It cannot be written or read before, nor with another password; it is not in the file."""
        with self.assertRaises(Conflict):
            self.vault.put("m@quillmark.example", "the-secret", "sealed")
        self.vault.unlock(PASSWORD)
        self.vault.put("m@quillmark.example", "the-secret", "sealed")
        self.assertNotIn("the-secret", (self.folder / FILE).read_text())
        locked = Vault(self.folder)
        self.assertIsNone(locked.get("m@quillmark.example"))
        locked.unlock("not the password")
        self.assertIsNone(locked.get("m@quillmark.example"))
        locked.unlock(PASSWORD)
        self.assertEqual(locked.get("m@quillmark.example"), "the-secret")

    def test_a_changed_password_seals_anew(self) -> None:
        """The new one opens, the old one does not."""
        self.vault.unlock(PASSWORD)
        self.vault.put("m@quillmark.example", "the-secret", "sealed")
        self.vault.reseal("another password")
        fresh = Vault(self.folder)
        fresh.unlock(PASSWORD)
        self.assertIsNone(fresh.get("m@quillmark.example"))
        fresh.unlock("another password")
        self.assertEqual(fresh.get("m@quillmark.example"), "the-secret")

    def test_a_plain_secret_is_for_the_owner_alone(self) -> None:
        """The file's mode says so; forgetting takes it out."""
        self.vault.put("m@quillmark.example", "the-secret", "file")
        self.assertEqual(stat.S_IMODE((self.folder / FILE).stat().st_mode), 0o600)
        self.assertEqual(Vault(self.folder).get("m@quillmark.example"), "the-secret")
        self.vault.forget("m@quillmark.example")
        self.assertIsNone(self.vault.get("m@quillmark.example"))
        self.assertNotIn("the-secret", (self.folder / FILE).read_text())

    def test_what_is_unlocked_is_told(self) -> None:
        """Whoever waits for sealed secrets hears of it."""
        heard: list[bool] = []
        self.vault.on_unlock(lambda: heard.append(self.vault.unlocked))
        self.vault.unlock(PASSWORD)
        self.assertEqual(heard, [True])

    def test_a_keyring_keeps_it_outside_the_folder(self) -> None:
        """Put there, read from there, taken out; refused by it, it is told and what was kept before stays."""
        before = keyring.get_keyring()
        self.addCleanup(keyring.set_keyring, before)
        ring = Ring()
        keyring.set_keyring(ring)
        self.assertTrue(has_keyring())
        self.vault.put("m@quillmark.example", "the-secret", "keyring")
        self.assertEqual(list(ring.kept.values()), ["the-secret"])
        self.assertNotIn("the-secret", (self.folder / FILE).read_text())
        self.assertEqual(self.vault.get("m@quillmark.example"), "the-secret")
        self.vault.forget("m@quillmark.example")
        self.assertEqual(ring.kept, {})
        self.vault.put("m@quillmark.example", "kept before", "file")
        ring.locked = True
        with self.assertRaisesRegex(WorldError, "keyring did not take"):
            self.vault.put("m@quillmark.example", "the-secret", "keyring")
        self.assertEqual(self.vault.get("m@quillmark.example"), "kept before")


class Ring(KeyringBackend):
    """A keyring in memory."""

    priority = 5  # type: ignore[assignment]

    def __init__(self) -> None:
        super().__init__()
        self.kept: dict[tuple[str, str], str] = {}
        self.locked = False

    def set_password(self, service: str, username: str, password: str) -> None:
        if self.locked:
            raise KeyringLocked
        self.kept[service, username] = password

    def get_password(self, service: str, username: str) -> str | None:
        return self.kept.get((service, username))

    def delete_password(self, service: str, username: str) -> None:
        self.kept.pop((service, username))
