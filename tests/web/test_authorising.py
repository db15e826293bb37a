"""A mailbox authorised in the browser: the whole way with simulated servers, and all that goes wrong on it."""

from __future__ import annotations

import base64
import hashlib
import json
from urllib.parse import parse_qs, urlsplit

from hieranome.app.access.authorising import LASTS
from hieranome.core.errors import WorldError
from hieranome.mail.oauth import Tokens
from hieranome.standin.authorising import Authoriser
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import drafts
from tests.mail.servers import SECRET, USER, contexts
from tests.support import MARK, NOON, OWNER
from tests.web.mailbox_api import MailboxApi

CLIENT_SECRET = "of-the-client"


class TestAuthorising(MailboxApi):
    """The owner authorises at a server of their provider's."""

    def setUp(self) -> None:
        super().setUp()
        tls, trust = contexts(self.folder, 30)
        self.provider = Authoriser(tls, CLIENT_SECRET)
        self.provider.start()
        self.addCleanup(self.provider.close)
        self.box = Postbox()
        self.addCleanup(self.box.close)
        self.imap = ImapServer({USER: Account(self.box, SECRET, self.provider.good)})
        self.imap.start()
        self.addCleanup(self.imap.close)
        self.smtp = SmtpSink({USER: SECRET}, tokens=self.provider.good)
        self.smtp.start()
        self.addCleanup(self.smtp.close)
        self.now = float(NOON)
        servers = self.served.logins.servers
        servers._trust, servers._clock = trust, lambda: self.now
        self.served.authorisations._clock = lambda: self.now

    def begin(self, **changes: object) -> dict[str, str]:
        """Begin to authorise."""
        wanted: dict[str, object] = {
            "authorise_url": f"https://localhost:{self.provider.port}/authorise?prompt=consent",
            "token_url": f"https://localhost:{self.provider.port}/token",
            "client_id": "hieranome", "client_secret": CLIENT_SECRET, "scope": "mail offline_access",
        }  # fmt: skip
        answer = self.client.post("/api/authorisations", json=wanted | changes)
        self.assertEqual(answer.status_code, 201, answer.text)
        found: dict[str, str] = answer.json()
        return found

    def finish(self, returned: str, status: int = 200) -> dict[str, str]:
        """Give the address the browser came back to."""
        answer = self.client.post("/api/authorisations/finish", json={"returned": returned})
        self.assertEqual(answer.status_code, status, answer.text)
        found: dict[str, str] = answer.json()
        return found

    def granted(self) -> str:
        """The id of an authorisation the owner gave."""
        begun = self.begin()
        self.assertEqual(self.finish(self.provider.authorise(begun["url"]))["state"], "granted")
        return begun["id"]

    def here(self, **changes: object) -> dict[str, object]:
        """The mailbox at the servers that take tokens."""
        ports = {"imap_port": self.imap.port, "smtp_port": self.smtp.port, "secret": None}
        return self.described(**ports | {"smtp_security": "plain", "imap_security": "plain"} | changes)

    def connect_authorised(self) -> int:
        """Connect the mailbox with an authorisation, and wait until it is watched."""
        answer = self.client.post("/api/mailboxes", json=self.here(authorisation=self.granted()))
        self.assertEqual(answer.status_code, 201, answer.text)
        self.await_("the history", lambda: self.mailbox()["state"] == "watching")
        return int(answer.json()["id"])

    def test_the_whole_way(self) -> None:
        """The code is good only with the verifier; tokens are kept with the secrets, and told by no answer."""
        begun = self.begin()
        asked = {name: values[0] for name, values in parse_qs(urlsplit(begun["url"]).query).items()}
        self.assertEqual((asked["prompt"], asked["scope"]), ("consent", "mail offline_access"))
        self.assertEqual(asked["redirect_uri"], "http://127.0.0.1:80/authorised")
        self.assertEqual(self.client.get(f"/api/authorisations/{begun['id']}").json()["state"], "waiting")
        early = self.client.post("/api/mailboxes", json=self.here(authorisation=begun["id"]))
        self.assertRegex(early.json()["detail"], "Authorise the mailbox in your browser first")
        back = self.provider.authorise(begun["url"])
        self.assertEqual(self.finish(f"  {back}\n")["state"], "granted")
        verifier = self.provider.forms[0]["code_verifier"]
        proof = base64.urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest()).decode().rstrip("=")
        self.assertEqual(asked["code_challenge"], proof)
        self.assertEqual(self.finish(back)["state"], "granted")
        self.assertEqual(len(self.provider.forms), 1)
        probed = self.client.post("/api/mailboxes/probe", json=self.here(authorisation=begun["id"]))
        self.assertEqual(probed.status_code, 200, probed.text)
        made = self.client.post("/api/mailboxes", json=self.here(authorisation=begun["id"]))
        self.assertEqual(made.status_code, 201, made.text)
        kept = Tokens.of(str(self.served.vault.get(str(self.mailbox()["address"]))))
        self.assertEqual({kept.access}, self.provider.good)
        every = made.text + probed.text + self.client.get("/api/mailboxes").text
        for secret in (kept.access, kept.refresh, CLIENT_SECRET, verifier):
            self.assertNotIn(secret, every)
        self.assertEqual(self.client.get(f"/api/authorisations/{begun['id']}").status_code, 404)

    def test_tokens_are_renewed_when_they_run_out_and_when_they_are_not_taken(self) -> None:
        """Reading and sending go on by themselves, each with the newest."""
        number = self.connect_authorised()
        first = self.provider.good.copy()
        self.now += self.provider.lasts
        self.imap.drop_all()
        self.await_("another token", lambda: self.provider.good > first)
        self.provider.good.clear()
        self.imap.drop_all()
        self.client.post(f"/api/mailboxes/{number}/look")
        self.await_("a third", lambda: len(self.provider.good) == 1)
        self.await_("health", lambda: self.mailbox()["error"] == "")
        self.provider.good.clear()
        draft = self.client.post("/api/drafts", json={"kind": "new"}).json()["id"]
        words = {"sender": OWNER, "recipients": "ilse@hall.example", "subject": "Tokens", "body": "None."}
        self.assertEqual(self.client.put(f"/api/drafts/{draft}", json=words).status_code, 200)
        self.assertEqual(self.client.post(f"/api/drafts/{draft}/send").status_code, 200)
        with self.room.change() as db:
            drafts.update(db, draft, due_at=0)
        self.served.outbox.worker.wake()
        self.await_("sending", lambda: len(self.smtp.taken) == 1)

    def test_renewed_tokens_that_cannot_be_kept_are_not_lost(self) -> None:
        """A refresh token is good once: while the disk is full the next one is held, and kept as soon as it can be."""
        self.connect_authorised()
        put = self.served.vault.put
        kept = self.served.vault.get(OWNER)

        def full(*_: object) -> None:
            raise WorldError("the disk is full")

        self.served.vault.put = full  # type: ignore[method-assign]
        for _ in range(2):
            self.now += self.provider.lasts
            before, opened = self.provider.good.copy(), self.imap.commands.count("SELECT")
            self.imap.drop_all()
            self.client.post(f"/api/mailboxes/{self.mailbox()['id']}/look")
            self.await_("another token", lambda before=before: self.provider.good > before)
            self.await_("its use", lambda opened=opened: self.imap.commands.count("SELECT") > opened)
        self.await_("health", lambda: self.mailbox()["error"] == "")
        self.assertEqual(self.served.vault.get(OWNER), kept)
        self.served.vault.put = put  # type: ignore[method-assign]
        self.imap.drop_all()
        self.client.post(f"/api/mailboxes/{self.mailbox()['id']}/look")
        self.await_("what is kept", lambda: self.served.vault.get(OWNER) != kept)

    def test_a_right_taken_back_is_told(self) -> None:
        """Revoked: the mailbox says what to do, and authorising anew mends it."""
        number = self.connect_authorised()
        self.provider.revoke()
        self.imap.drop_all()
        self.client.post(f"/api/mailboxes/{number}/look")
        self.await_("the refusal", lambda: "Authorise it anew" in str(self.mailbox()["error"]))
        self.assertIn("invalid_grant: the grant is not good", str(self.mailbox()["error"]))
        unchanged = self.client.put(f"/api/mailboxes/{number}", json=self.here())
        self.assertEqual(unchanged.status_code, 422, unchanged.text)
        again = self.client.put(f"/api/mailboxes/{number}", json=self.here(authorisation=self.granted()))
        self.assertEqual(again.status_code, 200, again.text)
        self.await_("health", lambda: self.mailbox()["error"] == "")
        password = self.client.put(f"/api/mailboxes/{number}", json=self.here(secret=SECRET))
        self.assertEqual((password.status_code, password.json()["token_url"]), (200, ""))

    def test_a_change_of_servers_keeps_the_authorisation(self) -> None:
        """Only what is typed anew is anew."""
        number = self.connect_authorised()
        changed = self.client.put(f"/api/mailboxes/{number}", json=self.here(name="Maren, tours"))
        self.assertEqual(changed.status_code, 200, changed.text)
        self.assertEqual((changed.json()["bearer"], changed.json()["client_id"]), (True, "hieranome"))

    def test_refusals(self) -> None:
        """The owner's, the server's, another address's, an old one's: each is told, and no token is kept."""
        begun = self.begin()
        self.provider.refuses = True
        told = self.finish(self.provider.authorise(begun["url"]))
        self.assertEqual(told["state"], "refused")
        self.assertIn("access_denied", told["error"])
        refused = self.client.post("/api/mailboxes", json=self.here(authorisation=begun["id"]))
        self.assertIn("access_denied", refused.json()["detail"])
        self.provider.refuses = False
        self.assertIn("client", self.finish(self.provider.authorise(self.begin(client_secret="wrong")["url"]))["error"])
        for returned, words in (
            ("http://127.0.0.1/authorised?code=abc&state=of-somebody-else", "not under way"),
            ("http://127.0.0.1/authorised", "not under way"),
            ("http://[::1", "no web address"),
            (f"http://127.0.0.1/authorised?state={self.begin()['id']}", None),
        ):
            with self.subTest(returned=returned):
                answer = self.client.post("/api/authorisations/finish", json={"returned": returned})
                told = answer.json()
                self.assertRegex(told.get("detail") or told.get("error"), words or "not the address")
        old = self.begin()
        self.now += LASTS + 1
        self.finish(self.provider.authorise(old["url"]), 404)
        self.assertIsNone(self.served.vault.get("maren@quillmark.example"))

    def test_no_address_but_https_is_asked(self) -> None:
        """A code would go out in clear."""
        for url in ("http://login.hall.example/token", "ftp://login.hall.example", "login.hall.example", "https://"):
            wanted = {"authorise_url": "https://login.hall.example/a", "token_url": url, "client_id": "x"}
            answer = self.client.post("/api/authorisations", json=wanted)
            self.assertEqual(answer.status_code, 422, url)
            self.assertIn("no address to authorise at", answer.json()["detail"])
        self.assertEqual(self.client.post("/api/authorisations", json={}, headers=MARK).status_code, 422)

    def test_answers_that_are_no_tokens(self) -> None:
        """Whatever the server says: it is told, no secret of ours is repeated, and nothing is kept."""
        hostile: tuple[tuple[str, bytes, str], ...] = (
            ("200 OK", b"[]", "no token"),
            ("200 OK", b"not json at all", "no token"),
            ("200 OK", b'{"access_token": 7}', "no token"),
            ("200 OK", b'{"access_token": "a\\u0001b", "refresh_token": "r"}', "no token"),
            ("200 OK", b'{"access_token": "a", "expires_in": "soon", "refresh_token": "r"}', "no token|granted"),
            ("200 OK", b'{"access_token": "a", "expires_in": 60}', "lasting access"),
            ("200 OK", b'{"access_token": "a", "expires_in": 1e999, "refresh_token": "r"}', "no token|granted"),
            ("200 OK", b'{"access_token": "a", "expires_in": NaN, "refresh_token": "r"}', "no token|granted"),
            ("200 OK", b'{"access_token": "a", "expires_in": [1], "refresh_token": "r"}', "no token|granted"),
            (
                "200 OK",
                b'{"access_token": "a", "expires_in": 9' + b"9" * 400 + b', "refresh_token": "r"}',
                "no token|granted",
            ),
            ("200 OK", b"[" * 60_000, "no token"),
            ("200 OK", b"x" * 70_000, "too long"),
            ("503 Busy", b"", "answers 503"),
            ("400 Bad", json.dumps({"error": "x", "error_description": CLIENT_SECRET}).encode(), "gives no token"),
        )
        for status, body, words in hostile:
            with self.subTest(body=body[:40]):
                self.provider.answer = (status, body)
                told = self.finish(self.provider.authorise(self.begin()["url"]))
                self.assertRegex(told["error"] or told["state"], words)
                self.assertNotIn(CLIENT_SECRET, told["error"])
        self.provider.close()
        told = self.finish(self.provider.authorise(self.begin()["url"]))
        self.assertIn("cannot be asked", told["error"])

    def test_a_token_server_that_is_away_is_tried_again(self) -> None:
        """It is a failure of the world, not the end of the right."""
        self.connect_authorised()
        self.now += self.provider.lasts
        self.provider.answer = ("503 Busy", b"")
        self.imap.drop_all()
        self.await_("the trouble", lambda: "cannot be asked" in str(self.mailbox()["error"]))
        self.provider.answer = None
        self.client.post(f"/api/mailboxes/{self.mailbox()['id']}/look")
        self.await_("health", lambda: self.mailbox()["error"] == "")

    def test_where_the_server_offers_the_older_way_alone(self) -> None:
        """XOAUTH2, and a refusal of it by either way is told with what the server says."""
        for without in (("OAUTHBEARER",), ()):
            with (
                self.subTest(without=without),
                SmtpSink({USER: SECRET}, tokens=self.provider.good, without=without) as one,
            ):
                good = self.client.post(
                    "/api/mailboxes/probe", json=self.here(authorisation=self.granted(), smtp_port=one.port)
                )
                self.assertEqual(good.status_code, 200, good.text)
            with SmtpSink({USER: SECRET}, tokens=(), without=without) as one:
                bad = self.client.post(
                    "/api/mailboxes/probe", json=self.here(authorisation=self.granted(), smtp_port=one.port)
                )
                self.assertEqual(bad.status_code, 422, bad.text)
                self.assertIn("hand mail in", bad.json()["detail"])
