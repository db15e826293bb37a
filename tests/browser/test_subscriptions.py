"""Subscriptions on the page: sorted, searched, decided one after the other by keyboard, and many at once."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import lessons
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter

LISTS = 120
KEYS = {"a": "desk", "s": "shelf", "d": "digest", "f": "drain", "r": "drain"}


class SubscriptionsTest(WorkCase):
    """Many lists, each with a message or a few."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        for number in range(LISTS):
            for issue in range(1 + (number == 7) * 3):
                raw = letter(
                    f"Issue {issue} of {number}", sender=f"Paper {number:03d} <news@paper{number}.example>",
                    at=NOON + number * 60 + issue, List_Id=f"Paper {number} <news.paper{number}.example>",
                )  # fmt: skip
                receive(room, raw)
        return Service.of(room, open_to_all=True)

    def count(self) -> int:
        """The running count."""
        return int(self.page.one(".subscriptions-count strong").text)

    def await_count(self, wanted: int) -> None:
        self.page.await_(f"{wanted} to decide", lambda: self.count() == wanted)

    def current(self) -> str:
        """The subscription the owner is on."""
        return self.page.one(".subscription.current .subscription-name").text

    def decided(self) -> dict[str, str]:
        """What the store says was decided, by list."""
        rows = self.served.room.reader().execute("SELECT key, belongs FROM lessons WHERE undone = 0 AND reach = 'list'")
        return {row[0]: row[1] for row in rows}

    def test_1_sorted_searched_and_described(self) -> None:
        """The one with most mail first; found by a word; what it is stands beside it."""
        page = self.page
        page.go("/subscriptions")
        self.await_count(LISTS)
        self.assertEqual(self.current(), "Paper 007")
        page.await_("its description", lambda: "“Paper 7”" in page.one(".about").text)
        self.assertIn("Issue 3 of 7", page.one(".about-recent").text)
        page.one(".of-name button").click()
        page.await_("by name", lambda: page.one("[data-subscription] .subscription-name").text == "Paper 000")
        self.assertEqual(page.one(".of-name[aria-sort]").get_attribute("aria-sort"), "ascending")
        page.one('.subscriptions input[type="search"]').send_keys(f"paper{LISTS - 1}")
        page.await_("one found", lambda: len(page.all("[data-subscription]")) == 1)
        page.one('.subscriptions input[type="search"]').send_keys("x")
        page.await_("none found", lambda: "Nothing is called that" in page.text())

    def test_2_all_by_keyboard(self) -> None:
        """One key each: the count runs down, the next comes by itself, an undo brings one back, and the store agrees."""
        page = self.page
        page.go("/subscriptions")
        self.await_count(LISTS)
        keys = [list(KEYS)[number % len(KEYS)] for number in range(LISTS)]
        page.press(*keys[:40])
        self.await_count(LISTS - 40)
        page.await_("forty decided", lambda: len(self.decided()) == 40)
        self.assertEqual(sorted(self.decided().values()), sorted(KEYS[key] for key in keys[:40]))
        page.press("u")
        self.await_count(LISTS - 39)
        page.press(*keys[39:-10])
        self.await_count(10)
        page.await_("as the store says", lambda: len(self.decided()) == LISTS - 10)
        page.press(" ", "j", " ", "J", "s")
        self.await_count(7)
        page.await_("three more", lambda: len(self.decided()) == LISTS - 7)
        self.assertIn("3 subscriptions", page.effect())
        page.press("h")
        page.await_("all are shown", lambda: len(page.all(".subscription.decided")) > 5)
        page.press("h")
        self.await_count(7)

    def test_3_what_the_server_refuses_is_put_back(self) -> None:
        """The count and the row are as before, and it is told."""
        page = self.page
        page.go("/subscriptions")
        self.await_count(7)
        self.block("*/api/subscriptions/decide")
        page.press("d")
        page.await_("a sentence", lambda: "does not answer" in page.effect())
        self.block()
        self.await_count(7)
        self.assertEqual(len(lessons.teaching(self.served.room.reader())), LISTS - 7)
