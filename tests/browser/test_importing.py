"""After an import: whose addresses are the owner's, ten questions, and to the Desk."""

from __future__ import annotations

import tempfile
from pathlib import Path

from hieranome.demo import mailgen
from tests.browser.work import EmptyCase


class ImportingTest(EmptyCase):
    def asked(self) -> str:
        """The message asked about, with which question it is."""
        page = self.page
        return page.one(".round h2").text + page.one(".round-message").text

    def test_an_import_ends_with_questions(self) -> None:
        """Addresses are asked for by what was found; mail from those is never asked about; each answer says what it
        did and is taken back; then the Desk."""
        page, room = self.page, self.served.room
        page.go("/import")
        page.one(".drop")
        self.assertFalse(page.all(".round"))
        with tempfile.TemporaryDirectory() as place:
            box = Path(place) / "mail.mbox"
            mailgen.write(150, 3, box, None)
            page.one(".drop input").send_keys(str(box))
            page.await_("the first question", lambda: "Question 1 of 10" in self.asked())
        mine = page.await_("addresses", lambda: [one.text for one in page.all(".history-own bdi")])
        self.assertIn("maren@quillmark.example", mine)
        page.one('.history-own [aria-label="Mine: maren@quillmark.example"]').click()
        page.await_("it to be the owner's", lambda: "maren@quillmark.example" in room.owner.addresses)
        page.await_("it to be asked no more", lambda: "maren@" not in page.one(".history-own").text)
        first = self.asked()
        page.press("f")
        page.await_("what it did", lambda: "It is in the Drain." in page.one(".round-effect").text)
        page.await_("the second", lambda: "Question 2 of 10" in self.asked())
        self.assertEqual(len(room.engine), 1)
        page.one(".round-effect .quiet-button").click()
        page.await_("the first again", lambda: self.asked() == first)
        self.assertEqual(len(room.engine), 0)
        page.one(".round > p .plain-button").click()
        page.await_("the Desk", lambda: page.browser.current_url.endswith("/in/desk"))
        self.assertEqual(page.problems(), [])
