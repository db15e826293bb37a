"""What the next message does is said whole, and what holds for always is asked about first, in the real interface."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from hieranome.app.arrival.arrive import receive, take_in
from hieranome.app.reading.incoming import Placed, prepare
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.core.deciders import Decider
from tests.browser.driver import resize
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, Clock, letter, offer

LONG = "Bureau of Cultural Exchange and Temporary Admission of Musical Instruments, Counter 4"
COUNTER = f'"{LONG}" <counter4@customs-and-temporary-admission.example>'


class PromiseTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        receive(room, letter("Carnet held", sender=COUNTER, message_id="<a@customs.example>"))
        mine = letter("Re: Carnet held", sender=OWNER, to=COUNTER, in_reply_to="<a@customs.example>", at=NOON + 5)
        with room.change() as db:
            take_in(room, db, replace(prepare(mine, NOON), stands=Placed("sent", Decider.OWN)))
        for number in range(3):
            receive(room, letter(f"Carnet again {number}", sender=COUNTER, at=NOON + 10 + number))
            receive(room, offer(number))
        return Service.of(room, open_to_all=True)

    def setUp(self) -> None:
        self.addCleanup(resize, self.page.browser, 1280, 800)

    def open_first(self, subject: str) -> int:
        """Open the newest message whose subject begins so, wherever it stands; its number."""
        row = (
            self.served.room.reader()
            .execute(
                "SELECT id, place FROM messages WHERE subject LIKE ? AND place <> 'sent' ORDER BY time DESC",
                (f"{subject}%",),
            )
            .fetchone()
        )
        self.page.go(f"/in/{row['place']}/{row['id']}")
        self.await_opened(row["id"])
        return int(row["id"])

    def assert_whole(self, selector: str) -> None:
        """A sentence is shown to its end, at both widths."""
        for width in (1280, 900):
            resize(self.page.browser, width, 800)
            cut = self.js(
                "const one = document.querySelector(arguments[0]);"
                "return [one.scrollWidth > one.clientWidth + 1 && getComputedStyle(one).overflowX !== 'visible',"
                " one.getBoundingClientRect().right > window.innerWidth]",
                selector,
            )
            self.assertEqual(cut, [False, False], width)
        resize(self.page.browser, 1280, 800)

    def test_1_what_the_next_one_does(self) -> None:
        """After a verdict one whole sentence says it, with always a press away; undo takes both back."""
        page = self.page
        number = self.open_first("Offer")
        before = self.place_of(number)
        page.press("f")
        page.await_("a promise", lambda: "goes to the Drain" in page.one(".effect-promise").text)
        self.assert_whole(".effect-promise")
        page.one('.effect [data-act="always"]').click()
        page.await_("for always", lambda: "From now on all mail from" in page.one(".effect-promise").text)
        self.assert_whole(".effect-promise")
        self.await_place(number, "drain")
        page.one('.effect [data-act="undo"]').click()
        self.await_place(number, before)

    def test_2_who_was_answered_is_asked_about(self) -> None:
        """Refusing names the sender, why it asks and from now on; nothing is done before the owner means it."""
        page = self.page
        number = self.open_first("Carnet again")
        before = self.place_of(number)
        page.press("r")
        page.await_("a question", lambda: page.all('.effect [data-act="meant"]'))
        said = page.one(".effect-text").text
        self.assertIn(f"You answered {LONG} once.", said)
        self.assertIn("would go to the Drain from now on.", said)
        self.assert_whole(".effect-text bdi")
        self.assertEqual((self.place_of(number), self.opened()), (before, number))
        next(e for e in page.all(".effect button") if e.text == "Cancel").click()
        page.await_("nothing more", lambda: not page.all(".effect"))
        self.assertEqual(self.place_of(number), before)
        page.press("r")
        page.await_("a question", lambda: page.all('.effect [data-act="meant"]'))
        page.one('.effect [data-act="meant"]').click()
        self.await_place(number, "drain")
        page.await_("what follows", lambda: f"From now on all mail from {LONG}" in page.one(".effect-promise").text)
        self.assert_whole(".effect-promise")
        self.assertNotEqual(self.opened(), number)
