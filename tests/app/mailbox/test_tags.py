"""Tags on servers: keywords set here are seen there, and the other way, within one look."""

from __future__ import annotations

from hieranome.app import shaping_tags, tagging
from hieranome.app.mailbox.syncing import sync
from hieranome.app.queues import keeping, working
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError
from hieranome.core.queues import Queue, State
from hieranome.mail.imap_answers import Flags
from hieranome.store import accounts, copies, keywords, tags
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import Dovecot, MailServer, Standin
from tests.support import NOON, letter


class TagsAtStandin(MailboxCase):
    """At the stand-in."""

    def start_server(self) -> MailServer:
        return Standin()

    def history(self) -> None:
        self.put(letter("Old, marked elsewhere", at=NOON - 900), flags=Flags(keywords=frozenset({"Errands"})))

    def there(self, number: int) -> set[str]:
        """The keywords of a message as another program sees them."""
        (copy,) = [one for one in copies.of_message(self.room.reader(), number) if one.uid is not None]
        self.other.select("INBOX")
        self.other.select(accounts.folder(self.room.reader(), copy.folder).name)
        return set(self.other.changes(0).flags[copy.uid or 0].keywords)

    def set_there(self, number: int, *, on: tuple[str, ...] = (), off: tuple[str, ...] = ()) -> None:
        """Another program changes keywords of a message."""
        (copy,) = [one for one in copies.of_message(self.room.reader(), number) if one.uid is not None]
        self.other.select(accounts.folder(self.room.reader(), copy.folder).name)
        self.other.set_keywords([copy.uid or 0], on, off)

    def here(self, number: int) -> list[str]:
        """The names of the tags a message carries."""
        carried = tags.of(self.room.reader(), [number]).get(number, [])
        return [tags.get(self.room.reader(), tag).name for tag in carried]

    def look(self) -> None:
        """One look, no more."""
        sync(self.room, self.imap, self.account)

    def test_set_here_and_seen_there_within_one_look(self) -> None:
        """Put on, taken off, undone: each is there after one look; then nothing more is said."""
        number = self.arrive(letter("Carnet"))
        tagging.put_on(self.room, [number], "Été 2027")
        tagging.put_on(self.room, [number], "Carnets")
        self.look()
        self.assertEqual(self.there(number), {"Ete_2027", "Carnets"})
        tagging.take_off(self.room, [number], tags.every(self.room.reader())[1].id)
        self.look()
        self.assertEqual(self.there(number), {"Ete_2027"})
        undo(self.room)
        self.look()
        self.assertEqual(self.there(number), {"Ete_2027", "Carnets"})
        self.settle(looks=4)
        self.assertEqual(keywords.to_tag(self.room.reader(), self.account), [])

    def test_the_state_of_a_case_is_its_keyword(self) -> None:
        """Brought on here, it is there after one look; brought on there, it is here."""
        number = self.arrive(letter("Visa"))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf' WHERE id = ?", (number,))
        states = (State("new"), State("asked"), State("granted"))
        queue = keeping.keep(self.room, Queue(0, "Visas", "bucket", "shelf", states))
        asked, granted = (tags.get(self.room.reader(), one.tag).keyword for one in queue.states[1:])
        working.step_on(self.room, [number], 1)
        self.look()
        self.assertEqual(self.there(number), {asked})
        self.set_there(number, on=(granted,), off=(asked,))
        self.look()
        columns = working.show(self.room, queue.id).columns
        self.assertEqual([row.message.id for row in columns[2].rows], [number])
        undo(self.room)
        self.look()
        self.assertNotIn(asked, self.there(number))

    def test_set_there_and_seen_here_within_one_look(self) -> None:
        """Another program puts a tag on and takes it off by its keyword, in any case; other keywords stay."""
        number = self.arrive(letter("Carnet"))
        shaping_tags.make(self.room, "Carnets")
        self.set_there(number, on=("CARNETS", "Theirs"))
        self.look()
        self.assertEqual(self.here(number), ["Carnets"])
        self.set_there(number, off=("carnets",))
        self.look()
        self.assertEqual(self.here(number), [])
        self.assertEqual(self.there(number), {"Theirs"})

    def test_keywords_of_other_programs_become_tags_on_the_owners_word_alone(self) -> None:
        """Found in the history and on arriving mail; offered; taken; what means something else never is."""
        number = self.arrive(letter("Parcel"))
        self.set_there(number, on=("Errands", "NonJunk", "$Forwarded"))
        self.look()
        self.assertEqual(self.here(number), [])
        self.assertEqual(keywords.foreign(self.room.reader()), [("Errands", 2)])
        for word in ("NonJunk", "$Forwarded", "Nobody"):
            with self.assertRaises(CallerError):
                shaping_tags.adopt(self.room, word)
        tag = shaping_tags.adopt(self.room, "errands")
        self.assertEqual((tag.total, self.here(number)), (2, ["errands"]))
        self.assertEqual(keywords.foreign(self.room.reader()), [])
        undo(self.room)
        self.settle()
        self.assertEqual(self.here(number), [])

    def test_tagged_and_moved_elsewhere_in_one_go(self) -> None:
        """Another program tags a message and moves it before we look: both hold, and no tag of ours is lost."""
        number = self.arrive(letter("Carnet"))
        shaping_tags.make(self.room, "Carnets")
        tagging.put_on(self.room, [number], "Spring")
        self.look()
        self.set_there(number, on=("Carnets",))
        self.move_elsewhere(number, self.bucket("archive"))
        self.settle()
        self.assertEqual(self.row(number).place, "archive")
        self.assertEqual(sorted(self.here(number)), ["Carnets", "Spring"])
        self.set_there(number, off=("Spring",))
        self.move_elsewhere(number, "INBOX")
        self.settle()
        self.assertEqual(self.here(number), ["Carnets"])

    def test_tagged_here_while_moved_there(self) -> None:
        """What was put on here before the look that finds the move is told to the copy where it stands now."""
        number = self.arrive(letter("Carnet"))
        tagging.put_on(self.room, [number], "Carnets")
        self.move_elsewhere(number, self.bucket("archive"))
        self.settle()
        self.assertEqual(self.there(number), {"Carnets"})

    def test_arriving_mail_comes_with_its_tags(self) -> None:
        """A message that another program's rule tagged carries the tag when it is taken in."""
        shaping_tags.make(self.room, "Carnets")
        self.put(letter("Tagged before we saw it"), flags=Flags(keywords=frozenset({"Carnets"})))
        self.settle()
        number = int(self.room.reader().execute("SELECT max(id) FROM messages").fetchone()[0])
        self.assertEqual(self.here(number), ["Carnets"])

    def test_many_at_once_and_merged(self) -> None:
        """A merge of two tags is told of every copy; undone, every copy is as it was."""
        for n in range(12):
            self.put(letter(f"Many {n}", at=NOON + n))
        self.settle()
        numbers = [row[0] for row in self.room.reader().execute("SELECT id FROM messages ORDER BY id DESC LIMIT 12")]
        tagging.put_on(self.room, numbers[:8], "One")
        tagging.put_on(self.room, numbers[4:], "Two")
        self.settle()
        before = {number: self.there(number) for number in numbers}
        one, two = (tag.id for tag in tags.every(self.room.reader()))
        shaping_tags.merge(self.room, one, two)
        self.settle()
        self.assertEqual({frozenset(self.there(number)) for number in numbers}, {frozenset({"Two"})})
        undo(self.room)
        self.settle()
        self.assertEqual({number: self.there(number) for number in numbers}, before)


class TagsAtDovecot(TagsAtStandin):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()


class KeptHere(MailboxCase):
    """A server that takes no keywords."""

    def start_server(self) -> MailServer:
        self.standin = Standin()
        self.standin.imap.fixed_flags = True
        return self.standin

    def test_tags_stay_here_and_are_told_once_they_are_taken(self) -> None:
        """Tags work here and it is said so; the look that finds the server changed its mind tells them."""
        number = self.arrive(letter("Carnet"))
        tagging.put_on(self.room, [number], "Carnets")
        self.settle()
        self.assertTrue(keywords.kept_here(self.room.reader(), self.account))
        self.assertEqual(len(tags.of(self.room.reader(), [number])[number]), 1)
        self.standin.imap.fixed_flags = False
        self.arrive(letter("Another", at=NOON + 5))
        self.assertFalse(keywords.kept_here(self.room.reader(), self.account))
        self.other.select("INBOX")
        self.assertIn(frozenset({"Carnets"}), [one.keywords for one in self.other.changes(0).flags.values()])

    def test_a_server_that_refuses_is_not_asked_again_and_again(self) -> None:
        """Refused at STORE although it was offered: nothing else is held up by it."""
        self.standin.imap.fixed_flags = False
        number = self.arrive(letter("Carnet"))
        tagging.put_on(self.room, [number], "Carnets")
        self.standin.faults.refuse["UID STORE"] = "NO [LIMIT] too many keywords"
        self.settle()
        self.assertTrue(keywords.kept_here(self.room.reader(), self.account))
        self.assertEqual(accounts.get(self.room.reader(), self.account).error, "")
