"""Pointing at a link of a letter asks nobody: the browser looks no host up before the owner follows the link."""

from __future__ import annotations

import contextlib
import shutil
from pathlib import Path

from selenium.common.exceptions import WebDriverException
from selenium.webdriver.common.action_chains import ActionChains

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import BrowserCase, Page, open_browser
from tests.support import OWNER, letter

LINK = "pointed-at.example"
FOLLOWED = "followed.invalid"


class PointingTest(BrowserCase):
    number: int

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        html = f'<p><a href="https://{LINK}/a">there</a></p>'.encode()
        number = receive(room, letter("Links", body="x").replace(b"text/plain", b"text/html") + html)
        assert number is not None
        cls.number = number
        return Service.of(room, open_to_all=True)

    def test_no_host_is_looked_up(self) -> None:
        """By what the browser's own log of the network says; a host that is gone to stands in it, so it is complete."""
        log = Path(self.served.room.store.folder) / "network.json"
        browser, profile = open_browser(f"--log-net-log={log}", "--net-log-capture-mode=Everything")
        self.addCleanup(shutil.rmtree, profile, ignore_errors=True)
        page = Page(browser, self.page.address)
        page.go(f"/in/desk/{self.number}")
        browser.switch_to.frame(page.one(".reading iframe"))
        link = page.one("a")
        self.assertIn(LINK, link.get_attribute("href") or "")
        for _ in range(3):  # onto it and off again
            ActionChains(browser).move_to_element(link).move_by_offset(0, 60).perform()
        browser.switch_to.default_content()
        with contextlib.suppress(WebDriverException):  # nobody is there
            browser.get(f"http://{FOLLOWED}/")
        browser.quit()
        said = log.read_text(encoding="utf-8", errors="replace")
        self.assertIn(FOLLOWED, said)
        self.assertNotIn(LINK, said)
