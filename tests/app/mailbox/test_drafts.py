"""Drafts of other programs gone on with here, and ours kept in the mailbox's Drafts."""

from __future__ import annotations

from email import message_from_bytes

from hieranome.app.access.logins import Logins
from hieranome.app.access.vault import Vault
from hieranome.app.mailbox.draft_copies import QUIET, keep_drafts
from hieranome.app.sending.outbox import Outbox
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.core.buckets import DRAFTS, TRASH
from hieranome.core.errors import CallerError, ConnectionBroken
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import accounts, draft_copies, drafts
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import SECRET, USER, Dovecot, MailServer
from tests.support import OWNER, letter

ILSE = "Ilse Vann <vann@northpier.example>"


class DraftCase(MailboxCase):
    """A mailbox with a draft of another program in it."""

    def setUp(self) -> None:
        super().setUp()
        self.folder_name = next(
            f.name for f in accounts.folders(self.room.reader(), self.account) if f.role == "drafts"
        )

    def theirs(self) -> int:
        """A draft that another program kept; the id of its message."""
        raw = letter("Risers", sender=OWNER, to=ILSE, body="Six risers,\nplease.", bcc="odd@hall.example")
        return self.arrive(raw, self.folder_name)

    def written(self, **changes: str) -> int:
        """A draft of ours, changed a while ago."""
        made = beginning.begin(self.room, "new")
        words = {"sender": OWNER, "recipients": "ilse@hall.example", "cc": "", "bcc": "", "subject": "S", "body": "B"}
        writing.change(self.room, made.id, writing.Changed(**words | changes))
        self.clock.now += QUIET
        return made.id

    def there(self) -> list[str]:
        """The subjects in Drafts on the server."""
        self.other.select(self.folder_name)
        bodies = self.other.bodies(self.other.uids())
        return [str(message_from_bytes(raw)["Subject"]) for _, raw in sorted(bodies.items())]

    def look(self) -> None:
        """What the watcher does with drafts, then a look."""
        keep_drafts(self.room, self.imap, self.account)
        self.settle()


class TestDrafts(DraftCase):
    """At the stand-in."""

    def test_a_draft_of_another_program_goes_on_here(self) -> None:
        """All that stands in it, hidden recipients too; begun once; the other goes to the Trash when ours is sent."""
        number = self.theirs()
        made = beginning.go_on(self.room, number)
        self.assertEqual((made.recipients, made.bcc, made.subject), (ILSE, "odd@hall.example", "Risers"))
        self.assertIn("Six risers,\nplease.", made.body)
        self.assertEqual(beginning.go_on(self.room, number).id, made.id)
        with SmtpSink({USER: SECRET}) as sink:
            vault = Vault(self.room.store.folder)
            vault.put(OWNER, SECRET, "file")
            with self.room.change() as db:
                accounts.update(db, self.account, smtp_host="127.0.0.1", smtp_port=sink.port, smtp_security="plain")
            writing.send(self.room, made.id)
            self.clock.now += writing.WAY_BACK
            outbox = Outbox(self.room, Logins(vault))
            self.addCleanup(outbox.close)
            self.assertEqual(outbox.send_due(), 1)
            self.assertEqual(sorted(sink.taken[0].recipients), ["odd@hall.example", "vann@northpier.example"])
        self.assertEqual(self.row(number).place, TRASH)
        self.settle()
        self.assertEqual(self.there(), [])

    def test_what_is_no_draft_is_none(self) -> None:
        """A message of the inbox is answered, not gone on with."""
        with self.assertRaisesRegex(CallerError, "no draft"):
            beginning.go_on(self.room, self.arrive(letter("Rider")))

    def test_thrown_away_here_it_stays_there(self) -> None:
        """Only ours is thrown away."""
        number = self.theirs()
        writing.discard(self.room, beginning.go_on(self.room, number).id)
        self.settle()
        self.assertEqual((self.row(number).place, self.there()), (DRAFTS, ["Risers"]))

    def test_nothing_of_ours_is_there_unless_it_is_wanted(self) -> None:
        """Off as it ships."""
        self.written()
        self.look()
        self.assertEqual(self.there(), [])

    def test_without_a_told_uid(self) -> None:
        """A server that tells no UID of what is put there: known by its Message-ID, and never taken in as another's."""
        self.standin.offer(("UIDPLUS",))
        self.imap = self.connect()
        self.versions()

    def test_a_connection_that_breaks_at_any_command(self) -> None:
        """In the end the newest version is there once, and no message of ours was taken in."""
        writing.keep_on_server(self.room, True)
        for command in ("APPEND", "UID STORE", "SELECT", "UID EXPUNGE", "UID SEARCH"):
            for faults in ("drop_before", "drop_behind"):
                with self.subTest(command=command, faults=faults):
                    number = self.written(subject=f"{command} {faults} 1")
                    self.look()
                    self.rewrite(number, f"{command} {faults} 2")
                    getattr(self.standin.imap.faults, faults).add(command)
                    for _ in range(3):
                        try:
                            self.look()
                            break
                        except ConnectionBroken:
                            self.imap = self.connect()
                    self.assertEqual(getattr(self.standin.imap.faults, faults), set(), "nothing broke")
                    self.look()
                    self.assertEqual(self.there(), [f"{command} {faults} 2"])
                    writing.discard(self.room, number)
                    self.look()
                    self.assertEqual(self.there(), [])
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0], 0)

    def test_versions(self) -> None:
        """Each replaces the one before."""
        self.versions()

    def rewrite(self, number: int, subject: str) -> None:
        """Change a draft, and leave it alone for a while."""
        words = {"sender": OWNER, "recipients": "ilse@", "cc": "", "bcc": "", "subject": subject, "body": "B"}
        self.clock.now += 1
        writing.change(self.room, number, writing.Changed(**words))
        self.clock.now += QUIET

    def versions(self) -> None:
        """Put there when it was left alone, replaced when it changed, whatever stands in its lines; gone with it."""
        writing.keep_on_server(self.room, True)
        number = self.written(subject="First")
        self.clock.now -= QUIET
        keep_drafts(self.room, self.imap, self.account)
        self.assertEqual(self.there(), [])
        self.clock.now += QUIET
        self.look()
        self.look()
        self.assertEqual(self.there(), ["First"])
        self.rewrite(number, "Second")
        self.look()
        self.assertEqual(self.there(), ["Second"])
        writing.keep_on_server(self.room, False)
        self.look()
        self.assertEqual(self.there(), [])
        writing.keep_on_server(self.room, True)
        self.look()
        self.assertEqual(self.there(), ["Second"])
        self.rewrite(number, "Third")
        with self.room.change() as db:
            drafts.update(db, number, state="waiting")
        self.look()
        self.assertEqual(self.there(), [])
        with self.room.change() as db:
            drafts.update(db, number, state="draft")
        self.look()
        self.assertEqual(self.there(), ["Third"])
        self.other.select(self.folder_name)
        self.other.set_deleted(self.other.uids())
        self.other.expunge_all()
        self.look()
        self.assertEqual(self.there(), [], "another program threw it away: it comes again once it changes")
        self.rewrite(number, "Fourth")
        self.look()
        self.assertEqual(self.there(), ["Fourth"])
        writing.discard(self.room, number)
        self.look()
        self.assertEqual(self.there(), [])
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM draft_copies").fetchone()[0], 0)
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0], 0)

    def test_numbered_anew(self) -> None:
        """A folder with another UIDVALIDITY: ours are known again by their Message-ID."""
        writing.keep_on_server(self.room, True)
        number = self.written(subject="First")
        self.look()
        self.server.renumber(self.folder_name)
        self.settle()
        self.rewrite(number, "Second")
        self.look()
        self.assertEqual(self.there(), ["Second"])
        self.assertEqual(self.room.reader().execute("SELECT count(*) FROM messages").fetchone()[0], 0)
        folder = next(f.id for f in accounts.folders(self.room.reader(), self.account) if f.role == "drafts")
        self.assertEqual(len(draft_copies.of_folder(self.room.reader(), folder)), 1)


class TestDraftsAtDovecot(DraftCase):
    """The same at a server of the wild."""

    def start_server(self) -> MailServer:
        return Dovecot()

    versions, rewrite = TestDrafts.versions, TestDrafts.rewrite
    test_versions = TestDrafts.test_versions
