"""Nasty and hostile mail in the real interface."""

import json
from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import BrowserCase
from tests.mail.nasty import NASTY
from tests.mail.test_reading import library_samples
from tests.mail.test_safe_html import HOSTILE
from tests.support import OWNER, letter


class SafetyTest(BrowserCase):
    listens = True
    numbers: dict[str, int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        raws = dict(NASTY)
        raws |= {path.name: path.read_bytes() for path in library_samples()}
        for name, html in HOSTILE.items():
            raws[f"hostile {name}"] = (
                letter(f"hostile {name}", body="x").replace(b"text/plain", b"text/html") + html.encode()
            )
        cls.numbers = {}
        for name, raw in raws.items():
            number = receive(room, raw)
            if number is not None:
                cls.numbers[name] = number
        return Service.of(room, open_to_all=True)

    def test_every_nasty_message_opens(self) -> None:
        """Each broken or hostile message is shown with its score; no script runs and nothing is fetched from elsewhere."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        page.browser.get_log("performance")
        for name, number in self.numbers.items():
            with self.subTest(name):
                self.js(
                    "history.pushState({}, '', arguments[0]); dispatchEvent(new PopStateEvent('popstate'))",
                    f"/in/desk/{number}",
                )
                shown = f'.reading[data-number="{number}"] .reading-foot'
                page.await_(f"{name} open", lambda shown=shown: page.all(shown))  # type: ignore[misc]
                self.assertEqual(page.all(".reading-error"), [])
        requested = [
            json.loads(entry["message"])["message"]["params"]["request"]["url"]
            for entry in page.browser.get_log("performance")
            if '"Network.requestWillBeSent"' in entry["message"]
        ]
        self.assertTrue(requested)
        self.assertEqual([url for url in requested if not url.startswith((page.address, "data:"))], [])
        self.assertEqual([p for p in page.problems() if "favicon" not in p], [])
