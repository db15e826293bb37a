"""Searching in the page: a word's beginning, what there is instead of nothing, a search saved under a name."""

from pathlib import Path

from hieranome.app.arrival.arrive import receive
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.service import Service
from hieranome.store import searches
from tests.browser.driver import Keys
from tests.browser.work import WorkCase
from tests.support import OWNER, letter


class SearchTest(WorkCase):
    @classmethod
    def make(cls, folder: Path) -> Service:
        room = Mailroom(folder)
        room.set_owner([OWNER])
        for subject in ("Timpani for the 19th", "Risers", "Timpani again"):
            receive(room, letter(subject))
        return Service.of(room, open_to_all=True)

    def test_from_half_a_word_to_a_saved_search(self) -> None:
        """Half a word finds; where nothing is found another spelling is a click away; what is saved has a name."""
        page = self.page
        page.go("/in/desk")
        page.one(".spine-search input").send_keys("timp", Keys.ENTER)
        page.await_("both", lambda: len(page.subjects()) == 2)
        page.one(".search-line input").clear()
        page.one(".search-line input").send_keys("tinpani", Keys.ENTER)
        page.one(".search-lines button").click()
        page.await_("both again", lambda: len(page.subjects()) == 2)
        self.assertIn("timpani", page.one(".search-line input").get_attribute("value") or "")
        next(one for one in page.all(".list-head button") if one.text == "Save").click()
        page.one(".command-line input").send_keys("Drums", Keys.ENTER)
        page.await_("it saved", lambda: [one.name for one in searches.every(self.served.room.reader())] == ["Drums"])
        page.await_("its name", lambda: "Drums" in page.one(".spine").text)

    def test_what_one_passes_is_not_read(self) -> None:
        """A key that goes over a row reads nothing at once; Enter does, and so does a click."""
        page = self.page
        self.arrange(markRead="by hand")
        page.go("/search?line=timpani")
        page.await_rows()
        page.press("j")
        page.await_("the message", lambda: page.all(".reading-text, .reading-frame"))
        page.press(Keys.ENTER)
        unread = "SELECT count(*) FROM messages WHERE seen = 0"
        db = self.served.room.reader()
        self.assertEqual(db.execute(unread).fetchone()[0], 3)
        self.arrange()
        page.go("/search?line=timpani")
        page.await_rows()
        page.press("j")
        page.await_("the message", lambda: page.all(".reading-text, .reading-frame"))
        self.assertEqual(db.execute(unread).fetchone()[0], 3)
        page.press(Keys.ENTER)
        page.await_("it read", lambda: db.execute(unread).fetchone()[0] == 2)
        page.press("j")
        page.await_("the other read after a while", lambda: db.execute(unread).fetchone()[0] == 1)
        self.assertEqual(self.served.room.reader().execute("SELECT count(*) FROM lessons").fetchone()[0], 0)
        page.go("/search?line=risers")
        page.await_rows()
        page.one(".row-mail .row-text").click()
        page.await_("all read", lambda: db.execute(unread).fetchone()[0] == 0)
