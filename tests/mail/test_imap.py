"""One suite for two servers: what Hieranome asks of IMAP holds at the stand-in and at Dovecot."""

from __future__ import annotations

import socket
import threading
import unittest
from typing import ClassVar

from hieranome.core.errors import (
    CallerError,
    ConnectionBroken,
    FolderMissing,
    SecretRefused,
    ServerFull,
    ServerUnreachable,
)
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.mail.servers import Login, Server
from tests.mail.servers import LOGIN, SECRET, USER, Dovecot, MailServer, Standin
from tests.patience import PATIENCE
from tests.support import NOON, crlf, letter

PLAIN = Flags()


class Conformance:
    """The promises; a server class mixes them in."""

    running: ClassVar[MailServer]

    def setUp(self) -> None:
        self.imap = self.connect()
        self.other = self.connect()
        for name in ("INBOX", "Archive", "Trash"):
            self.imap.select(name)
            uids = self.imap.uids()
            if uids:
                self.imap.set_deleted(uids)
                self.imap.expunge_all()

    def connect(self) -> Imap:
        """A connection that is closed at the end."""
        made = Imap.connect(self.running.server, LOGIN, timeout=PATIENCE)
        self.addCleanup(made.close)  # type: ignore[attr-defined]
        return made

    def put(self, *subjects: str, folder: str = "INBOX", flags: Flags = PLAIN) -> list[int]:
        """Put letters into a folder; their UIDs."""
        made = []
        for subject in subjects:
            told = self.imap.append(folder, crlf(letter(subject)), flags, NOON)
            assert told is not None
            made.append(told[1])
        return made

    def test_folders_tell_their_roles_and_their_status_in_one_go(self: Conformance) -> None:
        """Special uses are read, and the count and next UID of each folder."""
        self.put("one", "two")
        found = {one.role: one for one in self.imap.folders()}
        self.assertGreaterEqual(set(found), {"inbox", "sent", "drafts", "archive", "trash", "junk"})
        self.assertEqual(found["inbox"].status.messages, 2)
        self.assertEqual(found["inbox"].status, self.imap.status("INBOX"))
        self.assertGreater(found["inbox"].status.modseq, 0)

    def test_bytes_come_as_they_went_and_seen_is_left_alone(self) -> None:
        """A fetched message is the one put there, its date and marks too."""
        raw = crlf(letter("Ünïcode", body="a line\n.\nFrom here\n"))
        told = self.imap.append("INBOX", raw, Flags(flagged=True), NOON)
        self.imap.select("INBOX")
        (meta,) = self.imap.metas([told[1]])
        self.assertEqual((meta.size, meta.at, meta.flags), (len(raw), NOON, Flags(flagged=True)))
        self.assertEqual(self.imap.bodies([told[1]]), {told[1]: raw})
        self.assertEqual(self.imap.metas([told[1]])[0].flags, Flags(flagged=True))

    def test_a_move_tells_the_new_uid(self) -> None:
        """MOVE takes the message away and says where it is."""
        uids = self.put("one", "two", "three")
        self.imap.select("INBOX")
        made = self.imap.move(uids[:2], "Archive")
        self.assertEqual(self.imap.uids(), uids[2:])
        self.imap.select("Archive")
        self.assertEqual(sorted(made.values()), self.imap.uids())

    def test_a_copy_and_a_removal_of_one_leave_others_marked_alone(self) -> None:
        """Without MOVE: copied, marked, expunged by its UID; what another program marked stays."""
        uids = self.put("one", "two")
        self.imap.select("INBOX")
        self.other.select("INBOX")
        self.other.set_deleted(uids[1:])
        made = self.imap.copy(uids[:1], "Archive")
        self.assertEqual(list(made), uids[:1])
        self.assertTrue(self.imap.take_away(uids[:1]))
        self.assertEqual(self.imap.uids(), uids[1:])
        self.assertTrue(self.imap.take_away([]))

    def test_changes_tell_flags_and_what_is_gone(self) -> None:
        """Since a mod-sequence only what changed is told."""
        uids = self.put("one", "two", "three")
        before = self.imap.select("INBOX")
        self.other.select("INBOX")
        self.other.mark(uids[:1], Flags(seen=True, answered=True))
        self.other.set_deleted(uids[2:])
        self.other.expunge_all()
        self.imap.select("INBOX")
        found = self.imap.changes(before.modseq)
        self.assertEqual(found.flags, {uids[0]: Flags(seen=True, answered=True)})
        self.assertEqual([uid for span in found.gone or () for uid in span], uids[2:])

    def test_all_flags_are_told_without_a_mod_sequence(self) -> None:
        """From nothing, all flags come."""
        uids = self.put("one", "two")
        self.imap.select("INBOX")
        self.imap.mark(uids[1:], Flags(flagged=True))
        self.assertEqual(self.imap.changes(0).flags, {uids[0]: Flags(), uids[1]: Flags(flagged=True)})

    def test_a_mark_is_taken_back(self) -> None:
        """Marks are set and cleared, and no others touched."""
        (uid,) = self.put("one", flags=Flags(seen=True, flagged=True))
        self.imap.select("INBOX")
        self.imap.mark([uid], Flags(answered=True))
        self.assertEqual(self.imap.metas([uid])[0].flags, Flags(answered=True))

    def test_a_folder_is_made_once_and_named_in_any_script(self) -> None:
        """Making a folder that is there is no error; its name comes back as given."""
        for _ in range(2):
            self.imap.create("Hieranome/Später & 後で")
        self.assertIn("Hieranome/Später & 後で", [one.name for one in self.imap.folders()])
        self.imap.remove("Hieranome/Später & 後で")
        self.assertNotIn("Hieranome/Später & 後で", [one.name for one in self.imap.folders()])

    def test_a_folder_that_is_not_there_is_told(self) -> None:
        """Moving to, or opening, a missing folder changes nothing and is told as such."""
        uids = self.put("one")
        self.imap.select("INBOX")
        with self.assertRaises(FolderMissing):
            self.imap.move(uids, "Nowhere")
        self.assertEqual(self.imap.uids(), uids)
        with self.assertRaises(FolderMissing):
            self.imap.select("Nowhere")

    def test_a_folder_renumbered_has_another_validity(self) -> None:
        """UIDVALIDITY tells that UIDs no longer mean what they did."""
        self.put("one")
        before = self.imap.status("INBOX").validity
        self.running.renumber("INBOX")
        self.assertNotEqual(self.connect().status("INBOX").validity, before)

    def test_waiting_ends_when_mail_comes_or_when_woken(self) -> None:
        """IDLE is a hint of news; the waker ends it as well."""
        ours, theirs = socket.socketpair()
        self.addCleanup(ours.close)
        self.addCleanup(theirs.close)
        self.imap.select("INBOX")
        timer = threading.Timer(0.3, lambda: self.other.append("INBOX", crlf(letter("new")), Flags(), NOON))
        timer.start()
        self.assertTrue(self.imap.wait(PATIENCE, ours))
        timer.join()
        theirs.send(b"x")
        self.imap.uids()
        self.imap.wait(PATIENCE, ours)
        self.assertEqual(len(self.imap.uids()), 1)

    def test_a_connection_that_breaks_is_told_as_broken(self) -> None:
        """A dropped connection is no other error."""
        self.imap.select("INBOX")
        self.running.drop_all()
        with self.assertRaises(ConnectionBroken):
            for _ in range(50):
                self.imap.uids()

    def test_a_wrong_secret_is_told_without_the_secret(self) -> None:
        """The error names the user and the server, and never what was tried."""
        with self.assertRaises(SecretRefused) as caught:
            Imap.connect(self.running.server, Login(USER, "wrong-secret"), timeout=PATIENCE)
        self.assertNotIn("wrong-secret", str(caught.exception))

    def test_an_id_is_found_by_its_header(self) -> None:
        """A message is found by its Message-ID."""
        raw = crlf(letter("one", message_id="<one@made.example>"))
        told = self.imap.append("INBOX", raw, Flags(), NOON)
        self.imap.select("INBOX")
        self.assertEqual(self.imap.with_message_id("<one@made.example>"), [told[1]])


class StandinTest(Conformance, unittest.TestCase):
    """The stand-in keeps them."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.running = Standin()
        cls.addClassCleanup(cls.running.close)

    def test_a_bearer_token_lets_in_either_way(self) -> None:
        """OAUTHBEARER, and XOAUTH2 where that is missing."""
        standin = self.running
        assert isinstance(standin, Standin)
        for without in ((), ("AUTH=OAUTHBEARER",)):
            standin.offer(without)
            Imap.connect(standin.server, Login(USER, "a-token", bearer=True), timeout=PATIENCE).close()
            with self.assertRaises(SecretRefused):
                Imap.connect(standin.server, Login(USER, "another", bearer=True), timeout=PATIENCE)
        standin.offer()

    def test_any_byte_may_be_the_last(self) -> None:
        """A connection cut at any byte of the answers is told as broken, and nothing else is raised."""
        standin = self.running
        assert isinstance(standin, Standin)
        self.put("one", "two")
        for byte in range(0, 900, 13):
            standin.imap.faults.drop_after = byte
            with self.subTest(byte=byte):
                try:
                    imap = Imap.connect(standin.server, LOGIN, timeout=PATIENCE)
                except (ConnectionBroken, ServerUnreachable, SecretRefused):
                    continue
                with self.assertRaises(ConnectionBroken):
                    for _ in range(20):
                        imap.select("INBOX")
                        imap.bodies(imap.uids())
                imap.cut()
        standin.imap.faults.drop_after = None

    def test_a_full_mailbox_is_told(self) -> None:
        """What does not fit is refused with a clear sentence."""
        small = Standin(capacity=300)
        self.addCleanup(small.close)
        imap = Imap.connect(small.server, LOGIN)
        self.addCleanup(imap.close)
        with self.assertRaisesRegex(ServerFull, "is full"):
            imap.append("INBOX", crlf(letter("one", body="x" * 500)), Flags(), NOON)

    def test_no_password_goes_out_in_clear(self) -> None:
        """An unencrypted connection to another machine is refused before it is made."""
        with self.assertRaisesRegex(CallerError, "clear"):
            Imap.connect(Server("imap.quillmark.example", 143, "plain"), LOGIN)

    def test_a_wrong_port_is_told(self) -> None:
        """A port where nobody listens gives one sentence."""
        with self.assertRaisesRegex(ServerUnreachable, "port 1 "):
            Imap.connect(Server("127.0.0.1", 1, "plain"), LOGIN, timeout=2)

    def test_a_secret_is_not_printed(self) -> None:
        """Not even by repr."""
        self.assertNotIn(SECRET, repr(LOGIN))


class DovecotTest(Conformance, unittest.TestCase):
    """Dovecot keeps them."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.running = Dovecot()
        cls.addClassCleanup(cls.running.close)
