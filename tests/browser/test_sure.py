"""Vouching, contradictions, and trying the engine on an archive, in the real interface."""

from pathlib import Path

from selenium.webdriver.support.ui import Select

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.app.teaching import vouching
from hieranome.store import messages, settings
from tests.browser.driver import BrowserCase
from tests.mail.test_sources import mbox
from tests.support import OWNER, Clock, letter, offer

SERVER = "mx.quillmark.example"


class SureTest(BrowserCase):
    archive: Path

    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder, Clock())
        room.set_owner([OWNER])
        vouching.set_names(room, settings.CONFIRMED, [SERVER])
        receive(room, letter("Plan of the stage?", sender="Ilse Brandt <ilse@hall.example>"))
        for number in range(4):
            receive(room, letter(f"Question {number}?", sender=f"w{number}@house{number}.example"))
            receive(room, offer(number))
        cls.archive = folder.parent / "archive"
        cls.archive.mkdir()
        (cls.archive / "Inbox.mbox").write_bytes(mbox(*(letter(f"m{n}?", body=f"Please {n}") for n in range(30))))
        (cls.archive / "Junk.mbox").write_bytes(mbox(*(offer(n) for n in range(30))))
        return Service.of(room, open_to_all=True)

    def place_of(self, raw: bytes) -> str:
        number = receive(self.served.room, raw)
        assert number is not None
        return messages.get(self.served.room.reader(), number).decided_by

    def test_a_sender_is_vouched_for_from_the_message_and_removed_in_the_settings(self) -> None:
        """One press vouches; the forged message is told as forged; the settings list and remove the sender."""
        page = self.page
        row = self.served.room.reader().execute("SELECT id, place FROM messages WHERE subject LIKE 'Plan%'").fetchone()
        page.go(f"/in/{row['place']}/{row['id']}")
        page.await_open("Plan of the stage?")
        page.more_of_the_head()
        page.one(".reading-vouch").click()
        page.await_("the sender vouched for", lambda: "you vouch for it" in page.one(".reading").text)
        self.assertEqual(self.place_of(letter("Next", sender="ilse@hall.example")), "vouched")
        fake = letter("Fee", sender="ilse@hall.example", Authentication_Results=f"{SERVER}; dmarc=fail")
        self.assertEqual(self.place_of(fake), "model")
        number = self.served.room.reader().execute("SELECT id, place FROM messages WHERE subject = 'Fee'").fetchone()
        page.go(f"/in/{number['place']}/{number['id']}")
        page.await_("a warning", lambda: "Forged" in page.one(".reading").text)
        page.go("/settings/senders")
        page.one('[aria-label="Remove ilse@hall.example"]').click()
        page.await_("an empty list", lambda: "Nobody yet" in page.text())
        self.assertEqual(self.place_of(letter("Later", sender="ilse@hall.example")), "model")

    def test_nonsense_is_refused_where_it_was_written(self) -> None:
        """What is no address and no domain is told beside the field, and stays there to be mended."""
        page = self.page
        page.go("/settings/senders")
        field = page.one('[aria-label="Address or domain to vouch for"]')
        field.send_keys("hall\n")
        self.assertIn("Write it like", page.one(".settings [role=alert]").text)
        self.assertEqual(field.get_attribute("value"), "hall")

    def test_an_archive_is_tried(self) -> None:
        """Path, folders with their suggested buckets, figures; the mail here is as it was."""
        page, db = self.page, self.served.room.reader()
        before = db.execute("SELECT count(*) FROM messages").fetchone()[0]
        page.go("/try")
        page.one("#archive").send_keys(str(self.archive) + "\n")
        page.await_("two folders", lambda: len(page.all(".try-folders tbody tr")) == 2)
        chosen = [Select(e).first_selected_option.text for e in page.all(".try-folders tbody select")]
        self.assertEqual(chosen, ["Desk", "Drain"])
        page.one(".try-folders button[type=submit]").click()
        figures = page.await_("figures", lambda: next(iter(page.all(".figures")), None))
        self.assertIn("Important mail put away", figures.text)  # type: ignore[union-attr]
        self.assertEqual(db.execute("SELECT count(*) FROM messages").fetchone()[0], before)
        page.go("/try")
        field = page.one("#archive")
        field.clear()
        field.send_keys("nowhere\n")
        page.await_("a clear refusal", lambda: page.all("[role=alert]"))
        self.assertEqual([p for p in page.problems() if "422" not in p and "404" not in p], [])
