"""What needs a mailbox's server, by hand: keywords of other programs become tags, a rule that sends copies asks, rules go
out as Sieve, run at the server, and come in as a script."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.history import read_history
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping
from hieranome.app.service import Service
from hieranome.core.rules import Action, Rule
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Flags
from hieranome.mail.managesieve import visit
from hieranome.store import rules, tags
from tests.app.mailbox.case import account_at
from tests.browser.work import WorkCase
from tests.mail.servers import LOGIN, SECRET, Dovecot
from tests.support import NOON, OWNER, crlf, letter


class ServedTest(WorkCase):
    """A mailbox at Dovecot with a keyword of another program, a rule that rests and sends copies, and one that runs."""

    dovecot: Dovecot

    @classmethod
    def make(cls, folder: Path) -> Service:
        cls.dovecot = Dovecot()
        cls.addClassCleanup(cls.dovecot.close)
        room = Mailroom(folder)
        room.set_owner([OWNER])
        imap = Imap.connect(cls.dovecot.server, LOGIN)
        for number in range(3):
            raw = crlf(letter(f"Invoice {number}", at=NOON + number))
            imap.append("INBOX", raw, Flags(keywords=frozenset({"Invoices"})), NOON)
        account = mailboxes.add(room, account_at(cls.dovecot), imap.folders()).id
        read_history(room, imap, account)
        imap.close()

        def keep(name: str, *actions: Action, on: bool) -> None:
            keeping.put(room, Rule(0, name, on, "arrives", 0, "came", False, "from:@hall.example", "", actions))

        keep("Copies", Action("forward", "tour@quillmark.example"), on=False)
        keep("Halls", Action("bucket", "shelf"), on=True)
        service = Service.of(room, open_to_all=True)
        service.vault.put(OWNER, SECRET, "file")
        return service

    def test_1_a_keyword_becomes_a_tag_and_is_hidden(self) -> None:
        """On a word, on every message that has it; hidden, rows show it no more."""
        page, room = self.page, self.served.room
        page.go("/tags")
        page.await_("the keyword", lambda: page.one('[aria-label="Make Invoices a tag"]')).click()
        page.await_("a tag of it", lambda: [one.total for one in tags.every(room.reader())] == [3])
        page.await_("its row", lambda: page.one('[data-tag-row="Invoices"]')).click()
        page.one(".tag-shown input").click()
        page.await_("it hidden", lambda: not tags.every(room.reader())[0].shown)
        page.await_("it told", lambda: "hidden" in page.one('[data-tag-row="Invoices"]').text)
        page.go("/search?line=tag:Invoices&order=time")
        self.assertEqual(len(page.await_rows()), 3)
        self.assertEqual(page.all(".row-mail .tag"), [])

    def test_2_a_rule_that_sends_copies_asks_once(self) -> None:
        """Switched on it is opened, and runs only once the box is ticked."""
        page, room = self.page, self.served.room
        page.go("/rules")
        page.await_("the rules", lambda: page.one('[data-rule="Copies"] input')).click()
        box = page.await_("the question", lambda: page.one(".rule-forward input"))
        self.assertFalse(rules.every(room.reader())[0].enabled)
        self.assertIn("tour@quillmark.example", page.one(".rules-side").text)
        box.click()
        page.one("[data-act='keep']").click()
        page.await_("it to run", lambda: rules.every(room.reader())[0].enabled)

    def test_3_rules_at_the_server(self) -> None:
        """The script is shown; chosen rules are put there, told beside the rule, taken away; a script is taken over."""
        page, room, at = self.page, self.served.room, self.dovecot.scripts
        page.go("/rules")
        page.await_("the rules", lambda: page.all(".rule-row"))
        page.one(".subscriptions-head button[aria-expanded]").click()
        page.await_("the script", lambda: "fileinto" in (page.one("#script-out").get_attribute("value") or ""))
        page.await_("what can run", lambda: page.all(".server-rules fieldset input"))
        page.one("[data-act='serve']").click()
        page.await_("why not", lambda: "No ManageSieve server answers" in page.one(".server-rules [role=alert]").text)
        self.type_over("#server-port", str(at.port))
        page.one("[data-act='serve']").click()
        page.await_("it there", lambda: "They run there" in page.one(".server-rules [role=status]").text)
        page.await_("told beside it", lambda: "at the server too" in page.one('[data-rule="Halls"]').text)
        with visit(at, LOGIN) as there:
            self.assertEqual(there.listing().active, "hieranome")
        page.one(".server-rules .tag-acts button:last-child").click()
        page.await_("it gone", lambda: "None of your rules" in page.one(".server-rules [role=status]").text)
        page.one("#script-in").send_keys('if header :contains "subject" "visa" { addflag "\\\\Flagged"; }')
        page.one(".rule-script form button").click()
        page.await_("why it is refused", lambda: page.one(".rule-script form [role=alert]").text)
        self.type_over(
            "#script-in", 'require "imap4flags";\nif header :contains "subject" "visa" { addflag "\\\\Flagged"; }'
        )
        page.one(".rule-script form button").click()
        page.await_("it taken over", lambda: len(rules.every(room.reader())) == 3)
        self.assertFalse(rules.every(room.reader())[-1].enabled)

    def type_over(self, selector: str, text: str) -> None:
        """Put a text into a field in place of what stands there."""
        field = self.page.one(selector)
        field.clear()
        field.send_keys(text)
