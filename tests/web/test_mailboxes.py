"""Mailboxes over the API: connected, watched, routed, left; every refusal is a clear sentence and loses nothing."""

from __future__ import annotations

import ssl
import time
from collections.abc import Callable

from cryptography import x509
from cryptography.hazmat.primitives import hashes
from fastapi.testclient import TestClient

from hieranome.app.service import Service
from hieranome.app.teaching.correct import correct
from hieranome.core.errors import FolderMissing, SecretRefused, WorldError
from hieranome.mail.finding import Finder
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.mail.servers import Login, Server, quoted
from hieranome.mail.smtp import try_out
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.names import NameServer
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import accounts, copies, drafts
from hieranome.web.application import build
from tests.mail.servers import LOGIN, SECRET, USER, Dovecot, MailServer, Standin, contexts
from tests.support import MARK, NOON, OWNER, RoomCase, crlf, letter, nobody, offer


def certificate_of(port: int) -> bytes:
    """The certificate a server on this machine shows, in PEM."""
    return ssl.get_server_certificate(("127.0.0.1", port), timeout=5).encode("ascii")


class MailboxApi(RoomCase):
    """A server with a page, and a mail server beside it."""

    def start_server(self) -> MailServer:
        """The mail server of this test."""
        return Standin()

    def setUp(self) -> None:
        super().setUp()
        self.server = self.start_server()
        self.addCleanup(self.server.close)
        self.other = Imap.connect(self.server.server, LOGIN)
        self.addCleanup(self.other.close)
        for number in range(4):
            self.other.append("INBOX", crlf(offer(number)), Flags(), NOON + number)
        self.other.append("INBOX", crlf(letter("Rider")), Flags(seen=True, answered=True), NOON)
        self.sink = SmtpSink({USER: SECRET})
        self.sink.start()
        self.addCleanup(self.sink.close)
        self.served = Service.of(self.room, open_to_all=True, poll=0.3)
        self.client = TestClient(build(self.served, hosts=("testserver",)), headers=MARK)
        self.client.__enter__()
        self.addCleanup(self.client.__exit__, None, None, None)

    def described(self, **changes: object) -> dict[str, object]:
        """The mailbox as its owner would describe it."""
        at = self.server.server
        found: dict[str, object] = {
            "address": OWNER, "name": "Maren", "user": USER, "secret": SECRET, "kept": "file",
            "imap_host": at.host, "imap_port": at.port, "imap_security": at.security,
            "smtp_host": "127.0.0.1", "smtp_port": self.sink.port, "smtp_security": "plain",
        }  # fmt: skip
        return found | changes

    def connect(self) -> int:
        """Connect the mailbox and wait until its history is read; its number."""
        answer = self.client.post("/api/mailboxes", json=self.described())
        self.assertEqual(answer.status_code, 201, answer.text)
        number = int(answer.json()["id"])
        self.await_("the history", lambda: self.mailbox()["state"] == "watching")
        return number

    def mailbox(self) -> dict[str, object]:
        """The one mailbox."""
        found: dict[str, object] = self.client.get("/api/mailboxes").json()["mailboxes"][0]
        return found

    def await_(self, what: str, check: Callable[[], object], seconds: float = 20) -> None:
        """Wait until something holds."""
        until = time.monotonic() + seconds
        while not check():
            self.assertLess(time.monotonic(), until, f"awaited in vain: {what}; {self.mailbox()}")
            time.sleep(0.05)

    def folder_count(self, name: str) -> int:
        """How many messages a folder holds on the server; none where it is not made yet."""
        try:
            return self.other.status(name).messages
        except FolderMissing:
            return 0


class Connecting(MailboxApi):
    def test_what_is_there_is_told_before_anything_is_kept(self) -> None:
        """Folders with their roles and counts; no mailbox, no secret, no message is kept."""
        told = self.client.post("/api/mailboxes/probe", json=self.described()).json()
        inbox = next(one for one in told["folders"] if one["role"] == "inbox")
        self.assertEqual(inbox["messages"], 5)
        self.assertEqual(self.client.get("/api/mailboxes").json()["mailboxes"], [])
        self.assertIsNone(self.served.vault.get(OWNER))

    def test_the_history_is_read_and_nothing_is_moved(self) -> None:
        """All of it stands here, with a proposal; on the server it is where it was."""
        number = self.connect()
        counts = self.client.get(f"/api/mailboxes/{number}/preview").json()
        self.assertEqual(counts["total"], 5)
        self.assertEqual(self.folder_count("INBOX"), 5)
        self.assertFalse(self.mailbox()["routing"])
        self.assertIn(OWNER, self.client.get("/api/settings").json()["owner_addresses"])

    def test_routing_moves_and_a_move_elsewhere_is_learned(self) -> None:
        """Turned on, verdicts happen on the server; what another program moves is a lesson within moments."""
        number = self.connect()
        first = self.client.get("/api/messages?place=shelf&limit=1").json()["messages"]
        self.client.post(f"/api/mailboxes/{number}/routing", json={"on": True})
        message = first[0]["id"] if first else 1
        self.client.post("/api/verdicts", json={"messages": [message], "belongs": "digest"})
        self.await_("the move", lambda: self.folder_count("Hieranome/Digest") > 0)
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        self.other.append("INBOX", crlf(letter("A new one")), Flags(), NOON)
        self.await_("the arrival", lambda: self.number_of("A new one"))
        arrived = self.number_of("A new one")
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        self.other.create("Hieranome/Drain")
        (copy,) = copies.of_message(self.room.reader(), arrived)
        where = accounts.folder(self.room.reader(), copy.folder).name
        self.other.select(where)
        self.other.move([copy.uid or 0], "Hieranome/Drain")
        self.await_("the lesson", lambda: self.row(arrived).place == "drain")
        told = self.client.get("/api/steps").json()["steps"][0]
        self.assertEqual(told["kind"], "elsewhere")

    def number_of(self, subject: str) -> int:
        """The id of a message by its subject, or 0."""
        row = self.room.reader().execute("SELECT id FROM messages WHERE subject = ?", (subject,)).fetchone()
        return int(row[0]) if row else 0

    def test_a_pause_holds_and_ends(self) -> None:
        """Nothing is looked at while paused."""
        number = self.connect()
        self.client.post(f"/api/mailboxes/{number}/pause", json={"on": True})
        time.sleep(0.8)
        self.other.append("INBOX", crlf(letter("Later")), Flags(), NOON)
        time.sleep(0.8)
        self.assertEqual(self.number_of("Later"), 0)
        self.client.post(f"/api/mailboxes/{number}/pause", json={"on": False})
        self.await_("the arrival", lambda: self.number_of("Later"))

    def test_a_dropped_connection_comes_back(self) -> None:
        """What arrived meanwhile is there afterwards."""
        self.connect()
        self.server.drop_all()
        self.other = Imap.connect(self.server.server, LOGIN)
        self.addCleanup(self.other.close)
        self.other.append("INBOX", crlf(letter("After the break")), Flags(), NOON)
        self.await_("the arrival", lambda: self.number_of("After the break"))
        self.await_("no error", lambda: self.mailbox()["error"] == "")

    def test_without_idle_a_move_is_learned_at_the_next_look(self) -> None:
        """The mailbox is looked at every so often, whether the server hints at news or not."""
        if isinstance(self.server, Standin):
            self.server.offer(without=("IDLE", "CONDSTORE", "QRESYNC"))
        number = self.connect()
        self.client.post(f"/api/mailboxes/{number}/routing", json={"on": True})
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        self.other.append("INBOX", crlf(letter("Moved elsewhere")), Flags(), NOON)
        self.await_("the arrival", lambda: self.number_of("Moved elsewhere"))
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        arrived = self.number_of("Moved elsewhere")
        (copy,) = copies.of_message(self.room.reader(), arrived)
        self.other.select(accounts.folder(self.room.reader(), copy.folder).name)
        self.other.move([copy.uid or 0], "Junk")
        self.await_("the lesson", lambda: self.row(arrived).place == "junk")
        self.assertEqual(self.client.get("/api/lessons").json()["lessons"][0]["belongs"], "drain")

    def test_a_mailbox_is_connected_once(self) -> None:
        """The second time is refused, and the first goes on."""
        self.connect()
        again = self.client.post("/api/mailboxes", json=self.described())
        self.assertEqual(again.status_code, 409)
        self.assertEqual(self.mailbox()["kept"], "file")

    def test_left_with_everything_put_back(self) -> None:
        """All mail is in the inbox again, every message found, the folders gone, the secret forgotten."""
        number = self.connect()
        self.client.post(f"/api/mailboxes/{number}/routing", json={"on": True})
        ids = [row[0] for row in self.room.reader().execute("SELECT id FROM messages")]
        correct(self.room, ids[:3], "digest")
        self.await_("the moves", lambda: self.folder_count("Hieranome/Digest") >= 3)
        self.await_("rest", lambda: self.mailbox()["waiting"] == 0)
        lessons = self.client.get("/api/lessons").json()["lessons"]
        stood = self.state()
        self.client.post(f"/api/mailboxes/{number}/leaving", json={"how": "back"})
        path = f"/api/mailboxes/{number}/leaving"
        self.await_("the end", lambda: self.client.get(path).json()["state"] == "done")
        told = self.client.get(path).json()
        self.assertEqual((told["there"], told["missing"]), (5, []))
        self.assertGreaterEqual(told["brought_back"], 3)
        self.assertEqual(self.folder_count("INBOX"), 5)
        self.assertFalse([one.name for one in self.other.folders() if one.name.startswith("Hieranome/")])
        self.client.delete(f"/api/mailboxes/{number}")
        self.assertEqual(self.client.get("/api/mailboxes").json()["mailboxes"], [])
        self.assertIsNone(self.served.vault.get(OWNER))
        self.assertEqual(self.client.get("/api/lessons").json()["lessons"], lessons)
        self.assertEqual(self.state(), stood)

    def test_left_with_the_folders_as_they_are(self) -> None:
        """Nothing is moved; all is looked for; one may stay after all."""
        number = self.connect()
        self.client.post(f"/api/mailboxes/{number}/leaving", json={"how": "keep"})
        path = f"/api/mailboxes/{number}/leaving"
        self.await_("the end", lambda: self.client.get(path).json()["state"] == "done")
        self.assertEqual(self.client.get(path).json()["there"], 5)
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.other.append("INBOX", crlf(letter("Still watched")), Flags(), NOON)
        self.await_("the arrival", lambda: self.number_of("Still watched"))

    def test_the_secret_is_nowhere_but_in_its_file(self) -> None:
        """Not in the database, an answer, an event or an error."""
        number = self.connect()
        self.client.put(f"/api/mailboxes/{number}", json=self.described(secret="wrong-one-now"))
        answers = [
            self.client.get(path).text
            for path in ("/api/mailboxes", "/api/settings", "/api/steps", f"/api/mailboxes/{number}/folders")
        ]
        told = [str(event.data) for event in self.room.events.since(f"{self.room.events.run}-0") or []]
        for text in (*answers, *told):
            self.assertNotIn(SECRET, text)
            self.assertNotIn("wrong-one-now", text)
        for file in self.room.store.folder.glob("hieranome.sqlite3*"):
            self.assertNotIn(SECRET.encode(), file.read_bytes())

    def test_junk_that_seems_to_matter_is_shown(self) -> None:
        """The provider's Junk is read, and what the model doubts in it is listed."""
        for number in range(6):
            correct_me = self.take(letter(f"Rider for the {number}th", at=NOON - 100 + number))
            correct(self.room, [correct_me], "desk")
        self.other.append("Junk", crlf(letter("Rider for the 20th")), Flags(), NOON)
        self.connect()
        found = self.client.get("/api/junk/doubted").json()
        self.assertEqual([one["subject"] for one in found["messages"]], ["Rider for the 20th"])

    def test_what_is_found_in_the_history_is_told(self) -> None:
        """Who is answered, how many lists write."""
        self.connect()
        told = self.client.get("/api/mailboxes/found").json()
        self.assertEqual(told["lists"], 1)
        self.assertEqual(told["answered"][0]["address"], "brandel@salthall.example")


class ConnectingToDovecot(Connecting):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()


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
