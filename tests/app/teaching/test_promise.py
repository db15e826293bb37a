"""After a verdict it is said what the next such message does; what holds for always is asked about first."""

from __future__ import annotations

import unittest

from hieranome.app import said
from hieranome.app.bulk import subscriptions
from hieranome.app.reading.vectors import vector_of
from hieranome.app.rules import keeping
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import Outcome, correct
from hieranome.app.teaching.for_good import correct_asked
from hieranome.app.teaching.promise import Promise
from hieranome.app.teaching.undoing import undo
from hieranome.core.buckets import Costs
from hieranome.core.errors import Asks
from hieranome.core.promise import JUDGED, MARGIN, Foretold
from hieranome.core.routing import worth_asking
from hieranome.core.rules import Action, Rule
from hieranome.core.sure import Reach
from tests.support import NOON, OWNER, ApiCase, RoomCase, letter, offer

OSKAR = "Oskar Brandel <brandel@salthall.example>"
LIST = "list:news.birchbow.example"


class PromiseTest(RoomCase):
    def taught(self, number: int, belongs: str, reach: Reach = Reach.LEARN) -> Promise:
        """What is promised after a verdict on a message."""
        promise = correct(self.room, [number], belongs, reach).promise
        assert promise is not None
        return promise

    def test_the_next_does_what_is_promised(self) -> None:
        """Where all mail of a list is judged alike, its next goes there."""
        numbers = [self.take(offer(number)) for number in range(6)]
        promise = self.taught(numbers[-1], "drain")
        self.assertEqual((promise.place, promise.listed, promise.why), ("drain", True, ""))
        self.assertEqual(self.row(self.take(offer(7))).place, promise.place)

    def test_nothing_is_promised_of_who_wrote_once(self) -> None:
        """What one like it does is said, and that the rest depends."""
        number = self.take(letter("Rider", sender=OSKAR))
        promise = self.taught(number, "shelf")
        place, value = worth_asking(self.room.engine.judge(vector_of(self.room, self.room.reader(), number)), Costs())
        self.assertEqual((promise.place, promise.why), ("", "depends"))
        self.assertEqual(promise.like, place if value <= 0.0 else "")

    def test_always_is_promised_as_always(self) -> None:
        """And so is what is vouched for, which no single verdict changes."""
        number = self.take(letter("Rider", sender=OSKAR))
        promise = self.taught(number, "drain", Reach.ADDRESS)
        self.assertEqual((promise.name, promise.place, promise.why), ("Oskar Brandel", "drain", "always"))
        other = self.take(letter("Carnet", sender="Petra Sollund <petra@freight.example>"))
        vouching.vouch_for_sender(self.room, other, "address")
        promise = self.taught(other, "shelf")
        self.assertEqual((promise.place, promise.why), ("desk", "vouched"))
        later = self.take(letter("Carnet again", sender="Petra Sollund <petra@freight.example>", at=NOON + 9))
        self.assertEqual(self.row(later).place, "desk")

    def test_what_holds_is_named_so_that_it_can_be_ended(self) -> None:
        """Mail of a list may be refused by its sender or its domain: that is what ends."""
        for reach, key in ((Reach.ADDRESS, "news@birchbow.example"), (Reach.DOMAIN, "birchbow.example")):
            refused = self.take(offer(20 + len(key)))
            correct(self.room, [refused], "drain", reach)
            promise = self.taught(refused, "digest", Reach.MESSAGE)
            self.assertEqual((promise.place, promise.said), ("drain", f"{reach.value}:{key}"))
            said.end(self.room, reach, key, "refused")
            self.assertEqual(self.taught(refused, "digest", Reach.MESSAGE).said, "")

    def test_why_mail_still_goes_to_the_desk(self) -> None:
        """What was answered is the reason given where one message was put elsewhere."""
        for number in range(6):
            sent = f"<{number}@salthall.example>"
            self.take(letter(f"Rider {number}", sender=OSKAR, at=NOON + 100 * number, message_id=sent))
            self.take_sent(
                letter(f"Re: Rider {number}", sender=OWNER, to=OSKAR, at=NOON + 100 * number + 9,
                       in_reply_to=sent)
            )  # fmt: skip
        number = self.take(letter("Spare tickets", sender=OSKAR, at=NOON + 9_000))
        promise = self.taught(number, "shelf", Reach.MESSAGE)
        self.assertEqual((promise.place, promise.why, promise.count), ("desk", "answered", 6))

    def test_nothing_is_promised_where_a_rule_decides(self) -> None:
        """The next may be taken by it, whatever the model says."""
        rule = Rule(0, "Offers", True, "arrives", 0, "came", False, "subject:offer", "", (Action("bucket", "digest"),))
        keeping.put(self.room, rule)
        numbers = [self.take(offer(number)) for number in range(6)]
        promise = self.taught(numbers[-1], "drain")
        self.assertEqual((promise.place, promise.why), ("", "depends"))

    def test_several_sources_are_promised_nothing(self) -> None:
        """Nobody could say it in one sentence."""
        numbers = [self.take(offer(1)), self.take(letter("Rider", sender=OSKAR))]
        self.assertIsNone(correct(self.room, numbers, "shelf").promise)

    def test_what_comes_close_is_not_promised(self) -> None:
        """Too near to the other side of the Desk, or too few judged."""
        self.assertTrue(Foretold("shelf", "shelf", MARGIN, JUDGED).sure)
        self.assertFalse(Foretold("shelf", "shelf", MARGIN - 0.1, JUDGED).sure)
        self.assertFalse(Foretold("shelf", "shelf", MARGIN, JUDGED - 1).sure)
        self.assertFalse(Foretold("", "shelf", 9.0, 9).sure)


class AskFirstTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.answered = self.take(letter("Rider", sender=OSKAR, message_id="<a@salthall.example>"))
        self.take_sent(
            letter("Re: Rider", sender="maren@quillmark.example", to=OSKAR, in_reply_to="<a@salthall.example>")
        )
        self.stranger = self.take(letter("Cheap strings", sender="Sales <sales@strings.example>"))

    def always(self, *numbers: int, belongs: str = "drain", reach: Reach = Reach.ADDRESS) -> Outcome:
        """What is said for always, unconfirmed."""
        return correct_asked(self.room, numbers, belongs, reach, confirmed=False)

    def test_who_was_answered(self) -> None:
        """It is asked, with the reason, the name and the place; nothing is changed meanwhile."""
        before = self.state()
        with self.assertRaises(Asks) as caught:
            self.always(self.answered)
        self.assertEqual(
            str(caught.exception),
            "You answered Oskar Brandel once. All mail from Oskar Brandel would go to the Drain from now on.",
        )
        self.assertEqual(self.state(), before)
        outcome = correct_asked(self.room, [self.answered], "drain", Reach.ADDRESS, confirmed=True)
        self.assertEqual(self.row(self.answered).place, "drain")
        undo(self.room, outcome.step)
        self.assertEqual(self.state(), before)

    def test_always_takes_the_place_of_a_verdict(self) -> None:
        """In one change: while it is only asked about, the verdict stands; then one lesson and one step do."""
        before = self.state()
        step = correct(self.room, [self.answered], "drain").step
        taught = self.state()
        with self.assertRaises(Asks):
            correct_asked(self.room, [self.answered], "drain", Reach.ADDRESS, confirmed=False, instead=step)
        self.assertEqual(self.state(), taught)
        self.assertEqual(len(self.room.engine.lesson_ids), 1)
        outcome = correct_asked(self.room, [self.answered], "drain", Reach.ADDRESS, confirmed=True, instead=step)
        self.assertEqual((len(self.room.engine.lesson_ids), self.row(self.answered).place), (1, "drain"))
        undo(self.room, outcome.step)
        self.assertEqual(self.state(), before)

    def test_who_is_vouched_for(self) -> None:
        """Vouching is a reason, whoever was answered."""
        vouching.vouch_for_sender(self.room, self.stranger, "address")
        with self.assertRaisesRegex(Asks, "You vouch for Sales."):
            self.always(self.stranger)

    def test_a_domain_is_named(self) -> None:
        """Everybody who writes from it is meant, not the one whose message it was."""
        with self.assertRaisesRegex(Asks, "All mail from everybody at salthall.example would go"):
            self.always(self.answered, reach=Reach.DOMAIN)

    def test_several_at_once(self) -> None:
        """They are named; each alone is not asked about."""
        other = self.take(letter("Sale", sender="Bell <bell@bell.example>"))
        with self.assertRaisesRegex(Asks, "All mail from Sales, Bell would go to the Shelf from now on"):
            self.always(self.stranger, other, belongs="shelf")
        self.assertEqual(self.always(self.stranger).moved, 1)

    def test_not_for_the_desk_nor_for_less_than_always(self) -> None:
        """Nobody loses sight of what goes to the Desk, or of one message."""
        self.always(self.answered, belongs="desk")
        self.always(self.answered, reach=Reach.LEARN)
        self.always(self.answered, reach=Reach.MESSAGE)

    def test_subscriptions_chosen_one_by_one(self) -> None:
        """They are not asked about for being several; those an edition holds together are."""
        self.take(offer(1))
        self.take(letter("Issue", sender="Bell <bell@bell.example>", List_Id="<talk.bell.example>"))
        keys = [LIST, "list:talk.bell.example"]
        with self.assertRaises(Asks):
            subscriptions.decide(self.room, keys, "drain", confirmed=False, several=True)
        self.assertEqual(subscriptions.decide(self.room, keys, "drain", confirmed=False).moved, 2)


class AskFirstApiTest(ApiCase):
    def test_at_the_api(self) -> None:
        """409, saying that it asks; done once confirmed, with the promise."""
        number = self.take(letter("Rider", sender=OSKAR, message_id="<a@salthall.example>"))
        self.take_sent(
            letter("Re: Rider", sender="maren@quillmark.example", to=OSKAR, in_reply_to="<a@salthall.example>")
        )
        body = {"messages": [number], "belongs": "drain", "reach": "address"}
        answer = self.client.post("/api/verdicts", json=body)
        self.assertEqual((answer.status_code, answer.json()["asks"]), (409, True))
        done = self.client.post("/api/verdicts", json={**body, "confirmed": True}).json()
        self.assertEqual((done["promise"]["why"], done["promise"]["place"]), ("always", "drain"))
        other = self.client.post("/api/verdicts", json={"messages": [10**9], "belongs": "drain"})
        self.assertNotIn("asks", other.json())


if __name__ == "__main__":
    unittest.main()
