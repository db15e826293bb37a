"""Which sources are subscriptions, by what their mail says and by how they write."""

from __future__ import annotations

import random
import unittest

from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.recurring import Habits, Sign, family, like_clockwork, reached, says_bulk, sign_of

DAY = 86_400
OWNER = Owner.of("maren@quillmark.example", "m.aldous@oldharbour.example")


def habits(key: str = "address:kim@studio.example", **said: object) -> Habits:
    """A source that wrote twenty messages in ten weeks."""
    values = {"total": 20, "weeks": 10, "bulk": 0, "automatic": 0, "answered": 0, "written": 0, **said}
    return Habits(key, **values)  # type: ignore[arg-type]


class SignTest(unittest.TestCase):
    def test_lists_and_what_says_that_it_is_bulk(self) -> None:
        """One message is enough."""
        self.assertEqual(sign_of(habits("list:news.example", total=1, weeks=1)), Sign.LIST)
        self.assertEqual(sign_of(habits(total=1, weeks=1, bulk=1)), Sign.BULK)

    def test_a_person_is_none(self) -> None:
        """However often somebody writes, at whatever hours."""
        rng = random.Random(4)
        times = [day * DAY + rng.randrange(8 * 3600, 18 * 3600) for day in range(30)]
        self.assertIsNone(sign_of(habits(times=times)))

    def test_habits_without_headers(self) -> None:
        """A machine, an address that nobody reads, one that keeps to its hour."""
        clock = [day * DAY + 6 * 3600 + 300 for day in range(12)]
        self.assertEqual(sign_of(habits(automatic=18)), Sign.HABIT)
        self.assertEqual(sign_of(habits("address:no-reply@shop.example")), Sign.HABIT)
        self.assertEqual(sign_of(habits(times=clock)), Sign.HABIT)
        for said in ({"total": 4}, {"weeks": 2}, {"answered": 2}, {"written": 2}):
            self.assertIsNone(sign_of(habits("address:no-reply@shop.example", **said)), said)

    def test_clockwork_through_the_change_of_clocks(self) -> None:
        """An hour earlier from one day on, around midnight too; a handful of messages tells nothing."""
        for hour in (0, 6, 23):
            times = [day * DAY + (hour + (day > 6)) * 3600 for day in range(14)]
            self.assertTrue(like_clockwork(times), hour)
        self.assertFalse(like_clockwork([day * DAY for day in range(7)]))
        self.assertFalse(like_clockwork([day * DAY + day * 7_000 for day in range(14)]))

    def test_what_is_one_subscription(self) -> None:
        """Numbered addresses of one name and domain, numbered issues of one address; two lists of a sender are two."""
        one = family("address:news2@paper.example", "news2@paper.example", "The Paper")
        self.assertEqual(
            one,
            family("address:news+x9@paper.example", "news+x9@paper.example", "The Paper").replace("news", "news#", 1),
        )
        self.assertEqual(one, family("address:news31@paper.example", "news31@paper.example", "The Paper"))
        self.assertNotEqual(one, family("address:news31@paper.example", "news31@paper.example", "Another"))
        self.assertNotEqual(one, family("address:news31@other.example", "news31@other.example", "The Paper"))
        issue = family("list:20261101.c.example", "a@c.example", "C")
        self.assertEqual(issue, family("list:20261108.c.example", "a@c.example", "C"))
        self.assertNotEqual(issue, family("list:20261108.c.example", "b@c.example", "C"))
        self.assertNotEqual(
            family("list:news1.c.example", "a@c.example", "C"), family("list:news2.c.example", "a@c.example", "C")
        )


class FactsTest(unittest.TestCase):
    def test_what_says_that_it_is_bulk(self) -> None:
        """List-Unsubscribe, or Precedence of the kinds that mean it."""
        self.assertTrue(says_bulk(MessageFacts(list_unsubscribe=True)))
        self.assertTrue(says_bulk(MessageFacts(precedence="bulk")))
        self.assertFalse(says_bulk(MessageFacts(precedence="first-class")))

    def test_the_address_it_came_to(self) -> None:
        """Of To and Cc, tags and all; else where it was delivered; else none."""
        other, mine = Correspondent("kim@studio.example"), Correspondent("m.aldous+shop@oldharbour.example")
        self.assertEqual(reached(MessageFacts(to=(other,), cc=(mine,)), OWNER), mine.address)
        self.assertEqual(
            reached(MessageFacts(to=(other,), delivered_to="maren@quillmark.example"), OWNER), "maren@quillmark.example"
        )
        self.assertEqual(reached(MessageFacts(to=(other,)), OWNER), "")


if __name__ == "__main__":
    unittest.main()
