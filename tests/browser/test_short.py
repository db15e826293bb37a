"""The short of a thread and where things stand, by keyboard: each sentence leads to its place."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from hieranome.app.arrival.arrive import receive, take_in
from hieranome.app.reading.incoming import Placed, prepare
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.core.times import DAY
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter

OSKAR = "Oskar Brandel <brandel@salthall.example>"
LONG = "\n\n".join(f"Paragraph {n} tells of the weather at the lake and of nothing else at all." for n in range(40))


class ShortTest(WorkCase):
    """A long letter that asks something, the owner's answer, and one more by the same person, in HTML."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, clock=lambda: NOON + DAY)
        room.set_owner([OWNER])
        body = f"{LONG}\n\nWhich gate shall the 12 trucks use on Monday?\n\nBest, Oskar"
        receive(room, letter("Gate", sender=OSKAR, at=NOON - DAY, body=body, message_id="<g@s.example>"))
        answer = letter("Re: Gate", sender=OWNER, to=OSKAR, at=NOON - 3_600, body="The north gate, from 8:00 on.",
                        In_Reply_To="<g@s.example>")  # fmt: skip
        with room.change() as db:
            take_in(room, db, replace(prepare(answer, NOON), stands=Placed("sent", "own")))
        html = (
            f"From: {OSKAR}\r\nTo: {OWNER}\r\nSubject: Crates\r\nMessage-ID: <c@s.example>\r\n"
            "Date: Thu, 09 Oct 2025 12:00:00 +0000\r\nMIME-Version: 1.0\r\nContent-Type: text/html; charset=utf-8\r\n\r\n"
            + "".join(f"<p>Line {n} of the list of crates, as it was.</p>" for n in range(60))
            + "<p>Could you <b>confirm</b> the 40 crates by Friday?</p>"
        )
        receive(room, html.encode())
        with room.change() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model' WHERE decided_by <> 'own'")
        return Service.of(room, open_to_all=True)

    def marked(self) -> str:
        """What is marked in the page, or in the frame of a message."""
        found = self.js(
            "const views = [window, ...[...document.querySelectorAll('iframe')].map((one) => one.contentWindow)];"
            "return views.map((one) => String(one.getSelection())).filter(Boolean).join()"
        )
        return " ".join(str(found).split())

    def test_1_the_short_of_a_thread(self) -> None:
        """Who said what; a line shows its place in the long text."""
        page = self.page
        page.go("/in/desk")
        page.open("Gate")
        page.press("V")
        page.await_("the lines", lambda: "Which gate shall the 12 trucks use on Monday?" in page.one(".short").text)
        told = page.one(".short").text
        self.assertIn("asks", told)
        self.assertIn("You", told)
        self.assertIn("The north gate, from 8:00 on.", told)
        page.one('[data-line="Which gate shall the 12 trucks use on Monday?"]').send_keys(Keys.ENTER)
        page.await_("it marked", lambda: self.marked() == "Which gate shall the 12 trucks use on Monday?")
        page.one('[data-line="The north gate, from 8:00 on."]').send_keys(Keys.ENTER)
        page.await_("the answer marked", lambda: self.marked() == "The north gate, from 8:00 on.")

    def test_2_where_things_stand(self) -> None:
        """What is open on either side, each with its source, also in another message, and in HTML."""
        page = self.page
        page.press("=")
        page.await_("where things stand", lambda: "Oskar Brandel" in page.one(".short h3").text)
        told = page.one(".short").text
        self.assertIn("Open on your side", told)
        self.assertIn("You last wrote", told)
        line = next(one for one in page.all("[data-line]") if "confirm" in one.text)
        line.send_keys(Keys.ENTER)
        page.await_("the other message", lambda: page.one(".reading h2").text == "Crates")
        page.await_("it marked", lambda: self.marked() == "Could you confirm the 40 crates by Friday?")
        page.press("=")
        page.await_("it gone", lambda: not page.all(".short"))
