"""The owner's addresses on the page: said for shops, a new one made, and who has one who should not."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter, offer

OLD = "m.aldous@oldharbour.example"
TAGGED = "maren+corvane@quillmark.example"


class AddressesTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER, OLD])
        for number in range(4):
            receive(room, offer(number))
        for number in range(3):
            receive(room, letter(f"Letter {number}", at=NOON + number))
        for number, sender in enumerate(("orders@corvane.example", "win@lotto-world.example")):
            receive(room, letter(f"Order {number}", sender=sender, to=TAGGED, at=NOON + 10 + number))
        return Service.of(room, open_to_all=True)

    def cell(self, address: str, number: int) -> str:
        """What stands in a row."""
        return self.page.all(f'[data-address="{address}"] > [role="cell"]')[number].text

    def test_said_made_and_passed_on(self) -> None:
        """By keyboard down the list; what an address is for is said with a click, and stands after a reload."""
        page = self.page
        page.go("/subscriptions")
        tab = page.await_("the tabs", lambda: [e for e in page.all(".page-tabs a") if e.text == "Addresses"])[0]
        tab.click()
        page.await_("three addresses", lambda: len(page.all("[data-address]")) == 3)
        self.assertEqual((self.cell(OLD, 0), self.cell(OLD, 1)), (OLD, "4"))
        self.assertIn("lotto-world.example", self.cell(TAGGED, 7))
        self.assertEqual(self.cell(OLD, 7), "")
        page.press("j")
        page.press("j")
        page.await_("the last", lambda: page.one(".about h2").text == TAGGED)
        self.assertIn("Somebody else has it", page.one(".about").text)
        page.one("#given-to").send_keys("Corvane", Keys.ENTER)
        page.await_("the note", lambda: self.cell(TAGGED, 6) == "Corvane")
        page.one(f'[data-address="{OLD}"]').click()
        page.await_("the old one", lambda: page.one(".about h2").text == OLD)
        page.one('.purposes input[value="shops"]').click()
        page.await_("said", lambda: self.cell(OLD, 5) == "for shops")
        page.await_("told", lambda: "scored anew" in page.text())
        page.one("#maker-for").send_keys("Larder & Loft", Keys.ENTER)
        page.await_("made", lambda: "+larder-loft-" in page.one(".about h2").text)
        made = page.one(".about h2").text
        page.go("/addresses")
        page.await_("four addresses", lambda: len(page.all("[data-address]")) == 4)
        self.assertEqual((self.cell(made, 6), self.cell(OLD, 5)), ("Larder & Loft", "for shops"))
        page.one(f'[data-address="{made}"]').click()
        page.await_("its own", lambda: page.one(".about h2").text == made)
        page.one('[data-act="forget"]').click()
        page.await_("gone", lambda: len(page.all("[data-address]")) == 3)
        number = self.served.room.reader().execute("SELECT id FROM messages WHERE subject = 'Order 1'").fetchone()[0]
        page.go(f"/in/desk/{number}")
        page.await_("the warning", lambda: "which you gave to Corvane" in page.text())
