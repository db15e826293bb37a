"""What was said for good is listed with what came since, and ended with a way back."""

from __future__ import annotations

import csv
import io
import unittest

from hieranome.app import exporting, said, said_table
from hieranome.app.bulk import planning, subscriptions
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.actors import Actor
from hieranome.core.errors import Asks, CallerError, NotFound
from hieranome.core.sure import Reach
from hieranome.store import journal, settings
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
        text = said_table.as_csv(self.room)
        before = self.told()
        self.assertEqual(said_table.take_in(self.room, text), said_table.Taken(0, 4, []))
        for kind, key, what, _ in before:
            said.end(self.room, Reach(kind), key, what)
        self.assertEqual(self.told(), set())
        found = said_table.take_in(self.room, text)
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
        found = said_table.take_in(self.room, "\ufeff" + "\r\n".join(lines))
        self.assertEqual((found.added, found.known), (1, 0))
        told = dict(found.refused)
        self.assertEqual(sorted(told), [2, 3, 4, 5, 6, 7, 9])
        for line, why in ((2, "No mail of"), (3, "neither an address"), (4, "loved"), (5, "list"), (6, "Moon")):
            self.assertIn(why, told[line])
        self.assertIn(("address", "news@birchbow.example", "always", "digest"), self.told())
        before = self.told()
        for wrong in ("", "name,age\n1,2\n", "kind,key,said,goes to\n" + "a,b,c,d\n" * (said_table.MOST_LINES + 1)):
            with self.assertRaises(CallerError):
                said_table.take_in(self.room, wrong)
        self.assertEqual(self.told(), before)

    def test_many_lines_are_few_steps(self) -> None:
        """What is said of several senders alike is one step, which one click undoes; so are all that stand in no
        edition. Of two lines about the same the later holds, and the other is told."""
        senders = [f"seller{n}@mass.example" for n in range(6)]
        for sender in senders:
            self.take(letter("Buy", sender=sender))
        before = self.told()
        steps = len(journal.recent(self.room.reader(), 0, 50))
        lines = ["kind,key,said,goes to", "address,seller0@mass.example,always,Shelf"]
        lines += [f"address,{one},refused,Drain" for one in senders]
        lines += [f"address,{one},never in editions," for one in senders]
        found = said_table.take_in(self.room, "\n".join(lines))
        self.assertEqual((found.added, found.known), (12, 0))
        self.assertEqual([at for at, _ in found.refused], [2])
        self.assertIn("Line 3", found.refused[0][1])
        self.assertEqual(len(journal.recent(self.room.reader(), 0, 50)), steps + 2)
        self.assertEqual(said_table.take_in(self.room, "\n".join([lines[0], *lines[2:]])).known, 12)
        undo(self.room)
        undo(self.room)
        self.assertEqual(self.told(), before)

    def test_a_domain_of_many_people_cannot_be_refused(self) -> None:
        """Its line is told, and the others of its kind are said all the same."""
        for sender in ("a@gmx.example", "b@mass.example"):
            self.take(letter("Buy", sender=sender))
        vouching.set_names(self.room, settings.SHARED, ["gmx.example"])
        lines = ["kind,key,said,goes to", "domain,gmx.example,refused,Drain", "domain,mass.example,refused,Drain"]
        found = said_table.take_in(self.room, "\n".join(lines))
        self.assertEqual((found.added, [at for at, _ in found.refused]), (1, [2]))
        self.assertIn("unrelated people", found.refused[0][1])
        self.assertIn(("domain", "mass.example", "refused", "drain"), self.told())

    def test_changed_by_one_step(self) -> None:
        """All of it goes elsewhere from then on, what is here stays, and it asks first where that would surprise."""
        said.change(self.room, Reach.ADDRESS, "sales@strings.example", "digest", confirmed=False)
        self.assertIn(("address", "sales@strings.example", "always", "digest"), self.told())
        self.assertEqual(self.row(self.refused).place, "drain")
        self.assertEqual(self.row(self.take(letter("More", sender=SALES))).place, "digest")
        undo(self.room)
        self.assertIn(("address", "sales@strings.example", "refused", "drain"), self.told())
        vouching.vouch(self.room, "address", "sales@strings.example")
        with self.assertRaisesRegex(Asks, "You vouch for"):
            said.change(self.room, Reach.ADDRESS, "sales@strings.example", "shelf", confirmed=False)
        with self.assertRaisesRegex(CallerError, "No mail of"):
            said.change(self.room, Reach.ADDRESS, "nobody@nowhere.example", "shelf", confirmed=True)

    def test_who_said_it(self) -> None:
        """The owner here, or in another program."""
        number = self.take(letter("Cheap picks", sender="picks@strings.example"))
        correct(self.room, [number], "drain", Reach.ADDRESS, elsewhere=True, stay=True)
        by = {(one.key, one.what): one.by for one in said.everything(self.room)}
        self.assertEqual(by.pop(("picks@strings.example", "refused")), Actor.ELSEWHERE)
        self.assertEqual(set(by.values()), {Actor.OWNER})

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
        lines = list(csv.DictReader(io.StringIO(said_table.as_csv(self.room))))
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
        body = {"kind": "address", "key": one["key"], "place": "shelf"}
        self.assertEqual(self.client.post("/api/said/change", json=body).status_code, 200)
        self.assertEqual(self.client.get("/api/said").json()[0]["place"], "shelf")
        vouching.vouch(self.room, "address", one["key"])
        asked = self.client.post("/api/said/change", json=body | {"place": "digest"})
        self.assertEqual((asked.status_code, asked.json()["asks"]), (409, True))
        again = self.client.post("/api/said/change", json=body | {"place": "digest", "confirmed": True})
        self.assertEqual(again.status_code, 200)

    def test_a_file_at_the_api(self) -> None:
        """Read in; what is no such file is refused with what to do, and nothing is said."""
        self.take(letter("Cheap", sender=SALES))
        line = b"kind,key,said,goes to\naddress,sales@strings.example,refused,\naddress,x@y.example,refused,\n"
        found = self.client.post("/api/said/file", files={"file": ("a.csv", b"\xef\xbb\xbf" + line)}).json()
        self.assertEqual((found["added"], [one["line"] for one in found["refused"]]), (1, [3]))
        before = self.client.get("/api/said").json()
        for content, why in (
            (b"\xff\xfe" + line, "UTF-8"),
            (line + b"x" * 2_000_000, "Divide it"),
            (b"name;age\n", "no column kind, key"),
            (b"", "no column"),
        ):
            refused = self.client.post("/api/said/file", files={"file": ("a.csv", content)})
            self.assertEqual(refused.status_code, 422)
            self.assertIn(why, refused.json()["detail"])
        self.assertEqual(self.client.get("/api/said").json(), before)


if __name__ == "__main__":
    unittest.main()
