"""An hour of the demo's owner by keyboard: the morning's edition, what is brought to the Desk from it, subscriptions
decided; then her plans."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains

from hieranome.app.service import Service
from hieranome.demo import house
from hieranome.store import editions, messages, plans
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.made_once import lay_demo

SUBSCRIPTIONS = 20
"""How many she decides on in a row."""


class EditionsTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        lay_demo(folder)
        return house.open_demo(folder, interval=3600)

    def given(self) -> list[tuple[str, str]]:
        """The lessons that stand, latest first: reach and bucket."""
        rows = self.served.room.reader().execute("SELECT reach, belongs FROM lessons WHERE undone = 0 ORDER BY id DESC")
        return [(row[0], row[1]) for row in rows]

    def entries(self) -> list[int]:
        """The messages of the edition that are told, in order."""
        return [int(e.get_attribute("data-entry") or 0) for e in self.page.all(".edition-entry")]

    def current(self) -> str:
        """What the verbs are about."""
        return self.page.one(".edition-bar .verdict-label").text

    def test_1_the_edition_of_the_morning(self) -> None:
        """Read as one page; one brought to the Desk once, one for good; a group put away, one list left out; undone."""
        page, db = self.page, self.served.room.reader()
        page.go("/editions")
        edition = editions.recent(db, 0, 1)[0]
        page.await_("the edition", lambda: len(self.entries()) > 3)
        self.assertEqual(page.one(".edition").get_attribute("data-edition"), str(edition.id))
        page.await_("it is read", lambda: editions.recent(self.served.room.reader(), 0, 1)[0].read_at)
        self.assertGreater(len(page.all(".edition-extract")), 3)
        self.assertEqual(page.all(".edition img"), [])
        self.assertIn("Since", page.one(".edition-end").text)
        first, second, *_ = self.entries()
        before = self.given()
        page.press("j", "j")
        self.assertEqual(self.current(), "This message")
        page.press("a")
        self.await_place(first, "desk")
        self.assertEqual(self.given(), [("message", "desk"), *before])
        page.await_("said there", lambda: "on the Desk" in page.one(f'[data-entry="{first}"]').text)
        page.await_("the next", lambda: page.one(".edition-entry.current").get_attribute("data-entry") == str(second))
        page.press("e", "a")
        self.await_place(second, "desk")
        self.assertEqual(self.given(), [("learn", "desk"), ("message", "desk"), *before])
        page.press("k")
        page.await_("a group", lambda: page.one(".edition-group h3.current"))
        page.press("O")
        page.await_("told", lambda: "in no edition" in page.effect())
        page.await_("kept", lambda: len(plans.left_out(self.served.room.reader())) == 1)
        page.press("u")
        page.await_("undone", lambda: not plans.left_out(self.served.room.reader()))
        group = page.one(".edition-group h3.current")
        number = int(
            group.find_element("xpath", "..").find_element("css selector", ".edition-entry").get_attribute("data-entry")
            or 0
        )
        page.press("w")
        self.await_place(number, "archive")
        page.press("u")
        page.await_("back", lambda: self.place_of(number) != "archive")

    def test_1_text_can_be_selected(self) -> None:
        """Text that is marked by mouse stays in sight; a click on it leads to the message."""
        page = self.page
        page.go("/editions")
        extract = page.await_("an extract", lambda: page.all(".edition-extract .edition-said"))[0]
        here = page.browser.current_url
        mouse = ActionChains(page.browser, duration=30).move_to_element_with_offset(extract, -40, 0)
        mouse.click_and_hold().move_by_offset(60, 0).release().perform()
        self.assertGreater(len(self.js("return window.getSelection().toString()")), 2)
        self.assertEqual(page.browser.current_url, here)
        self.js("window.getSelection().removeAllRanges()")
        extract.click()
        page.await_("the message", lambda: page.browser.current_url != here)

    def test_2_twenty_subscriptions(self) -> None:
        """From the command line to the list, one key each, the count with it; those she answered are asked about first."""
        page = self.page
        page.press(":")
        page.one(".command-line input").send_keys("go to a place", Keys.ENTER)
        page.await_("where to", lambda: "Subscriptions" in page.one(".command-list").text)
        page.one(".command-line input").send_keys("subscriptions", Keys.ENTER)
        page.await_("the list", lambda: page.all(".subscription.current"))
        start = int(page.one(".subscriptions-count strong").text)
        shown = [one.get_attribute("data-subscription") or "" for one in page.all(".subscription")][:SUBSCRIPTIONS]
        known = [self.served.room.relations.of(key) for key in shown]
        sure = sum(not (sums.answered or sums.written) for sums in known)
        self.assertTrue(0 < sure < len(known) == SUBSCRIPTIONS, sure)
        page.press(*("sdfr" * SUBSCRIPTIONS)[:SUBSCRIPTIONS])
        page.await_("counted down", lambda: int(page.one(".subscriptions-count strong").text) == start - sure)
        decided = [one for one in self.given() if one[0] in ("list", "address")]
        page.await_("kept", lambda: len([o for o in self.given() if o[0] in ("list", "address")]) >= sure)
        self.assertLessEqual(len(decided), SUBSCRIPTIONS)

    def test_3_plans(self) -> None:
        """A plan is described, refused with the reason, kept, changed and removed; its lists stand in it by name."""
        page = self.page
        page.go("/editions")
        page.one('[data-act="new-plan"]').click()
        page.one("#plan-name").send_keys("Lists on Friday")
        page.one(".plan-form .strong-button").click()
        page.await_("why not", lambda: "takes no mail" in page.text())
        page.one('.plan-form select option[value^="list:"]').click()
        page.await_("a source", lambda: page.all(".plan-sources li"))
        for box in page.all(".plan-choices input")[3:7]:
            box.click()
        page.one("#plan-times").clear()
        page.one("#plan-times").send_keys("06:15, 18:00")
        page.one("#plan-grouped option[value=topic]").click()
        page.one(".plan-form .strong-button").click()
        page.await_("the edition again", lambda: page.all(".edition"))
        made = plans.every(self.served.room.reader())[-1]
        self.assertEqual((made.plan.name, made.plan.times, made.plan.days), ("Lists on Friday", ("06:15", "18:00"), 16))
        self.assertTrue(made.plan.sources[0].startswith("list:"))
        page.one(f'[data-plan="{made.id}"]').click()
        page.await_("it", lambda: page.one("#plan-name").get_attribute("value") == "Lists on Friday")
        page.one(".plan-buttons .quiet-button").click()
        page.await_("gone", lambda: len(plans.every(self.served.room.reader())) == 1)

    def test_4_as_a_message_on_the_desk(self) -> None:
        """No gauge, no verdict; it leads to the page."""
        page, db = self.page, self.served.room.reader()
        number = db.execute("SELECT message FROM editions ORDER BY id DESC LIMIT 1").fetchone()[0]
        page.go(f"/in/desk/{number}")
        page.await_("it is open", lambda: page.one(".reading").get_attribute("data-number") == str(number))
        self.assertEqual(page.all(".reading .gauge"), [])
        self.assertFalse(page.one('[data-put="shelf"]').is_enabled())
        self.assertEqual(messages.get(db, number).decided_by, "edition")
        page.one(".reading-answer a").click()
        page.await_("the page", lambda: page.all(".edition"))

    def test_5_the_hour_goes_on(self) -> None:
        """Five are asked to stop, each answer told as it is; two refused; one rescued from the Drain; the heaviest of the
        old mail put in the Trash and brought back."""
        page, db = self.page, self.served.room.reader()
        page.go("/subscriptions")
        page.await_("the list", lambda: page.all(".subscription.current"))
        page.press("h")
        told = {}
        for name, key in (
            ("Kestrel Strings", "offers.kestrelstrings"), ("Amberbow Rosin", "club.amberbow"),
            ("Lock & Weir Festival", "bulletin.lockweir"), ("Tidemark Arts Weekly", "weekly.tidemarkarts"),
            ("Hall Managers' Exchange", "exchange.hallmanagers"),
        ):  # fmt: skip
            page.one(f'[data-subscription="list:{key}.example"]').click()
            page.await_("described", lambda name=name: page.one(".about h2").text == name and page.all(".about-leave"))
            page.press("U")
            page.one('[data-act="leave"]')
            page.press("U")
            told[key] = page.await_("told", lambda name=name: page.effect() if page.effect().startswith(name) else "")
        for key, words in (
            ("offers.kestrelstrings", "its server took it"), ("club.amberbow", "answered 500"),
            ("bulletin.lockweir", "wants a person"), ("weekly.tidemarkarts", "its server took it"),
            ("exchange.hallmanagers", "in the outbox"),
        ):  # fmt: skip
            self.assertIn(words, told[key])
        before = len(self.given())
        page.press("r")
        page.await_("refused", lambda: len(self.given()) == before + 1)
        page.press("j", "r")
        page.await_("refused", lambda: len(self.given()) == before + 2)
        page.go("/in/drain")
        page.await_rows()
        page.press("j")
        page.await_("it is open", lambda: page.all(".reading[data-number]"))
        number = int(page.one(".reading").get_attribute("data-number") or 0)
        page.press("a")
        self.await_place(number, "desk")
        page.go("/old-mail")
        page.one('.weigh-ages input[type="range"]').send_keys(Keys.HOME, Keys.ARROW_RIGHT)
        page.await_("rows", lambda: len(page.all("[data-weight]")) > 5)
        page.one("[data-weight] .weight-name").click()
        trashed = db.execute("SELECT count(*) FROM messages WHERE place = 'trash'").fetchone()[0]
        page.press(" ", "x")
        page.await_("told", lambda: "to Trash" in page.effect())
        self.assertGreater(db.execute("SELECT count(*) FROM messages WHERE place = 'trash'").fetchone()[0], trashed)
        page.press("u")
        count = "SELECT count(*) FROM messages WHERE place = 'trash'"
        page.await_("back", lambda: self.served.room.reader().execute(count).fetchone()[0] == trashed)
