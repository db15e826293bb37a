"""A bucket shown by sender or list: gone through by keyboard, every verb on all the mail of one, and by drag."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import lessons, messages
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter, offer

LIST = "list:news.birchbow.example"


class SourcesTest(WorkCase):
    """A Shelf with a newsletter, two people and a machine."""

    numbers: dict[str, list[int]]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        made = {
            LIST: [offer(number) for number in range(9)],
            "address:kim@studio.example": [
                letter(f"Sketch {n}", sender="Kim <kim@studio.example>", at=NOON + n) for n in range(4)
            ],
            "address:meter@room.example": [
                letter(f"Humidity {n}", sender="Room 2 <meter@room.example>", at=NOON + 50 + n) for n in range(3)
            ],
        }
        cls.numbers = {}
        with room.change() as db:
            for key, every in made.items():
                cls.numbers[key] = [number for raw in every if (number := receive(room, raw)) is not None]
            for found in cls.numbers.values():
                messages.move_all(db, found, "shelf", "model")
        return Service.of(room, open_to_all=True)

    def keys(self) -> list[str]:
        """The sources shown, in order."""
        return [e.get_attribute("data-source") or "" for e in self.page.all(".source")]

    def places(self, key: str) -> set[str]:
        """Where the mail of a source stands."""
        return {self.place_of(number) for number in self.numbers[key]}

    def await_places(self, key: str, place: str) -> None:
        self.page.await_(f"all of {key} in {place}", lambda: self.places(key) == {place})

    def test_1_by_keyboard(self) -> None:
        """Chosen, opened in place, put as one lesson, taken back as one step; the next source is chosen then."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        page.one('select[title="Order"] option[value="source-total"]').click()
        page.await_("three sources", lambda: self.keys() == list(self.numbers))
        self.assertIn("9 unread", page.one(".source").text)
        page.press("j")
        page.one(".source.current .source-verbs")
        page.press(Keys.ENTER)
        page.await_("its mail", lambda: len(page.all(".of-source")) == 9)
        page.press("j", "d")
        page.await_("one message gone", lambda: len(page.all(".of-source")) == 8)
        page.await_("one in the Digest", lambda: self.places(LIST) == {"shelf", "digest"})
        page.press("u")
        self.await_places(LIST, "shelf")
        page.go("/in/shelf")
        page.await_("by source still", lambda: self.keys() == list(self.numbers))
        page.press("j", "d")
        self.await_places(LIST, "digest")
        self.assertEqual(len(lessons.teaching(self.served.room.reader())), 1)
        page.await_("the next", lambda: "Kim" in page.one(".source.current").text)
        self.assertIn("9 messages of Birch & Bow in the Digest", page.effect())
        page.press("u")
        self.await_places(LIST, "shelf")
        self.assertEqual(lessons.teaching(self.served.room.reader()), [])

    def test_2_refused_filed_and_marked(self) -> None:
        """Each verb is about all the mail of the source, and one step."""
        page = self.page
        page.go("/in/shelf")
        page.await_("the sources", lambda: len(self.keys()) == 3)
        page.press("j", "j", "j", "m")
        meter = "address:meter@room.example"
        page.await_("all read", lambda: all(self.row(n).seen for n in self.numbers[meter]))
        page.press("r")
        self.await_places(meter, "drain")
        new = receive(self.served.room, letter("Humidity 9", sender="Room 2 <meter@room.example>", at=NOON + 90))
        assert new is not None
        self.assertEqual(self.place_of(new), "drain")
        page.await_("another chosen", lambda: "Kim" in page.one(".source.current").text)
        page.press("w")
        self.await_places("address:kim@studio.example", "archive")
        page.await_("one left", lambda: self.keys() == [LIST])

    def test_3_dragged_to_the_band(self) -> None:
        """All its mail goes where it is dropped; the choice of order is the bucket's own."""
        page = self.page
        page.go("/in/shelf")
        page.await_("the source", lambda: self.keys() == [LIST])
        self.drag(".source", '.band-segment[data-place="digest"]')
        self.await_places(LIST, "digest")
        page.go_to("digest")
        page.await_rows()
        self.assertEqual(page.all(".source"), [])
        self.assertEqual([p for p in page.problems() if "favicon" not in p], [])

    def row(self, number: int) -> messages.Message:
        return messages.get(self.served.room.reader(), number)
