"""Unsubscribing on the page: what would be done is told first, what came of it is told truly, who comes back is named."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from hieranome.app.arrival.arrive import receive
from hieranome.app.bulk.unsubscribing import RELAPSE, Unsubscriber
from hieranome.app.mailbox import mailboxes
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.teaching import vouching
from hieranome.standin.unsubscribing import UnsubscribeEndpoint
from hieranome.store import drafts, settings
from hieranome.store.accounts import NewAccount
from hieranome.store.drafts import Identity
from tests.app.bulk.test_unsubscribing import PASS, SERVER, news
from tests.browser.work import WorkCase
from tests.support import OWNER


class UnsubscribingTest(WorkCase):
    endpoint: UnsubscribeEndpoint

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        vouching.set_names(room, settings.CONFIRMED, [SERVER])
        account = mailboxes.add(
            room, NewAccount(OWNER, "M", OWNER, False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain"), []
        )
        mailboxes.pause(room, account.id, on=True)
        with room.change() as db:
            drafts.put_identity(db, Identity(OWNER, account.id, "Maren", ""))
        for name in ("obey", "fail", "page", "lie"):
            receive(room, news(name, results=PASS))
        receive(room, news("post", results=PASS, leave="<mailto:leave@post.example>"))
        receive(room, news("letter", leave="<mailto:leave@letter.example?subject=unsubscribe%20news-7>", click=False))
        receive(room, news("link", results=PASS, signed="from", leave="<https://link.example/leave>"))
        receive(room, news("forged", results="dkim=fail header.d={d}; spf=fail smtp.mailfrom={d}"))
        cls.endpoint = UnsubscribeEndpoint({"fail.example": "fails", "page.example": "page", "lie.example": "lies"})
        cls.endpoint.start()
        cls.addClassCleanup(cls.endpoint.close)
        served = Service.of(room, open_to_all=True)
        served.unsubscriber = Unsubscriber(room, cls.endpoint.dial, lambda _name, _patience: b"")
        return served

    def at(self, name: str) -> None:
        """Go to a subscription."""
        page = self.page
        key = f"list:news.{name}.example"
        page.one(f'[data-subscription="{key}"]').click()
        page.await_("it is described", lambda: f"from {name}.example" in page.one(".about").text)

    def leave(self, name: str) -> str:
        """Press the key, read what would be done, say yes; what is told then."""
        page = self.page
        self.at(name)
        before = len(self.endpoint.asked)
        page.press("U")
        page.one('[data-act="leave"]')
        self.assertEqual(len(self.endpoint.asked), before)
        page.press("U")
        return page.await_("told", lambda: page.effect() if page.effect().startswith(f"{name}:") else "")

    def test_a_message_is_shown_before_it_goes(self) -> None:
        """To whom, with which subject and text, whole; with several selected, nothing of another stays prepared."""
        page = self.page
        page.go("/subscriptions")
        self.at("letter")
        page.press("U")
        letter = page.one(".about-letter").text
        for said in ("leave@letter.example", "unsubscribe news-7"):
            self.assertIn(said, letter)
        page.press(Keys.ESCAPE)
        for name in ("obey", "fail", "lie"):
            row = page.one(f'[data-subscription="list:news.{name}.example"]')
            ActionChains(page.browser).key_down(Keys.CONTROL).click(row).key_up(Keys.CONTROL).perform()
        page.await_("three", lambda: "3 selected" in page.one(".about").text)
        self.assertNotIn("letter.example", page.one(".about").text)
        self.assertEqual(page.all('[data-act="leave"]'), [])
        page.press(Keys.ESCAPE)

    def test_z_several_at_once(self) -> None:
        """The way of each is shown before anything is asked, and what came of each after it; none stops another."""
        page = self.page
        page.go("/subscriptions")
        page.one(".subscriptions select").find_element("css selector", "option:last-child").click()
        names = ("obey", "fail", "link", "forged", "letter")
        for name in names:
            page.one(f'[data-subscription="list:news.{name}.example"] .form-check-input').click()
        before, letters = len(self.endpoint.asked), self.sent()
        page.one('[data-act="unsubscribe"]').click()
        page.one('[data-act="leave"]')
        ways = {one.get_attribute("data-way") for one in page.all(".about-ways li")}
        self.assertEqual(ways, {"post", "link", "refuse", "mailto"})
        self.assertIn("unsubscribe news-7", page.one(".about-ways").text)
        self.assertEqual((len(self.endpoint.asked), self.sent()), (before, letters))
        self.assertIn("these 3", page.one('[data-act="leave"]').text)
        page.press("U")
        page.await_("an outcome of each", lambda: len(page.all(".about-way-done")) == 3)
        said = page.one(".about-ways").text
        for words in ("its server took it", "not done. Its server answered 500", "asked by a message"):
            self.assertIn(words, said)
        self.assertEqual((len(self.endpoint.asked), self.sent()), (before + 2, letters + 1))

    def sent(self) -> int:
        """Messages that wait to go or went."""
        return len(drafts.in_state(self.served.room.reader(), "waiting", "sending", "handing"))

    def test_each_outcome_is_told_as_it_is(self) -> None:
        """The four manners of an endpoint, a message, a page that is only shown, a forged list; then the one that lied."""
        page = self.page
        page.go("/subscriptions")
        page.await_("all of them", lambda: page.one(".subscriptions-count strong").text == "8")
        self.assertIn("its server took it", self.leave("obey"))
        page.await_("counted", lambda: page.one(".subscriptions-count strong").text == "7")
        self.assertIn("not done. Its server answered 500", self.leave("fail"))
        self.assertIn("not done", page.one(".about-asked").text)
        self.assertIn("wants a person", self.leave("page"))
        self.assertIn("its server took it", self.leave("lie"))
        self.assertIn("asked by a message", self.leave("post"))
        self.assertEqual(self.sent(), 1)
        page.await_("counted", lambda: page.one(".subscriptions-count strong").text == "5")
        self.at("link")
        page.press("U")
        self.assertEqual(page.one(".about-leave a").get_attribute("href"), "https://link.example/leave")
        self.at("forged")
        page.press("U")
        self.assertIn("Refuse it", page.one(".about-leave").text)
        self.assertEqual(page.all('[data-act="leave"]'), [])
        self.assertEqual(len(self.endpoint.asked), 4)
        room = self.served.room
        receive(room, news("lie", room.clock() + RELAPSE + 60, results=PASS))
        page.go("/subscriptions")
        page.await_("it is back", lambda: page.one(".subscriptions-count strong").text == "6")
        self.at("lie")
        self.assertIn("1 came all the same", page.one(".about").text)
        page.press("r")
        page.await_("refused", lambda: page.one(".subscriptions-count strong").text == "5")
