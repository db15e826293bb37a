"""Routines by keyboard: made and ordered, tried on a message, done to ten by one key, undone as one."""

from __future__ import annotations

from pathlib import Path

from hieranome.app import shaping_tags
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.routines import keeping
from hieranome.app.service import Service
from hieranome.app.writing import phrasing
from hieranome.core.routines import Action, Routine
from hieranome.store import accounts, drafts, journal, messages, routines, tags
from hieranome.store.accounts import NewAccount
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter

TEN = 10


class RoutinesTest(WorkCase):
    """A Desk with eleven messages, one of them the owner's own, a tag and a phrase."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        for n in range(TEN + 1):
            receive(room, letter(f"Rider {n}", sender=f"Oskar Brandel <o{n}@salthall.example>", at=NOON + n))
        with room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            accounts.update(db, account, paused=1)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
            db.execute("UPDATE messages SET decided_by = 'own' WHERE subject = 'Rider 0'")
        shaping_tags.make(room, "Riders")
        phrasing.keep(room, "ack", "Dear {first name|all}, thank you.")
        return Service.of(room, open_to_all=True)

    def places(self) -> list[str]:
        """Where the letters stand."""
        return sorted(row.place for row in messages.get_many(self.served.room.reader(), range(1, TEN + 2)))

    def test_1_made_ordered_and_tried(self) -> None:
        """A key that does something is refused; what is done is ordered by keys; trying changes nothing."""
        page, room = self.page, self.served.room
        page.go("/in/desk")
        page.open("Rider 5")
        page.press(":")
        page.await_("the command line", lambda: page.all(".command-line input"))
        page.one(".command-line input").send_keys("make a routine", Keys.ENTER)
        page.await_("the form", lambda: page.all("#routine-name"))
        page.one("#routine-name").send_keys("Rider in", Keys.TAB, "a")
        page.await_("why not", lambda: "already" in page.one("#routine-clash").text)
        page.one("#routine-key").send_keys(Keys.BACKSPACE, "1")
        page.one(".rule-more").send_keys(Keys.ENTER)
        page.one('[aria-label="What is done, 2"]').send_keys("Begin a reply with")
        page.one('[aria-label^="Move what is done, 2"]').send_keys(Keys.ARROW_UP)
        page.await_("it first", lambda: page.one('[aria-label="What is done, 1"]').get_attribute("value") == "reply")
        self.drag_onto('[aria-label^="Move what is done, 2"]', '[aria-label="What is done, 1"]')
        page.await_(
            "it dragged", lambda: page.one('[aria-label="What is done, 1"]').get_attribute("value") == "archive"
        )
        page.one('[aria-label^="Move what is done, 1"]').send_keys(Keys.ARROW_DOWN)
        page.await_("it back", lambda: page.one('[aria-label="What is done, 1"]').get_attribute("value") == "reply")
        page.one('[data-act="try-routine"]').send_keys(Keys.ENTER)
        page.await_("what it would do", lambda: "Dear Oskar, thank you." in page.one(".routine-tried").text)
        self.assertIn("From Desk to Archive", page.one(".routine-tried").text)
        self.assertEqual(drafts.unsent(room.reader()), [])
        page.one("#routine-name").send_keys(Keys.ENTER)
        page.await_("it kept", lambda: page.all('[data-kept="Rider in"]'))
        (kept,) = routines.every(room.reader())
        self.assertEqual([one.verb for one in kept.actions], ["reply", "archive"])

    def test_2_done_to_ten_by_one_key(self) -> None:
        """What cannot be done is said before anything is; then the others, as one step, which is undone as one."""
        page, room = self.page, self.served.room
        (tag,) = tags.every(room.reader())
        actions = (Action("tag", str(tag.id)), Action("due", "in 3 days"), Action("read"), Action("bucket", "shelf"))
        keeping.keep(room, Routine(0, "Ten things", "2", actions))
        page.go("/in/desk")
        page.await_rows()
        page.press("j", Keys.CONTROL + "a")
        page.await_("all selected", lambda: "11 selected" in page.one(".mail-list").text)
        page.press("2")
        page.await_("what it cannot", lambda: "cannot be done to 1 of 11" in page.one(".routine-strip").text)
        self.assertIn("Nothing is done yet", page.one(".routine-strip").text)
        self.assertEqual(self.places(), ["desk"] * 11)
        page.one('[data-act="routine-others"]').send_keys(Keys.ENTER)
        page.await_("it done", lambda: self.places() == ["desk", *["shelf"] * TEN])
        page.await_("it told", lambda: "is done to 10 messages" in page.one(".effect").text)
        self.assertEqual(journal.recent(room.reader(), 0, 1)[0].title, "Routine “Ten things”: 10 messages")
        page.press("u")
        page.await_("it undone", lambda: self.places() == ["desk"] * 11)
        self.assertEqual(tags.carrying(room.reader(), tag.id), [])

    def test_3_the_draft_of_one_is_looked_at(self) -> None:
        """Done to the open message: its draft opens, the message has gone."""
        page, room = self.page, self.served.room
        page.go("/in/desk")
        page.open("Rider 7")
        page.press("1")
        page.await_("the draft", lambda: "Dear Oskar" in (page.one(".draft-text").get_attribute("value") or ""))
        self.assertEqual(self.places(), ["archive", *["desk"] * TEN])
        self.assertEqual(len(drafts.unsent(room.reader())), 1)
