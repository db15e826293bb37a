"""What tests of the workspace share: a browser case that looks into the store."""

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import messages, places
from tests.browser.driver import BrowserCase

TRIES = 12
"""Moves of the mouse over a target before a pull counts as lost."""


class EmptyCase(BrowserCase):
    """Nothing is here yet, and everybody on this machine is let in."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        return Service.of(Mailroom(folder), open_to_all=True)


class WorkCase(BrowserCase):
    def place_of(self, number: int) -> str:
        return messages.get(self.served.room.reader(), number).place

    def await_place(self, number: int, place: str) -> None:
        self.page.await_(f"message {number} in {place}", lambda: self.place_of(number) == place)

    def tally(self) -> dict[str, int]:
        return {place.name: place.total for place in places.every(self.served.room.reader()) if place.total}

    def chosen(self) -> list[int]:
        return [int(e.get_attribute("data-message") or 0) for e in self.page.all(".row-mail.selected")]

    def opened(self) -> int:
        return int(self.page.one(".reading[data-number]").get_attribute("data-number") or 0)

    def await_opened(self, number: int) -> None:
        self.page.await_(f"message {number} open", lambda: self.page.all(f'.reading[data-number="{number}"]'))

    def drag_onto(self, source: str, target: str) -> None:
        """Pull one thing onto another with the mouse held down."""
        begin, end = self.page.one(source), self.page.one(target)
        chain = ActionChains(self.page.browser, duration=30).click_and_hold(begin).move_by_offset(6, 4)
        chain.move_to_element(end).pause(0.3).move_by_offset(2, 2).pause(0.3).release().perform()

    def drag(self, row: str, target: str) -> None:
        """Pull a row onto a target with the mouse held down; it is let go once the target shows that it takes it. A list
        that moves meanwhile (a strip that comes above it) takes the row away from below the mouse: then once more."""
        browser = self.page.browser

        def pulled() -> bool:
            begin, end = self.page.one(f"{row} .row-text"), self.page.one(target)
            ActionChains(browser, duration=30).click_and_hold(begin).move_by_offset(6, 6).perform()
            taken = False
            for _ in range(TRIES):
                ActionChains(browser, duration=30).move_to_element(end).move_by_offset(2, 2).perform()
                taken = bool(self.js("return document.querySelector('.over') !== null"))
                if taken:
                    break
            ActionChains(browser, duration=30).release().perform()
            return taken

        self.page.await_(f"{target} to take it", pulled)
