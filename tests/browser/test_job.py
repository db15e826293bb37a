"""The main job, done in the real interface."""

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import lessons, messages
from tests.browser.driver import BrowserCase, Keys
from tests.mail.test_sources import mbox
from tests.support import NOON, OWNER, Clock, letter, offer

NOTICE = "Signal Box Players <post@signalbox.example>"


def notice(number: int) -> bytes:
    return letter(
        f"Rehearsal notice {number}: the brass room",
        sender=NOTICE,
        body=f"Could you please note: the brass room is taken on the {number}th. Question? Ask the porter today.",
        at=NOON + 10 * number,
    )


class JobTest(BrowserCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        for number in range(20):
            receive(
                room, letter(f"Stage question {number}", sender=f"hall{number}@house{number}.example", at=NOON + number)
            )
            receive(room, offer(number))
        receive(room, notice(1))
        return Service.of(room, open_to_all=True)

    def state(self) -> dict[int, tuple[str, str, int]]:
        rows = self.served.room.reader().execute("SELECT id, place, decided_by, score FROM messages")
        return {r[0]: (r[1], r[2], round(100 * r[3])) for r in rows}

    def log_odds(self) -> list[float]:
        db = self.served.room.reader()
        numbers = [row[0] for row in db.execute("SELECT id FROM messages WHERE id <= 25 ORDER BY id")]
        return [j.log_odds for j in self.served.room.engine.judge_all([messages.vectors(db, [n])[n] for n in numbers])]

    def test_correct_once_and_the_next_goes_where_taught(self) -> None:
        """One verdict by key; the next message of that kind stands where it said, names the lesson; undo restores all."""
        page, room = self.page, self.served.room
        page.go("/")
        page.await_row("Rehearsal notice 1")
        page.problems()
        before, odds = self.state(), self.log_odds()
        place = next(s for s in before.values() if s[1] == "model" and s[0] in ("desk", "undecided"))
        self.assertTrue(place)
        page.open("Rehearsal notice 1")
        page.press("f")
        page.await_gone("Rehearsal notice 1")
        self.assertIn("is in the Drain", page.effect())
        self.assertEqual(len(lessons.ledger(room.reader(), 0, 10)), 1)

        arrived = receive(room, notice(2))
        assert arrived is not None
        self.assertEqual(messages.get(room.reader(), arrived).place, "drain")
        page.go_to("drain")
        page.open("Rehearsal notice 2")
        self.assertIn("Your lesson", page.evidence())
        self.assertIn("Rehearsal notice 1", page.evidence())

        page.press("u")
        page.await_("the lesson to be undone", lambda: lessons.ledger(room.reader(), 0, 10)[0].undone)
        after = {n: s for n, s in self.state().items() if n in before}
        self.assertEqual(after, before)
        for was, now in zip(odds, self.log_odds(), strict=True):
            self.assertAlmostEqual(was, now, delta=1e-9)
        page.go_to("desk")
        page.await_row("Rehearsal notice 1")
        self.assertEqual(page.problems(), [])

    def test_kin_follow_when_asked(self) -> None:
        """After a verdict the kin are listed, follow on a key, and come back on undo."""
        page = self.page
        place = next(m.place for m in [messages.get(self.served.room.reader(), 2)])
        page.go(f"/in/{place}")
        page.open("Offer 0:")
        page.press("a")
        page.await_("kin named", lambda: "similar too" in page.one(".effect").text)
        page.press("y")
        page.await_("kin to follow", lambda: "Similar mail moved too" in page.effect())
        page.go_to("desk")
        page.await_row("Offer 5:")
        page.press("u")
        page.await_gone("Offer 5:")
        page.press("u")
        page.await_("all to be undone", lambda: messages.get(self.served.room.reader(), 2).place == place)

    def test_mouse_alone(self) -> None:
        """Band, row, verdict button, reach and undo by mouse."""
        page = self.page
        page.go("/in/desk")
        subject = next(s for s in page.await_rows() if s.startswith("Stage question"))
        page.open(subject)
        select = page.one(".verdict-reach select")
        select.find_element("css selector", 'option[value="message"]').click()
        page.one('.verdict-button[data-put="shelf"]').click()
        page.await_gone(subject)
        page.go_to("shelf")
        page.await_row(subject)
        page.one('[data-act="undo"]').click()
        page.await_gone(subject)

    def test_arrivals_appear_by_themselves(self) -> None:
        """A message that arrives is in the list and in the counts without loading anew."""
        page = self.page
        page.go("/in/digest")
        page.await_rows()
        number = receive(self.served.room, offer(77))
        assert number is not None
        self.assertEqual(messages.get(self.served.room.reader(), number).place, "digest")
        page.await_row("Offer 77")
        page.await_("the count", lambda: "21" in page.one('.band-segment[data-place="digest"]').text)

    def test_a_dropped_mailbox_comes_in(self) -> None:
        """Choosing a file brings it in with progress to the end; what is no mail is refused in a sentence."""
        page = self.page
        good, bad = self.served.room.store.folder / "good.mbox", self.served.room.store.folder / "bad.txt"
        good.write_bytes(mbox(*(letter(f"Brought in {n}", at=NOON - n) for n in range(30))))
        bad.write_bytes(b"no mail at all\n")
        page.go("/import")
        page.one('input[type="file"]').send_keys(str(bad))
        page.await_("the refusal", lambda: "not a mailbox" in page.text())
        page.one('input[type="file"]').send_keys(str(good))
        page.await_("the import's end", lambda: "30 new" in page.text())

    def test_keys_are_left_alone_while_writing(self) -> None:
        """Letters typed into a field are letters."""
        page = self.page
        steps = len(lessons.ledger(self.served.room.reader(), 0, 100))
        page.go("/settings")
        field = page.one("#addresses")
        page.await_("the addresses", lambda: OWNER in (field.get_attribute("value") or ""))
        field.send_keys("\nasdfu@quillmark.example")
        self.assertIn("asdfu@", field.get_attribute("value") or "")
        self.assertEqual(len(lessons.ledger(self.served.room.reader(), 0, 100)), steps)

    def test_help_lists_the_keys(self) -> None:
        """The question mark opens the list of keys, Escape closes it."""
        page = self.page
        page.go("/in/desk")
        page.await_rows()
        page.press("?")
        page.await_("the list of keys", lambda: "Undo the latest step" in page.text())
        page.await_("the focus in it", lambda: page.all('[role="dialog"]:focus-within'))
        page.press(Keys.ESCAPE)
        page.await_("the list to close", lambda: "Undo the latest step" not in page.text() or None)
