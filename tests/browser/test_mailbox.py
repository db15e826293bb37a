"""A mailbox connected, watched, written from and left, in the real interface; and the door before it."""

from __future__ import annotations

import socket
from pathlib import Path

from selenium.webdriver.remote.webelement import WebElement

from hieranome.app import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.mail.finding import Finder
from hieranome.mail.imap import Imap
from hieranome.standin.imap_server import ImapServer
from hieranome.standin.imap_site import Account
from hieranome.standin.names import NameServer
from hieranome.standin.postbox import Postbox
from hieranome.standin.smtp_sink import SmtpSink
from hieranome.store import drafts, lessons
from tests.browser.driver import BrowserCase, Keys, resize
from tests.mail.servers import LOGIN, SECRET, USER, Standin, contexts
from tests.support import NOON, OWNER, crlf, letter, offer

BEGINNINGS = ["Import files", "Try it on your archive"]
ILSE = "Ilse Vann <vann@northpier.example>"


class FormCase(BrowserCase):
    """Helpers for forms."""

    def fill(self, selector: str, text: str) -> None:
        """Put a text into a field."""
        field = self.page.one(selector)
        field.send_keys(Keys.CONTROL, "a")
        field.send_keys(text)

    def button(self, text: str) -> WebElement:
        """A button or link that begins so, once it can be pressed."""

        def find() -> WebElement | None:
            found = self.page.all("button, a")
            return next((e for e in found if e.text.startswith(text) and e.is_enabled() and e.is_displayed()), None)

        return self.page.await_(f"a button “{text}”", find)  # type: ignore[return-value]


class MailboxTest(FormCase):
    """From nothing to a mailbox that is left again."""

    standin: Standin
    sink: SmtpSink
    other: Imap

    @classmethod
    def make(cls, folder: Path) -> Service:
        cls.standin = Standin()
        cls.addClassCleanup(cls.standin.close)
        cls.sink = SmtpSink({USER: SECRET})
        cls.sink.start()
        cls.addClassCleanup(cls.sink.close)
        cls.other = Imap.connect(cls.standin.server, LOGIN)
        cls.addClassCleanup(cls.other.close)
        for number in range(8):
            cls.standin.box.append("INBOX", crlf(offer(number)))
        cls.standin.box.append("INBOX", crlf(letter("Seating for the 19th", sender=ILSE)), ["\\Seen", "\\Answered"])
        cls.standin.box.append("INBOX", crlf(letter("Rider questions", sender=ILSE, at=NOON + 50)))
        served, trust = contexts(folder.parent, 30, "box.hall.example", "mail.provider.example")
        box = Postbox()
        cls.addClassCleanup(box.close)
        found = ImapServer({USER: Account(box, SECRET)}, tls=served)
        sending = SmtpSink({USER: SECRET}, tls=served)
        names = NameServer(
            {
                "_imaps._tcp.hall.example": [(0, 0, 993, "box.hall.example")],
                "_submissions._tcp.hall.example": [(0, 0, 465, "mail.provider.example")],
            }
        )
        for one in (found, sending, names):
            one.start()
            cls.addClassCleanup(one.close)
        roads = {"box.hall.example": found.port, "mail.provider.example": sending.port}

        def connect(host: str, port: int, timeout: float) -> socket.socket:
            if host not in roads:
                raise ConnectionRefusedError(111, "Connection refused")
            return socket.create_connection(("127.0.0.1", roads[host]), timeout)

        made = Service.of(Mailroom(folder), open_to_all=True, poll=0.3)
        made.finder = Finder(names.resolver(), connect, trust)
        return made

    def count(self, folder: str) -> int:
        """How many messages a folder holds on the server."""
        return len(self.standin.box.uids(folder))

    def test_1_connected_step_by_step(self) -> None:
        """A wrong password is told in the form; then what is there, the reading, the proposal; nothing moves until then."""
        page = self.page
        page.go("/in/shelf")
        for width in (1280, 700):  # beside the list, and where it is alone in it
            resize(page.browser, width, 700)
            self.addCleanup(resize, page.browser, 1280, 800)
            self.button("Connect a mailbox")
            self.assertEqual([e.text for e in page.all(".begin .plain-button") if e.is_displayed()], BEGINNINGS)
            self.assertIn("There is no mail yet", page.text())
        resize(page.browser, 1280, 800)
        page.go("/in/desk")
        self.button("Connect a mailbox").click()
        self.fill("#box-address", "maren@hall.example")
        self.fill("#box-name", "Maren Aldous")
        page.await_("the servers", lambda: "box.hall.example, named by its DNS" in page.text())
        self.assertIn("mail.provider.example is not of hall.example", page.text())
        self.assertFalse(page.one(".strong-button").is_enabled())
        page.one("#box-foreign").click()
        self.assertTrue(self.button("Try it").is_enabled())
        self.fill("#box-address", OWNER)
        page.one("#box-name").click()
        page.await_("no servers", lambda: "no server of quillmark.example answered" in page.text())
        self.assertEqual(page.one("[aria-label='IMAP server']").get_attribute("value"), "")
        self.assertFalse(page.one(".strong-button").is_enabled())
        self.fill("#box-user", USER)
        self.fill("#box-secret", "a-wrong-secret")
        self.fill("[aria-label='IMAP server']", "127.0.0.1")
        self.fill("[aria-label='IMAP port']", str(self.standin.imap.port))
        self.fill("[aria-label='SMTP server']", "127.0.0.1")
        self.fill("[aria-label='SMTP port']", str(self.sink.port))
        for name in ("IMAP encryption", "SMTP encryption"):
            page.one(f"[aria-label='{name}'] option[value='plain']").click()
        self.button("Try it").click()
        page.await_("the refusal", lambda: "does not let maren in" in page.text())
        self.assertEqual(page.one("#box-user").get_attribute("value"), USER)
        self.fill("#box-secret", SECRET)
        self.button("Try it").click()
        page.await_("what is there", lambda: "10 messages" in page.text())
        self.button("Connect and read").click()
        self.first_round()
        page.await_("the proposal", lambda: "Of your newest 10 messages" in page.text())
        self.assertEqual(self.count("INBOX"), 10)
        self.button("Let it route").click()
        page.await_("the Desk", lambda: "/in/desk" in page.browser.current_url)
        page.await_("the moves", self.moved)

    def first_round(self) -> None:
        """An answer by key, taken back; another with the others like it; one passed over; then enough."""
        page, store = self.page, self.served.room.reader
        page.await_("a question", lambda: "Question 1 of 10" in page.text())
        asked = page.one(".round-message h3").text
        page.press("f")
        page.await_("the next question", lambda: "Question 2 of 10" in page.text())
        self.assertRegex(page.one(".round-effect").text, r"It is in the Drain\. \d+ other messages followed\.")
        page.one(".round-effect button").click()
        page.await_("the question again", lambda: "Question 1 of 10" in page.text())
        self.assertEqual(page.one(".round-message h3").text, asked)
        self.assertEqual(lessons.teaching(store()), [])
        page.one("#round-follow").click()
        page.one(".round-answers [data-put='drain']").click()
        page.await_("the next question", lambda: "Question 2 of 10" in page.text())
        self.assertIn("would follow", page.one(".round-effect").text)
        self.button("Pass over").click()
        page.await_("the end", lambda: "There is no more to ask." in page.text())
        self.button("Show where mail would go").click()

    def moved(self) -> bool:
        """Whether the server has every message in the folder of its place."""
        rows = self.served.room.reader().execute(
            "SELECT count(*) FROM copies AS c JOIN folders AS f ON f.id = c.folder JOIN messages AS m ON m.id = c.message"
            " WHERE m.decided_by = 'model' AND f.place <> iif(m.place = 'undecided', 'desk', m.place)"
        )
        return int(rows.fetchone()[0]) == 0

    def test_2_a_move_in_another_program_shows_here(self) -> None:
        """It is a lesson, with a line in the journal, and the list follows."""
        page = self.page
        self.standin.box.append("INBOX", crlf(letter("Carnet for the timpani", sender=ILSE, at=NOON + 90)))
        page.go("/search?line=carnet")
        page.await_row("Carnet for the timpani")
        before = len(lessons.teaching(self.served.room.reader()))
        folder = next(f.name for f in self.standin.box.folders() if self.holds(f.name, b"Carnet for the timpani"))
        uid = max(self.standin.box.uids(folder))
        if not any(one.name == "Hieranome/Drain" for one in self.standin.box.folders()):
            self.standin.box.create("Hieranome/Drain")
        self.standin.box.move(folder, [uid], "Hieranome/Drain")
        page.await_("the lesson", lambda: len(lessons.teaching(self.served.room.reader())) == before + 1)
        page.go("/journal")
        page.await_("the line", lambda: "in another program" in page.text())

    def holds(self, folder: str, part: bytes) -> bool:
        """Whether a folder's newest message holds these bytes."""
        uids = self.standin.box.uids(folder)
        return bool(uids) and part in self.standin.box.raw(folder, uids[-1])

    def test_3_a_draft_of_another_program_goes_on_here(self) -> None:
        """With what stood in it; begun once, whichever way it is opened again."""
        page = self.page
        raw = letter("Seats for the party", sender=OWNER, to=ILSE, body="Eight, please.", at=NOON + 120)
        self.standin.box.append("Drafts", crlf(raw), ["\\Draft"])
        page.go("/in/drafts")
        page.open("Seats for the party")
        page.one('[data-act="go-on"]').click()
        page.await_("the draft", lambda: "/outgoing/" in page.browser.current_url)
        self.assertEqual(page.one(".draft-text").get_attribute("value"), "Eight, please.")
        page.go("/in/drafts")
        page.open("Seats for the party")
        page.press("p")
        page.await_("the draft", lambda: "/outgoing/" in page.browser.current_url)
        self.assertEqual(len(page.all(".drafts-list li")), 1)
        self.button("Discard").click()
        page.await_("no draft", lambda: not page.all(".drafts-list li"))

    def test_3b_a_reply_is_written_taken_back_and_sent(self) -> None:
        """By keyboard: the quote stands below, the way back holds it, and then it goes once."""
        page = self.page
        page.go("/search?line=rider")
        page.open("Rider questions")
        page.press("p")
        text = page.one(".draft-text")
        self.assertIn("> Can you confirm the risers today?", text.get_attribute("value"))
        page.press("Yes, both of them.")
        page.press(Keys.CONTROL + Keys.ENTER)
        page.await_("the outbox", lambda: page.all(".notices button"))
        page.one(".notices button").click()
        page.await_("the draft", lambda: page.all(".draft-text"))
        self.assertEqual(self.sink.taken, [])
        self.assertTrue(page.one(".draft-text").get_attribute("value").startswith("Yes, both of them."))
        page.press(Keys.CONTROL + Keys.ENTER)
        page.await_("the sending", lambda: self.sink.taken)
        self.assertEqual(len(self.sink.taken), 1)
        self.assertEqual(self.sink.taken[0].recipients, ["vann@northpier.example"])
        page.await_("the copy in Sent", lambda: self.count("Sent") == 1)

    def test_4_a_new_letter_with_a_file_and_a_completed_address(self) -> None:
        """The address is offered by name; a file goes along; what is no address is told and nothing is lost."""
        page = self.page
        page.go("/outgoing")
        self.button("Write").click()
        field = page.one(".draft-form input[role='combobox']")
        field.send_keys("vann")
        page.await_("the offer", lambda: page.all(".people-offered li"))
        field.send_keys(Keys.ARROW_DOWN, Keys.ENTER)
        self.assertEqual(field.get_attribute("value"), '"Ilse Vann" <vann@northpier.example>, ')
        field.send_keys("nobody")
        sent = len(self.sink.taken)
        field.send_keys(Keys.ENTER, Keys.BACKSPACE * 6, "vann")
        page.await_("the offer", lambda: page.all(".people-offered li"))
        field.send_keys(Keys.ENTER)
        self.assertEqual(field.get_attribute("value"), '"Ilse Vann" <vann@northpier.example>, ' * 2)
        field.send_keys("new@person.example", Keys.ENTER)
        self.assertTrue(field.get_attribute("value").endswith("new@person.example, "))
        field.send_keys(Keys.ENTER)
        page.one("#draft-subject").send_keys(Keys.ENTER)
        field.send_keys(Keys.CONTROL + Keys.ENTER)
        page.await_("what is missing", lambda: "neither subject nor text" in page.text())
        self.assertEqual(len(drafts.in_state(self.served.room.reader(), "waiting", "handing")), 0)
        self.assertEqual(len(self.sink.taken), sent)
        field.send_keys(Keys.CONTROL + "a")
        field.send_keys("nobody")
        page.one("#draft-subject").send_keys("The plan")
        attached = Path(self.served.room.store.folder) / "plan.txt"
        attached.write_text("stage left")
        page.one(".draft-acts input[type='file']").send_keys(str(attached))
        page.await_("the file", lambda: "plan.txt" in page.one(".draft-files").text)
        self.button("Send").click()
        page.await_("the refusal", lambda: "“nobody” is no address" in page.text())
        self.assertEqual(page.one("#draft-subject").get_attribute("value"), "The plan")
        page.one(".draft-text").send_keys("typed at the last moment")
        self.button("Discard").click()
        page.await_("nothing left", lambda: "0 not sent" in page.text())
        self.assertIn("Discarded the draft “The plan”", page.effect())
        page.one('[data-act="undo"]').click()
        page.await_("it is back", lambda: "1 not sent" in page.text())
        page.one(".drafts-list li a").click()
        self.assertEqual(page.one(".draft-text").get_attribute("value"), "typed at the last moment")
        self.assertIn("plan.txt", page.one(".draft-files").text)
        self.button("Discard").click()
        page.await_("nothing left", lambda: "0 not sent" in page.text())

    def test_5_tabs_share_one_stream(self) -> None:
        """With three tabs open one listens, and all of them follow; when it closes, another takes over."""
        page = self.page
        browser = page.browser
        events = self.served.room.events
        before = events.listening
        browser.get("about:blank")
        page.await_("the stream to end", lambda: events.listening < before)
        alone = events.listening
        page.go("/in/shelf")
        page.await_("the band", lambda: page.all(".band-segment"))
        first = browser.current_window_handle
        tabs = [first]
        for _ in range(2):
            browser.switch_to.new_window("tab")
            page.go("/in/shelf")
            page.await_("the band", lambda: page.all(".band-segment"))
            tabs.append(browser.current_window_handle)
        self.assertEqual(events.listening - alone, 1)
        for tab in tabs[1:]:
            browser.switch_to.window(tab)
            self.follows(f"seen in {tab[:6]}")
        browser.switch_to.window(first)
        browser.close()
        browser.switch_to.window(tabs[1])
        self.follows("after the first tab closed")
        browser.switch_to.window(tabs[2])
        browser.close()
        browser.switch_to.window(tabs[1])

    def follows(self, title: str) -> None:
        """The open tab hears of a new folder."""
        arranging.add_folder(self.served.room, title)
        self.page.await_("the folder", lambda: title in self.page.one(".spine-quiet").text)

    def test_6_left_with_everything_put_back(self) -> None:
        """The page tells what was found on the server; then the mailbox is forgotten."""
        page = self.page
        page.go("/mailboxes")
        self.button("Leave").click()
        page.one("input[value='back']")
        self.js("document.querySelector(\"input[value='back']\").click()")
        self.button("Put everything back").click()
        page.await_("the end", lambda: "were looked for and found on the server" in page.text())
        self.assertEqual([f.name for f in self.standin.box.folders() if f.name.startswith("Hieranome/")], [])
        self.button("Forget this mailbox here").click()
        page.await_("no mailbox", lambda: "None yet" in page.text())
        self.assertEqual([one for one in page.problems() if "status of 422" not in one], [])


class EntryTest(FormCase):
    """A server that wants a password."""

    code: str

    @classmethod
    def make(cls, folder: Path) -> Service:
        served = Service.of(Mailroom(folder))
        cls.code = served.entry.code
        return served

    def test_the_door(self) -> None:
        """The code sets a password; a refusal is seen on every page; signed out, a wrong one is told, the right one opens."""
        page = self.page
        page.go("/in/desk")
        self.fill("#entry-code", self.code)
        self.fill("#entry-password", "a quill and a mark")
        self.button("Set the password").click()
        page.await_("the Desk", lambda: page.all(".band-segment"))
        page.go("/settings")
        page.await_("the page", lambda: page.all("#addresses"))
        page.press("l")
        page.await_("the refusal in sight", lambda: "No mailbox is connected" in page.one(".notices").text)
        page.go("/settings/data")
        self.button("Sign out").click()
        page.await_("the door", lambda: page.all("#entry-password"))
        self.fill("#entry-password", "something else")
        self.button("Sign in").click()
        page.await_("the refusal", lambda: "This is not the password" in page.text())
        self.fill("#entry-password", "a quill and a mark")
        page.press(Keys.ENTER)
        page.await_("inside", lambda: page.all(".spine"))
        self.assertEqual(page.browser.execute_script("return document.cookie"), "")
