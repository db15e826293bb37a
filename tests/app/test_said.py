"""What was said for good is listed with what came since, and ended with a way back."""

from __future__ import annotations

import csv
import io
import unittest

from hieranome.app import exporting, said
from hieranome.app.bulk import planning, subscriptions
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.sure import Reach
from tests.support import NOON, ApiCase, RoomCase, letter, offer

SALES = "Sales <sales@strings.example>"
LIST = "list:news.birchbow.example"


class SaidTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.refused = self.take(letter("Cheap strings", sender=SALES))
        correct(self.room, [self.refused], "drain", Reach.ADDRESS)
        self.listed = self.take(offer(1))
        correct(self.room, [self.listed], "shelf", Reach.LIST)
        vouching.vouch(self.room, "domain", "salthall.example")
        planning.leave_out(self.room, [LIST])

    def told(self) -> set[tuple[str, str, str, str]]:
        """What is listed, without times and counts."""
        return {(one.kind.value, one.key, one.what, one.place) for one in said.everything(self.room)}

    def test_all_of_it_in_one_list(self) -> None:
        """With whose it is, where it goes, since when, and how much came since."""
        self.assertEqual(
            self.told(),
            {
                ("address", "sales@strings.example", "refused", "drain"),
                ("list", "news.birchbow.example", "always", "shelf"),
                ("domain", "salthall.example", "vouched", "desk"),
                ("list", "news.birchbow.example", "no edition", ""),
            },
        )
        self.clock.now = NOON + 1_000
        self.take(letter("More strings", sender=SALES, at=NOON + 2_000))
        one = next(one for one in said.everything(self.room) if one.what == "refused")
        self.assertEqual((one.name, one.came), ("Sales", 1))
        self.assertGreater(one.at, NOON)

    def test_read_in_elsewhere(self) -> None:
        """A list that was saved says the same where the mail is, and each line of which nothing comes says why."""
        text = said.as_csv(self.room)
        before = self.told()
        self.assertEqual(said.take_in(self.room, text), said.Taken(0, 4, []))
        for kind, key, what, _ in before:
            said.end(self.room, Reach(kind), key, what)
        self.assertEqual(self.told(), set())
        found = said.take_in(self.room, text)
        self.assertEqual((found.added, found.known, found.refused), (4, 0, []))
        self.assertEqual(self.told(), before)
        self.assertEqual(self.row(self.take(letter("Strings 3", sender=SALES))).place, "drain")

    def test_lines_of_which_nothing_comes(self) -> None:
        """Each is named with why; the others are said; what is no list says nothing."""
        lines = [
            "kind,key,said,goes to",
            "address,nobody@nowhere.example,refused,Drain",
            "planet,x,refused,Drain",
            "address,sales@strings.example,loved,Desk",
            "list,news.birchbow.example,vouched for,Desk",
            "address,news@birchbow.example,always,Moon",
            "domain,birchbow.example,never in editions,",
            "address,news@birchbow.example,always,Digest",
            "address",
        ]
        found = said.take_in(self.room, "\ufeff" + "\r\n".join(lines))
        self.assertEqual((found.added, found.known), (1, 0))
        told = dict(found.refused)
        self.assertEqual(sorted(told), [2, 3, 4, 5, 6, 7, 9])
        for line, why in ((2, "No mail of"), (3, "neither an address"), (4, "loved"), (5, "list"), (6, "Moon")):
            self.assertIn(why, told[line])
        self.assertIn(("address", "news@birchbow.example", "always", "digest"), self.told())
        before = self.told()
        for wrong in ("", "name,age\n1,2\n", "kind,key,said,goes to\n" + "a,b,c,d\n" * (said.MOST_LINES + 1)):
            with self.assertRaises(CallerError):
                said.take_in(self.room, wrong)
        self.assertEqual(self.told(), before)

    def test_ended_and_brought_back(self) -> None:
        """The next is judged again; the mail stays where it stands; undoing the step lets it hold again."""
        before = self.told()
        step = said.end(self.room, Reach.ADDRESS, "sales@strings.example", "refused")
        assert step is not None
        self.assertEqual(self.row(self.refused).place, "drain")
        self.assertNotIn("refused", {what for _, _, what, _ in self.told()})
        later = self.take(letter("A question about the bass", sender=SALES, at=NOON + 50))
        self.assertEqual(self.row(later).decided_by, "model")
        undo(self.room, step.id)
        self.assertEqual(self.told(), before)
        self.assertEqual(self.row(self.take(letter("Strings", sender=SALES, at=NOON + 60))).decided_by, "address")

    def test_said_again_after_it_ended(self) -> None:
        """A later word holds, whatever ended before."""
        said.end(self.room, Reach.ADDRESS, "sales@strings.example", "refused")
        correct(self.room, [self.refused], "digest", Reach.ADDRESS)
        self.assertIn(("address", "sales@strings.example", "always", "digest"), self.told())

    def test_the_others_end_too(self) -> None:
        """Vouching, always and editions; what is not said cannot be ended, and nothing is changed then."""
        said.end(self.room, Reach.DOMAIN, "salthall.example", "vouched")
        said.end(self.room, Reach.LIST, "news.birchbow.example", "no edition")
        said.end(self.room, Reach.LIST, "news.birchbow.example", "always")
        self.assertEqual({what for _, _, what, _ in self.told()}, {"refused"})
        found = subscriptions.find(self.room)
        self.assertEqual([one.belongs for one in found if LIST in one.keys], [""])
        for what in said.WHAT:
            with self.assertRaises(NotFound):
                said.end(self.room, Reach.LIST, "news.birchbow.example", what)

    def test_over_an_export(self) -> None:
        """What ended has ended in the other folder as well, and undoing it is possible there."""
        step = said.end(self.room, Reach.ADDRESS, "sales@strings.example", "refused")
        assert step is not None
        exporting.export(self.room, self.folder / "out.zip")
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        exporting.restore(other, self.folder / "out.zip")
        self.assertEqual({one.what for one in said.everything(other)}, {"always", "vouched", "no edition"})
        undo(other, step.id)
        self.assertIn("refused", {one.what for one in said.everything(other)})

    def test_as_csv(self) -> None:
        """A line each; what a stranger wrote is no formula in it."""
        odd = self.take(letter("x", sender='"=HYPERLINK(1)" <odd@strings.example>'))
        correct(self.room, [odd], "drain", Reach.ADDRESS)
        lines = list(csv.DictReader(io.StringIO(said.as_csv(self.room))))
        self.assertEqual(len(lines), 5)
        self.assertEqual({line["said"] for line in lines}, set(said.WHAT.values()))
        self.assertIn("'=HYPERLINK(1)", {line["name"] for line in lines})


class SaidApiTest(ApiCase):
    def test_at_the_api(self) -> None:
        """Listed, as a file, ended with the step that undoes it."""
        correct(self.room, [self.take(letter("Cheap", sender=SALES))], "drain", Reach.ADDRESS)
        [one] = self.client.get("/api/said").json()
        self.assertEqual((one["what"], one["name"], one["place"]), ("refused", "Sales", "drain"))
        self.assertIn("sales@strings.example", self.client.get("/api/said/file").text)
        body = {"kind": "address", "key": one["key"], "what": "refused"}
        step = self.client.post("/api/said/end", json=body).json()
        self.assertEqual(self.client.get("/api/said").json(), [])
        self.assertEqual(self.client.post("/api/said/end", json=body).status_code, 404)
        self.assertEqual(self.client.post(f"/api/steps/{step['id']}/undo").status_code, 200)
        self.assertEqual(len(self.client.get("/api/said").json()), 1)


if __name__ == "__main__":
    unittest.main()
