"""The Trash emptied on the page: asked with what cannot be taken back, done, and told in the journal."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.filing import file_away
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.work import WorkCase
from tests.support import OWNER, letter, offer


class EmptyingTest(WorkCase):
    in_trays = True

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        receive(room, letter("Kept"))
        found = [receive(room, offer(number)) for number in range(5)]
        file_away(room, [number for number in found if number is not None], "trash")
        return Service.of(room, open_to_all=True)

    def press_button(self, text: str) -> None:
        """Press the button of that name."""
        next(e for e in self.page.all("button") if e.text == text).click()

    def test_asked_told_and_gone(self) -> None:
        """Left alone first; then all of it goes, no undo is offered, and the steps before cannot be undone either."""
        page = self.page
        page.go("/in/trash")
        page.await_("what it holds", lambda: "5 messages" in page.one(".drain").text)
        self.press_button("Empty the Trash")
        page.await_("asked", lambda: "cannot be undone" in page.one(".drain").text)
        self.press_button("Cancel")
        page.await_("left alone", lambda: "cannot be undone" not in page.one(".drain").text)
        self.assertEqual(len(page.all(".row-mail")), 5)
        self.press_button("Empty the Trash")
        self.press_button("Delete for good")
        page.await_("all gone", lambda: not page.all(".row-mail") and not page.all(".drain"))
        self.assertIn("taken out of the Trash for good", page.effect())
        self.assertEqual([e for e in page.all('[data-act="undo"]') if e.is_displayed()], [])
        page.go("/journal")
        page.await_("the line", lambda: "out of the Trash" in page.text())
        self.assertEqual([e for e in page.all(".ledger button") if e.text == "Undo"], [])
