"""What is known for sure, by hand: tags put on by key and by drag, a rule made of a message by keyboard alone."""

from __future__ import annotations

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import journal, messages, rules, tags
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import NOON, OWNER, letter

FREIGHT = "Counter 4 <counter4@freight.example>"


class SureTest(WorkCase):
    """A Shelf with carnets from a freight firm, and other mail."""

    carnets: list[int]
    others: list[int]

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])

        def take(raw: bytes) -> int:
            number = receive(room, raw)
            assert number is not None
            return number

        cls.carnets = [take(letter(f"Carnet 19-{n}", sender=FREIGHT, at=NOON + n)) for n in range(5)]
        cls.others = [take(letter(f"Stage plan {n}", at=NOON + 20 + n)) for n in range(3)]
        cls.others.append(take(letter("Invoice 7", sender=FREIGHT, at=NOON - 50)))
        with room.change() as db:
            messages.move_all(db, [*cls.carnets, *cls.others], "shelf", "model")
        room.clock = lambda: NOON + 86_400
        return Service.of(room, open_to_all=True)

    def carried(self, number: int) -> set[str]:
        """The names of the tags a message carries."""
        db = self.served.room.reader()
        return {tags.get(db, tag).name for tag in tags.of(db, [number]).get(number, [])}

    def await_tags(self, number: int, *names: str) -> None:
        self.page.await_(f"the tags of {number}", lambda: self.carried(number) == set(names))

    def test_1_tags_by_key(self) -> None:
        """Made in the same breath, put on several, shown with its name, found, taken off, put away with it."""
        page = self.page
        page.go("/in/shelf")
        page.open_row("Carnet 19-4")
        page.press("T")
        page.one(".command input").send_keys("Spring tour", Keys.ENTER)
        self.await_tags(self.carnets[4], "Spring tour")
        page.await_("the tag on its row", lambda: "Spring tour" in page.one(".row-mail.open .tag").text)
        page.press("J", "T")
        page.one(".command input").send_keys("spr", Keys.ENTER)
        self.await_tags(self.carnets[3], "Spring tour")
        page.press(Keys.ESCAPE, "B")
        page.one(".command input").send_keys(Keys.ENTER)
        self.await_tags(self.carnets[3])
        page.press("u")
        self.await_tags(self.carnets[3], "Spring tour")
        page.open_row("Stage plan 2")
        page.press("W")
        page.one(".command input").send_keys("Done with", Keys.ENTER)
        self.await_place(self.others[2], "archive")
        self.await_tags(self.others[2], "Done with")
        page.press("u")
        self.await_place(self.others[2], "shelf")
        self.await_tags(self.others[2])

    def test_2_tags_by_drag(self) -> None:
        """Mail onto a tag in the spine, and a tag onto a row; a click on it finds its mail."""
        page = self.page
        page.go("/in/shelf")
        page.await_row("Carnet 19-0")
        tag = '.spine-tags [data-tag="Spring tour"]'
        self.drag_onto(f'.row-mail[data-message="{self.carnets[0]}"] .row-text', tag)
        self.await_tags(self.carnets[0], "Spring tour")
        self.drag_onto(tag, f'.row-mail[data-message="{self.others[0]}"] .row-text')
        self.await_tags(self.others[0], "Spring tour")
        page.press("u")
        self.await_tags(self.others[0])
        page.one(tag).click()
        page.await_("its mail", lambda: set(page.subjects()) == {"Carnet 19-0", "Carnet 19-3", "Carnet 19-4"})
        page.one('.spine-tags button[aria-expanded="true"]').click()
        page.await_("the list folded away", lambda: not page.all(".spine-tags li"))
        page.one('.spine-tags button[aria-expanded="false"]').click()

    def test_3_a_rule_by_keyboard_alone(self) -> None:
        """Made of a message, previewed, kept, run, undone; the message names it."""
        page = self.page
        page.go("/in/shelf")
        page.open_row("Carnet 19-2")
        page.press("R")
        page.await_(
            "the proposed line",
            lambda: page.one("#rule-line").get_attribute("value") == "from:counter4@freight.example subject:carnet",
        )
        page.await_("the preview", lambda: "5 messages in the last ninety days." in page.one(".rule-said").text)
        self.assertIn(
            "5 of 5 stand there already, 5 by the model: the model has learned this.", page.one(".rule-said").text
        )
        line = page.one("#rule-line")
        line.send_keys(Keys.TAB, Keys.TAB)
        page.press("Stage", Keys.TAB)
        # What is done: the bucket's field, then which.
        page.press("Put in the A")
        page.await_("the Archive chosen", lambda: page.one(".rule-actions select").get_attribute("value") == "archive")
        page.one("#rule-except").clear()
        page.one("#rule-name").send_keys(Keys.ENTER)
        page.await_("the rule kept", lambda: len(rules.every(self.served.room.reader())) == 1)
        page.await_("its button", lambda: page.all('[data-act="run"]'))
        page.one('[data-act="run"]').send_keys(Keys.ENTER)
        for number in self.carnets:
            self.await_place(number, "archive")
        page.await_("the effect", lambda: "has run" in page.effect())
        page.one(".rule-name").click()
        page.press("u")
        for number in self.carnets:
            self.await_place(number, "shelf")
        step = journal.recent(self.served.room.reader(), 0, 1)[0]
        self.assertEqual((step.messages, step.undone_at is not None), (5, True))
        with self.served.room.change():
            number = receive(self.served.room, letter("Carnet 19-9", sender=FREIGHT, at=NOON + 90))
        assert number is not None
        self.assertEqual(self.place_of(number), "archive")
        page.go(f"/in/archive/{number}")
        page.await_("the rule named", lambda: "put it here" in page.one(".score-reason").text)

    def test_4_the_order_and_the_switch(self) -> None:
        """Rules are put in order by key and by drag, and switched off; what is refused says why."""
        page, room = self.page, self.served.room
        for name in ("Second", "Third"):
            page.go("/rules?rule=new")
            page.one("#rule-line").send_keys(f"subject:{name.lower()}")
            page.one("#rule-name").send_keys(name, Keys.ENTER)
            page.await_(f"{name} kept", lambda name=name: name in [one.name for one in rules.every(room.reader())])
        first = rules.every(room.reader())[0].name
        names = lambda: [one.name for one in rules.every(room.reader())]  # noqa: E731
        page.await_("three rows", lambda: len(page.all(".rule-row")) == 3)
        page.one('.rule-row[data-rule="Third"] .rule-name').click()
        page.press("<")
        page.await_("the third above the second", lambda: names() == [first, "Third", "Second"])
        self.drag_onto('.rule-row[data-rule="Second"] .rule-name', f'.rule-row[data-rule="{first}"] .rule-name')
        page.await_("the second on top", lambda: names() == ["Second", first, "Third"])
        page.one('.rule-row[data-rule="Third"] input').click()
        page.await_("the third off", lambda: [one.enabled for one in rules.every(room.reader())] == [True, True, False])
        page.one('.rule-row[data-rule="Third"] .rule-name').click()
        line = page.one("#rule-line")
        line.send_keys(" tag:nothing")
        page.one("#rule-name").send_keys(Keys.ENTER)
        page.await_("why", lambda: "There is no tag" in page.one(".rule-form [role=alert]").text)
        page.one('[data-act="new"]').click()

    def test_5_tags_on_their_page(self) -> None:
        """Renamed, put below another, merged and deleted, each undone."""
        page, room = self.page, self.served.room
        page.go("/tags")
        names = lambda: sorted(one.name for one in tags.every(room.reader()))  # noqa: E731
        for name in ("Tour", "Visas"):
            page.one("#fresh-tag").send_keys(name, Keys.ENTER)
            page.await_(f"{name} made", lambda name=name: name in names())
        page.one('[data-tag-row="Spring tour"]').click()
        page.await_("its name in the field", lambda: page.one("#tag-name").get_attribute("value") == "Spring tour")
        page.one(f"#tag-parent option:nth-child({self.at_option('Tour')})").click()
        page.await_(
            "below",
            lambda: [one.parent > 0 for one in tags.every(room.reader()) if one.name == "Spring tour"] == [True],
        )
        page.one(f"#tag-into option:nth-child({self.at_option('Visas')})").click()
        page.one(".tag-field:last-of-type .plain-button").click()
        page.await_("merged", lambda: names() == ["Tour", "Visas"])
        self.await_tags(self.carnets[0], "Visas")
        page.press(Keys.ESCAPE)
        page.one('.effect [data-act="undo"]').click()
        page.await_("back", lambda: names() == ["Spring tour", "Tour", "Visas"])
        self.await_tags(self.carnets[0], "Spring tour")

    def at_option(self, name: str) -> int:
        """Which option of the tag's choices names a tag."""
        options = [one.text for one in self.page.all("#tag-parent option")]
        return options.index(name) + 1
