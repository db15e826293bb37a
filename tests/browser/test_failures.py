"""Whatever the page asks for and does not get, it says so in a sentence, and offers to try again."""

import re
from pathlib import Path

from selenium.webdriver.remote.webelement import WebElement

from hieranome.app.arrival.arrive import receive
from hieranome.app.queues.keeping import keep as keep_queue
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.core.queues import Queue, State
from hieranome.store import accounts
from hieranome.store.accounts import NewAccount
from tests.browser.driver import BrowserCase
from tests.support import NOON, OWNER, letter, offer

SOURCES = Path(__file__).parent.parent.parent / "frontend" / "src"
ASKED_AT_ONCE = {
    "/api/drain/doubted": "asked for when the doubtful are opened, and told like any list that fails",
    "/api/subscriptions/about": "stands beside the list; without it the list and the verdicts are there all the same",
    "/api/rules/sieve": "asked for when the script is opened; without it the field is empty and the rules stand",
    "/api/server-rules": "asked for when the script is opened, and told in the place where what runs there stands",
    "/api/topics/{number}": "asked for when a topic is opened, and told where its questions would stand",
    "/api/places/{name}/moved-off": "asked for before a bucket is used again; without it nothing is offered to come back",
    "/api/desk": "asked for where the Desk is in trays, and told like any list that fails",
    "/api/away/server": "asked for when it is to be known, and told in its place",
    "/api/messages/{number}/short": "asked for above the open message, and told there",
    "/api/standing": "asked for above the open message, and told there",
    "/api/search/instead": "offered where nothing is found; without it the line is mended by hand",
    "/api/times": "asked for when a time is to be said; without them it is typed",
    "/api/when": "what a typed time means; its refusal stands beside the field",
    "/api/hours": "hours are offered beside a field; without them it is typed",
    "/api/correspondents": "people are offered while an address is typed; without them it is typed whole",
    "/api/messages/{number}/parts/{path}/text": "its refusal stands where the text would",
    "/api/places/{name}/messages": "its refusal is told in the effect strip",
    "/api/places/{name}/sources/mail": "asked for when a sender is opened, and told like any list that fails",
    "/api/authorisations/{state}": "asked for while the owner authorises in another tab, again and again",
}
"""What is asked for by an act and not kept, and how its failure is told."""
WHERE: dict[str, tuple[str, str]] = {
    # path: the view that asks for it, and what is pressed there
    "/api/about": ("/settings", ""),
    "/api/appearance": ("/in/desk", ""),
    "/api/addresses": ("/addresses", ""),
    "/api/delivery": ("/in/desk", ""),
    "/api/drafts": ("/outgoing", ""),
    "/api/drain": ("/in/drain", ""),
    "/api/drain/preview": ("/in/drain", "Strictness"),
    "/api/elsewhere": ("/in/desk", ""),
    "/api/editions": ("/in/desk", ""),
    "/api/editions/{number}": ("/editions/1", ""),
    "/api/entry": ("/in/desk", ""),
    "/api/follow-up": ("/follow-up", ""),
    "/api/follow-up/settings": ("/follow-up", ""),
    "/api/owed": ("/follow-up", ""),
    "/api/health": ("/in/desk", ""),
    "/api/identities": ("/mailboxes", ""),
    "/api/imports": ("/import", ""),
    "/api/junk/doubted": ("/in/junk", ""),
    "/api/lately": ("/in/desk", ""),
    "/api/lessons": ("/journal", "Lessons"),
    "/api/mailboxes": ("/mailboxes", ""),
    "/api/mailboxes/found": ("/connect/1", ""),
    "/api/mailboxes/{number}/folders": ("/mailboxes", "Folders"),
    "/api/mailboxes/{number}/leaving": ("/leave/1", ""),
    "/api/mailboxes/{number}/preview": ("/connect/1", ""),
    "/api/messages": ("/in/desk", ""),
    "/api/topics": ("/topics", ""),
    "/api/messages/{number}": ("/in/desk/1", ""),
    "/api/messages/{number}/headers": ("/in/desk/1", "Headers"),
    "/api/messages/{number}/journal": ("/in/desk/1", "What happened to it"),
    "/api/messages/{number}/thread": ("/in/desk/1", ""),
    "/api/pictured": ("/settings/senders", ""),
    "/api/phrases": ("/settings/phrases", ""),
    "/api/routines": ("/settings/routines", ""),
    "/api/queues": ("/queues", ""),
    "/api/queues/{number}": ("/queues", ""),
    "/api/away": ("/away", ""),
    "/api/away/invitations": ("/away", ""),
    "/api/places": ("/in/desk", ""),
    "/api/rules": ("/rules", ""),
    "/api/rules/hidden": ("/in/desk", ""),
    "/api/second-look": ("/in/desk", ""),
    "/api/trays": ("/settings/trays", ""),
    "/api/tags": ("/tags", ""),
    "/api/plans": ("/editions", ""),
    "/api/places/{name}/sources": ("/in/shelf", ""),
    "/api/search": ("/search?line=risers", ""),
    "/api/search/operators": ("/search?line=risers", "Form"),
    "/api/search/understood": ("/search?line=risers", ""),
    "/api/searches": ("/search", ""),
    "/api/settings": ("/settings", ""),
    "/api/steps": ("/journal", ""),
    "/api/round": ("/connect/1", ""),
    "/api/subscriptions": ("/subscriptions", ""),
    "/api/trash": ("/in/trash", ""),
    "/api/trial": ("/try", ""),
    "/api/said": ("/senders", ""),
    "/api/vouched": ("/settings/senders", ""),
    "/api/old-mail": ("/old-mail", ""),
}
UNTRUE = {
    "/api/said": "Nothing yet",
    "/api/addresses": "No addresses so far",
    "/api/drafts": "No drafts|0 not sent",
    "/api/editions": "No edition so far",
    "/api/follow-up": "Nothing is due",
    "/api/lessons": "Nothing yet",
    "/api/mailboxes": "None yet",
    "/api/messages": "Nothing needs you",
    "/api/phrases": "No phrases yet",
    "/api/routines": "No routines yet",
    "/api/queues": "No queues yet",
    "/api/pictured": "No sender’s pictures",
    "/api/places/{name}/sources": "The Shelf is empty",
    "/api/rules": "No rules yet",
    "/api/steps": "Nothing yet",
    "/api/tags": "No tags yet",
    "/api/subscriptions": "No lists or newsletters",
    "/api/vouched": "Nobody yet",
    "/api/old-mail": "Nothing that old",
}
"""What the page says of nothing, and must not say of what was not loaded."""


class FailuresTest(BrowserCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        for raw in (letter("Risers", at=NOON), *(offer(n) for n in range(4))):
            receive(room, raw)
        with room.change() as db:
            new = NewAccount(OWNER, "Maren", "maren", False, "127.0.0.1", 1, "plain", "127.0.0.1", 1, "plain")
            number = accounts.add(db, new, room.clock())
            accounts.update(db, number, state="watching", paused=1)
        keep_queue(room, Queue(0, "Cases", "bucket", "shelf", (State("new"), State("done"))))
        return Service.of(room, open_to_all=True)

    def test_every_query_is_known(self) -> None:
        """Nothing the page asks for is missing below."""
        asked: set[str] = set()
        for path in (*SOURCES.rglob("*.vue"), *SOURCES.rglob("*.ts")):
            if path.name != "schema.ts":
                asked |= set(re.findall(r"client\.GET\('([^']+)'", path.read_text("utf-8")))
        self.assertEqual(asked, set(WHERE) | set(ASKED_AT_ONCE))

    def test_each_failure_is_told_and_can_be_tried_again(self) -> None:
        """One query after the other gets no answer: a sentence, no untrue emptiness, and after another try all is well."""
        page = self.page
        number = self.served.room.reader().execute("SELECT id FROM messages WHERE subject = 'Risers'").fetchone()[0]
        page.go("/in/desk")
        self.js("localStorage.setItem('hieranome-appearance', JSON.stringify({bySource: {shelf: 'total'}}))")
        self.addCleanup(self.js, "localStorage.clear()")
        for path, (view, pressed) in WHERE.items():
            with self.subTest(path=path):
                view = view.replace("/in/desk/1", f"/in/desk/{number}")
                end = f"*/api{path.removeprefix('/api').replace('{number}', '*').replace('{name}', '*')}"
                self.block(end, f"{end}?*")
                page.go(view)
                if pressed:
                    self.press_button(pressed)
                told = page.await_("a sentence", lambda: self.told())
                self.assertIn("The server does not answer", told)
                for words in UNTRUE.get(path, "").split("|") if path in UNTRUE else ():
                    self.assertNotIn(words, page.text())
                page.await_("a button to try again", lambda: self.button("Try again"))
                self.block()
                # What else came meanwhile may have asked once more already: then there is nothing left to press.
                page.await_("it pressed", lambda: self.pressed("Try again") or not self.told())
                page.await_("all to be well", lambda: not self.told())
        self.block()

    def told(self) -> str:
        return " ".join(e.text for e in self.page.all(".failure, .entry [role=alert]"))

    def button(self, text: str) -> WebElement | None:
        return next((e for e in self.page.all("main button") if e.text.split("\n")[0].strip() == text), None)

    def pressed(self, text: str) -> bool:
        found = self.button(text)
        if found is not None:
            found.click()
        return found is not None

    def press_button(self, text: str) -> None:
        self.page.await_(f"the button {text}", lambda: self.pressed(text))
