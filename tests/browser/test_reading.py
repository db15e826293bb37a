"""Finding and reading mail in the real interface: the search line, threads, attachments, pictures, own buckets."""

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from hieranome.app import filing, searching
from hieranome.app.arrival.arrive import receive
from hieranome.app.pictures import Pictures
from hieranome.app.room import marks
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.mail.remote import fetch_picture
from hieranome.store import journal, messages, places, searches
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.mail.test_remote import loopback, shop
from tests.support import NOON, OWNER, Clock, letter, offer
from tests.web.test_workspace import laden, pictured


class FindingTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        for number in range(8):
            receive(room, offer(number))
            receive(room, letter(f"Stage plan {number}", at=NOON + number, body=f"The plan for hall {number}."))
        return Service.of(room, open_to_all=True)

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
        page.one(".command-line input").send_keys("Stage plans", Keys.ENTER)
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
    def make(cls, folder: Path) -> Service:
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
        return Service.of(room, open_to_all=True)

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
        self.arrange(threads=False)
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

    def test_keys_reach_the_page_out_of_a_message(self) -> None:
        """With the focus within HTML mail, where it is after opening, keys still do what they do."""
        page = self.page
        number = receive(self.served.room, pictured("https://birchbow.example").replace(b"Look", b"Look inside")) or 0
        self.addCleanup(filing.file_away, self.served.room, [number], "trash")
        page.go(f"/in/desk/{number}")
        page.await_("the frame", lambda: self.js("return !!document.querySelector('iframe')?.contentDocument?.body"))
        page.press(Keys.ENTER)
        page.await_("the focus within", lambda: self.js("return document.activeElement.tagName") == "IFRAME")
        ActionChains(page.browser).send_keys("b").perform()
        page.await_("the flag", lambda: messages.get(self.served.room.reader(), number).flagged)
        ActionChains(page.browser).send_keys("?").perform()
        page.await_("the keys", lambda: "Undo the latest step" in page.text())
        ActionChains(page.browser).send_keys(Keys.ESCAPE).perform()

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
            page.go("/settings/senders")
            page.await_("the list", lambda: "news@birchbow.example" in page.text())
            page.one('[aria-label^="Ask again before"]').click()
            page.await_("the list empty", lambda: not searches.pictured(self.served.room.reader()))

    def test_buckets_of_ones_own_and_their_notices(self) -> None:
        """Made in the settings, on the band with a key of its own, named by the spine when enough waits."""
        page, room = self.page, self.served.room
        page.go("/settings/buckets")
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
        marks.mark(room, [number], "unread")
        page.await_("the notice", lambda: "1 wait" in page.one(".spine-waiting").text)
        self.assertEqual([step.kind for step in journal.recent(room.reader(), 0, 2)], ["marked", "verdict"])

    def test_a_bucket_switched_off_leaves_the_band(self) -> None:
        """Its mail goes where the settings say, the band and the keys do without it, and it comes back."""
        page, room = self.page, self.served.room

        def band() -> list[str]:
            return [one.get_attribute("data-place") or "" for one in page.all(".band-segment")]

        with room.change() as db:
            held = receive(room, letter("Form 9", sender="forms@office.example")) or 0
            messages.move(db, held, "digest", "model")
        page.go("/settings/buckets")
        choice = '[aria-label="Where mail of Digest goes"]'
        page.one(f"{choice} option[value='shelf']").click()
        page.await_("what needs it", lambda: page.all(".bucket-asks .strong-button"))[0].click()
        page.await_("it said", lambda: "Digest is switched off" in page.text())
        self.assertEqual(messages.get(room.reader(), held).place, "shelf")
        page.go("/in/shelf")
        page.await_row("Form 9")
        self.assertNotIn("digest", band())
        page.go("/settings/buckets")
        page.one(f"{choice} option[value='']").click()
        page.await_("it used again", lambda: "Digest is used again" in page.text())
        page.go("/in/shelf")
        page.await_("the band whole", lambda: "digest" in band())
