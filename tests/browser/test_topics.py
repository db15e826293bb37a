"""A topic by keyboard: described in words, answered, let run, found among what is here, taken back; asked in Your call."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import messages, tags, topics
from tests.app.test_topics import SENTENCE, notice, visa
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, offer


class TopicsTest(WorkCase):
    """Visas and notices of one sender, and offers."""

    visas: set[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, lambda: NOON + 3_600)
        room.set_owner([OWNER])
        taken = [receive(room, raw) for raw in map(visa, range(8))]
        cls.visas = {number for number in taken if number is not None}
        for number in range(6):
            receive(room, notice(number))
            receive(room, offer(number))
        with room.change() as db:
            messages.move_all(db, topics.newest(db, 0, 100), "shelf", "model")
        return Service.of(room, open_to_all=True)

    def carrying(self) -> set[int]:
        """The messages the topic's tag is on."""
        db = self.served.room.reader()
        known = topics.every(db)
        return set(tags.carrying(db, known[0].tag)) if known else set()

    def answered(self) -> int:
        db = self.served.room.reader()
        return sum(len(topics.answers(db, one.id)) for one in topics.every(db))

    def test_1_described_answered_found(self) -> None:
        """The words find the first page with why; six answers by key; then all its mail is tagged, and taken back."""
        page = self.page
        page.go("/topics?tag=new")
        page.await_("the form", lambda: page.one("#topic-name")).send_keys("Visas")
        page.one("#topic-said").send_keys(SENTENCE, Keys.CONTROL, Keys.ENTER)
        page.await_("questions", lambda: page.all(".topic-ask"))
        self.assertIn("says visa", page.one(".topic-ask .topic-why").text)
        self.assertFalse(page.one(".topic-turn input").is_enabled())
        for given in range(1, 7):
            asked = page.await_("what is asked", lambda: page.one(".topic-ask.current"))
            page.press("Y" if asked.get_attribute("data-ask").startswith("File") else "X")
            page.await_("the answer kept", lambda given=given: self.answered() == given or None)
            page.await_("it to be told", lambda given=given: f"{given} " in self.told() or None)
        page.one("[data-act='find']").click()
        page.await_("all its mail tagged", lambda: self.carrying() == self.visas)
        page.await_("it to be told", lambda: "on its mail now" in page.text())
        page.press("u")
        page.await_("it taken back", lambda: self.carrying() < self.visas)

    def told(self) -> str:
        """How many answers the page counts."""
        words = self.page.one(".topic-state dd").text.replace(" belong,", "").replace(" do not", "").split()
        return f"{sum(map(int, words))} "

    def test_2_it_runs_and_asks_in_your_call(self) -> None:
        """Switched on, the next such message is tagged; what it asks about is answered in Your call by key."""
        page, room = self.page, self.served.room
        page.go("/topics")
        page.await_("its state", lambda: page.one(".topic-turn input").is_enabled())
        page.one(".topic-turn input").click()
        page.await_("it to run", lambda: topics.every(room.reader())[0].enabled)
        number = receive(room, visa(60))
        self.assertIn(number, self.carrying())
        asked = receive(room, notice(61))
        assert asked is not None
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'undecided', decided_by = 'topic' WHERE id = ?", (asked,))
            topics.note_found(db, topics.every(db)[0].id, asked, NOON, asked=True)
            room.tell_moved(0, [asked])
        page.go("/in/desk")
        row = page.await_(
            "the question", lambda: next((one for one in page.all(".call-row") if "Visas?" in one.text), None)
        )
        row.find_element("css selector", ".call-open").click()
        page.await_open("Opening hours 61")
        page.press("X")
        page.await_("the question answered", lambda: self.placed(asked) != "undecided")
        self.assertNotIn(asked, self.carrying())

    def placed(self, number: int) -> str:
        db = self.served.room.reader()
        return str(db.execute("SELECT place FROM messages WHERE id = ?", (number,)).fetchone()[0])
