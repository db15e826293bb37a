"""Mailboxes over the API: connected, watched, routed, left; nothing is lost."""

from __future__ import annotations

import time

from hieranome.app.teaching.correct import correct
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, messages, places
from tests.mail.servers import LOGIN, SECRET, Dovecot, MailServer, Standin
from tests.support import NOON, OWNER, crlf, letter
from tests.web.mailbox_api import MailboxApi


class Connecting(MailboxApi):
    def test_what_is_there_is_told_before_anything_is_kept(self) -> None:
        """Folders with their roles and counts; no mailbox, no secret, no message is kept."""
        told = self.client.post("/api/mailboxes/probe", json=self.described()).json()
        inbox = next(one for one in told["folders"] if one["role"] == "inbox")
        self.assertEqual((inbox["messages"], inbox["bucket"]), (5, ""))
        self.assertEqual(self.client.get("/api/mailboxes").json()["mailboxes"], [])
        self.assertIsNone(self.served.vault.get(OWNER))

    def test_folders_of_buckets_stand_for_them_again(self) -> None:
        """A mailbox that was used before: its buckets' folders are told as such and their mail stands in them; of a
        bucket that is not here the title is told, and with it made that folder is its."""
        for name in ("Shelf", "Paperwork", "Scores"):
            self.other.create(f"Hieranome/{name}")
            self.other.append(f"Hieranome/{name}", crlf(letter(f"In {name}")), Flags(), NOON)
        told = self.client.post("/api/mailboxes/probe", json=self.described()).json()
        buckets = {one["bucket"] for one in told["folders"]}
        self.assertEqual(buckets, {"", "Shelf", "Paperwork", "Scores"})
        made = self.client.post("/api/buckets", json={"title": "Paperwork", "important": False})
        self.assertEqual(made.status_code, 200, made.text)
        self.connect()
        stands = {place.title: place.name for place in places.every(self.room.reader())}
        for subject, title in (("In Shelf", "Shelf"), ("In Paperwork", "Paperwork"), ("In Scores", "Hieranome/Scores")):
            place = messages.get(self.room.reader(), self.number_of(subject)).place
            self.assertEqual(place, stands[title])

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
