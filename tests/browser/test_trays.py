"""The Desk in trays: gone through by keyboard across them, arranged by drag and keys, what is dealt with archived."""

from __future__ import annotations

from pathlib import Path

from hieranome.app import trays
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.teaching.correct import correct
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter

DAY = 86_400


class TraysTest(WorkCase):
    """A Desk with mail that came since yesterday, older mail, and some that is dealt with."""

    in_trays = True
    numbers: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        cls.numbers = []
        for n in range(9):
            number = receive(
                room, letter(f"Plan {n}", at=NOON - n * DAY, body="Can you confirm it?" if n == 5 else "So.")
            )
            assert number is not None
            cls.numbers.append(number)
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
            db.execute(
                "UPDATE messages SET answered = 1, seen = 1 WHERE id IN (?, ?)", (cls.numbers[7], cls.numbers[8])
            )
        room.clock = lambda: NOON + 60
        return Service.of(room, open_to_all=True)

    def names(self) -> list[str]:
        """The trays in their order."""
        return [one.get_attribute("data-tray") or "" for one in self.page.all(".tray")]

    def within(self, tray: str) -> list[str]:
        """The subjects of a tray's rows."""
        return [one.text for one in self.page.all(f'.tray[data-tray="{tray}"] .row-subject')]

    def test_1_the_desk_in_parts(self) -> None:
        """What came since stands first; rows are gone through across trays; a verdict takes one out at once."""
        page = self.page
        page.go("/in/desk")
        self.js(
            "for (const key of ['hieranome-last-visit', 'hieranome-visit-before'])"
            "localStorage.setItem(key, JSON.stringify({newest: 1, at: arguments[0]}))", NOON - DAY - 1
        )  # fmt: skip
        page.go("/in/desk")
        page.await_("three trays", lambda: self.names() == [one.name for one in trays.SHIPPED])
        page.await_("what came", lambda: self.within("Came since you were last here") == ["Plan 0", "Plan 1"])
        self.assertEqual(len(self.within("The rest")), 5)
        self.assertEqual(self.within("Dealt with"), [])
        page.press("j", "j", "j")
        self.assertIn(f"Plan {self.numbers.index(self.opened())}", self.within("The rest"))
        page.press("k", "s")
        self.await_place(self.numbers[1], "shelf")
        page.await_("one less", lambda: self.within("Came since you were last here") == ["Plan 0"])
        page.press("u")
        page.await_("it back", lambda: self.within("Came since you were last here") == ["Plan 0", "Plan 1"])

    def test_2_what_is_dealt_with_goes_by_one_key(self) -> None:
        """Opened whole by its name, archived by its key, and back by undo."""
        page = self.page
        page.go("/in/desk")
        page.one('.tray[data-tray="Dealt with"] h3 button').click()
        page.await_("its rows", lambda: self.within("Dealt with")[-2:] == ["Plan 7", "Plan 8"])
        page.press("D")
        self.await_place(self.numbers[7], "archive")
        self.await_place(self.numbers[8], "archive")
        page.await_("one quiet line", lambda: page.all('.tray[data-tray="Dealt with"] .tray-head.quiet'))
        page.press("u")
        self.await_place(self.numbers[7], "desk")

    def test_3_trays_are_arranged(self) -> None:
        """Added, named, moved up and dragged, taken away; what would hide mail is refused; one list on a word."""
        page, room = self.page, self.served.room
        with room.change() as db:
            db.execute("UPDATE messages SET seen = 0 WHERE answered = 0")
        page.go("/settings/trays")

        def kept() -> list[str]:
            return [one.name for one in trays.every(room.reader())]

        page.await_("the trays", lambda: len(page.all(".tray-list li")) == 4)
        page.one('select[aria-label="Add a tray"] option[value="0"]').click()
        page.await_("it added", lambda: kept()[1] == "Waits for your answer")
        field = page.one('[aria-label="Name of Waits for your answer"]')
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys("Asked of me", Keys.TAB)
        page.await_("its name", lambda: kept()[1] == "Asked of me")
        page.one('[data-tray-row="Asked of me"] .tray-fields button:nth-of-type(2)').click()
        page.await_("it moved down", lambda: kept()[2] == "Asked of me")
        page.one('[aria-label="Remove The rest"]').click()
        page.await_("why not", lambda: "must take the rest" in page.one(".settings-trays [role=alert]").text)
        self.assertIn("The rest", kept())
        self.drag_onto('[data-tray-row="Asked of me"] .tray-grip', f'[data-tray-row="{kept()[1]}"] .tray-grip')
        page.await_("it dragged up", lambda: kept()[1] == "Asked of me")
        page.go("/in/desk")
        page.await_("what waits", lambda: self.within("Asked of me") == ["Plan 5"])
        page.go("/settings/trays")
        page.await_("the trays", lambda: len(page.all(".tray-list li")) == 5)
        page.one('[data-tray-row="Asked of me"] label:nth-of-type(3) input').click()
        page.await_("it beside the band", lambda: trays.every(room.reader())[1].beside)
        page.go("/in/desk")
        page.await_("the others", lambda: "Asked of me" not in self.names() and len(self.names()) == 4)
        page.one('[data-band-tray="Asked of me"]').click()
        page.await_("a place of its own", lambda: self.names() == ["Asked of me"])
        page.press("j")
        self.await_opened(self.numbers[5])
        self.assertEqual(page.one(".list-head h2").text, "Asked of me")
        self.assertEqual(self.names(), ["Asked of me"])
        page.one('[data-place="desk"]').click()
        page.await_("the Desk again", lambda: len(self.names()) == 4)
        page.one('select[title="Order"] option[value="time"]').click()
        page.await_("one list", lambda: not page.all(".tray") and len(page.all(".row-mail")) == 9)
        page.one('select[title="Order"] option[value="trays"]').click()
        page.await_("trays again", lambda: len(page.all(".tray")) == 4)

    def taught(self, sender: str) -> int:
        """A letter of a sender of whom another was taught to the Desk."""
        room = self.served.room
        correct(room, [receive(room, letter("Taught", sender=sender, at=NOON - 7)) or 0], "desk", stay=True)
        return receive(room, letter("Offered", sender=sender, at=NOON - 6)) or 0

    def test_4_a_second_look(self) -> None:
        """What the model would put elsewhere by now is offered in one strip, a line for each sender with why: one moved,
        one left, the rest by a key."""
        page, room = self.page, self.served.room
        offered = [self.taught(f"w{n}@hall.example") for n in range(3)]
        away = receive(room, letter("Buy", sender="shop@else.example", at=NOON - 5)) or 0
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'desk' WHERE id = ?", (away,))
        correct(room, [away], "shelf")
        page.go("/in/desk")
        rescorer = self.served.rescorer  # until it rests, scores are written anew
        page.await_("scores at rest", lambda: rescorer._revision == room.revision and not rescorer._behind())
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model' WHERE id IN (?, ?, ?)", offered)
            db.execute("UPDATE messages SET score = 0.9, low_edge = 0.8, high_edge = 0.95 WHERE place = 'shelf'")
            room.tell("looked")
        page.await_("the offer", lambda: "3 on the Shelf look like Desk now" in page.one(".second").text)
        page.one('.second button[aria-expanded="false"]').click()
        page.await_("why", lambda: "1 lesson about this sender" in page.one(f'[data-second="{offered[0]}"]').text)
        page.one(f'[data-second="{offered[0]}"] button:nth-of-type(3)').click()
        page.await_("one left", lambda: "2 on the Shelf look like Desk now" in page.one(".second").text)
        page.one(f'[data-second="{offered[1]}"] button:nth-of-type(2)').click()
        self.await_place(offered[1], "desk")
        page.await_("one", lambda: "1 on the Shelf looks like Desk now" in page.one(".second").text)
        page.press("A")
        self.await_place(offered[2], "desk")
        page.await_("no offer", lambda: not page.all(".second"))
        self.assertEqual(self.place_of(offered[0]), "shelf")
        page.press("u")
        self.await_place(offered[2], "shelf")
