"""What is arranged on the page can be taken back where it was done, and is the same in another browser."""

from __future__ import annotations

from pathlib import Path

from hieranome.app import owner_settings, trays
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.writing import phrasing
from hieranome.core.trays import SHIPPED
from hieranome.store import phrases
from tests.browser.driver import BrowserCase
from tests.support import OWNER, letter


class ArrangedTest(BrowserCase):
    in_trays = True

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        receive(room, letter("Risers"))
        phrasing.keep(room, "ack", "It came.")
        return Service.of(room, open_to_all=True)

    def press_button(self, text: str, within: str = "main") -> None:
        def press() -> bool:
            found = next((one for one in self.page.all(f"{within} button") if one.text.startswith(text)), None)
            if found is not None:
                found.click()
            return found is not None

        self.page.await_(f"the button {text}", press)

    def test_1_trays_that_were_wiped_come_back(self) -> None:
        """“One list, no trays” says that it was done, with Undo beside it; so does “As they came”."""
        page = self.page
        page.go("/settings/trays")
        page.await_("the trays", lambda: len(page.all("[data-tray-row]")) == len(SHIPPED))
        self.press_button("One list, no trays")
        page.await_("the way back", lambda: "The Desk made one list" in page.one(".notices .notice").text)
        self.assertEqual(page.all("[data-tray-row]"), [])
        self.press_button("Undo", ".notices")
        page.await_("them back", lambda: len(page.all("[data-tray-row]")) == len(SHIPPED))
        self.assertEqual(trays.every(self.served.room.reader()), list(SHIPPED))
        self.press_button("One list, no trays")
        page.await_("them gone", lambda: not page.all("[data-tray-row]"))
        self.press_button("As they came")
        page.await_("those that ship", lambda: len(page.all("[data-tray-row]")) == len(SHIPPED))

    def test_2_a_phrase_removed_comes_back_by_key(self) -> None:
        """The key that undoes takes back the phrase that went last, not a verdict of before."""
        page = self.page
        page.go("/in/desk")
        page.open("Risers")
        page.press("d")
        page.await_("it put away", lambda: "Digest" in page.effect())
        page.go("/phrases")
        self.press_button("ack")
        self.press_button("Remove")
        page.await_("it gone", lambda: not phrases.every(self.served.room.reader()))
        page.await_("it told", lambda: "Phrase “ack” removed" in page.one(".notices .notice").text)
        self.js("document.activeElement.blur()")
        page.press("u")
        page.await_("it back", lambda: phrases.every(self.served.room.reader()))
        page.await_("that told", lambda: "Undone: Phrase “ack” removed" in page.one(".notices .notice").text)
        self.assertEqual(self.served.room.reader().execute("SELECT place FROM messages").fetchone()[0], "digest")

    def test_3_the_look_of_the_page_goes_along(self) -> None:
        """What is set in one browser is found in another, and undone there."""
        page = self.page
        page.go("/settings/appearance")
        page.one("#density").send_keys("of one line")
        page.await_("it kept", lambda: (owner_settings.look(self.served.room).appearance or {}).get("density") == "one")
        page.await_("it told", lambda: "Appearance changed" in page.one(".notices .notice").text)
        self.js("localStorage.clear()")
        page.go("/settings/appearance")
        page.await_("it found", lambda: page.one("#density").get_attribute("value") == "one")
        self.js("document.activeElement.blur()")
        page.press("u")
        page.await_("it as before", lambda: page.one("#density").get_attribute("value") == "two")
        page.go("/settings/keyboard")
        page.one("[data-key-of='undo']").click()
        page.press("z")
        page.await_("the key kept", lambda: "undo" in str(owner_settings.look(self.served.room).keys))
        self.js("document.activeElement.blur()")
        page.press("z")
        page.await_("the key of before", lambda: page.one("[data-key-of='undo']").text == "u")
