"""Following through, by keyboard alone: due, parked, owed, asked again, sent at a time and stopped."""

from __future__ import annotations

import time
from dataclasses import replace
from pathlib import Path

from hieranome.app.arrival.arrive import take_in
from hieranome.app.following.due import told
from hieranome.app.following.returning import deliver
from hieranome.app.reading.incoming import Placed, prepare
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.core.times import DAY
from hieranome.core.when import read_moment
from hieranome.store import accounts, drafts, following
from hieranome.store.accounts import NewAccount
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter


class FollowingTest(WorkCase):
    """A Desk with three messages, a question of the owner's that nobody answered, and a mailbox to send from."""

    in_trays = True
    number: dict[str, int]
    ahead = 0
    begun = int(time.time())

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, clock=lambda: int(time.time()) + cls.ahead)
        room.set_owner([OWNER])
        cls.number = {}
        mail = [letter("Roster", at=cls.begun - 300, body="The roster closes on Monday at 14:00."),
                letter("Trucks", at=cls.begun - 200, body="All is well."), letter("Hotel", at=cls.begun - 100, body="So.")]  # fmt: skip
        asked = letter("Crates", sender=OWNER, to="Ilse <ilse@hall.example>", at=cls.begun - 4 * DAY,
                       body="We load at nine.\n\nWhich gate shall we use?")  # fmt: skip
        with room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            accounts.update(db, account, paused=1)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
            for name, raw in zip(("Roster", "Trucks", "Hotel"), mail, strict=True):
                cls.number[name] = take_in(room, db, prepare(raw, NOON)) or 0
            mine = replace(prepare(asked, NOON), stands=Placed("sent", "own"))
            cls.number["Crates"] = take_in(room, db, mine) or 0
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model' WHERE decided_by <> 'own'")
        return Service.of(room, open_to_all=True)

    def state(self, kind: following.Kind, name: str) -> following.State | None:
        """What is noted of a message."""
        return following.get(self.served.room.reader(), kind, self.number[name])

    def type_time(self, said: str) -> None:
        """Type a time into the command line that asks for one."""
        page = self.page
        page.await_("the line to ask", lambda: page.all(".command-line input"))
        page.one(".command-line input").send_keys(said)
        page.await_("it understood", lambda: page.all(".command-list [aria-selected='true'] .command-about"))
        page.one(".command-line input").send_keys(Keys.ENTER)
        page.await_("the line to close", lambda: not page.all(".command"))

    def test_1_due_by_a_typed_time_and_by_the_text(self) -> None:
        """A typed time is told back before it counts; what is none is said to be none; a date of the text is offered."""
        page = self.page
        page.go("/in/desk")
        page.open("Hotel")
        page.press("E")
        field = page.await_("the line", lambda: page.one(".command-line input"))
        field.send_keys("soonish")
        page.await_("the refusal", lambda: "no time that is understood" in page.one(".command").text)
        field.send_keys(Keys.BACKSPACE * 7, "today")
        shown = told(self.served.room, read_moment("today", self.served.room.now()))
        page.await_("what is understood", lambda: shown in page.one(".command-list").text)
        field.send_keys(Keys.ENTER)
        page.await_("it due", lambda: self.state("due", "Hotel"))
        page.await_("its tray", lambda: page.all('.tray[data-tray="Due and back"] .row-mail'))
        self.assertIn("1 due", page.one(".band").text)
        page.open("Roster")
        page.press("E")
        page.await_("the text's date", lambda: "Monday at 14:00" in page.one(".command-list").text)
        page.one(".command-line input").send_keys(Keys.ENTER)
        page.await_("it due", lambda: self.state("due", "Roster"))
        page.press("C")
        page.await_("it done", lambda: self.state("due", "Roster") is None)
        page.press("u")
        page.await_("it due again", lambda: self.state("due", "Roster"))

    def test_2_parked_and_back(self) -> None:
        """Out of sight, in the place of what is parked, and at the head of the Desk when its time has come."""
        page = self.page
        page.go("/in/desk")
        page.open("Trucks")
        page.press("Z")
        self.type_time("in 2 days at 9:00")
        self.await_place(self.number["Trucks"], "parked")
        page.await_gone("Trucks")
        page.go("/in/parked")
        page.await_("what it waits for", lambda: "09:00" in page.text())
        type(self).ahead += 3 * DAY
        deliver(self.served.room)
        page.go("/in/desk")
        page.await_("it back", lambda: "back after 3 days" in page.one('.tray[data-tray="Due and back"]').text)

    def test_3_owed_and_asked_again(self) -> None:
        """The question nobody answered is listed with its sentence; asked again it is a draft that quotes it."""
        page = self.page
        page.go("/follow-up")
        line = f"[data-follow='they {self.number['Crates']}']"
        page.await_("what is owed", lambda: page.all(line))
        self.assertIn("Which gate shall we use?", page.one(line).text)
        for _ in range(12):
            if page.all(f"{line}.current"):
                break
            page.press("j")
        page.await_("the line", lambda: page.all(f"{line}.current"))
        page.press("S")
        self.type_time("in 3 days")
        page.await_("it waited for", lambda: self.state("awaited", "Crates"))
        page.await_("the line again", lambda: page.all(f".current[data-follow$=' {self.number['Crates']}']"))
        page.press("F")
        page.await_("the draft", lambda: page.all(".draft-text"))
        text = page.one(".draft-text").get_attribute("value") or ""
        self.assertIn("> Which gate shall we use?", text)
        self.assertNotIn("We load at nine", text)
        self.assertEqual(drafts.unsent(self.served.room.reader())[0].state, "draft")

    def test_4_sent_at_a_time_and_stopped(self) -> None:
        """What was asked again goes at a time, is given another, and is stopped."""
        page = self.page
        draft = drafts.unsent(self.served.room.reader())[0].id
        page.go(f"/outgoing/{draft}")
        page.await_("the draft", lambda: page.all(".draft-text"))
        self.js("document.querySelector('[data-act=when]').focus()")
        page.browser.switch_to.active_element.send_keys(Keys.ENTER)
        field = page.await_("the field", lambda: page.one(".when-field input"))
        field.send_keys("tomorrow 9:00")
        page.await_("it understood", lambda: "09:00" in page.one(".when-field .note").text)
        field.send_keys(Keys.CONTROL, Keys.ENTER)
        page.await_("it in the outbox", lambda: drafts.get(self.served.room.reader(), draft).timed)
        page.await_("the draft left", lambda: not page.all(".when-field"))
        page.go(f"/outgoing/{draft}")
        page.await_("when it goes", lambda: "goes " in page.one(".drafts-list").text)
        again = page.await_("another time", lambda: page.one(".draft-when input"))
        again.send_keys("in 4 days at 10:00", Keys.ENTER)
        first = drafts.get(self.served.room.reader(), draft).timed
        page.await_("it moved", lambda: drafts.get(self.served.room.reader(), draft).timed > first - 1)
        self.js("[...document.querySelectorAll('button')].find((one) => one.textContent.includes('Stop it')).focus()")
        page.browser.switch_to.active_element.send_keys(Keys.ENTER)
        page.await_("it stopped", lambda: drafts.get(self.served.room.reader(), draft).state == "draft")

    def test_5_an_address_for_calendars(self) -> None:
        """It is shown once; the address reads what is due, and is taken back."""
        page = self.page
        page.go("/follow-up")
        page.await_("the settings", lambda: "An address for calendars" in page.text())
        self.js(
            "[...document.querySelectorAll('button')].find((one) => one.textContent.includes('An address')).click()"
        )
        shown = page.await_("the address", lambda: page.one(".follow-address input"))
        self.assertRegex(shown.get_attribute("value") or "", r"^http://[^/]+/calendar/[\w-]{20,}/due\.ics$")
