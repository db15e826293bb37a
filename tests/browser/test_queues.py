"""A queue by keyboard: made, worked through in columns, on from a list, undone."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.queues import working
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import queues
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, letter


class QueuesTest(WorkCase):
    """A Shelf with four visa cases."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        for n in range(4):
            receive(room, letter(f"Visa {n}", sender=f"Desk {n} <d{n}@consulate.example>", at=NOON + n))
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
        return Service.of(room, open_to_all=True)

    def standing(self) -> dict[str, list[str]]:
        """The subjects in each state."""
        (queue,) = queues.every(self.served.room.reader())
        columns = working.show(self.served.room, queue.id).columns
        return {one.state.name: [row.message.subject for row in one.rows] for one in columns}

    def shown(self, state: str) -> str:
        """What the page shows of a state."""
        return self.page.one(f'[data-state="{state}"]').text

    def test_1_made(self) -> None:
        """What cannot be is said; then it stands there with everything in the first state."""
        page = self.page
        page.go("/queues")
        page.one('[data-act="new-queue"]').send_keys(Keys.ENTER)
        page.one("#queue-name").send_keys("Visas")
        field = page.one('[aria-label="State 2"]')
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(Keys.CONTROL, Keys.NULL, "To do")
        field.send_keys(Keys.ENTER)
        page.await_("why not", lambda: "same name" in page.one(".queue-form [role=alert]").text)
        field.send_keys(Keys.BACKSPACE * 5, "Asked", Keys.ENTER)
        page.await_("the columns", lambda: "Visa 0" in self.shown("To do"))
        self.assertEqual(list(self.standing()), ["To do", "Asked", "Done"])
        self.assertIn("4", self.shown("To do"))

    def test_2_worked_through_in_columns(self) -> None:
        """On and back by one key, beside by the arrows, several at once, undone."""
        page = self.page
        self.js("document.activeElement.blur()")
        page.press(".")
        page.await_("one brought on", lambda: self.standing()["Asked"] == ["Visa 0"])
        page.await_("it shown", lambda: "Visa 0" in self.shown("Asked"))
        page.await_("the case followed", lambda: page.one(".queue-row.current").text.startswith("Desk 0"))
        page.press(".")
        page.await_("it done", lambda: self.standing()["Done"] == ["Visa 0"])
        page.await_("it shown", lambda: "Visa 0" in self.shown("Done"))
        page.press(Keys.ARROW_LEFT)
        page.await_("the case beside", lambda: "Desk 1" in page.one(".queue-row.current").text)
        page.press(" ", "j", " ", ".")
        page.await_("two brought on", lambda: sorted(self.standing()["Asked"]) == ["Visa 1", "Visa 2"])
        page.press("u")
        page.await_("it undone", lambda: self.standing()["Asked"] == [])
        (columns, as_list) = page.all(".queue-shape [aria-pressed]")

        def beside() -> bool:
            first, second = page.all(".queue-column")[:2]
            return bool(second.rect["x"] > first.rect["x"])

        self.assertTrue(beside())
        as_list.send_keys(Keys.ENTER)
        page.await_("the states below each other", lambda: not beside())
        self.assertEqual(page.all(".queue-row")[0].rect["width"], page.all(".queue-row")[-1].rect["width"])
        columns.send_keys(Keys.ENTER)
        page.await_("them beside each other", beside)

    def test_3_on_from_the_list_of_a_bucket(self) -> None:
        """The open message goes on, and the page says where to."""
        page = self.page
        page.go("/in/desk")
        page.open("Visa 3")
        page.press(".")
        page.await_("it told", lambda: "is in “Asked”" in page.one(".effect").text)
        self.assertEqual(self.standing()["Asked"], ["Visa 3"])
        page.press(",")
        page.await_("it back", lambda: self.standing()["Asked"] == [])
