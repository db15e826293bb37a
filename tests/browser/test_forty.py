"""Forty tasks of the owner's work, by the mouse alone, from the mail: each is at hand after three clicks at most, and
each label on the way holds a word of the task as somebody would say it who has not read the guide."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

from selenium.webdriver.common.action_chains import ActionChains

from hieranome.app.service import Service
from hieranome.demo import house
from tests.browser.work import WorkCase
from tests.made_once import lay_demo

CLICKS = 3
"""Clicks from the mail to where a task is done."""
ROW, MENU, SEARCH, SENDER = "a message", "its menu", "the search field", "a sender"
"""Clicks that have no label: on a row, on it with the second button, on the field at the head of the mail, on who
writes to many and can be asked to stop."""
CLICKABLE = "button, a[href], summary, [role=menuitem], option"

BEARS = """
const [within, clickable, label] = arguments;
const begins = text => ['', 'a ', 'an ', 'another '].some(one => text.startsWith(one + label));
return [...document.querySelectorAll(within)].flatMap(e => [...e.querySelectorAll(clickable)]).find(e => {
  const text = (e.innerText || e.getAttribute('aria-label') || '').replace(/\\s+/g, ' ').trim();
  return (e.tagName === 'OPTION' ? e.parentElement : e).checkVisibility() && begins(text.replace(/^\\w(?=[ A-Z])/, '').trim().toLowerCase());
}) || null;
"""
"""What can be clicked and bears a label, apart from the key it shows."""


@dataclass(frozen=True, slots=True)
class Task:
    """What somebody wants to do, the words they might say, what they click, and what shows that they are there: a
    selector, or words of the page."""

    wish: str
    words: str
    clicks: tuple[str, ...]
    there: str


TASKS = (
    # Connect a mailbox, read its history, choose buckets
    Task("read mail of another account here too", "setting mailbox account connect", ("Settings", "Mailboxes", "Connect",), "Your name, as others read it"),
    Task("bring in mail from files", "setting import file mail", ("Settings", "Import",), "Drop files here"),
    Task("have a bucket of my own", "setting bucket own", ("Settings", "Buckets and folders",), "Create the bucket"),
    Task("switch a bucket off", "setting bucket off", ("Settings", "Buckets and folders",), "is switched off"),
    # The Desk in the morning
    Task("see why a message stands here", "why reason", (ROW, "Why",), ".evidence"),
    Task("put the newest first", "newest first order date", ("newest",), ".row-mail"),
    Task("read only what is unread", "unread only show", ("unread",), ".row-mail"),
    # Correct
    Task("put a message on the Shelf", "shelf later put", (ROW, "Shelf",), "[data-act='undo']"),
    Task("take that back", "undo back shelf", (ROW, "Shelf", "Undo",), ".row-mail"),
    Task("always put this sender into the Digest", "always sender digest", (MENU, "Always from this sender",), "[data-menu='always digest']"),
    Task("never see this sender again", "refuse never sender", (MENU,), "Refuse this sender"),
    Task("select all mail of a sender", "select all sender", (MENU, "Select all from this sender",), "selected"),
    # Look at the Digest, the Drain
    Task("read the digest", "edition digest read", ("Editions",), ".edition"),
    Task("have another digest at another time", "edition digest plan new", ("Editions", "New plan",), "#plan-name"),
    Task("find what was thrown away wrongly", "drain junk wrong", ("Drain",), ".row-mail"),
    # Bulk mail
    Task("get rid of newsletters", "bulk mail newsletter subscription", ("Bulk mail",), ".subscription"),
    Task("unsubscribe", "bulk mail unsubscribe", ("Bulk mail", SENDER, "Unsubscribe",), "[data-act='leave']"),
    Task("clear old mail", "bulk mail old clear", ("Bulk mail", "Old mail",), "older than 6 months"),
    Task("see who has my address", "bulk mail address", ("Bulk mail", "Addresses",), "Which of your addresses brings what"),
    # Check on it
    Task("see what it did", "trust journal did history", ("Trust", "Journal",), "Older steps"),
    Task("see what it learned from me", "trust journal lesson learned", ("Trust", "Journal", "Lessons",), ".lesson, .ledger"),
    Task("protect a sender", "trust sender protect", ("Trust",), "Vouched"),
    Task("let less be put away", "drain strictness away", ("Drain", "Strictness",), ".drain-scale"),
    # What is known for sure
    Task("make a rule", "automatic rule make new", ("Automatic", "new rule",), ".rule-form"),
    Task("make a rule of a message", "make rule message", (MENU, "Make a rule",), ".rule-form"),
    Task("tag a message", "tag message", (MENU, "Tag",), ".command-line input"),
    Task("describe mail that is tagged by itself", "automatic topic tag", ("Automatic", "Topics",), "New topic"),
    Task("arrange the Desk", "setting tray desk arrange", ("Settings", "Trays of the Desk",), "Add a tray"),
    Task("find a message", "search find mail", (SEARCH,), ".spine-search input:focus"),
    # Follow through
    Task("set a date for a message", "due date message", (MENU, "Due",), ".month"),
    Task("put a message out of sight until Monday", "park until message", (MENU, "Park until",), ".month"),
    Task("see who owes me an answer", "follow waiting answer", ("Follow-up",), "Waiting for"),
    Task("answer", "reply answer", (MENU, "Reply",), ".draft-form"),
    Task("answer everybody", "reply all answer", (MENU, "Reply all",), ".draft-form"),
    Task("pass a message on", "forward pass", (MENU, "Forward",), ".draft-form"),
    Task("write a message", "outgoing write", ("Outgoing", "Write",), ".draft-form"),
    Task("send it later", "outgoing write send later", ("Outgoing", "Write", "Send later",), "Send at"),
    Task("be reminded if nobody answers", "outgoing write reminder answer", ("Outgoing", "Write", "Reminder",), "Reminder if no answer by"),
    Task("answer by itself while I am away", "outgoing away answer", ("Outgoing", "Away",), "A person gets it again after"),
    Task("keep a text for the next time", "outgoing phrase text", ("Outgoing", "Phrases",), "Text you write often"),
    Task("do several things with one key", "automatic routine key", ("Automatic", "Routines",), "done by one key"),
    Task("flag a message", "flag message", (MENU, "Flag",), ".row-mail"),
    # Make it one's own, and leave
    Task("change the keys", "setting key keyboard", ("Settings", "Keyboard",), ".key-list"),
    Task("make it dark", "setting appearance dark", ("Settings", "Appearance",), "Theme"),
    Task("take all data along", "setting data export", ("Settings", "Data and password",), "Export"),
    Task("stop using it", "setting mailbox leave stop", ("Settings", "Mailboxes", "Leave",), "Stop, and keep the folders"),
    Task("look something up", "guide help", ("Guide",), ".guide"),
)  # fmt: skip


class FortyTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        lay_demo(folder)
        return house.open_demo(folder, interval=3600)

    def test_forty_tasks(self) -> None:
        """Each is reached as the table says, from the mail."""
        self.assertGreaterEqual(len(TASKS), 40)
        clicks = 0
        for task in TASKS:
            with self.subTest(task.wish):
                self.page.go("/in/desk")
                self.page.await_rows()
                for label in task.clicks:
                    self.follow(label, task)
                self.page.await_(f"{task.there}, to {task.wish}", lambda task=task: self.is_there(task.there))  # type: ignore[misc]
                clicks += len(task.clicks)
                self.assertLessEqual(len(task.clicks), CLICKS)
        self.assertLessEqual(clicks, 2 * len(TASKS))

    def follow(self, label: str, task: Task) -> None:
        """One click; a label must hold one of the words."""
        page = self.page
        if label in (ROW, MENU):
            text = page.one(".row-mail .row-text")
            (ActionChains(page.browser).context_click(text).perform() if label == MENU else text.click())
            page.await_("it open", lambda: page.all(".row-menu" if label == MENU else ".reading-text, .reading-frame"))
        elif label == SEARCH:
            page.one(".spine-search input").click()
        elif label == SENDER:
            page.one('[data-subscription^="list:offers.kestrelstrings"]').click()
        else:
            said = re.findall(r"[a-z]+", label.lower())
            words = task.words.split()
            self.assertTrue(any(one.startswith(word) for one in said for word in words), f"“{label}”, to {task.wish}")
            page.await_(f"“{label}”, to {task.wish}", lambda: self.clicked(label, task))

    def clicked(self, label: str, task: Task) -> bool:
        """Whether something of that label was found and clicked: on the open message, in its menu, or on the page."""
        within = {ROW: ".verdict, .reading, .effect", MENU: ".row-menu"}.get(task.clicks[0], "body")
        found = self.js(BEARS, within, CLICKABLE, label.lower())
        if found is not None:
            found.click()
        return found is not None

    def is_there(self, wanted: str) -> bool:
        """Whether an element of a selector, or words, are on the page."""
        if wanted[0] in ".#[":
            return any(one.is_displayed() for one in self.page.all(wanted)[:3])
        return wanted in self.page.text()
