"""The away notice by keyboard: written, tried on last week's mail, turned on, an invitation declined, turned off."""

from __future__ import annotations

import time
from datetime import UTC, datetime, timedelta
from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import accounts, away, drafts
from hieranome.store.accounts import NewAccount
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter


class AwayTest(WorkCase):
    """A mailbox to send from, two people and a list that wrote, and an invitation for the day after tomorrow."""

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        now = int(time.time())
        for n, (sender, headers) in enumerate([
            ("oskar@salthall.example", {}), ("ilse@harbour.example", {}), ("crew@salthall.example", {"List_Id": "<crew.lists.example>"}),
        ]):  # fmt: skip
            receive(room, letter(f"Plan {n}", sender=sender, at=now - 600 + n, Return_Path=f"<{sender}>", **headers))
        day = datetime.now(UTC) + timedelta(days=2)
        event = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", "METHOD:REQUEST", "BEGIN:VEVENT", "UID:1",
                 "DTSTAMP:20251001T000000Z", f"DTSTART:{day:%Y%m%d}T090000Z", f"DTEND:{day:%Y%m%d}T100000Z",
                 "SUMMARY:Sound check", "ORGANIZER:mailto:oskar@salthall.example", f"ATTENDEE:mailto:{OWNER}",
                 "END:VEVENT", "END:VCALENDAR")  # fmt: skip
        head = ("From: oskar@salthall.example", f"To: {OWNER}", "Subject: Sound check", "Message-ID: <s@s.example>",
                "MIME-Version: 1.0", "Content-Type: text/calendar; method=REQUEST; charset=utf-8", "")  # fmt: skip
        receive(room, "\r\n".join((*head, *event, "")).encode())
        with room.change() as db:
            account = accounts.add(db, NewAccount(OWNER, "Maren", "m", False, "h", 1, "tls", "h", 1, "tls"), NOON)
            accounts.update(db, account, paused=1)
            drafts.put_identity(db, drafts.Identity(OWNER, account, "Maren", ""))
        return Service.of(room, open_to_all=True)

    def test_1_written_and_tried(self) -> None:
        """What is missing is said; the dry run names who would have got one and why others would not; nothing goes."""
        page, room = self.page, self.served.room
        page.go("/away")
        page.one('[aria-label="Who belongs to circle 1"]').send_keys("everybody")
        page.one('[data-act="away-on"]').send_keys(Keys.ENTER)
        page.await_("why not", lambda: "ends before it begins" in page.one(".away-form [role=alert]").text)
        until = page.all(".away-times input")[1]
        until.send_keys("in 5 days")
        page.await_(
            "the time understood",
            lambda: "Until" in page.one(".away-times").text and page.all(".when-field .note")[1].text,
        )
        page.one("#away-0-").send_keys("I am away.")
        self.js("document.activeElement.blur()")
        page.press("I")
        page.await_("the dry run", lambda: "oskar@salthall.example" in page.one(".away-tried").text)
        told = page.one(".away-tried").text
        self.assertIn("ilse@harbour.example", told)
        self.assertIn("it came through a list", told)
        self.assertNotIn("crew@salthall.example", told)
        self.assertFalse(away.get(room.reader()).on)
        room.tell("away")
        page.one('[aria-label="Name of circle 1"]').send_keys(" and more")
        self.assertEqual(page.one("#away-0-").get_attribute("value"), "I am away.")

    def test_2_turned_on_an_invitation_declined_turned_off(self) -> None:
        """Who writes is told and shown; the invitation into the time is refused on one key; off it sends nothing."""
        page, room = self.page, self.served.room
        page.one('[data-act="away-on"]').send_keys(Keys.ENTER)
        page.await_("it on", lambda: "Sent until" in page.one(".subscriptions-count").text)
        page.await_("it told", lambda: "It ends by itself" in page.one(".effect").text)
        self.assertFalse(page.all(".notices [role=alert]"))
        receive(
            room,
            letter(
                "Late", sender="oskar@salthall.example", at=int(time.time()), Return_Path="<oskar@salthall.example>"
            ),
        )
        page.await_("who got it", lambda: "oskar@salthall.example" in page.one('[aria-label="Who got it"]').text)
        page.await_("the invitation", lambda: page.all('[data-invited="Sound check"]'))
        self.js("document.activeElement.blur()")
        page.press("H")
        page.await_("it declined", lambda: "Declined" in page.one('[data-invited="Sound check"]').text)
        self.assertIn(
            "Declined: Sound check",
            [one.subject for one in drafts.in_state(room.reader(), "waiting", "sending", "draft")],
        )
        page.one('[data-act="away-off"]').send_keys(Keys.ENTER)
        page.await_("it off", lambda: "Not sent" in page.one(".subscriptions-count").text)
        self.assertFalse(away.get(room.reader()).on)
