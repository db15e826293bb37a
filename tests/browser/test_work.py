"""A day's mail worked through in the real interface: by keyboard alone, by mouse alone, and everything beside."""

from pathlib import Path
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from hieranome.app import arranging
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import lessons, messages
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, Clock, letter, offer

FORTY = 40
LONG = "Could you please confirm the new times for the get-in before noon today " * 4
RTL = "מרינה לוי"


class ClearingTest(WorkCase):
    """Fifty questions on the Desk, each from somebody else."""

    numbers: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        cls.numbers = []
        for number in range(FORTY + 12):
            raw = letter(
                f"Question {number}: may we?",
                sender=f"Person {number} <p{number}@house{number}.example>",
                body=f"Dear Maren, may we have an answer about thing {number} today? Please confirm.",
                at=NOON + number,
            )
            cls.numbers.append(receive(room, raw) or 0)
        with room.store.atomic() as db:
            for number in cls.numbers:
                messages.move(db, number, "desk", "model")
        return Service.of(room, open_to_all=True)

    def test_1_forty_messages_by_keyboard_alone(self) -> None:
        """Read, put, archived, flagged, thrown away and taken back, one key each; the store agrees with every key."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        page.press("o")
        self.addCleanup(self.js, "localStorage.clear()")
        page.await_("newest first", lambda: " ".join(page.subjects()).startswith(f"Question {FORTY + 11}:"))
        page.press("j")
        expected: dict[int, str] = {}
        keys = ["s", "d", "f", "w", "x", "s", "w", "w"]
        places_of = {"s": "shelf", "d": "digest", "f": "drain", "w": "archive", "x": "trash"}
        waiting = self.numbers[::-1]
        for at in range(FORTY):
            number = waiting[at]
            self.await_opened(number)
            key = keys[at % len(keys)]
            if at % 10 == 9:
                page.press("b")
                page.await_("the flag", lambda number=number: messages.get(self.served.room.reader(), number).flagged)  # type: ignore[misc]
            page.press(key)
            expected[number] = places_of[key]
        for number, place in expected.items():
            self.await_place(number, place)
        self.assertEqual(self.tally()["desk"], 12)
        flagged = [n for n in expected if messages.get(self.served.room.reader(), n).flagged]
        self.assertEqual(len(flagged), FORTY // 10)
        self.assertTrue(all(messages.get(self.served.room.reader(), n).seen for n in expected))
        taught = [n for n, place in expected.items() if place in ("shelf", "digest", "drain")]
        self.assertEqual(len(lessons.ledger(self.served.room.reader(), 0, 200)), len(taught))
        last = waiting[FORTY - 1]
        page.press("u")
        self.await_place(last, "desk")
        page.press("w")
        self.assertEqual(page.problems(), [])

    def test_2_ten_messages_by_mouse_alone(self) -> None:
        """Dragged to the band and to the Archive, put by buttons, undone by a button; the store agrees."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        desk = self.js("return [...document.querySelectorAll('.row-mail')].map(one => +one.dataset.message)")[:10]
        targets = ["shelf", "drain", "archive", "digest", "trash"]
        for at, number in enumerate(desk[:5]):
            target = (
                '.spine-quiet a[data-place="{}"]' if targets[at] in ("archive", "trash") else '.band [data-place="{}"]'
            )
            self.drag(f'.row-mail[data-message="{number}"]', target.format(targets[at]))
            self.await_place(number, targets[at])
        for number in desk[5:8]:
            page.one(f'.row-mail[data-message="{number}"] .row-text').click()
            self.await_opened(number)
            page.one('.verdict-button[data-put="shelf"]').click()
            self.await_place(number, "shelf")
        first, second = desk[8:10]
        actions = ActionChains(page.browser)
        actions.click(page.one(f'.row-mail[data-message="{first}"] .row-text')).key_down(Keys.CONTROL)
        actions.click(page.one(f'.row-mail[data-message="{first}"] .row-text'))
        actions.click(page.one(f'.row-mail[data-message="{second}"] .row-text')).key_up(Keys.CONTROL).perform()
        page.await_("two selected", lambda: len(self.chosen()) == 2)
        page.one('.filing-row [data-act="archive"]').click()
        self.await_place(first, "archive")
        self.await_place(second, "archive")
        page.one('.effect [data-act="undo"]').click()
        self.await_place(second, "desk")
        self.assertEqual(page.problems(), [])


class ManyTest(WorkCase):
    offers: list[int]
    letters: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        cls.offers = [receive(room, offer(n)) or 0 for n in range(12)]
        cls.letters = [
            receive(room, letter(f"Rider {n}", sender=f"{RTL} <levi@hall.example>", body=LONG, at=NOON + 50 + n)) or 0
            for n in range(3)
        ]
        cls.letters.append(receive(room, letter(LONG, body=LONG, at=NOON + 60)) or 0)
        with room.store.atomic() as db:
            for number in (*cls.offers, *cls.letters):
                messages.move(db, number, "shelf", "model")
        arranging.add_folder(room, "Spring tour")
        return Service.of(room, open_to_all=True)

    def setUp(self) -> None:
        self.page.go("/in/shelf")
        self.js("localStorage.clear()")
        self.page.go("/in/shelf")
        self.page.await_rows()
        self.page.press("o")
        self.addCleanup(self.js, "localStorage.clear()")

    def test_a_range_a_sender_and_all(self) -> None:
        """Shift extends, a key takes the sender's, Ctrl+A takes the place; Escape lets go."""
        page = self.page
        page.press("j")
        page.press("J", "J")
        page.await_("three selected", lambda: len(self.chosen()) == 3)
        page.press(Keys.ESCAPE)
        page.await_("none selected", lambda: not self.chosen())
        page.open("Rider 1")
        page.press("z")
        page.await_("the sender's", lambda: sorted(self.chosen()) == self.letters[:3])
        page.press(Keys.ESCAPE)
        self.js("document.activeElement.blur()")
        ActionChains(page.browser).key_down(Keys.CONTROL).send_keys("a").key_up(Keys.CONTROL).perform()
        page.await_("all", lambda: "16 selected" in page.one(".list-picked").text)
        page.press("m")
        page.await_("all read", lambda: all(messages.get(self.served.room.reader(), n).seen for n in self.offers))
        page.press("u")
        page.await_("read as before", lambda: not messages.get(self.served.room.reader(), self.offers[0]).seen)

    def test_the_command_line_does_everything_by_name(self) -> None:
        """An action is found by its letters and asks for what it needs; Escape leaves things alone."""
        page = self.page
        page.open("Rider 0")
        page.press(":")
        field = page.one(".command-line input")
        field.send_keys("file in")
        page.await_("the action", lambda: "File in a folder" in page.one(".command-list").text)
        field.send_keys(Keys.ENTER)
        page.await_("the folders", lambda: "Spring tour" in page.one(".command-list").text)
        page.one(".command-line input").send_keys("sprtour", Keys.ENTER)
        self.await_place(self.letters[0], "folder-1")
        page.press(":")
        page.one(".command-line input").send_keys("go to", Keys.ENTER)
        page.await_("places", lambda: "Drain" in page.one(".command-list").text)
        page.one(".command-line input").send_keys("spring", Keys.ENTER)
        page.await_row("Rider 0")
        self.assertIn("/in/folder-1", page.browser.current_url)
        page.press("j")
        self.await_opened(self.letters[0])
        page.press("q")
        self.await_place(self.letters[0], "shelf")
        page.press(":")
        page.one(".command-line input").send_keys(Keys.ESCAPE)
        page.await_("the line to close", lambda: not page.all(".command"))

    def test_keys_can_be_chosen(self) -> None:
        """A key given to another action does that, and no longer what it did; all can be as they came."""
        page = self.page
        page.go("/settings/keyboard")
        button = page.one('[data-key-of="archive"]')
        button.click()
        button.send_keys("s")
        page.await_("the new key", lambda: "no longer" in page.one(".settings-keys .note").text)
        page.go("/in/shelf")
        page.open("Rider 2")
        page.press("s")
        self.await_place(self.letters[2], "archive")
        page.press("u")
        self.await_place(self.letters[2], "shelf")
        page.go("/settings/keyboard")
        page.await_("the way back", lambda: page.all(".settings-keys .plain-button"))
        page.one(".settings-keys .plain-button").click()
        page.await_("keys as they came", lambda: page.one('[data-key-of="put-1"]').text == "s")

    def test_looks_can_be_chosen(self) -> None:
        """Below, on a page of its own, in one line, without gauges: the same mail, and no page that scrolls sideways."""
        page = self.page
        looks: list[dict[str, Any]] = [
            {"reading": "below"}, {"reading": "off"}, {"density": "one", "gauge": False, "names": "both"},
        ]  # fmt: skip
        for look in looks:
            with self.subTest(look):
                self.arrange(**look)
                page.go("/in/shelf")
                page.await_rows()
                page.open_row(LONG[:40])
                page.await_("the text", lambda: page.all(".reading-text, .reading-frame"))
                self.assertLessEqual(self.js("return document.documentElement.scrollWidth"), 1280)
                self.assertIn("get-in", page.one(".reading-text").text)
                page.press(Keys.ESCAPE)
                page.await_rows()

    def test_unread_only_and_next_unread(self) -> None:
        """A key hides what is read; another leads from one unread message to the next."""
        page = self.page
        page.press("j")
        first = self.opened()
        page.press("n")
        page.await_("another", lambda: self.opened() != first)
        page.press("h")
        page.await_("unread alone", lambda: not page.all(".row-mail:not(.unread):not(.open)"))

    def test_more_and_less_leave_it_where_it_stands(self) -> None:
        """The effect tells the score, and why; the message stays."""
        page = self.page
        page.open("Rider 1")
        page.press("+")
        page.await_("the effect", lambda: "matters more" in page.effect())
        page.one(".effect-buttons button[aria-expanded]").click()
        page.await_("what changed", lambda: page.all(".effect-changes li"))
        self.assertEqual(self.place_of(self.letters[1]), "shelf")
        page.press("u")
        page.await_("undone", lambda: lessons.ledger(self.served.room.reader(), 0, 1)[0].undone)

    def test_a_refusal_is_seen(self) -> None:
        """What cannot be done says so in sight, and offers nothing to undo."""
        page = self.page
        page.open("Rider 1")
        page.press("q")
        page.await_("the refusal", lambda: "nothing to put back" in page.effect())
        self.assertEqual(page.all('.effect [data-act="undo"]'), [])

    def test_names_of_any_script_stay_in_their_place(self) -> None:
        """A right-to-left name does not turn its row round."""
        row = self.page.await_row("Rider 1")
        sender = row.find_element(By.CSS_SELECTOR, ".row-sender")
        self.assertEqual(sender.text, RTL)
        self.assertLess(sender.rect["x"], row.find_element(By.CSS_SELECTOR, ".row-time").rect["x"])
