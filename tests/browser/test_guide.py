"""The guide opens beside the page, at the part about where one is."""

from __future__ import annotations

from tests.browser.driver import Keys
from tests.browser.work import EmptyCase


class GuideTest(EmptyCase):
    def test_it_follows_the_page(self) -> None:
        """By its button and by name; it goes along from page to page, another part is chosen, and Escape closes it. The
        keyboard is in it while it opens, and where it was once it closes."""
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
        self.assertEqual(self.js("return document.activeElement.textContent.trim()"), "Guide")
        page.press(":")
        page.one(".command input").send_keys("guide", Keys.ENTER)
        page.await_("it to be there again", lambda: page.all(".guide"))
        page.await_("the keyboard in it", lambda: self.js("return document.activeElement.closest('.guide') !== null"))
        page.one(".guide-head .quiet-button").click()
        page.await_("the keyboard on the page", lambda: self.js("return document.activeElement !== document.body"))
        self.assertEqual(page.problems(), [])
