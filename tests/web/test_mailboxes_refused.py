"""What goes wrong when a mailbox is connected: servers not found, passwords, certificates, servers that are full."""

from __future__ import annotations

from cryptography import x509
from cryptography.hazmat.primitives import hashes

from hieranome.app.teaching.correct import correct
from hieranome.core.errors import SecretRefused, WorldError
from hieranome.mail.finding import Finder
from hieranome.mail.imap import Imap
from hieranome.mail.servers import Login, Server, quoted
from hieranome.mail.smtp import try_out
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.names import NameServer
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import drafts
from tests.mail.servers import SECRET, USER, Standin, contexts
from tests.support import NOON, OWNER, crlf, letter, nobody
from tests.web.mailbox_api import MailboxApi, certificate_of


class Refusals(MailboxApi):
    """What can go wrong at the door, each told in a sentence; nothing is kept."""

    def refused(self, status: int, words: str, **changes: object) -> None:
        """The probe and the connecting are both refused with these words."""
        for path in ("/api/mailboxes/probe", "/api/mailboxes"):
            answer = self.client.post(path, json=self.described(**changes))
            self.assertEqual(answer.status_code, status, answer.text)
            self.assertRegex(answer.json()["detail"], words)
            self.assertNotIn(str(changes.get("secret", SECRET)), answer.text)
        self.assertEqual(self.client.get("/api/mailboxes").json()["mailboxes"], [])
        self.assertIsNone(self.served.vault.get(OWNER))

    def test_servers_are_found_by_the_domain_alone(self) -> None:
        """Nothing is found where nobody answers, each attempt has its reason, and what is no address is refused."""
        with NameServer({}) as names:
            self.served.finder = Finder(names.resolver(), nobody)
            told = self.client.post("/api/mailboxes/find", json={"address": "maren@hall.example"}).json()
            self.assertEqual((told["imap"], told["smtp"], told["foreign"]), (None, None, []))
            self.assertTrue(all(one["why"] for one in told["tried"]))
            self.assertNotIn("maren", " ".join(names.asked))
            self.assertEqual(self.client.post("/api/mailboxes/find", json={"address": "a@-"}).status_code, 200)
            self.assertEqual(self.client.post("/api/mailboxes/find", json={"address": "maren"}).status_code, 422)

    def test_what_a_server_says_never_shows_the_secret(self) -> None:
        """Its words stand in the refusal, unless it repeats the password."""
        login = Login(USER, SECRET)
        self.assertEqual(quoted(b"5.7.8 use an app password\r\n", login), " (it says: “5.7.8 use an app password”)")
        self.assertEqual(quoted(f"no such secret: {SECRET}", login), "")
        self.assertEqual(quoted(b"", login), "")
        self.assertLess(len(quoted(b"x" * 10_000, None)), 400)

    def test_sending_is_tried_before_it_is_connected(self) -> None:
        """A server that takes no mail with this password is told, with its own words, and nothing is kept."""
        with SmtpSink({USER: "another"}) as other:
            answer = self.client.post("/api/mailboxes", json=self.described(smtp_port=other.port))
        self.assertEqual(answer.status_code, 422, answer.text)
        self.assertRegex(answer.json()["detail"], "hand mail in with this secret .it says: “.+”")
        self.assertEqual(self.client.get("/api/mailboxes").json()["mailboxes"], [])

    def test_a_full_mailbox_is_still_read(self) -> None:
        """What cannot be put there (a copy for Sent, a draft) is told, and what arrives is taken in all the same."""
        standin = self.server
        assert isinstance(standin, Standin)
        self.connect()
        self.client.put("/api/settings", json={"drafts_on_server": True})
        made = self.client.post("/api/drafts", json={"kind": "new"}).json()["id"]
        with self.room.change() as db:
            drafts.update(db, made, subject="Kept there", changed_at=NOON - 1000)
        standin.imap.faults.refuse["APPEND"] = "NO [OVERQUOTA] full"
        standin.box.append("INBOX", crlf(letter("Arrives anyhow")))
        self.await_("the arrival", lambda: self.count("Arrives anyhow") == 1)
        self.await_("the word", lambda: "is full" in str(self.mailbox()["error"]))
        standin.imap.faults.refuse.clear()
        self.await_("health", lambda: self.mailbox()["error"] == "")
        self.await_("the draft", lambda: len(standin.box.uids("Drafts")) == 1)

    def count(self, subject: str) -> int:
        """How many messages of a subject are here."""
        rows = self.room.reader().execute("SELECT count(*) FROM messages WHERE subject = ?", (subject,))
        return int(rows.fetchone()[0])

    def test_a_wrong_password(self) -> None:
        """It is told what to check."""
        self.refused(422, "does not let maren in with this password.*app password", secret="a-wrong-secret")

    def test_a_password_with_other_letters(self) -> None:
        """It is a wrong one like any other, or one that cannot be said to this server: never a failure of ours."""
        for changes in ({"secret": "gr\u00fc\u00dfe-\u4f60\u597d"}, {"user": "m\u00e4ren"}):
            self.refused(422, "does not let", **changes)
        with SmtpSink({"m\u00e4ren": "gr\u00fc\u00dfe"}) as sink:
            try_out(Server("127.0.0.1", sink.port, "plain"), Login("m\u00e4ren", "gr\u00fc\u00dfe"))
        box = Postbox()
        self.addCleanup(box.close)
        with ImapServer({"m\u00e4ren": Account(box, "gr\u00fc\u00dfe")}) as server:
            Imap.connect(Server("127.0.0.1", server.port, "plain"), Login("m\u00e4ren", "gr\u00fc\u00dfe")).close()
        with SmtpSink({USER: SECRET}) as sink:
            for user, secret in (("m\u00e4ren", SECRET), (USER, "gr\u00fc\u00dfe")):
                with self.assertRaisesRegex(SecretRefused, "does not let"):
                    try_out(Server("127.0.0.1", sink.port, "plain"), Login(user, secret))
                with self.assertRaisesRegex(SecretRefused, "does not let"):
                    try_out(Server("127.0.0.1", sink.port, "plain"), Login(user, secret, bearer=True))

    def test_a_wrong_port(self) -> None:
        """Where nobody listens."""
        self.refused(502, "No IMAP server answers at 127.0.0.1, port 1 ", imap_port=1)

    def test_a_connection_in_clear_to_elsewhere(self) -> None:
        """It is not even tried."""
        self.refused(422, "would go out in clear", imap_host="imap.quillmark.example")

    def test_the_secret_that_is_kept_goes_to_no_other_server(self) -> None:
        """Another host, another port, weaker protection, another certificate: the secret is wanted anew, and no server
        hears of it."""
        number = self.connect()
        other = Standin()
        self.addCleanup(other.close)
        changed: tuple[dict[str, object], ...] = (
            {"imap_port": other.server.port}, {"imap_host": "localhost"}, {"smtp_port": other.server.port},
            {"smtp_host": "localhost"}, {"imap_pin": "AB:" * 31 + "AB"},
        )  # fmt: skip
        for changes in changed:
            wanted = self.described(secret=None, **changes)
            for method, path in (("POST", "/api/mailboxes/probe"), ("PUT", f"/api/mailboxes/{number}")):
                with self.subTest(path=path, **changes):
                    answer = self.client.request(method, path, json=wanted)
                    self.assertEqual(answer.status_code, 422, answer.text)
                    self.assertIn("Enter it again", answer.json()["detail"])
        self.assertEqual(self.client.post("/api/mailboxes/probe", json=self.described(secret=None)).status_code, 200)
        answer = self.client.put(f"/api/mailboxes/{number}", json=self.described(secret=None, name="Maren V"))
        self.assertEqual(answer.status_code, 200, answer.text)
        self.client.delete(f"/api/mailboxes/{number}")
        self.served.vault.put(OWNER, SECRET, "file")
        answer = self.client.post("/api/mailboxes/probe", json=self.described(secret=None))
        self.assertEqual(answer.status_code, 422, "a secret without a mailbox was sent")
        self.served.vault.forget(OWNER)

    def test_an_unknown_certificate_and_one_that_has_expired(self) -> None:
        """Nothing is sent before the certificate is trusted."""
        for days, words in ((30, "self.signed"), (-1, "self.signed|expired")):
            with self.subTest(days=days):
                served, trust = contexts(self.folder, days)
                box = Postbox()
                server = ImapServer({USER: Account(box, SECRET)}, tls=served)
                server.start()
                made = x509.load_pem_x509_certificate(certificate_of(server.port))
                shown = made.fingerprint(hashes.SHA256()).hex(":").upper()
                told = f"certificate.*({words}).*issued by CN=localhost.*{shown}"
                self.refused(502, told, imap_port=server.port, imap_security="tls")
                self.assertEqual(server.commands, [])
                at = Server("localhost", server.port, "tls")
                if days > 0:
                    imap = Imap.connect(at, Login(USER, SECRET), trust=trust)
                    self.assertEqual(imap.status("INBOX").messages, 0)
                    imap.close()
                else:
                    with self.assertRaisesRegex(WorldError, "expired"):
                        Imap.connect(at, Login(USER, SECRET), trust=trust)
                server.close()
                box.close()

    def test_starttls_is_begun_before_anybody_signs_in(self) -> None:
        """The secret goes over the encrypted connection alone."""
        served, trust = contexts(self.folder, 30)
        box = Postbox()
        self.addCleanup(box.close)
        with ImapServer({USER: Account(box, SECRET)}, start_tls=served) as server:
            imap = Imap.connect(Server("localhost", server.port, "starttls"), Login(USER, SECRET), trust=trust)
            self.assertIn("STARTTLS", server.commands)
            self.assertLess(server.commands.index("STARTTLS"), server.commands.index("LOGIN"))
            imap.close()

    def test_a_server_that_is_full_or_forbids_keeps_the_message_where_it_is(self) -> None:
        """The error is on the mailbox, the message stays, and it goes once it may."""
        standin = self.server
        assert isinstance(standin, Standin)
        number = self.connect_here()
        for refusal, words in (("NO [OVERQUOTA] full", "is full"), ("NO [NOPERM] no", "does not permit")):
            with self.subTest(refusal):
                message = (
                    self.room.reader().execute("SELECT id FROM messages WHERE place <> 'drain' LIMIT 1").fetchone()[0]
                )
                standin.imap.faults.refuse["UID MOVE"] = refusal
                correct(self.room, [message], "drain")
                self.await_("the error", lambda words=words: words in str(self.mailbox()["error"]))
                self.assertEqual(sum(one.status.messages for one in self.other.folders() if one.status), 5)
                standin.imap.faults.refuse.clear()
                self.client.post(f"/api/mailboxes/{number}/look")
                self.await_("the move", lambda: self.mailbox()["waiting"] == 0 and not self.mailbox()["error"])

    def connect_here(self) -> int:
        """Connect, and route."""
        number = self.connect()
        self.client.post(f"/api/mailboxes/{number}/routing", json={"on": True})
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        return number
