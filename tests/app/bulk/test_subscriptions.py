"""Subscriptions: found, told truly through whatever happens, decided for always in one step."""

from __future__ import annotations

import random
from collections import Counter

from hieranome.app.bulk import subscriptions
from hieranome.app.bulk.looking_through import LookingThrough, to_look_at
from hieranome.app.filing import file_away
from hieranome.app.room.marks import mark
from hieranome.app.room.schedule import Schedule
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.recurring import Sign
from hieranome.core.sure import Reach
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.store import lessons, marked, settings
from tests.support import NOON, ApiCase, letter, offer

LIST = "list:news.birchbow.example"
WEEK = 604_800
METER = "Room 2 <meter@room.example>"


class SubscriptionsTest(ApiCase):
    """A newsletter, a machine, and people."""

    def setUp(self) -> None:
        super().setUp()
        self.room.set_owner(["maren@quillmark.example", "m.aldous@oldharbour.example"])
        self.offers = [self.take(offer(number)) for number in range(6)]
        self.meter = [
            self.take(letter(f"Humidity {n}", sender=METER, at=NOON - n * WEEK, Auto_Submitted="auto-generated"))
            for n in range(5)
        ]
        self.letters = [self.take(letter(f"Letter {number}", at=NOON + 100 + number)) for number in range(3)]

    def found(self) -> dict[str, subscriptions.Subscription]:
        """All that is found, by key."""
        return {one.key: one for one in subscriptions.find(self.room)}

    def test_what_is_told_of_each(self) -> None:
        """How much, how often, since when, to which address; nobody who is a person."""
        mark(self.room, self.offers[:2], "read")
        found = self.found()
        self.assertEqual(set(found), {LIST, "address:meter@room.example"})
        one = found[LIST]
        self.assertEqual((one.sign, one.name, one.total, one.belongs), (Sign.LIST, "Birch & Bow", 6, ""))
        self.assertEqual(one.addresses, ("m.aldous@oldharbour.example",))
        self.assertAlmostEqual(one.read, 2 / 6)
        self.assertEqual((one.first_seen, one.last_read, one.newest.id), (NOON, NOON + 1, self.offers[5]))
        self.assertEqual((one.weeks[-1], sum(one.weeks), one.weekly), (6, 6, 1.5))
        meter = found["address:meter@room.example"]
        self.assertEqual((meter.sign, meter.weeks[-5:], meter.last_read), (Sign.HABIT, (1, 1, 1, 1, 1), 0))

    def recounted(self) -> Counter[tuple[object, ...]]:
        """What the triggers should have kept, counted anew."""
        rows = self.room.reader().execute(
            "SELECT source, reached, week, summed, count(*), count(*) - sum(seen), sum(answered), sum(size), sum(bulk),"
            " sum(automatic) FROM messages WHERE summed >= 0 GROUP BY 1, 2, 3, 4"
        )
        return Counter(tuple(row) for row in rows)

    def kept(self) -> Counter[tuple[object, ...]]:
        """What they kept."""
        return Counter(tuple(row) for row in self.room.reader().execute("SELECT * FROM weekly"))

    def test_sums_hold_through_whatever_happens(self) -> None:
        """Verdicts, filing, marks, arrivals, other addresses and undo at random."""
        rng = random.Random(8)
        every = self.offers + self.meter + self.letters
        for step in range(60):
            some = rng.sample(every, 3)
            kind = rng.randrange(6)
            if kind == 0:
                correct(self.room, some, rng.choice(["desk", "shelf", "digest", "drain"]))
            elif kind == 1:
                file_away(self.room, some, rng.choice(["archive", "trash", "junk"]))
            elif kind == 2:
                mark(self.room, some, rng.choice(["read", "unread"]))
            elif kind == 3 and step > 10:
                undo(self.room)
            elif kind == 4:
                self.room.set_owner(rng.sample(["maren@quillmark.example", "m.aldous@oldharbour.example"], 1))
                LookingThrough(self.room, Schedule()).look_through()
            else:
                every.append(self.take(offer(1_000 + step)))
            self.assertEqual(self.kept(), self.recounted(), step)

    def test_decided_for_always(self) -> None:
        """One lesson each, one step, undone as one; what comes goes there, what stands goes along."""
        correct(self.room, [self.offers[0]], "shelf", Reach.MESSAGE)
        before = {number: self.row(number).place for number in self.offers + self.meter}
        outcome = subscriptions.decide(self.room, [LIST, "address:meter@room.example"], "digest")
        self.assertEqual(len(outcome.lessons), 2)
        self.assertEqual({self.row(n).place for n in self.offers[1:] + self.meter}, {"digest"})
        self.assertEqual(self.row(self.offers[0]).place, "shelf")
        self.assertEqual([one.belongs for one in self.found().values()], ["digest", "digest"])
        self.assertEqual(self.row(self.take(offer(99))).place, "digest")
        undo(self.room, outcome.step)
        self.assertEqual({number: self.row(number).place for number in before}, before)
        self.assertEqual([one.belongs for one in self.found().values()], ["", ""])

    def test_old_mail_does_not_come_back_to_the_desk(self) -> None:
        """What is older than a week stays; what was archived stays whatever is decided."""
        subscriptions.decide(self.room, ["address:meter@room.example"], "drain")
        file_away(self.room, [self.meter[0]], "archive")
        outcome = subscriptions.decide(self.room, ["address:meter@room.example"], "desk")
        self.assertEqual(outcome.moved, 0)
        self.assertEqual([self.row(number).place for number in self.meter], ["archive"] + ["drain"] * 4)
        self.assertEqual(self.row(self.take(letter("Humidity 9", sender=METER, at=NOON + 9))).place, "desk")

    def test_what_cannot_be_decided(self) -> None:
        """It is told, and nothing is changed."""
        for keys, belongs, error in (
            (["list:nothing.example"], "digest", NotFound),
            ([LIST, "list:nothing.example"], "digest", NotFound),
            ([LIST], "archive", CallerError),
            ([f"list:{n}" for n in range(501)], "shelf", CallerError),
        ):
            with self.assertRaises(error):
                subscriptions.decide(self.room, keys, belongs)
        self.assertEqual(lessons.teaching(self.room.reader()), [])

    def test_addresses_that_are_one(self) -> None:
        """A sender that numbers its addresses is one subscription; a list with several writers bears its own name."""
        for number in range(3):
            self.take(letter(f"Issue {number}", sender=f"The Bell <bell{number}@bell.example>", Precedence="bulk"))
            self.take(
                letter(f"Talk {number}", sender=f"P{number} <p{number}@x.example>", List_Id="Talk <talk.example>")
            )
        found = self.found()
        bell = next(one for one in found.values() if "bell.example" in one.key)
        self.assertEqual((len(bell.keys), bell.total, bell.sign), (3, 3, Sign.BULK))
        self.assertEqual(found["list:talk.example"].name, "talk.example")
        subscriptions.decide(self.room, bell.keys, "drain")
        self.assertEqual(self.row(self.take(letter("Issue 9", sender="The Bell <bell2@bell.example>"))).place, "drain")

    def test_what_arrives_meanwhile_stays_as_it_was_described(self) -> None:
        """Looking through goes up to where the mail ended as it began, and writes nothing of addresses that are others
        by then."""
        looking = LookingThrough(self.room, Schedule())
        with self.room.change() as db:
            settings.put(db, settings.LOOKED_THROUGH, None)
        begun = looking.progress()
        self.room.set_owner(["maren@quillmark.example", "m.aldous@oldharbour.example", "third@quillmark.example"])
        later = self.take(letter("Late", to="third@quillmark.example"))
        looking.chunk(begun)
        reached = self.room.reader().execute("SELECT reached FROM messages WHERE id = ?", (later,)).fetchone()[0]
        self.assertEqual(reached, "third@quillmark.example")
        looking.look_through()
        self.assertEqual(to_look_at(self.room), 0)

    def test_of_mail_that_was_here_before(self) -> None:
        """It is looked through afterwards, once, and again for other addresses; an end in between is gone on from."""
        with self.room.change() as db:
            db.execute("UPDATE messages SET bulk = 0, automatic = 0, reached = ''")
            settings.put(db, settings.LOOKED_THROUGH, None)
        self.assertEqual(to_look_at(self.room), 14)
        self.assertEqual(set(self.found()), {LIST})
        LookingThrough(self.room, Schedule()).look_through()
        self.assertEqual(to_look_at(self.room), 0)
        self.assertEqual(set(self.found()), {LIST, "address:meter@room.example"})
        self.assertEqual(self.found()[LIST].addresses, ("m.aldous@oldharbour.example",))
        self.take(offer(50))
        self.assertEqual(to_look_at(self.room), 0)
        self.room.set_owner(["maren@quillmark.example"])
        self.assertEqual(to_look_at(self.room), 15)

    def test_at_the_api(self) -> None:
        """All of them, what one says it is, a decision."""
        self.take(offer(60).replace(b"List-Id: <", b"List-Id: Stands and more <"))
        told = self.client.get("/api/subscriptions").json()
        self.assertEqual([one["key"] for one in told["subscriptions"]], [LIST, "address:meter@room.example"])
        self.assertEqual(told["subscriptions"][0]["domain"], "birchbow.example")
        about = self.client.get("/api/subscriptions/about", params={"source": LIST}).json()
        self.assertEqual((about["description"], about["standing"]), ("Stands and more", "absent"))
        self.assertEqual([one["id"] for one in about["recent"]][1], self.offers[5])
        self.assertEqual(self.client.get("/api/subscriptions/about", params={"source": "list:x"}).status_code, 404)
        answer = self.client.post("/api/subscriptions/decide", json={"sources": [LIST], "belongs": "drain"})
        self.assertEqual((answer.status_code, answer.json()["moved"]), (200, 7))
        self.assertEqual(self.client.get("/api/subscriptions").json()["subscriptions"][0]["belongs"], "drain")
        step = self.client.get("/api/steps").json()["steps"][0]
        self.assertEqual(step["title"], "Birch & Bow to Drain, always")


class TruthTest(ApiCase):
    def test_every_list_is_found_and_none_invented(self) -> None:
        """Of made-up mail, by what the generator meant; see bench/subscriptions.py for more of it."""
        self.room.set_owner(OWNER_ADDRESSES)
        made = [one for one in mailgen.generate(1_500, 7) if one.source]
        numbers = {self.take(one.raw): one for one in made}
        with self.room.change() as db:
            marked.mark(db, [number for number, one in numbers.items() if one.answered], "answered", True)
        meant = {one.sender for one in made if mailgen.writes_to_many(one.source)}
        found = {one.newest.sender_address for one in subscriptions.find(self.room)}
        self.assertEqual(found, meant)
