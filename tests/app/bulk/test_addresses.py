"""The owner's addresses: what each brings, who has it who should not, what it is said to be for, and new ones."""

from __future__ import annotations

from hieranome.app.bulk import addresses
from hieranome.app.exporting import export, restore
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import mark
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.room.scoring import rescore_in_sight
from hieranome.app.teaching.correct import correct
from hieranome.app.viewing import open_message
from hieranome.core.addresses import Purpose
from hieranome.core.errors import CallerError, NotFound
from hieranome.store import messages
from tests.support import MARK, NOON, ApiCase, RoomCase, letter, offer

MINE = "maren@quillmark.example"
OLD = "m.aldous@oldharbour.example"
TAGGED = "maren+corvane@quillmark.example"
DAY = 86_400


def to_tag(sender: str, day: int, subject: str = "Your order") -> bytes:
    """A message to the address that was given to Corvane."""
    return letter(f"{subject} {day}", sender=f"Somebody <{sender}>", to=TAGGED, at=NOON + day * DAY)


class AddressesTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.room.set_owner([MINE, OLD])
        self.offers = [self.take(offer(number)) for number in range(4)]
        self.letters = [self.take(letter(f"Letter {number}", at=NOON + number)) for number in range(3)]

    def found(self) -> dict[str, addresses.Address]:
        """All addresses by themselves."""
        return {one.address: one for one in addresses.find(self.room)}

    def test_what_each_brings(self) -> None:
        """How much, what share is noise or was read, from how many; an address nothing came to yet stands there too."""
        correct(self.room, self.offers[:3], "drain")
        correct(self.room, self.offers[3:], "shelf")
        mark(self.room, self.letters[:1], "read")
        self.room.set_owner([MINE, OLD, "third@quillmark.example"])
        found = self.found()
        self.assertEqual(list(found), [OLD, MINE, "third@quillmark.example"])
        old = found[OLD]
        self.assertEqual((old.total, old.noise, old.organisations, old.own), (4, 0.75, 1, True))
        self.assertEqual((round(found[MINE].read, 3), found[MINE].noise, found[MINE].leak), (0.333, 0.0, None))
        nothing = found["third@quillmark.example"]
        self.assertEqual((nothing.total, nothing.noise, nothing.read, nothing.leak), (0, 0.0, 0.0, None))
        assert old.leak is not None
        self.assertEqual((old.leak.organisation, old.leak.at), ("birchbow.example", NOON))

    def test_who_has_it_who_should_not(self) -> None:
        """The first organisation, or the one that was named, is whom it was given to; its own other domains count as
        it. What comes from another one says so when it is opened."""
        first = self.take(to_tag("orders@corvane.example", 1))
        other = self.take(to_tag("news@mail.corvane.example", 2))
        self.assertIsNone(self.found()[TAGGED].leak)
        stolen = self.take(to_tag("win@lotto-world.example", 5))
        self.take(to_tag("sale@other.example", 6))
        one = self.found()[TAGGED]
        assert one.leak is not None
        self.assertEqual((one.leak.organisation, one.leak.message), ("lotto-world.example", stolen))
        self.assertEqual((one.own, one.organisations, one.total), (False, 3, 4))
        self.assertNotIn("which you gave", " ".join(open_message(self.room, stolen).warnings))
        addresses.describe(self.room, TAGGED, Purpose.NOTHING_SAID, "Corvane")
        for number, told in ((first, False), (other, False), (stolen, True), (self.letters[0], False)):
            words = " ".join(open_message(self.room, number).warnings)
            self.assertEqual("which you gave to Corvane, from" in words, told, number)
        addresses.describe(self.room, TAGGED, Purpose.NOTHING_SAID, "the lottery, www.lotto-world.example")
        leak = self.found()[TAGGED].leak
        assert leak is not None
        self.assertEqual(leak.message, first)
        self.assertIn("from corvane.example", " ".join(open_message(self.room, first).warnings))

    def test_what_it_is_for_weighs(self) -> None:
        """At once for what is in sight, from behind for the rest, and for what arrives; nothing is moved by it. It
        outlives a restart and a model built anew, and can be taken back whole."""
        for number in range(6):
            correct(self.room, [self.letters[number % 3]], ("desk", "shelf")[number % 2], follow=False)
        with self.room.change() as db:  # stored scores are written where they change visibly: here, to the last digit
            db.execute("UPDATE messages SET score = 0")
            rescore_in_sight(self.room, db)
        before = {number: self.row(number) for number in (*self.offers, *self.letters)}
        addresses.describe(self.room, OLD, Purpose.PEOPLE, "")
        after = self.row(self.offers[0])
        self.assertGreater(after.score, before[self.offers[0]].score)
        self.assertEqual(after.place, before[self.offers[0]].place)
        self.assertEqual(self.row(self.letters[0]).score, before[self.letters[0]].score)
        lines = [line.text for line, _ in open_message(self.room, self.offers[0]).evidence]
        self.assertIn("You said it is for people", lines)
        self.reopen()
        Rescorer(self.room).pass_over()
        self.assertAlmostEqual(self.row(self.offers[0]).score, after.score, places=9)
        self.assertTrue(Rebuilder(self.room).rebuild())
        self.assertAlmostEqual(open_message(self.room, self.offers[0]).row.score, after.score, places=9)
        addresses.describe(self.room, OLD, Purpose.NOTHING_SAID, "")
        self.assertEqual(self.row(self.offers[0]).score, before[self.offers[0]].score)

    def test_a_pass_that_was_cut_off_is_made_again(self) -> None:
        """What was said is heeded by every score, also where the end came before all were written."""
        rescorer = Rescorer(self.room)
        self.assertTrue(rescorer.pass_over())
        self.assertFalse(Rescorer(self.room)._behind())
        addresses.describe(self.room, OLD, Purpose.SHOPS, "")
        self.assertFalse(rescorer.pass_over(), "it was begun before")
        self.reopen()
        fresh = Rescorer(self.room)
        self.assertTrue(fresh._behind())
        self.assertTrue(fresh.pass_over())
        self.assertFalse(Rescorer(self.room)._behind())

    def test_a_new_one_for_one_party(self) -> None:
        """It is the owner's at once, nobody can guess it, and its mail is told apart."""
        made = addresses.make_one(self.room, MINE, "  Corvane,   shop.corvane.example ")
        self.assertRegex(made.address, r"^maren\+shop-[0-9a-f]{6}@quillmark\.example$")
        self.assertEqual(made.given_to, "Corvane, shop.corvane.example")
        self.assertGreater(made.made_at, NOON)
        self.assertNotEqual(made.address, addresses.make_one(self.room, MINE, "Corvane").address)
        self.take(letter("Welcome", sender="Corvane <hello@corvane.example>", to=made.address))
        one = self.found()[made.address]
        self.assertEqual((one.total, one.leak, one.made_at), (1, None, made.made_at))
        addresses.describe(self.room, made.address, Purpose.NOTHING_SAID, "")
        self.assertEqual(self.found()[made.address].made_at, made.made_at, "that it was made here stays known")
        addresses.forget(self.room, made.address)
        self.assertEqual(self.found()[made.address].made_at, 0)

    def test_what_cannot_be(self) -> None:
        """Told why; nothing is kept."""
        for wrong in ("nobody", "somebody@else.example", "maren@oldharbour.example", "maren+x@else.example"):
            with self.assertRaises(NotFound):
                addresses.describe(self.room, wrong, Purpose.SHOPS, "")
            with self.assertRaises(NotFound):
                addresses.make_one(self.room, wrong, "Corvane")
        with self.assertRaises(CallerError):
            addresses.make_one(self.room, MINE, " \n ")
        with self.assertRaises(CallerError):
            addresses.describe(self.room, MINE, Purpose.SHOPS, "x" * 201)
        with self.assertRaises(NotFound):
            addresses.forget(self.room, OLD)
        self.assertFalse(any(one.purpose or one.given_to or one.made_at for one in addresses.find(self.room)))

    def test_many_tags_of_strangers(self) -> None:
        """Anybody can write to any tag: the list stays short, and what the owner said of stays in it."""
        addresses.describe(self.room, "maren+quiet@quillmark.example", Purpose.GIVEN_UP, "")
        for number in range(addresses.MOST_TOLD + 20):
            self.take(letter(f"L {number}", to=f"maren+{number}@quillmark.example", at=NOON + number))
        found = addresses.find(self.room)
        self.assertEqual(len(found), addresses.MOST_TOLD + 1)
        self.assertEqual(found[-1].address, "maren+quiet@quillmark.example")

    def test_in_an_export(self) -> None:
        """What was said comes along, and is heeded at once; what cannot be is refused whole."""
        addresses.describe(self.room, OLD, Purpose.SHOPS, "shops")
        score = open_message(self.room, self.offers[0]).row.score
        export(self.room, self.folder / "out.zip")
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        restore(other, self.folder / "out.zip")
        self.assertEqual(other.engine.purposes, {OLD: Purpose.SHOPS})
        self.assertAlmostEqual(open_message(other, self.offers[0]).row.score, score, places=9)
        self.assertEqual(messages.how_many(other.reader()), 7)


class AddressesApiTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.room.set_owner([MINE, OLD])
        for number in range(4):
            self.take(offer(number))

    def test_at_the_api(self) -> None:
        """Listed, described, made, forgotten."""
        said = self.client.put("/api/addresses", json={"address": OLD, "purpose": "shops"}, headers=MARK).json()
        self.assertEqual((said["address"], said["purpose"], said["total"]), (OLD, "shops", 4))
        made = self.client.post("/api/addresses", json={"base": MINE, "given_to": "Corvane"}, headers=MARK).json()
        listed = {one["address"]: one for one in self.client.get("/api/addresses").json()}
        self.assertEqual(listed[made["address"]]["given_to"], "Corvane")
        answer = self.client.post("/api/addresses/forget", json={"address": OLD}, headers=MARK)
        self.assertEqual(answer.status_code, 204)
        again = self.client.post("/api/addresses/forget", json={"address": OLD}, headers=MARK)
        self.assertEqual(again.status_code, 404)
        self.assertIn("Nothing was said", again.json()["detail"])
        odd = self.client.put("/api/addresses", json={"address": OLD, "purpose": "pigeons"}, headers=MARK)
        self.assertEqual(odd.status_code, 422)
