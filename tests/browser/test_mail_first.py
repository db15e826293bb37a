"""The mail comes first: its text has the room, what is told about it stands behind a press, and what happened is told."""

import json
import time
from email.message import EmailMessage
from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import resize
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, Clock, offer

SHARE = (
    "const side = document.querySelector('.mail-side').getBoundingClientRect();"
    "const text = document.querySelector('.reading-frame').getBoundingClientRect();"
    "return (Math.min(side.bottom, text.bottom) - Math.max(side.top, text.top)) / side.height"
)


def laden(number: int) -> bytes:
    """A long HTML message with a picture from elsewhere and an attachment."""
    message = EmailMessage()
    message["From"] = f"Ilse Vann <ilse{number}@hall.example>"
    message["To"] = OWNER
    message["Subject"] = f"Technical rider, sheet {number}"
    message["Date"] = "Thu, 09 Oct 2025 10:00:00 +0000"
    message["Message-ID"] = f"<laden{number}@hall.example>"
    message.set_content("See the page.")
    page = "".join(f"<p>Riser {at} stands behind the strings.</p>" for at in range(60))
    message.add_alternative(f'<img src="https://hall.example/a.png">{page}', subtype="html")
    message.add_attachment("plan", subtype="plain", filename="plan.txt")
    return message.as_bytes()


class MailFirstTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        cls.laden = [receive(room, laden(number)) or 0 for number in range(3)]
        cls.offers = [receive(room, offer(number)) or 0 for number in range(5)]
        with room.change() as db:  # none of them a question: those are let go by themselves once they are answered
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model', asked = 0 WHERE place = 'undecided'")
        return Service.of(room, open_to_all=True)

    def test_the_text_has_the_room(self) -> None:
        """Just after a verdict, pictures blocked and a file attached, the message's own frame takes three fifths."""
        page = self.page
        for width in (1280, 900):
            resize(page.browser, width, 800)
            self.addCleanup(resize, page.browser, 1280, 800)
            page.go(f"/in/{self.place_of(self.laden[0])}/{self.laden[0]}")
            page.await_("the text", lambda: page.all(".reading-frame"))
            page.await_rows()  # among them is the next one
            page.press("s" if width == 1280 else "d")
            page.await_("the effect", lambda: page.all(".effect-text"))
            page.await_("the next one", lambda: page.all(".reading-frame") and page.all(".reading-blocked"))
            page.await_("its file", lambda: page.all(".reading-parts"))
            page.await_(f"its height at {width}", lambda: self.js(SHARE) >= 0.6)
            page.press("u")
            page.await_("the way back", lambda: "Undone" in page.effect())

    def test_all_that_weighs_is_a_key_away_and_remembered(self) -> None:
        """One row by default; the key shows the balance, also after the page is loaded again, and takes it away."""
        page = self.page
        page.go(f"/in/{self.place_of(self.laden[0])}/{self.laden[0]}")
        page.one(".score-reason")
        self.assertEqual(page.all(".evidence"), [])
        page.press("c")
        page.await_("the balance", lambda: page.all(".evidence"))
        page.go(f"/in/{self.place_of(self.laden[1])}/{self.laden[1]}")
        page.await_("it again", lambda: page.all(".evidence"))
        page.press("c")
        page.await_("the row alone", lambda: not page.all(".evidence"))

    def test_the_bar_stands_where_there_is_something_to_decide(self) -> None:
        """With nothing open or selected there is none; with something there is."""
        page = self.page
        page.go(f"/in/{self.place_of(self.offers[0])}")
        page.await_rows()
        self.assertEqual(page.all(".verdict-row"), [])
        page.press("j")
        page.await_("the bar", lambda: page.all(".verdict-row"))

    def test_what_happened_meanwhile_is_told(self) -> None:
        """Coming back after a while, what came and where it stands is told where nothing is open."""
        page = self.page
        page.go("/api/about")  # of the same origin, and nothing there notes a visit
        visit = json.dumps({"newest": self.laden[-1], "at": NOON - 90_000})
        self.js("localStorage.setItem('hieranome-last-visit', arguments[0])", visit)
        self.js("localStorage.removeItem('hieranome-visit-before')")
        page.go("/in/desk")
        told = page.await_("what happened", lambda: page.one(".lately").text)
        self.assertIn("Since you were last here", told)
        self.assertIn("5 messages came", told)
        page.go("/in/desk")
        page.await_("the same after loading again", lambda: "5 messages came" in page.one(".lately").text)

    def test_the_journal_of_one_message(self) -> None:
        """What happened to it opens from the message, in sentences; what was undone says so."""
        page = self.page
        number = self.offers[1]
        page.go(f"/in/{self.place_of(number)}/{number}")
        page.await_("the message", lambda: page.all(".reading-foot"))
        page.press("f")
        self.await_place(number, "drain")
        page.press("u")
        page.await_("the way back", lambda: "Undone" in page.effect())
        page.go(f"/in/{self.place_of(number)}/{number}")
        page.await_("the message again", lambda: page.all(".reading-foot button"))
        next(e for e in page.all(".reading-foot button") if "happened" in e.text).click()
        told = page.await_("the journal", lambda: page.one(".message-journal").text)
        self.assertIn("You put it in the Drain.", told)
        self.assertIn("undone", told)


class LookedPastTest(WorkCase):
    """What stood in sight and was gone past is told to the server when the bucket is left."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        cls.offers = [receive(room, offer(number)) or 0 for number in range(6)]
        return Service.of(room, open_to_all=True)

    def told(self) -> list[int]:
        """The messages the store holds to have been looked past."""
        db = self.served.room.store.reader()
        return sorted(row[0] for row in db.execute("SELECT message FROM silences"))

    def test_rows_gone_past_teach_and_others_do_not(self) -> None:
        """The rows above the one that was opened count, once the bucket is left; those below it do not."""
        page = self.page
        place = self.place_of(self.offers[0])
        page.go(f"/in/{place}")
        page.await_("the rows", lambda: len(page.all(".row-mail")) == 6)
        ids = [int((row.get_attribute("id") or "0").removeprefix("mail-")) for row in page.all(".row-mail")]
        began = time.monotonic()
        page.await_("some seconds", lambda: time.monotonic() - began > 5)
        page.all(".row-mail")[3].click()
        page.await_("the open one", lambda: page.all(".reading-foot"))
        page.await_("a second", lambda: time.monotonic() - began > 7.5)
        self.assertEqual(self.told(), [])
        page.go_to("drain" if place != "drain" else "shelf")
        page.await_("the report", lambda: self.told())
        self.assertEqual(self.told(), sorted(ids[:3]))
