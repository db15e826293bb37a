"""Rules on mail that comes from a server: it stands there where the rule says, marked and tagged, and nothing is
learned from that."""

from __future__ import annotations

from hieranome.app import shaping_tags
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.rules import Action, Rule
from hieranome.store import accounts, copies, rules
from tests.app.mailbox.case import MailboxCase
from tests.mail.servers import Dovecot, MailServer, Standin
from tests.support import NOON, letter


class RulesAtStandin(MailboxCase):
    """At the stand-in."""

    def start_server(self) -> MailServer:
        return Standin()

    def keep(self, line: str, *actions: Action) -> int:
        """Keep a rule; its id."""
        return keeping.put(self.room, Rule(0, line, True, "arrives", 0, "came", False, line, "", actions)).rule.id

    def there(self, number: int) -> tuple[str, bool, bool, frozenset[str]]:
        """The folder, seen, flagged and keywords of a message as another program sees it."""
        (copy,) = [one for one in copies.of_message(self.room.reader(), number) if one.uid is not None]
        folder = accounts.folder(self.room.reader(), copy.folder).name
        self.other.select("INBOX")
        self.other.select(folder)
        flags = self.other.changes(0).flags[copy.uid or 0]
        return folder, flags.seen, flags.flagged, flags.keywords

    def test_an_arriving_message_goes_where_the_rule_says(self) -> None:
        """Into a bucket, and into the Archive; read, flagged and tagged there too; no lesson is made of it."""
        tag = str(shaping_tags.make(self.room, "Carnets").id)
        self.keep("subject:carnet", Action("bucket", "shelf"), Action("tag", tag), Action("flag"), Action("read"))
        self.keep("subject:receipt", Action("archive"))
        carnet, receipt = self.arrive(letter("Carnet 12")), self.arrive(letter("Receipt 7", at=NOON + 3))
        self.assertEqual(self.there(carnet), (self.bucket("shelf"), True, True, frozenset({"Carnets"})))
        self.assertEqual(self.there(receipt)[0], self.bucket("archive"))
        self.assertEqual(self.lessons(), [])
        self.move_elsewhere(carnet, "INBOX")
        self.settle()
        self.assertEqual(self.lessons(), [(carnet, "desk")])
        self.assertEqual(self.row(carnet).place, "desk")

    def test_the_mailbox_it_comes_to_can_be_asked_for(self) -> None:
        """account: holds for the mailbox a message arrives in."""
        number = self.keep("account:maren subject:rider", Action("flag"))
        self.keep("account:somebody", Action("archive"))
        one = self.arrive(letter("Rider"))
        self.assertEqual([rule.id for rule, _ in rules.of_message(self.room.reader(), one)], [number])
        self.assertTrue(self.there(one)[2])

    def test_a_run_and_its_undo_are_carried_out_there(self) -> None:
        """What is here moves on the server too, and back."""
        numbers = [self.arrive(letter(f"Carnet {n}", at=NOON + n)) for n in range(3)]
        before = [self.there(number) for number in numbers]
        tag = str(shaping_tags.make(self.room, "Carnets").id)
        rule = self.keep("subject:carnet", Action("archive"), Action("tag", tag))
        step = running.run_here(self.room, rule)
        self.settle()
        for number in numbers:
            self.assertEqual(self.there(number), (self.bucket("archive"), False, False, frozenset({"Carnets"})))
        undo(self.room, step)
        self.settle()
        self.assertEqual([self.there(number) for number in numbers], before)
        self.assertEqual(self.lessons(), [])


class RulesAtDovecot(RulesAtStandin):
    """The same at Dovecot."""

    def start_server(self) -> MailServer:
        return Dovecot()
