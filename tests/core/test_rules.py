"""Costs, routing, sure knowledge, sums."""

import random
import unittest

from hieranome.core.buckets import Costs
from hieranome.core.errors import CallerError
from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.judgement import Judgement
from hieranome.core.relations import Relations, Sums
from hieranome.core.routing import MOST_ASKED, WINDOW, Asking, bounds, route, settle, worth_asking
from hieranome.core.sure import Binding, Reach, binding_keys, key_for, strongest


def judged(importance: float, **low: float) -> Judgement:
    shares = low or {"shelf": 0.8, "digest": 0.1, "drain": 0.1}
    return Judgement(importance, 0.0, 1.0, 1.0, shares, {"desk": 1.0})


class CostsTest(unittest.TestCase):
    def test_table_of_mistakes(self) -> None:
        """Each kind of mistake costs what the owner said."""
        cost = Costs()
        for belongs, put, price in (
            ("desk", "desk", 0), ("desk", "undecided", 0.5), ("desk", "shelf", 5), ("desk", "digest", 5),
            ("desk", "drain", 10), ("shelf", "drain", 3), ("drain", "desk", 1), ("shelf", "digest", 0.5),
        ):  # fmt: skip
            self.assertEqual(cost.of(belongs, put), price, (belongs, put))


class RoutingTest(unittest.TestCase):
    def test_important_mail_goes_to_the_desk(self) -> None:
        """What probably matters stands on the Desk."""
        self.assertEqual(settle(judged(0.9), Costs())[0], "desk")

    def test_settling_is_least_expected_cost(self) -> None:
        """No other place is expected to cost less than the one chosen."""
        rng = random.Random(1)
        cost = Costs()
        for _ in range(200):
            a, b, c = (rng.random() + 1e-3 for _ in range(3))
            one = judged(rng.random(), shelf=a / (a + b + c), digest=b / (a + b + c), drain=c / (a + b + c))
            place, expected = settle(one, cost)
            for put in ("desk", "shelf", "digest", "drain"):
                p = one.importance
                total = p * cost.of("desk", put) + (1 - p) * sum(q * cost.of(k, put) for k, q in one.low.items())
                self.assertGreaterEqual(total + 1e-12, expected, (place, put))

    def test_doubtful_good_mail_is_not_drained(self) -> None:
        """A one in five chance of being good keeps a message out of the Drain."""
        self.assertNotEqual(settle(judged(0.01, shelf=0.2, digest=0.0, drain=0.8), Costs())[0], "drain")

    def test_asking_stays_within_its_bound(self) -> None:
        """Of any two hundred messages in a row at most the bound are asked about, however doubtful all are."""
        asking = Asking()
        rng = random.Random(2)
        asked = [route(judged(rng.uniform(0.1, 0.5)), Costs(), asking) == "undecided" for _ in range(1500)]
        for start in range(0, len(asked) - WINDOW):
            self.assertLessEqual(sum(asked[start : start + WINDOW]), MOST_ASKED)
        self.assertEqual(sum(asked), MOST_ASKED * 8)  # and as many as it allows

    def test_asked_is_what_saves_something(self) -> None:
        """While the bound has room a message is asked about where that costs less than the cheapest place, and stands
        there otherwise."""
        rng = random.Random(3)
        places = set()
        for _ in range(300):
            one = judged(rng.random() ** 3, shelf=0.5, digest=0.3, drain=0.2)
            place, value = worth_asking(one, Costs())
            least = settle(one, Costs())
            self.assertEqual((place, value), (least[0], least[1] - Costs().asking))
            self.assertEqual(route(one, Costs(), Asking()), "undecided" if value > 0 else place)
            places.add(route(one, Costs(), Asking()))
        self.assertLessEqual({"undecided", "desk"}, places)

    def test_sure_messages_are_never_asked_about(self) -> None:
        """Where being wrong costs less than asking, nobody is asked."""
        asking = Asking()
        for p in (0.001, 0.999) * 50:
            self.assertNotEqual(route(judged(p, shelf=0.99, digest=0.005, drain=0.005), Costs(), asking), "undecided")

    def test_bounds_follow_the_costs(self) -> None:
        """A dearer buried message lowers both bounds."""
        usual, careful = bounds(Costs()), bounds(Costs(buried=20))
        self.assertLess(usual.ask, usual.desk)
        self.assertLess(careful.desk, usual.desk)
        self.assertLess(careful.ask, usual.ask)


class SureTest(unittest.TestCase):
    def setUp(self) -> None:
        self.facts = MessageFacts(sender=Correspondent("jess@hall.example", "Jess"), list_id="news.hall.example")

    def test_more_specific_wins(self) -> None:
        """An address beats a list, a list beats a domain."""
        domain = Binding(Reach.DOMAIN, "hall.example", "drain")
        listed = Binding(Reach.LIST, "news.hall.example", "digest")
        address = Binding(Reach.ADDRESS, "jess@hall.example", "shelf")
        self.assertEqual(strongest([domain, listed, address]), address)
        self.assertEqual(strongest([domain, listed]), listed)
        self.assertIsNone(strongest([]))

    def test_a_tie_goes_to_the_desk(self) -> None:
        """Of two equally specific the one that keeps mail on the Desk holds."""
        low, desk = Binding(Reach.ADDRESS, "a", "drain"), Binding(Reach.ADDRESS, "a", "desk")
        self.assertEqual(strongest([low, desk]), desk)

    def test_keys_come_most_specific_first(self) -> None:
        """Address, list, domain."""
        self.assertEqual([reach for reach, _ in binding_keys(self.facts)], [Reach.ADDRESS, Reach.LIST, Reach.DOMAIN])

    def test_shared_domains_cannot_be_bound(self) -> None:
        """Nobody decides for everybody who writes from a public mail domain."""
        with self.assertRaisesRegex(CallerError, "Choose 'always this sender'"):
            key_for(Reach.DOMAIN, MessageFacts(sender=Correspondent("a@many.example")), frozenset({"many.example"}))

    def test_what_is_missing_cannot_be_bound(self) -> None:
        """No sender, no list: a clear refusal each."""
        for reach in (Reach.ADDRESS, Reach.LIST, Reach.DOMAIN):
            with self.assertRaises(CallerError):
                key_for(reach, MessageFacts(), frozenset())


class RelationsTest(unittest.TestCase):
    def test_sums_are_free_of_order_and_revertible(self) -> None:
        """Any order gives the same sums, and taking back leaves none."""
        rng = random.Random(3)
        seen = [(f"address:{n % 5}", Sums(1, n % 2, n % 3 == 0, 0)) for n in range(50)]
        one, other = Relations(), Relations()
        for key, sums in seen:
            one.add(key, sums)
        rng.shuffle(seen)
        for key, sums in seen:
            other.add(key, sums)
        self.assertEqual(dict(one.items()), dict(other.items()))
        for key, sums in seen:
            other.add(key, sums, -1)
        self.assertEqual(len(other), 0)

    def test_sent_mail_counts_for_each_correspondent_once(self) -> None:
        """Writing to two people of one house counts once for each and once for the house."""
        facts = MessageFacts(
            to=(Correspondent("a@h.example"), Correspondent("b@h.example"), Correspondent("me@q.example")),
        )
        keys = [key for key, _ in Relations.sent(facts, Owner.of("me@q.example"))]
        self.assertEqual(keys, ["address:a@h.example", "address:b@h.example", "domain:h.example"])
