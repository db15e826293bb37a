"""The Drain keeps mail for its days: nothing leaves before, what is rescued never, all that leaves can come back."""

from __future__ import annotations

import random

from hieranome.app.bulk import draining, readiness
from hieranome.app.bulk.draining import DAY
from hieranome.app.filing import file_away
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import mark
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, Conflict
from hieranome.demo import mailgen
from hieranome.store import journal, messages
from tests.support import ApiCase, RoomCase, offer


class DrainCase(RoomCase):
    def bring(self, *raws: bytes) -> list[int]:
        """Let mail arrive in the Drain."""
        numbers = [self.take(raw) for raw in raws]
        with self.room.change() as db:
            messages.move_all(db, numbers, "drain", "model")
        draining.let_go(self.room)
        return numbers

    def after(self, days: float) -> int:
        """Let days pass; how many messages leave then."""
        self.clock.now += int(days * DAY)
        return draining.let_go(self.room)

    def of(self, numbers: list[int]) -> list[str]:
        """Where messages stand."""
        return [self.row(number).place for number in numbers]


class DrainTest(DrainCase):
    def test_after_its_days_and_not_before(self) -> None:
        """In one step of the journal, which brings it back for as many days again."""
        numbers = self.bring(offer(1), offer(2))
        self.assertEqual(self.after(29.9), 0)
        self.assertEqual(self.of(numbers), ["drain", "drain"])
        self.assertEqual(self.after(0.2), 2)
        self.assertEqual(self.of(numbers), ["trash", "trash"])
        step = journal.recent(self.room.reader(), 0, 1)[0]
        self.assertEqual((step.title, step.messages), ("2 messages left the Drain after 30 days", 2))
        undo(self.room, step.id)
        self.assertEqual(self.of(numbers), ["drain", "drain"])
        self.assertEqual(self.after(0), 0)
        self.assertEqual(self.after(29), 0)
        self.assertEqual(self.after(2), 2)

    def test_what_is_kept(self) -> None:
        """What is rescued, what is flagged, and everything where the days are 0; a change of days counts at once."""
        rescued, flagged, plain = self.bring(offer(1), offer(2), offer(3))
        correct(self.room, [rescued], "desk")
        mark(self.room, [flagged], "flagged")
        draining.keep_for(self.room, 0)
        self.assertEqual(self.after(400), 0)
        draining.keep_for(self.room, 500)
        self.assertEqual(self.after(1), 0)
        draining.keep_for(self.room, 30)
        self.assertEqual(self.after(0), 1)
        self.assertEqual(self.of([rescued, flagged, plain]), ["desk", "drain", "trash"])
        with self.assertRaises(CallerError):
            draining.keep_for(self.room, -1)

    def test_back_in_the_drain_it_begins_anew(self) -> None:
        """Rescued and refused again, the days count from then."""
        (number,) = self.bring(offer(1))
        self.after(20)
        correct(self.room, [number], "shelf")
        correct(self.room, [number], "drain")
        self.after(0)
        self.assertEqual(self.after(29), 0)
        self.assertEqual(self.after(1.1), 1)

    def test_two_hundred_random_days(self) -> None:
        """Nothing leaves before its day, a rescued message never, all that left is in the Trash and the journal."""
        rng = random.Random(17)
        draining.keep_for(self.room, 9)
        came: dict[int, int] = {}
        rescued: set[int] = set()
        left: set[int] = set()
        for day in range(200):
            before = {n for n in came if self.row(n).place == "drain"}
            for one in self.bring(*(offer(day * 10 + n) for n in range(rng.randrange(4)))):
                came[one] = self.clock.now
            inside = [n for n in came if self.row(n).place == "drain"]
            for one in rng.sample(inside, min(len(inside), rng.randrange(2))):
                correct(self.room, [one], rng.choice(["desk", "shelf"]), follow=False)
                rescued.add(one)
            if day % 23 == 5:
                self.reopen()
            self.after(rng.choice([0.3, 1, 1, 2]))
            for one in before - rescued:
                if self.row(one).place == "drain":
                    self.assertLess(self.clock.now - came[one], 9 * DAY + 3 * DAY)
                else:
                    self.assertGreaterEqual(self.clock.now - came[one], 9 * DAY)
                    self.assertEqual(self.row(one).place, "trash")
                    left.add(one)
        self.assertFalse(left & rescued)
        self.assertGreater(len(left), 100)
        steps = [one for one in journal.recent(self.room.reader(), 0, 5_000) if one.kind == "let go"]
        moved = {move.message for one in steps for move in journal.moves(self.room.reader(), one.id)}
        self.assertEqual(moved, left)

    def test_emptied(self) -> None:
        """Up to what was seen: what came since stays. One step, undone as one; an empty one is told."""
        numbers = self.bring(*(offer(n) for n in range(5)))
        seen = draining.look(self.room)
        self.assertEqual((seen.total, seen.newest), (5, numbers[-1]))
        late = self.bring(offer(9))
        step = draining.empty(self.room, seen.newest)
        self.assertEqual((self.of(numbers), self.of(late)), (["trash"] * 5, ["drain"]))
        undo(self.room, step.id)
        self.assertEqual(self.of(numbers), ["drain"] * 5)
        file_away(self.room, [*numbers, *late], "archive")
        with self.assertRaises(Conflict):
            draining.empty(self.room, late[0])


class DrainApiTest(ApiCase, DrainCase):
    def test_the_doubtful_apart(self) -> None:
        """What the model would put elsewhere now, or what may matter: by sender, and counted."""
        sure, other, perhaps = self.bring(offer(1), offer(2, "Abel <a@x.example>"), offer(3, "Zita <z@x.example>"))
        with self.room.change() as db:
            db.execute("UPDATE messages SET likely = 'drain', high_edge = 0.001")
            db.execute("UPDATE messages SET likely = 'digest' WHERE id = ?", (perhaps,))
            db.execute("UPDATE messages SET high_edge = 0.06 WHERE id = ?", (other,))
        told = self.client.get("/api/drain/doubted").json()
        self.assertEqual([one["id"] for one in told], [other, perhaps])
        self.assertEqual(self.client.get("/api/drain").json()["doubtful"], 2)
        self.assertNotIn(sure, [one["id"] for one in told])

    def test_at_the_api(self) -> None:
        """How it is, rows with their day, changed, emptied."""
        numbers = self.bring(offer(1), offer(2))
        self.clock.now += 25 * DAY
        told = self.client.get("/api/drain").json()
        self.assertEqual((told["days"], told["total"], told["leaving"], told["cost"]), (30, 2, 2, 3.0))
        rows = self.client.get("/api/messages", params={"place": "drain"}).json()["messages"]
        self.assertTrue(all(4 * DAY < one["leaves_at"] - self.clock.now < 6 * DAY for one in rows))
        told = self.client.put("/api/drain", json={"days": 0, "cost": 8}).json()
        self.assertEqual((told["days"], told["leaving"], told["cost"]), (0, 0, 8.0))
        rows = self.client.get("/api/messages", params={"place": "drain"}).json()["messages"]
        self.assertEqual({one["leaves_at"] for one in rows}, {0})
        for said in ({"cost": 4}, {"days": -1}, {"days": 99999}, {"cost": 1, "days": -2}):
            self.assertEqual(self.client.put("/api/drain", json=said).status_code, 422)
        self.assertEqual(self.client.get("/api/drain").json()["cost"], 8.0)
        step = self.client.post("/api/drain/empty", json={"newest": numbers[-1]}).json()
        self.assertEqual(step["title"], "The Drain emptied: 2 messages")
        self.assertEqual(self.client.post("/api/drain/empty", json={"newest": numbers[-1]}).status_code, 409)


class ReadinessTest(DrainCase):
    def test_the_dearer_the_less_is_drained(self) -> None:
        """Each setting of the scale drains no more than a cheaper one; the choice is kept and holds for what comes."""
        made = [one for one in mailgen.generate(160, 3) if one.source]
        self.clock.now = int(made[-1].at.timestamp())
        for number, one in enumerate(made):
            here = self.take(one.raw)
            if number < 30:
                correct(self.room, [here], one.belongs)
        told = readiness.preview(self.room)
        self.assertEqual([one.cost for one in told], list(readiness.SCALE))
        counts = [one.drained for one in told]
        self.assertEqual(counts, sorted(counts, reverse=True))
        self.assertGreater(counts[0], counts[-1])
        readiness.set_cost(self.room, 13.0)
        self.reopen()
        self.assertEqual(self.room.costs.drained_good, 13.0)
        with self.assertRaises(CallerError):
            readiness.set_cost(self.room, 4.0)

    def test_without_mail(self) -> None:
        """Nothing would have been drained."""
        room = Mailroom(self.folder / "empty")
        self.addCleanup(room.close)
        self.assertEqual({one.drained for one in readiness.preview(room)}, {0})
