"""A mailbox on a server: what arrives is routed, what is moved anywhere is the same everywhere, and teaches."""

from __future__ import annotations

from hieranome.app import arranging, filing, searching
from hieranome.app.mailbox import elsewhere, mailboxes
from hieranome.app.mailbox.syncing import sync
from hieranome.app.room import marks
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.app.viewing import open_message
from hieranome.core.errors import NotPermitted
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, foreign
from tests.app.mailbox.case import ALL_TO_THE_DESK, MailboxCase
from tests.mail.servers import Dovecot, Standin
from tests.support import NOON, OWNER, crlf, letter, offer


class AtDovecot(MailboxCase):
    """Another server than ours."""

    def start_server(self) -> Dovecot:  # type: ignore[override]
        return Dovecot()


class WithoutExtensions(MailboxCase):
    """A server that offers nothing beyond IMAP4rev1."""

    def start_server(self) -> Standin:
        self.standin = Standin()
        self.standin.imap.capabilities = {"IMAP4rev1"}
        return self.standin


class Routing(MailboxCase):
    """What is decided here happens on the server."""

    def test_a_verdict_moves_the_message_on_the_server(self) -> None:
        """Folder and record agree after a verdict."""
        number = self.arrive(letter("one"))
        correct(self.room, [number], "shelf")
        self.settle()
        self.assertEqual(self.folder_of(number), [self.bucket("shelf")])
        self.assertEqual(self.on_server(), {self.bucket("shelf"): [crlf(letter("one"))]})

    def test_undo_moves_it_back(self) -> None:
        """Undo of a verdict is a move as well."""
        number = self.arrive(letter("one"))
        step = correct(self.room, [number], "digest").step
        self.settle()
        undo(self.room, step)
        self.settle()
        self.assertEqual(self.folder_of(number), ["INBOX"])

    def test_what_the_model_sends_away_goes_to_its_folder(self) -> None:
        """An arriving message the model puts in a low bucket is moved there."""
        first = self.arrive(offer(1))
        correct(self.room, [first], "digest")
        second = self.arrive(offer(2))
        self.assertEqual(self.row(second).place, "digest")
        self.assertEqual(self.folder_of(second), [self.bucket("digest")])
        self.assertEqual(len(self.lessons()), 1)

    def test_archive_and_trash_are_the_servers_own(self) -> None:
        """Filing moves to the folder that serves as archive."""
        number = self.arrive(letter("one"))
        filing.file_away(self.room, [number], "archive")
        self.settle()
        self.assertEqual(list(self.on_server()), ["Archive"])

    def test_a_bucket_made_here_gets_a_folder_when_something_goes_there(self) -> None:
        """The folder is made with the first message."""
        place = arranging.add_bucket(self.room, "Paperwork", important=False)
        number = self.arrive(letter("one"))
        correct(self.room, [number], place.name)
        self.settle()
        self.assertEqual(list(self.on_server()), ["Hieranome/Paperwork"])

    def test_marks_flow_both_ways(self) -> None:
        """Read and flagged here is read and flagged there, and the other way round."""
        number = self.arrive(letter("one"))
        marks.mark(self.room, [number], "flagged")
        self.settle()
        self.other.select("INBOX")
        (uid,) = self.other.uids()
        self.assertEqual(self.other.metas([uid])[0].flags, Flags(flagged=True))
        self.other.mark([uid], Flags(seen=True, answered=True))
        self.settle()
        row = self.row(number)
        self.assertEqual((row.seen, row.answered, row.flagged), (True, True, False))

    def test_nothing_moves_while_routing_is_off(self) -> None:
        """Where mail would go is shown; on the server it stays."""
        mailboxes.route(self.room, self.account, on=False)
        number = self.arrive(letter("one"))
        correct(self.room, [number], "shelf")
        self.settle()
        self.assertEqual(self.folder_of(number), ["INBOX"])
        mailboxes.route(self.room, self.account, on=True)
        self.settle()
        self.assertEqual(self.folder_of(number), [self.bucket("shelf")])

    def test_a_deleted_bucket_folder_is_made_again(self) -> None:
        """What another program took away comes back with the next message."""
        first, second = self.arrive(letter("one")), self.arrive(letter("two"))
        correct(self.room, [first], "shelf")
        self.settle()
        self.other.create("Elsewhere")
        self.move_elsewhere(first, "Elsewhere")
        self.other.remove(self.bucket("shelf"))
        self.settle()
        correct(self.room, [second], "shelf")
        self.settle()
        self.assertEqual(self.on_server()[self.bucket("shelf")], [crlf(letter("two"))])


class Virtual(MailboxCase):
    """A folder that only shows marked mail of others."""

    def history(self) -> None:
        self.standin.box.create("Starred", "\\Flagged")
        self.standin.box.append("INBOX", crlf(letter("one")), ["\\Flagged"])
        self.standin.box.append("Starred", crlf(letter("one")), ["\\Flagged"])

    def test_it_is_not_followed_unless_the_owner_says_so(self) -> None:
        """Its mail is elsewhere already."""
        (number,) = [row[0] for row in self.room.reader().execute("SELECT id FROM messages")]
        self.assertEqual(self.folder_of(number), ["INBOX"])
        followed = {f.name: f.followed for f in accounts.folders(self.room.reader(), self.account)}
        self.assertFalse(followed["Starred"])


class Shared(MailboxCase):
    """A folder that may only be looked at."""

    def history(self) -> None:
        self.standin.box.create("Shared")
        self.standin.imap.read_only.add("Shared")

    def test_it_is_read_and_what_cannot_be_moved_is_told(self) -> None:
        """Its mail stands here; a move out of it is refused with a sentence, and the rest goes on."""
        number = self.arrive(letter("Minutes"), folder="Shared")
        self.assertEqual(self.folder_of(number), ["Shared"])
        filing.file_away(self.room, [number], "archive")
        for _ in range(3):
            with self.assertRaisesRegex(NotPermitted, "does not permit"):
                sync(self.room, self.imap, self.account)
        self.settle()
        self.assertEqual(list(self.on_server()), ["Shared"])
        other = self.arrive(letter("Another"))
        correct(self.room, [other], "shelf")
        self.settle()
        self.assertEqual(self.folder_of(other), [self.bucket("shelf")])


class RoutingPlain(WithoutExtensions, Routing):
    """The same without MOVE, UIDPLUS, CONDSTORE, SPECIAL-USE."""

    def test_nothing_of_others_is_expunged(self) -> None:
        """While another program's mark for removal stands, our own copy waits, and goes once that is gone."""
        mine, theirs = self.arrive(letter("mine")), self.arrive(letter("theirs"))
        self.other.select("INBOX")
        (copy,) = copies.of_message(self.room.reader(), theirs)
        self.other.set_deleted([copy.uid])
        correct(self.room, [mine], "shelf")
        for _ in range(3):
            self.look()
        self.assertIn(crlf(letter("theirs")), self.on_server()["INBOX"])
        self.other.select("INBOX")
        self.other.expunge_all()
        self.settle()
        self.assertEqual(self.on_server(), {self.bucket("shelf"): [crlf(letter("mine"))]})
        self.assertEqual(self.row(theirs).place, "trash")

    def look(self) -> None:
        """Look once, come to rest or not."""
        sync(self.room, self.imap, self.account)


class RoutingAtDovecot(AtDovecot, Routing):
    """The same at Dovecot."""


class UnderInbox(MailboxCase):
    """A server that wants all folders below the inbox, parted by dots."""

    def start_server(self) -> Dovecot:  # type: ignore[override]
        return Dovecot(prefix="INBOX.")

    def test_folders_are_made_where_the_server_wants_them(self) -> None:
        """Buckets, own folders and what serves as archive; moves there and back."""
        number = self.arrive(letter("one"))
        correct(self.room, [number], "shelf")
        self.settle()
        self.assertEqual(list(self.on_server()), ["INBOX.Hieranome.Shelf"])
        place = arranging.add_folder(self.room, "Tours. Spring")
        filing.file_away(self.room, [number], place.name)
        self.settle()
        self.assertEqual(list(self.on_server()), ["INBOX.Tours  Spring"])
        filing.file_away(self.room, [number], "archive")
        self.settle()
        self.assertEqual(list(self.on_server()), ["INBOX.Archive"])


class Elsewhere(MailboxCase):
    """What another program does is noticed, and what it means."""

    def test_a_move_between_buckets_is_a_lesson(self) -> None:
        """From the inbox to the Shelf, by whatever program."""
        number = self.arrive(letter("one"))
        self.move_to("shelf", number)
        self.settle()
        self.assertEqual(self.row(number).place, "shelf")
        self.assertEqual(self.lessons(), [(number, "shelf")])
        self.assertEqual(self.folder_of(number), [self.bucket("shelf")])

    def test_the_lesson_is_undone_like_any_other(self) -> None:
        """Undo takes the lesson back and moves the message where it stood."""
        number = self.arrive(letter("one"))
        self.move_to("shelf", number)
        self.settle()
        undo(self.room)
        self.settle()
        self.assertEqual(self.lessons(), [])
        self.assertEqual(self.folder_of(number), ["INBOX"])

    def test_our_own_moves_teach_nothing(self) -> None:
        """A verdict is one lesson, not two."""
        number = self.arrive(letter("one"))
        correct(self.room, [number], "shelf")
        self.settle()
        self.assertEqual(self.lessons(), [(number, "shelf")])

    def test_to_junk_is_a_lesson_for_the_drain_and_from_junk_one_for_the_desk(self) -> None:
        """The message stands where it was put."""
        number = self.arrive(letter("one"))
        self.move_elsewhere(number, "Junk")
        self.settle()
        self.assertEqual((self.row(number).place, self.lessons()), ("junk", [(number, "drain")]))
        self.move_elsewhere(number, "INBOX")
        self.settle()
        self.assertEqual((self.row(number).place, self.lessons()[1:]), ("desk", [(number, "desk")]))

    def test_archive_and_trash_teach_nothing_but_are_followed(self) -> None:
        """Where it stands is known; no lesson."""
        first, second = self.arrive(letter("one")), self.arrive(letter("two"))
        self.move_elsewhere(first, "Archive")
        self.move_elsewhere(second, "Trash")
        self.settle()
        self.assertEqual([self.row(n).place for n in (first, second)], ["archive", "trash"])
        self.assertEqual(self.lessons(), [])

    def test_what_is_first_seen_in_a_folder_is_no_lesson_and_not_moved(self) -> None:
        """A rule of the owner's filed it; it stays there."""
        self.other.create("Projects")
        number = self.arrive(letter("one"), folder="Projects")
        self.assertEqual(self.row(number).decided_by, "elsewhere")
        self.assertEqual(self.folder_of(number), ["Projects"])
        self.assertEqual(self.lessons(), [])
        shelved = self.arrive(letter("two"), folder="Hieranome/Shelf") if self.made("shelf") else number
        self.assertEqual(self.lessons(), [])
        self.assertGreaterEqual(shelved, number)

    def test_mail_is_found_by_its_mailbox(self) -> None:
        """A message tells which mailboxes it stands in, and is found by their address or a part of it."""
        number = self.arrive(letter("where am I"))
        self.assertEqual(open_message(self.room, number).accounts, [OWNER])
        for line, there in (("account:maren", True), (f"account:{OWNER.upper()}", True), ("account:other", False)):
            with self.subTest(line):
                found = searching.find(self.room, line, "time", "", 50)
                self.assertEqual([row.id for row in found.page.messages if row.id == number], [number] * there)
        self.assertEqual(
            [one.line for one in searching.suggest(self.room, "rider account:mar")], [f"rider account:{OWNER} "]
        )

    def test_many_moves_are_proposed_together(self) -> None:
        """More than twenty in one look: they stand where they were put, and are learned when the owner says so."""
        self.room.costs = ALL_TO_THE_DESK
        for n in range(22):
            self.put(letter(f"number {n}", at=NOON + n))
        self.settle()
        numbers = [row[0] for row in self.room.reader().execute("SELECT id FROM messages ORDER BY id")]
        self.other.create(self.bucket("digest"))
        self.other.select("INBOX")
        self.move_there("INBOX", self.other.uids(), self.bucket("digest"))
        self.settle()
        self.assertEqual({self.row(n).place for n in numbers}, {"digest"})
        self.assertEqual(self.lessons(), [])
        (asked,) = foreign.waiting(self.room.reader())
        self.assertEqual((asked.belongs, sorted(asked.messages)), ("digest", numbers))
        self.assertEqual(elsewhere.answer(self.room, asked.id, learn=True), 22)
        self.assertEqual(len(self.lessons()), 22)
        self.assertEqual(foreign.waiting(self.room.reader()), [])

    def test_a_copy_in_a_second_folder_is_one_message_with_two_copies(self) -> None:
        """Copying teaches nothing; taking the first away then is a move."""
        number = self.arrive(letter("one"))
        self.other.create(self.bucket("shelf"))
        self.other.select("INBOX")
        uids = self.other.uids()
        self.other.copy(uids, self.bucket("shelf"))
        self.settle()
        self.assertEqual(sorted(self.folder_of(number)), sorted(["INBOX", self.bucket("shelf")]))
        self.assertEqual(self.lessons(), [])
        self.other.select("INBOX")
        self.other.set_deleted(uids)
        self.other.expunge_all()
        self.settle()
        self.assertEqual(self.lessons(), [(number, "shelf")])

    def test_a_second_copy_moved_or_deleted_leaves_the_first_alone(self) -> None:
        """What happens to a copy elsewhere is no word about the one on the Desk."""
        self.other.create("Projects")
        for subject, what in (("one", "Trash"), ("two", "Archive"), ("three", ""), ("four", "Junk")):
            with self.subTest(what):
                number = self.arrive(letter(subject))
                (copy,) = copies.of_message(self.room.reader(), number)
                self.other.select("INBOX")
                self.other.copy([copy.uid], "Projects")
                self.settle()
                self.other.select("Projects")
                uids = self.other.uids()
                if what:
                    self.move_there("Projects", uids, what)
                else:
                    self.other.set_deleted(uids)
                    self.other.expunge_all()
                self.settle()
                self.assertIn(self.row(number).place, ("desk", "undecided"))
                self.assertEqual(self.folder_of(number), ["INBOX", what] if what else ["INBOX"])
        self.assertEqual(self.lessons(), [])

    def test_the_first_copy_gone_the_message_stands_where_the_second_is(self) -> None:
        """Deleted from the inbox, it is still in the folder it was copied to."""
        self.other.create("Projects")
        number = self.arrive(letter("one"), folder="Projects")
        self.put(letter("one"))
        self.settle()
        self.other.select("Projects")
        self.other.set_deleted(self.other.uids())
        self.other.expunge_all()
        self.settle()
        self.assertEqual(self.row(number).place, "desk")
        self.assertEqual(self.folder_of(number), ["INBOX"])

    def test_what_is_deleted_on_the_server_is_in_the_trash_here(self) -> None:
        """Its bytes are kept."""
        number = self.arrive(letter("one"))
        self.other.select("INBOX")
        self.other.set_deleted(self.other.uids())
        self.other.expunge_all()
        self.settle()
        self.assertEqual(self.row(number).place, "trash")

    def test_a_renumbered_folder_is_recognised(self) -> None:
        """New UIDs for old messages are no news."""
        numbers = [self.arrive(letter(f"number {n}")) for n in range(3)]
        before = self.state()
        self.server.renumber("INBOX")
        self.imap = self.connect()
        self.other = self.connect()
        self.settle()
        self.assertEqual({n: s[0] for n, s in self.state().items()}, {n: s[0] for n, s in before.items()})
        self.assertEqual([self.folder_of(n) for n in numbers], [["INBOX"]] * 3)
        self.assertEqual(self.lessons(), [])

    def test_a_renamed_folder_is_the_same_folder(self) -> None:
        """The bucket keeps its mail and its place under the new name."""
        number = self.arrive(letter("one"))
        correct(self.room, [number], "shelf")
        self.settle()
        self.other._client.rename_folder(self.bucket("shelf"), "Later")
        self.settle()
        self.assertEqual(self.bucket("shelf"), "Later")
        self.assertEqual(self.row(number).place, "shelf")
        self.assertEqual(len(self.lessons()), 1)

    def move_to(self, place: str, number: int) -> None:
        """Another program moves a message into a bucket's folder, made if need be."""
        self.other.create(self.bucket(place))
        self.move_elsewhere(number, self.bucket(place))

    def made(self, place: str) -> bool:
        """Whether a bucket's folder stands on the server."""
        return any(f.place == place and f.present for f in accounts.folders(self.room.reader(), self.account))


class ElsewherePlain(WithoutExtensions, Elsewhere):
    """The same without extensions."""


class ElsewhereAtDovecot(AtDovecot, Elsewhere):
    """The same at Dovecot."""
