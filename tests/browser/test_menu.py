"""Everything by mouse: the menu of a row and of the open message, the tick, days from a month, keys found by a word."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import following, lessons, messages, places, tags
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter, offer


class MenuTest(WorkCase):
    numbers: list[int]
    offers: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        found = [receive(room, letter(f"Rider {n}", at=NOON + n)) for n in range(6)]
        cls.numbers = [number for number in found if number is not None]
        cls.offers = [number for number in (receive(room, offer(n)) for n in range(3)) if number is not None]
        with room.change() as db:
            messages.move_all(db, cls.numbers + cls.offers, "shelf", "model")
        return Service.of(room, open_to_all=True)

    def row(self, number: int) -> str:
        return f'.row-mail[data-message="{number}"]'

    def menu(self, number: int) -> None:
        """The second mouse button on a row."""
        ActionChains(self.page.browser).context_click(self.page.one(f"{self.row(number)} .row-text")).perform()
        self.page.one(".row-menu")

    def choose(self, name: str) -> None:
        self.page.one(f'[data-menu="{name}"]').click()

    def test_1_a_row_that_is_not_open(self) -> None:
        """Its menu is about that row alone, and opens nothing; the focus goes back where it was."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        self.menu(self.numbers[3])
        self.assertIn("Rider 3", page.one(".row-menu").text)
        self.choose("archive")
        self.await_place(self.numbers[3], "archive")
        self.assertEqual(page.all(".reading[data-number]"), [])
        self.assertEqual(page.all(".row-menu"), [])
        self.menu(self.numbers[2])
        self.choose("put digest")
        self.await_place(self.numbers[2], "digest")
        self.assertEqual({self.place_of(n) for n in self.numbers[4:]}, {"shelf"})

    def test_2_what_asks_for_more(self) -> None:
        """A day from the month, a new tag, a new folder: each is about the row the menu was opened on."""
        page, room = self.page, self.served.room
        page.go("/in/shelf")
        page.await_rows()
        self.menu(self.numbers[4])
        self.choose("due")
        page.one('.command [aria-label="Next month"]').click()
        day = next(one for one in page.all(".month td button") if one.text == "15")
        said = day.get_attribute("data-day") or ""
        day.click()
        page.await_("it due", lambda: following.get(room.reader(), "due", self.numbers[4]))
        self.assertTrue(said.endswith("-15"))
        self.menu(self.numbers[4])
        self.choose("tag")
        page.one(".command input").send_keys("Strings", Keys.ENTER)
        page.await_("the tag", lambda: tags.of(room.reader(), [self.numbers[4]]))
        self.menu(self.numbers[4])
        self.choose("file")
        page.one(".command input").send_keys("Old riders", Keys.ENTER)
        page.await_("filed", lambda: self.place_of(self.numbers[4]) not in ("shelf", "desk"))
        there = {one.name: one.title for one in places.every(room.reader())}
        self.assertEqual(there[self.place_of(self.numbers[4])], "Old riders")

    def test_3_ticks(self) -> None:
        """Ticked rows are selected without a key; the menu of one of them is about all; the head ticks all."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        for number in self.numbers[:2]:
            row = page.one(self.row(number))
            ActionChains(page.browser).move_to_element(row).perform()
            row.find_element(By.CSS_SELECTOR, ".row-tick").click()
        page.await_("two", lambda: sorted(self.chosen()) == self.numbers[:2])
        self.menu(self.numbers[0])
        self.assertIn("2 selected", page.one(".row-menu").text)
        self.choose("flag")
        page.await_(
            "both flagged", lambda: all(messages.get(self.served.room.reader(), n).flagged for n in self.numbers[:2])
        )
        page.one(".list-all").click()
        page.await_("none", lambda: not self.chosen())
        page.one(".list-all").click()
        page.await_("all", lambda: len(self.chosen()) == len(page.subjects()))
        page.one(".list-all").click()

    def test_4_always_and_by_keys(self) -> None:
        """The open message has the menu too; it is gone through by keys and closed by Escape; always names the bucket."""
        page, room = self.page, self.served.room
        page.go("/in/shelf")
        page.await_rows()
        page.one(f"{self.row(self.offers[0])} .row-text").click()
        self.await_opened(self.offers[0])
        page.one('[data-act="menu"]').click()
        page.one(".row-menu")
        page.press(Keys.ARROW_DOWN, Keys.END, Keys.HOME)
        self.assertTrue(self.js("return document.activeElement.closest('.row-menu') !== null"))
        page.press(Keys.ESCAPE)
        page.await_("it closed", lambda: not page.all(".row-menu"))
        self.assertEqual(self.js("return document.activeElement.dataset.act"), "menu")
        page.one('[data-act="menu"]').click()
        self.choose("always")
        self.choose("always digest")
        self.await_place(self.offers[0], "digest")
        last = lessons.of_message(room.reader(), self.offers[0])
        assert last is not None
        self.assertEqual((last.reach, last.belongs), ("address", "digest"))

    def test_5_unsubscribing_is_found(self) -> None:
        """From mail of a list, the menu leads to its line among the subscriptions."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        self.menu(self.offers[1])
        self.choose("unsubscribe")
        page.await_("the subscriptions", lambda: "/subscriptions" in page.browser.current_url)
        page.await_("its line", lambda: page.all(".subscription.current, [aria-current='true']"))

    def test_6_keys_are_found_by_a_word(self) -> None:
        """The ten to begin with first, then by what one is doing; a word narrows them."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        page.press("?")
        page.await_("the keys", lambda: "The ten to begin with" in page.one(".keys-groups").text)
        first = page.one(".keys-groups section")
        self.assertEqual(len(first.find_elements(By.CSS_SELECTOR, "dl > div")), 10)
        page.one('[aria-label="Find a key"]').send_keys("archive")
        page.await_("few", lambda: len(page.all(".keys-groups dl > div")) < 6)
        self.assertIn("Put in the Archive", page.one(".keys-groups").text)

    def test_7_things_explain_themselves(self) -> None:
        """A bucket says what it is for, with one of the owner's messages; a score what it means; Escape closes that. The
        line of a first visit goes for good."""
        page = self.page
        page.go("/in/shelf")
        page.await_rows()
        page.one('[aria-label="What is this? Shelf"]').click()
        said = page.await_("what it is for", lambda: page.one(".list-head .what-text").text)
        self.assertIn("worth reading and can wait", said)
        self.assertIn("One of yours: “", said)
        page.press(Keys.ESCAPE)
        page.await_("it closed", lambda: not page.one(".list-head .what-text").is_displayed())
        page.one(f"{self.row(self.numbers[0])} .row-text").click()
        self.await_opened(self.numbers[0])
        page.one('[aria-label="What is this? Score"]').click()
        self.assertIn("Of a hundred messages like this one", page.one(".score-line .what-text").text)
        box = self.js("return document.querySelector('.score-line .what-text').getBoundingClientRect().right")
        self.assertLessEqual(box, 1280)
        self.assertIn("Each message stands in a bucket", page.one(".visit-note").text)
        page.one(".visit-note button").click()
        page.await_("it gone", lambda: not page.all(".visit-note"))
        page.go("/subscriptions")
        self.assertIn("Newsletters", page.one(".visit-note").text)
        page.go("/in/shelf")
        page.await_rows()
        self.assertEqual(page.all(".visit-note"), [])
