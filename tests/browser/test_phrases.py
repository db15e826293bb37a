"""The phrasebook by keyboard: a phrase kept, put in by its name and Tab, refused with a hole, and a reply on one key."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.writing import phrasing
from hieranome.store import accounts, drafts, phrases
from hieranome.store.accounts import NewAccount
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter


class PhrasesTest(WorkCase):
    """A Desk with one message, a mailbox to send from, and one phrase."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        receive(room, letter("Rider", sender="Oskar Brandel <brandel@salthall.example>", at=NOON))
        with room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            accounts.update(db, account, paused=1)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
        phrasing.keep(room, "price", "Dear {first name|all},\n\nit is {ask the price}, on {choose Monday|Tuesday}.\n")
        return Service.of(room, open_to_all=True)

    def body(self) -> str:
        """What the open draft says."""
        return self.page.one(".draft-text").get_attribute("value") or ""

    def test_1_a_phrase_is_kept(self) -> None:
        """What can never be filled is refused with why; what can is kept, and listed."""
        page, room = self.page, self.served.room
        page.go("/settings/phrases")
        page.await_("the phrase", lambda: page.all('[data-kept="price"]'))
        page.one("#phrase-short").send_keys("bye")
        page.one("#phrase-text").send_keys("Best, {first nam}")
        page.one("#phrase-text").send_keys(Keys.CONTROL, Keys.ENTER)
        page.await_("why not", lambda: "no placeholder" in page.one(".phrases [role=alert]").text)
        page.one("#phrase-text").send_keys(Keys.BACKSPACE * 11, "Maren")
        page.one("#phrase-text").send_keys(Keys.CONTROL, Keys.ENTER)
        page.await_("it kept", lambda: page.all('[data-kept="bye"]'))
        self.assertEqual(phrasing.book(room.reader())["bye"], "Best, Maren")

    def test_2_a_reply_on_one_key_is_refused_with_a_hole(self) -> None:
        """The phrase is chosen by key; what it asks stands out, and is chosen and written before it goes."""
        page, room = self.page, self.served.room
        page.go("/in/desk")
        page.open("Rider")
        page.press("G")
        page.await_("the phrases", lambda: "price" in page.one(".command-list").text)
        page.one(".command-line input").send_keys("pri", Keys.ENTER)
        page.await_("the reply", lambda: "Dear Oskar,\n\nit is {ask the price}" in self.body())
        page.one(".draft-text").send_keys(Keys.CONTROL, Keys.ENTER)
        page.await_("why not", lambda: "still says {ask the price}" in page.one(".draft-form [role=alert]").text)
        hole = page.one("[data-hole='{ask the price}'] input")
        hole.send_keys("40", Keys.ENTER)
        page.await_("it filled in", lambda: "it is 40, on" in self.body())
        choice = page.one("[data-hole='{choose Monday|Tuesday}'] button:nth-of-type(2)")
        choice.send_keys(Keys.ENTER)
        page.await_("all filled in", lambda: "on Tuesday." in self.body() and not page.all(".draft-holes"))
        page.one(".draft-text").send_keys(Keys.END, "x", Keys.BACKSPACE)
        page.one(".draft-text").send_keys(Keys.CONTROL, Keys.ENTER)
        page.await_("it in the outbox", lambda: drafts.in_state(room.reader(), "waiting"))

    def test_3_a_short_name_and_tab(self) -> None:
        """Behind a short name Tab puts the phrase in; elsewhere it goes on to the next field."""
        page, room = self.page, self.served.room
        page.go("/in/desk")
        page.await_rows()
        page.press("l")
        page.await_("the draft", lambda: page.all(".draft-text"))
        field = page.one(".draft-text")
        field.click()
        field.send_keys("All is well. ", "bye", Keys.TAB)
        page.await_("the phrase", lambda: self.body() == "All is well. Best, Maren")
        field.send_keys(" nothing", Keys.TAB)
        page.await_("the next field", lambda: page.browser.switch_to.active_element != field)
        self.assertIn("nothing", self.body())
        self.assertEqual({one.short for one in phrases.every(room.reader())}, {"bye", "price"})
