"""Mail looked past: it teaches a little, once, and a verdict says more."""

import sqlite3

from hieranome.app.arrival.arrive import receive
from hieranome.app.exporting import export, restore
from hieranome.app.filing import file_away
from hieranome.app.room.mailroom import UNDO_AT_ONCE, Mailroom
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import MAX_AT_ONCE, look_past, set_teaches
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound
from hieranome.core.features import SLOTS, Vector
from hieranome.core.groups import GROUPS
from hieranome.core.importance import OF_SOURCE
from hieranome.demo import mailgen
from hieranome.store import messages, silences
from tests.support import RoomCase, letter, offer


class LookingCase(RoomCase):
    def numbers(self, count: int) -> list[int]:
        """Messages of one sender, taken in."""
        return [self.take(offer(n)) for n in range(count)]

    def seen(self, *numbers: int) -> int:
        """Looked past where they stand."""
        return look_past(self.room, [(number, self.row(number).place) for number in numbers])

    def judged(self) -> list[float]:
        """What the model says of all mail."""
        db = self.room.reader()
        return [
            j.log_odds
            for j in self.room.engine.judge_all([messages.vectors(db, [n])[n] for n in messages.after(db, 0)])
        ]

    def agrees(self) -> None:
        """Memory holds what the store says, and a restart would find the same."""
        before = self.judged()
        kept = sorted(number for number, _ in silences.about(self.room.reader(), self.all()))
        self.assertEqual(self.room.engine.silence_ids, kept)
        self.room.load()
        self.assertEqual(self.judged(), before)

    def all(self) -> list[int]:
        return messages.after(self.room.reader(), 0)


class LookingTest(LookingCase):
    @staticmethod
    def collides(features: set[int], vector: Vector) -> bool:
        """Whether a feature of a message stands in the slot of one of these, of another group."""
        slots = {one % SLOTS: one for one in features}
        return any(slots.get(int(one) % SLOTS, int(one)) // SLOTS != int(one) // SLOTS for one in vector)

    def test_the_next_like_it_is_surer(self) -> None:
        """Mail looked past in a low bucket lowers the next of its sender, and the store keeps why."""
        numbers = self.numbers(3)
        before = self.judged()[-1]
        self.assertEqual(self.seen(*numbers[:2]), 2)
        self.assertLess(self.judged()[-1], before)
        self.agrees()

    def test_no_other_mail_is_moved(self) -> None:
        """Forty rows of one bucket looked past in one sitting: mail of other senders and lists is judged as before, to
        the last bit, and what stands of theirs keeps its score; the list shows what an open message would. A feature
        that shares its slot with one of another group by chance (once in some 500,000 pairs) moves hardly anything."""
        for one in mailgen.generate(160, 4):
            receive(self.room, one.raw)
        correct(self.room, [self.take(letter("Taught", sender="t@hall.example"))], "shelf")
        db = self.room.reader()
        rows = [messages.get(db, n) for n in self.all()]
        shelf = [row for row in rows if row.place == "shelf" and row.decided_by == "model"][:40]
        self.assertGreater(len(shelf), 20)
        passed = {row.list_id for row in shelf} | {row.sender_address for row in shelf}
        features = {
            int(one)
            for row in shelf
            for one in messages.vectors(db, [row.id])[row.id]
            if GROUPS[int(one) // SLOTS].name in OF_SOURCE
        }
        strange = [r.id for r in rows if r.place != "sent" and not passed & {r.list_id or "-", r.sender_address}]
        met = [n for n in strange if self.collides(features, messages.vectors(db, [n])[n])]
        others = [n for n in strange if n not in met]
        self.assertLessEqual(len(met), 2)
        self.assertGreater(len(others), 10)
        Rescorer(self.room).pass_over()

        def judged(numbers: list[int]) -> list[float]:
            found = self.room.engine.judge_all([messages.vectors(db, [n])[n] for n in numbers])
            return [one.log_odds for one in found]

        before, stood, own, of_met = judged(others), self.state(), judged([row.id for row in shelf]), judged(met)
        self.assertEqual(self.seen(*(row.id for row in shelf)), len(shelf))
        self.assertEqual(judged(others), before)
        for one, was in zip(judged(met), of_met, strict=True):
            self.assertAlmostEqual(one, was, delta=0.1)
        self.assertNotEqual(judged([row.id for row in shelf]), own)
        self.assertEqual({n: self.state()[n] for n in others}, {n: stood[n] for n in others})
        for row in shelf:
            shown = self.room.engine.judge(messages.vectors(db, [row.id])[row.id]).importance
            self.assertAlmostEqual(self.row(row.id).score, shown, delta=0.01)

    def test_each_is_heard_once(self) -> None:
        """Told again, it says nothing more."""
        numbers = self.numbers(2)
        self.seen(*numbers)
        before = self.judged()
        self.assertEqual(self.seen(*numbers), 0)
        self.assertEqual(self.judged(), before)

    def test_what_says_nothing_of_the_model_is_not_heard(self) -> None:
        """Mail that was moved since, filed, or decided on by the owner teaches nothing by lying there."""
        moved, filed, decided = self.numbers(3)
        self.assertEqual(look_past(self.room, [(moved, "desk" if self.row(moved).place != "desk" else "shelf")]), 0)
        file_away(self.room, [filed], "archive")
        correct(self.room, [decided], "digest")
        self.assertEqual(self.seen(filed, decided), 0)
        self.assertEqual(silences.how_many(self.room.reader()), 0)

    def test_a_verdict_takes_it_back(self) -> None:
        """A message looked past and then corrected leaves the lesson alone, for good."""
        numbers = self.numbers(4)
        self.seen(*numbers[:3])
        step = correct(self.room, [numbers[1]], "desk").step
        self.assertEqual([m for _, m in silences.about(self.room.reader(), numbers)], [numbers[0], numbers[2]])
        self.agrees()
        undo(self.room, step)
        self.agrees()
        self.assertEqual(self.seen(numbers[1]), 1)
        self.agrees()

    def test_an_old_one_is_taken_back_behind(self) -> None:
        """With many lessons after it a verdict answers at once and the model follows from the background."""
        numbers = self.numbers(4)
        self.seen(numbers[0])
        for count in range(UNDO_AT_ONCE + 1):
            correct(self.room, [numbers[1 + count % 3]], ("shelf", "drain", "digest")[count % 3])
        correct(self.room, [numbers[0]], "desk")
        self.assertTrue(self.room.behind)
        self.seen(self.take(offer(9)))
        self.assertTrue(Rebuilder(self.room).rebuild())
        self.assertFalse(self.room.behind)
        self.agrees()

    def test_it_can_be_switched_off_and_is_forgotten(self) -> None:
        """Switched off, nothing more is heard and the model is as if nothing had ever been; switched on it begins
        anew."""
        numbers = self.numbers(4)
        before = self.judged()
        self.seen(*numbers[:3])
        set_teaches(self.room, False)
        self.assertEqual(self.judged(), before)
        self.assertEqual(self.seen(*numbers), 0)
        self.agrees()
        set_teaches(self.room, True)
        self.assertEqual(self.seen(*numbers), 4)
        self.agrees()

    def test_too_many_and_unknown_ones_are_refused(self) -> None:
        """A report of too many says so, one of a message that is not there too; nothing is kept of either."""
        (number,) = self.numbers(1)
        with self.assertRaisesRegex(CallerError, "At most 500"):
            look_past(self.room, [(n, "desk") for n in range(MAX_AT_ONCE + 1)])
        with self.assertRaises(NotFound):
            look_past(self.room, [(number, self.row(number).place), (999, "desk")])
        self.assertEqual(silences.how_many(self.room.reader()), 0)
        self.agrees()

    def test_a_failing_commit_leaves_memory_as_the_store(self) -> None:
        """When the report cannot be kept, the model has not heard it either."""
        numbers = self.numbers(3)
        before = self.judged()
        with self.room.store.atomic() as db:
            db.execute("CREATE TRIGGER full BEFORE INSERT ON silences BEGIN SELECT raise(ABORT, 'full'); END")
        with self.assertRaises(sqlite3.DatabaseError):
            self.seen(*numbers)
        self.assertEqual(self.judged(), before)
        self.assertEqual(self.room.engine.silence_ids, [])

    def test_silences_are_taken_along(self) -> None:
        """An export brought in elsewhere judges the same mail the same."""
        numbers = self.numbers(4)
        self.seen(*numbers[:2])
        correct(self.room, [numbers[2]], "desk")
        self.seen(self.take(letter()))
        target = self.folder / "all.zip"
        export(self.room, target)
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        restore(other, target)
        vectors = [messages.vectors(self.room.reader(), [n])[n] for n in self.all()]
        for mine, theirs in zip(self.room.engine.judge_all(vectors), other.engine.judge_all(vectors), strict=True):
            self.assertAlmostEqual(mine.log_odds, theirs.log_odds, delta=1e-9)
        self.assertEqual(other.engine.silence_ids, self.room.engine.silence_ids)
