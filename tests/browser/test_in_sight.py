"""What the owner said stays in sight and theirs: keys stay with buckets, what rules hid is told, lessons are found and
undone, and counts follow what is read."""

from __future__ import annotations

import tempfile
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from hieranome.app import arranging, said
from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping
from hieranome.app.service import Service
from hieranome.app.teaching.correct import correct
from hieranome.core.deciders import Decider
from hieranome.core.rules import Action, Rule
from hieranome.core.sure import Reach
from hieranome.store import lessons, messages, places
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter, offer

SALES = "Sales <sales@strings.example>"


class InSightTest(WorkCase):
    in_trays = True
    shelved: list[int]
    hidden: int

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        room.clock = lambda: NOON + 900
        for n in range(5):
            number = receive(room, letter(f"Show {n} CANCELLED", at=NOON + n))
            assert number is not None
            correct(room, [number], "desk", follow=False)
        keeping.put(room, Rule(0, "Tidy", True, "arrives", 0, "came", False, "subject:hall", "", (Action("archive"),)))
        hidden = receive(room, letter("Show CANCELLED in the hall: confirm by noon?", at=NOON + 50))
        assert hidden is not None
        cls.hidden = hidden
        refused = receive(room, letter("Cheap strings", sender=SALES, at=NOON + 60))
        assert refused is not None
        correct(room, [refused], "drain", Reach.ADDRESS)
        found = [receive(room, offer(n)) for n in range(3)]
        cls.shelved = [number for number in found if number is not None]
        correct(room, cls.shelved[:1], "digest", follow=False)
        return Service.of(room, open_to_all=True)

    def press_button(self, text: str, within: str = "main") -> None:
        def press() -> bool:
            found = next((one for one in self.page.all(f"{within} button") if one.text.strip().startswith(text)), None)
            if found is not None:
                found.click()
            return found is not None

        self.page.await_(f"the button {text}", press)

    def test_1_what_a_rule_hid(self) -> None:
        """One line of the Desk says so, and shows it with the rule; put on the Desk it is told no more."""
        page = self.page
        page.go("/in/desk")
        hid = page.one(".rules-hid")
        self.assertIn("A rule hid one message that looks like the Desk", hid.text)
        self.press_button("Show", ".rules-hid")
        row = page.one(f'[data-hidden="{self.hidden}"]')
        self.assertIn("Archive, by a rule", row.text)
        self.assertEqual(row.find_element(By.TAG_NAME, "a").text, "Tidy")
        page.one(f'[data-hidden="{self.hidden}"] .second-open').click()
        self.await_opened(self.hidden)
        self.press_button("What happened to it")
        page.await_("the rule by name", lambda: "The rule Tidy took it, and put it" in page.one(".details").text)
        self.press_button("Desk", ".rules-hid")
        self.await_place(self.hidden, "desk")
        page.await_("nothing hidden", lambda: not page.all(".rules-hid"))

    def test_2_counts_follow_what_is_read(self) -> None:
        """Reading a row takes it off what its tray calls unread, at once; and an answer is seen on what is open."""
        page, room = self.page, self.served.room
        with room.change() as db:
            db.execute("UPDATE messages SET seen = (id % 2) WHERE place = 'desk'")
        page.go("/in/desk")

        def unread() -> int:
            told = " ".join(one.text for one in page.all(".tray-count"))
            return sum(int(part.split()[0]) for part in told.split(", ")[1:] if part.split()[1:2] == ["unread"])

        page.await_("some unread", lambda: unread() > 1)
        before = unread()
        row = next(
            one for one in page.all(".row-mail.unread, .row-mail") if "unread" in (one.get_attribute("class") or "")
        )
        number = int(row.get_attribute("data-message") or 0)
        row.find_element(By.CSS_SELECTOR, ".row-text").click()
        self.await_opened(number)
        page.await_("one less", lambda: unread() == before - 1)
        self.assertNotIn("answered", page.one(f'[data-message="{number}"]').text)
        with room.change() as db:
            db.execute("UPDATE messages SET answered = 1 WHERE id = ?", (number,))
            room.tell("drafts")
        page.await_(
            "the answer told",
            lambda: "nswered" in page.one(f'.reading[data-number="{number}"]').text,
        )

    def test_3_keys_stay_with_their_buckets(self) -> None:
        """With the Digest switched off, its key moves nothing and says why, and the Drain's key is the Drain's. Switched
        on, its mail is brought back by one click."""
        page, room = self.page, self.served.room
        page.go("/settings/buckets")
        page.one('[aria-label="Where mail of Digest goes"] option[value="shelf"]').click()
        page.await_("what needs it", lambda: "the plan “Weekday digest” needs it" in page.one(".bucket-asks").text)
        self.press_button("Switch it off all the same", ".bucket-asks")
        page.await_("it off", lambda: places.get(room.reader(), "digest").instead == "shelf")
        self.assertEqual(self.place_of(self.shelved[0]), "shelf")
        page.go("/in/shelf")
        page.await_rows()
        page.one(f'[data-message="{self.shelved[1]}"] .row-text').click()
        self.await_opened(self.shelved[1])
        page.press("d")
        page.await_("why not", lambda: "Digest is switched off" in page.effect())
        self.assertEqual(self.place_of(self.shelved[1]), "shelf")
        key = page.one('[data-put="drain"] kbd, [data-put="drain"] .key-cap').text
        self.assertEqual(key, "f")
        page.press("f")
        self.await_place(self.shelved[1], "drain")
        page.go("/settings/buckets")
        page.one('[aria-label="Where mail of Digest goes"] option[value=""]').click()
        page.await_("the offer", lambda: "went elsewhere when it was switched off" in page.one(".bucket-asks").text)
        self.press_button("Bring", ".bucket-asks")
        self.await_place(self.shelved[0], "digest")

    def test_4_what_is_built_on_it_is_named_first(self) -> None:
        """A folder a rule needs is not removed before that is confirmed."""
        page, room = self.page, self.served.room
        folder = arranging.add_folder(room, "Old papers").name
        rule = Rule(0, "Papers", True, "arrives", 0, "came", False, "subject:zz", "", (Action("folder", folder),))
        keeping.put(room, rule)
        page.go("/settings/buckets")
        page.one('[aria-label="Remove the folder Old papers"]').click()
        page.await_("it named", lambda: "the rule “Papers” needs it" in page.one(".bucket-asks").text)
        self.assertIn(folder, [one.name for one in places.every(room.reader())])
        self.press_button("Remove it all the same", ".bucket-asks")
        page.await_("it gone", lambda: folder not in [one.name for one in places.every(room.reader())])

    def test_5_lessons_are_found_and_undone(self) -> None:
        """By a word, by bucket; each undone where it stands; a line of evidence leads to its lesson."""
        page, room = self.page, self.served.room
        page.go("/journal")
        self.press_button("Lessons")
        page.await_("all lessons", lambda: len(page.all("[data-lesson]")) > 5)
        page.one('[aria-label="Search lessons"]').send_keys("strings")
        page.await_("one lesson", lambda: len(page.all("[data-lesson]")) == 1)
        number = int(page.one("[data-lesson]").get_attribute("data-lesson") or 0)
        self.press_button("Undo")

        def undone() -> bool:
            one = lessons.record(room.reader(), number)
            return one is not None and one.undone

        page.await_("it undone", undone)
        page.one('[aria-label="Search lessons"]').send_keys(Keys.CONTROL, "a", Keys.DELETE)
        page.one('[aria-label="Belongs in"] option[value="digest"]').click()
        page.await_("those of the Digest", lambda: len(page.all("[data-lesson]")) == 1)
        page.go("/in/desk")
        page.await_rows()
        page.open("Show 1 CANCELLED")
        page.evidence()
        link = page.one('.evidence a[href*="lesson="]')
        wanted = (link.get_attribute("href") or "").rpartition("=")[2]
        link.click()
        page.await_("that lesson alone", lambda: [
            one.get_attribute("data-lesson") for one in page.all("[data-lesson]")
        ] == [wanted])  # fmt: skip

    def test_6_a_list_of_senders_is_read_in(self) -> None:
        """From a file; what came of it is told, and each line of which nothing came says why."""
        page, room = self.page, self.served.room
        with tempfile.NamedTemporaryFile("w", suffix=".csv") as file:
            file.write(
                "kind,key,said,goes to\naddress,news@birchbow.example,always,Shelf\naddress,a@b.example,refused,\n"
            )
            file.flush()
            page.go("/senders")
            page.one('.said input[type="file"]').send_keys(file.name)
            page.await_("what came of it", lambda: "1 added, 0 said before, 1 not taken" in page.one(".said").text)
        self.assertIn("Line 3: No mail of “a@b.example” is here", page.one(".said").text)
        self.assertIn("news@birchbow.example", {one.key for one in said.everything(room)})
        field = page.one('[data-said="news@birchbow.example"] select')
        Select(field).select_by_value("digest")
        page.await_("it to go elsewhere", lambda: "digest" in {
            one.place for one in said.everything(room) if one.key == "news@birchbow.example"
        })  # fmt: skip
        page.await_("the field to say so", lambda: page.one(
            '[data-said="news@birchbow.example"] select'
        ).get_property("value") == "digest")  # fmt: skip

    def test_7_refused_mail_elsewhere_asks(self) -> None:
        """Mail of a refused sender that stands elsewhere, whoever put it there, says that the next goes to the Drain."""
        page, room = self.page, self.served.room
        with room.change() as db:
            number = receive(room, letter("Bows at half price", sender="Bows <b@bows.example>", at=NOON + 70)) or 0
            correct(room, [number], "drain", Reach.ADDRESS)
            messages.move(db, number, "desk", Decider.ELSEWHERE)
        page.go(f"/in/desk/{number}")
        told = page.await_("that it is refused", lambda: page.one(".reading-refused").text)
        self.assertIn("You refuse this sender: the next one goes to the Drain.", " ".join(told.split()))
        page.one('.reading-refused [data-act="stop-refusing"]').click()
        page.await_("it refused no more", lambda: not page.all(".reading-refused"))
        self.assertNotIn("b@bows.example", {one.key for one in said.everything(room)})
