"""The guide opens beside the page, at the part about where one is."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import BrowserCase, Keys


class GuideTest(BrowserCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        return Service.of(Mailroom(folder), open_to_all=True)

    def test_it_follows_the_page(self) -> None:
        """By its button and by name; it goes along from page to page, another part is chosen, and Escape closes it."""
        page = self.page
        page.go("/old-mail")
        page.await_("the button", lambda: [one for one in page.all(".spine-keys") if one.text == "Guide"])[0].click()
        page.await_("the part about it", lambda: page.one(".guide h2").text == "Old mail")
        page.one('.spine a[href="/follow-up"]').click()
        page.await_("the next part", lambda: page.one(".guide h2").text == "Following through")
        part = page.one(".guide select")
        part.send_keys("Trays")
        page.await_("the chosen part", lambda: page.one(".guide h2").text == "Trays of the Desk")
        part.send_keys(Keys.ESCAPE)
        page.await_("it to be gone", lambda: not page.all(".guide"))
        page.press(":")
        page.one(".command input").send_keys("guide", Keys.ENTER)
        page.await_("it to be there again", lambda: page.all(".guide"))
        self.assertEqual(page.problems(), [])
