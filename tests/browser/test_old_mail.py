"""Old mail on the page, by keyboard: the slider, rows chosen, put in the Trash and back."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import OWNER, letter

WEEK = 604_800


class OldMailTest(WorkCase):
    numbers: dict[str, list[int]]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        now = room.clock()
        cls.numbers = {}
        for name, weeks, size in (("heavy", 60, 9_000), ("light", 70, 200), ("young", 3, 200)):
            found = [
                receive(
                    room,
                    letter(
                        f"{name} {n}",
                        sender=f"{name} <{name}@x{name}.example>",
                        body="y " * size,
                        at=now - weeks * WEEK - n,
                    ),
                )
                for n in range(3)
            ]
            cls.numbers[name] = [number for number in found if number is not None]
        return Service.of(room, open_to_all=True)

    def names(self) -> list[str]:
        """The rows, in order."""
        return [e.text for e in self.page.all("[data-weight] .subscription-name")]

    def test_by_keyboard(self) -> None:
        """The heaviest first at half a year; the slider shows what each age frees; chosen rows go and come back."""
        page = self.page
        page.go("/subscriptions")
        page.one('.page-tabs a[href="/old-mail"]').click()
        page.await_("half a year", lambda: self.names() == ["heavy", "light"])
        self.assertIn("older than 6 months: 6 messages", page.one(".subscriptions-count").text)
        slider = page.one('.weigh-ages input[type="range"]')
        self.assertEqual(slider.get_attribute("aria-valuetext"), "6 months")
        self.assertEqual(slider.get_property("value"), "3")
        slider.send_keys(Keys.HOME)
        page.await_("all of it", lambda: len(self.names()) == 3)
        slider.send_keys(*[Keys.ARROW_RIGHT] * 4)
        page.await_("a year again", lambda: self.names() == ["heavy", "light"])
        page.one("[data-weight] .weight-name").click()
        page.press(" ")
        page.await_("chosen", lambda: "Put 3 messages" in page.one('[data-act="put-away"]').text)
        page.press("x")
        page.await_("gone", lambda: {self.place_of(n) for n in self.numbers["heavy"]} == {"trash"})
        page.await_("told", lambda: "3 messages to Trash" in page.effect())
        page.await_("the rest", lambda: self.names() == ["light"])
        page.press("u")
        page.await_("back", lambda: "trash" not in {self.place_of(n) for n in self.numbers["heavy"]})
        page.await_("weighed again", lambda: self.names() == ["heavy", "light"])
        page.press(Keys.ENTER)
        page.await_("what is in it", lambda: any(subject.startswith("light") for subject in page.subjects()))
        page.browser.back()
        page.await_("the age as it was", lambda: "older than a year" in page.one(".subscriptions-count").text)
        self.assertEqual(self.names(), ["heavy", "light"])
        page.press(" ", Keys.ENTER)
        page.await_("what is in that", page.subjects)
        page.browser.back()
        page.await_("the choice as it was", lambda: "Put 3 messages" in page.one('[data-act="put-away"]').text)
