"""The Drain on the page: the day of leaving, the doubtful by name, how readily, emptied and back."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.bulk import draining
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import messages
from hieranome.store.draining import kept_days
from tests.browser.work import WorkCase
from tests.support import OWNER, offer


class DrainTest(WorkCase):
    numbers: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        found = [receive(room, offer(number, f"Seller {number} <s{number}@x{number}.example>")) for number in range(6)]
        cls.numbers = [number for number in found if number is not None]
        with room.change() as db:
            messages.move_all(db, cls.numbers, "drain", "model")
            db.execute("UPDATE messages SET likely = 'drain', high_edge = 0.001")
            db.execute("UPDATE messages SET likely = 'digest' WHERE id = ?", (cls.numbers[3],))
        draining.let_go(room)
        return Service.of(room, open_to_all=True)

    def test_gone_over_and_emptied(self) -> None:
        """Each row has its day; a doubtful name leads to its message and is rescued; emptying asks and can be undone."""
        page = self.page
        page.go("/in/drain")
        page.await_rows()
        self.assertTrue(all("leaves" in e.text for e in page.all(".row-marks")))
        page.one('[data-act="doubted"]').click()
        page.one(".drain-names button").click()
        page.await_("it is open", lambda: page.one(".reading").get_attribute("data-number") == str(self.numbers[3]))
        page.press("a")
        self.await_place(self.numbers[3], "desk")
        page.one('select[aria-label="How long mail is kept"] option[value="0"]').click()
        page.await_("for good", lambda: "leaves" not in page.one(".list").text)
        self.assertEqual(kept_days(self.served.room.reader()), 0)
        next(e for e in page.all(".drain button") if e.text == "Strictness").click()
        page.await_("the scale", lambda: len(page.all(".drain-setting")) == 6)
        page.all(".drain-setting input")[5].click()
        page.await_("kept", lambda: self.served.room.costs.drained_good == 13.0)
        next(e for e in page.all(".drain button") if e.text == "Empty").click()
        self.assertIn("5 messages", page.one('.drain [role="alert"]').text)
        page.one('[data-act="empty"]').click()
        self.await_place(self.numbers[0], "trash")
        page.await_("told", lambda: "The Drain emptied: 5 messages" in page.effect())
        page.press("u")
        self.await_place(self.numbers[0], "drain")
