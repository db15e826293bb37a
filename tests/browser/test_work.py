"""A day's mail worked through in the real interface: by keyboard alone, by mouse alone, and everything beside."""

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from hieranome.app import filing, searching
from hieranome.app.arrive import receive
from hieranome.app.mailroom import Mailroom
from hieranome.app.pictures import Pictures
from hieranome.mail.remote import fetch_picture
from hieranome.store import journal, lessons, messages, places, searches
from hieranome.web.state import Served
from tests.browser.driver import BrowserCase, Keys
from tests.mail.test_remote import loopback, shop
from tests.support import NOON, OWNER, Clock, letter, offer
from tests.web.test_workspace import laden, pictured

FORTY = 40
LONG = "Could you please confirm the new times for the get-in before noon today " * 4
RTL = "מרינה לוי"


class WorkCase(BrowserCase):
    def place_of(self, number: int) -> str:
        return messages.get(self.served.room.reader(), number).place

    def await_place(self, number: int, place: str) -> None:
        self.page.await_(f"message {number} in {place}", lambda: self.place_of(number) == place)

    def tally(self) -> dict[str, int]:
        return {place.name: place.total for place in places.every(self.served.room.reader()) if place.total}

    def chosen(self) -> list[int]:
        return [int(e.get_attribute("data-message") or 0) for e in self.page.all(".row-mail.selected")]

    def opened(self) -> int:
        return int(self.page.one(".reading[data-number]").get_attribute("data-number") or 0)

    def await_opened(self, number: int) -> None:
        self.page.await_(f"message {number} open", lambda: self.page.all(f'.reading[data-number="{number}"]'))


class ClearingTest(WorkCase):
    """Fifty questions on the Desk, each from somebody else."""

    numbers: list[int]

    @classmethod
    def make(cls, folder: Path) -> Served:
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
        return Served.of(room)

    def test_1_forty_messages_by_keyboard_alone(self) -> None:
        """Read, put, archived, flagged, thrown away and taken back, one key each; the store agrees with every key."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        page.press("o")
        self.addCleanup(self.js, "localStorage.clear()")
        page.await_("newest first", lambda: page.subjects()[0].startswith(f"Question {FORTY + 11}:"))
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
        desk = [n for n in self.numbers if self.place_of(n) == "desk"][:10]
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

    def drag(self, row: str, target: str) -> None:
        """Pull a row onto a target with the mouse held down."""
        source, end = self.page.one(f"{row} .row-text"), self.page.one(target)
        chain = ActionChains(self.page.browser, duration=30).click_and_hold(source).move_by_offset(6, 6)
        chain.move_to_element(end).pause(0.3).move_by_offset(2, 2).pause(0.3).release().perform()


class ManyTest(WorkCase):
    offers: list[int]
    letters: list[int]

    @classmethod
    def make(cls, folder: Path) -> Served:
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
        filing.add_folder(room, "Spring tour")
        return Served.of(room)

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
        page.go("/settings")
        page.one(".settings-keys summary").click()
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
        page.go("/settings")
        page.one(".settings-keys summary").click()
        page.await_("the way back", lambda: page.all(".settings-keys .plain-button"))
        page.one(".settings-keys .plain-button").click()
        page.await_("keys as they came", lambda: page.one('[data-key-of="put-1"]').text == "s")

    def test_looks_can_be_chosen(self) -> None:
        """Below, on a page of its own, in one line, without gauges: the same mail, and no page that scrolls sideways."""
        page = self.page
        for look in ('{"reading":"below"}', '{"reading":"off"}', '{"density":"one","gauge":false,"names":"both"}'):
            with self.subTest(look):
                self.js("localStorage.setItem('hieranome-look', arguments[0])", look)
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

    def test_names_of_any_script_stay_in_their_place(self) -> None:
        """A right-to-left name does not turn its row round."""
        row = self.page.await_row("Rider 1")
        sender = row.find_element(By.CSS_SELECTOR, ".row-sender")
        self.assertEqual(sender.text, RTL)
        self.assertLess(sender.rect["x"], row.find_element(By.CSS_SELECTOR, ".row-time").rect["x"])


class FindingTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Served:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        for number in range(8):
            receive(room, offer(number))
            receive(room, letter(f"Stage plan {number}", at=NOON + number, body=f"The plan for hall {number}."))
        return Served.of(room)

    def test_search_by_keyboard(self) -> None:
        """A key leads to the line; it completes, says what it understood, finds; what is found is worked on."""
        page = self.page
        page.go("/in/desk")
        page.await_("the page", lambda: page.all(".band"))
        page.press("/")
        field = page.one(".search-field")
        page.await_("the focus", lambda: page.browser.switch_to.active_element == field)
        field.send_keys("subject:stage fro")
        page.await_("a completion", lambda: "from:" in page.one(".search-suggestions").text)
        field.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
        page.await_("it taken", lambda: field.get_attribute("value") == "subject:stage from:")
        field.send_keys("brandel", Keys.ENTER)
        page.await_("the count", lambda: page.one(".list-count").text == "8 messages")
        page.await_("the sentence", lambda: "Mail “stage” in the subject, from “brandel”." in page.text())
        field.send_keys(Keys.ESCAPE)
        self.js("document.activeElement.blur()")
        page.press("j")
        number = self.opened()
        page.press("w")
        self.await_place(number, "archive")
        page.await_("its new place", lambda: "Archive" in page.text())

    def test_the_form_writes_the_line(self) -> None:
        """Fields become operators; the line shows in them again; a search is saved and found again."""
        page = self.page
        page.go("/search")
        page.one(".search-line .quiet-button").click()
        page.await_("the form", lambda: page.all(".search-form"))
        page.one('.search-form label[title^="Words of the subject"] input').send_keys("stage plan")
        page.await_("the line", lambda: page.one(".form-line code").text == 'subject:"stage plan"')
        page.one(".form-line button").click()
        page.await_("the hits", lambda: page.one(".list-count").text == "8 messages")
        next(e for e in page.all(".list-head button") if e.text == "Save").click()
        page.await_("it saved", lambda: searches.every(self.served.room.reader()))
        page.go("/search")
        page.one(".search-saved .plain-button").click()
        page.await_("the hits again", lambda: page.one(".list-count").text == "8 messages")

    def test_what_is_wrong_is_said_while_writing(self) -> None:
        """A line that cannot be understood says why, and how to mend it."""
        page = self.page
        page.go("/search")
        page.one(".search-field").send_keys("bucket:cellar ")
        page.await_("the sentence", lambda: "There is no bucket or folder called" in page.text())
        saved = searching.save(self.served.room, "Later", "list:birchbow")
        self.addCleanup(searching.forget, self.served.room, saved.id)
        page.await_("the saved search", lambda: "Later" in page.text())


class ReadingTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Served:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        cls.papers = receive(room, laden()) or 0
        cls.first = receive(room, letter("Harps", message_id="<h1@x.example>", body="First words.", at=NOON)) or 0
        cls.second = (
            receive(
                room,
                letter(
                    "Re: Harps",
                    message_id="<h2@x.example>",
                    In_Reply_To="<h1@x.example>",
                    body="Second words.\n\nMaren wrote:\n> First words.",
                    at=NOON + 60,
                ),
            )
            or 0
        )
        return Served.of(room)

    papers: int
    first: int
    second: int

    def test_the_thread_stands_around_its_message(self) -> None:
        """Unread parts are open, quoted text is folded; without threads the message stands alone."""
        page = self.page
        self.addCleanup(self.js, "localStorage.clear()")
        page.go(f"/in/desk/{self.second}")
        page.await_("the earlier part open", lambda: "First words." in page.one(".thread-text").text)
        quoted = page.one(".is-current .reading-quoted")
        self.assertNotIn("First words", quoted.text)
        quoted.find_element(By.TAG_NAME, "summary").click()
        page.await_("the quoted words", lambda: "First words" in quoted.text)
        self.js("localStorage.setItem('hieranome-look', '{\"threads\":false}')")
        page.go(f"/in/desk/{self.second}")
        page.await_("the message", lambda: page.all(".is-current"))
        self.assertEqual(page.all(".thread"), [])

    def test_attachments_are_shown_in_place(self) -> None:
        """A picture, a text, a card for the invitation; headers on request."""
        page = self.page
        page.go(f"/in/desk/{self.papers}")
        page.await_("the card", lambda: "Get-in, Salt Hall" in page.one(".invitation").text)
        shows = [e for e in page.all(".reading-parts button") if e.text == "Show"]
        self.assertEqual(len(shows), 2)
        shows[0].click()
        page.await_("the text", lambda: "rider line" in page.one(".part-shown pre").text)
        page.one(".reading-foot button").click()
        page.await_("the headers", lambda: "über" in page.one(".details-headers").text)

    def test_pictures_are_fetched_when_asked_for(self) -> None:
        """A key shows them; the sender can be trusted for always, and taken off the list in the settings."""
        page = self.page
        with shop() as (address, asked):
            self.served.pictures = Pictures(self.served.room, lambda url: fetch_picture(url, loopback))
            number = receive(self.served.room, pictured(address)) or 0
            page.go(f"/in/desk/{number}")
            page.await_("the note", lambda: "2 pictures" in page.one(".reading-blocked").text)
            self.assertEqual(asked, [])
            page.press("i")
            page.await_("the pictures asked for", lambda: len(asked) >= 2)
            page.go(f"/in/desk/{number}")
            page.await_("the offer", lambda: page.all(".reading-blocked button"))
            page.all(".reading-blocked button")[1].click()
            page.await_("the sender trusted", lambda: searches.pictured(self.served.room.reader()))
            page.go("/settings")
            page.await_("the list", lambda: "news@birchbow.example" in page.text())
            page.one('[aria-label^="Ask again before"]').click()
            page.await_("the list empty", lambda: not searches.pictured(self.served.room.reader()))

    def test_buckets_of_ones_own_and_their_notices(self) -> None:
        """Made in the settings, on the band with a key of its own, named by the spine when enough waits."""
        page, room = self.page, self.served.room
        page.go("/settings")
        page.one('[aria-label="New bucket"]').send_keys("Paperwork", Keys.ENTER)
        page.await_("the bucket", lambda: page.all('[aria-label="Notice at, for Paperwork"]'))
        notice = page.one('[aria-label="Notice at, for Paperwork"]')
        notice.clear()
        notice.send_keys("1", Keys.TAB)
        page.await_("it kept", lambda: any(p.notice == 1 for p in places.every(room.reader())))
        number = receive(room, letter("Form 7 to be signed", sender="forms@office.example")) or 0
        page.go(f"/in/desk/{number}")
        page.await_("it read", lambda: messages.get(room.reader(), number).seen)
        page.press("g")
        self.await_place(number, "bucket-1")
        filing.mark(room, [number], "unread")
        page.await_("the notice", lambda: "1 wait" in page.one(".spine-waiting").text)
        self.assertEqual([step.kind for step in journal.recent(room.reader(), 0, 2)], ["marked", "verdict"])
