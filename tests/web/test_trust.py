"""Trust in a server by the fingerprint of its certificate: shown, given by the owner, and ended by another certificate
before anything is said."""

from __future__ import annotations

import ssl

from hieranome.mail.imap import Imap
from hieranome.mail.servers import CertificateRefused, Login, Server
from hieranome.mail.smtp import try_out
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from tests.mail.servers import SECRET, USER, contexts
from tests.patience import PATIENCE
from tests.web.mailbox_api import MailboxApi

OTHER = ":".join(["00"] * 32)


class TestTrust(MailboxApi):
    """A mailbox whose servers no authority vouches for."""

    def setUp(self) -> None:
        super().setUp()
        self.box = Postbox()
        self.addCleanup(self.box.close)
        self.safe = self.serve(contexts(self.folder, 30)[0])
        self.safe_sink = SmtpSink({USER: SECRET}, tls=contexts(self.folder, 31)[0])
        self.safe_sink.start()
        self.addCleanup(self.safe_sink.close)
        self.changes = {
            "imap_host": "127.0.0.1", "imap_port": self.safe.port, "imap_security": "tls",
            "smtp_host": "127.0.0.1", "smtp_port": self.safe_sink.port, "smtp_security": "tls",
        }  # fmt: skip

    def serve(self, tls: ssl.SSLContext, port: int = 0) -> ImapServer:
        """The IMAP server with a certificate."""
        made = ImapServer({USER: Account(self.box, SECRET)}, tls=tls, port=port)
        made.start()
        self.addCleanup(made.close)
        return made

    def shown(self, **changes: object) -> dict[str, object]:
        """The certificate a probe is refused for."""
        answer = self.client.post("/api/mailboxes/probe", json=self.described(**self.changes | changes))
        self.assertEqual(answer.status_code, 502, answer.text)
        found: dict[str, object] = answer.json()["certificate"]
        return found

    def test_each_server_is_trusted_by_its_own_fingerprint(self) -> None:
        """Neither certificate is for that name or from an authority; the owner's word about each lets it in."""
        first = self.shown()
        self.assertEqual((first["host"], first["port"]), ("127.0.0.1", self.safe.port))
        self.assertIn("localhost", str(first["issuer"]))
        self.assertEqual(self.safe.commands, [])
        second = self.shown(imap_pin=first["fingerprint"])
        self.assertEqual(second["port"], self.safe_sink.port)
        pins = {"imap_pin": first["fingerprint"], "smtp_pin": second["fingerprint"]}
        self.assertEqual(self.shown(imap_pin=second["fingerprint"])["fingerprint"], first["fingerprint"])
        answer = self.client.post("/api/mailboxes", json=self.described(**self.changes | pins))
        self.assertEqual(answer.status_code, 201, answer.text)
        self.await_("the history", lambda: self.mailbox()["state"] == "watching")
        self.assertLessEqual(pins.items(), self.mailbox().items())

    def test_another_certificate_stops_the_mailbox(self) -> None:
        """Nobody signs in at a server that shows another one than was trusted, and the mailbox says so."""
        pins = {"imap_pin": self.shown()["fingerprint"]}
        pins["smtp_pin"] = self.shown(**pins)["fingerprint"]
        made = self.client.post("/api/mailboxes", json=self.described(**self.changes | pins)).json()
        self.await_("the history", lambda: self.mailbox()["state"] == "watching")
        port = self.safe.port
        self.safe.close()
        changed = self.serve(contexts(self.folder, 32)[0], port)
        self.client.post(f"/api/mailboxes/{made['id']}/look")
        self.await_("the stop", lambda: "not the one you trusted" in str(self.mailbox()["error"]))
        self.assertEqual(changed.commands, [])
        self.assertEqual(self.shown(**pins)["fingerprint"], self.shown()["fingerprint"])

    def test_a_pin_is_one_only_as_it_is_shown(self) -> None:
        """What is no fingerprint is refused, and the wrong one lets nobody in."""
        for pin in ("00:11", OTHER.lower().replace("00", "ab"), "x"):
            answer = self.client.post("/api/mailboxes/probe", json=self.described(**self.changes, imap_pin=pin))
            self.assertEqual(answer.status_code, 422)
        self.shown(imap_pin=OTHER)

    def test_starttls_and_sending_ask_for_the_same_one(self) -> None:
        """The fingerprint holds whichever way the encryption begins."""
        served = contexts(self.folder, 33)[0]
        with ImapServer({USER: Account(self.box, SECRET)}, start_tls=served) as server:
            with self.assertRaises(CertificateRefused) as refused:
                Imap.connect(Server("127.0.0.1", server.port, "starttls"), Login(USER, SECRET), timeout=PATIENCE)
            shown = refused.exception.shown
            assert shown is not None
            Imap.connect(
                Server("127.0.0.1", server.port, "starttls", shown.fingerprint), Login(USER, SECRET), timeout=PATIENCE
            ).close()
            with self.assertRaisesRegex(CertificateRefused, "not the one you trusted"):
                Imap.connect(Server("127.0.0.1", server.port, "starttls", OTHER), Login(USER, SECRET), timeout=PATIENCE)
            self.assertEqual(server.commands.count("LOGIN"), 1)
        with self.assertRaisesRegex(CertificateRefused, "not the one you trusted"):
            try_out(Server("127.0.0.1", self.safe_sink.port, "tls", OTHER), Login(USER, SECRET))
