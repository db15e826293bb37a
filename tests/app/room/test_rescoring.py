"""What follows behind a lesson: scores of mail out of sight, also after an end in between."""

from unittest import mock

from hieranome.app.room import rescoring
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.store import lessons, messages, scores, settings
from tests.patience import await_
from tests.support import NOON, RoomCase, letter, offer


class BehindTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(n)) for n in range(4)]
        for number in range(3 * scores.IN_SIGHT):
            self.take(letter(f"m{number}", sender=f"p{number}@h{number}.example", at=NOON + 100 + number))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'archive', decided_by = 'filed' WHERE id = ?", (self.offers[3],))
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model' WHERE place <> 'archive'")

    def stale(self) -> list[int]:
        """Messages whose stored score is not the model's."""
        db = self.room.reader()
        numbers = [row[0] for row in db.execute("SELECT id FROM messages")]
        return [
            n
            for n in numbers
            if abs(self.row(n).score - self.room.engine.judge(messages.vectors(db, [n])[n]).importance) > 2e-3
        ]

    def test_what_is_in_sight_follows_at_once_and_the_rest_behind(self) -> None:
        """After a verdict filed mail is not scored anew yet; one pass later everything is."""
        correct(self.room, self.offers[:1], "desk")
        self.assertIn(self.offers[3], self.stale())
        self.assertTrue(set(self.stale()).isdisjoint(scores.in_sight(self.room.reader())))
        last = self.room.events.latest
        with mock.patch.multiple(rescoring, TOLD=100, CHUNK=50):
            self.assertTrue(Rescorer(self.room).pass_over())
        self.assertEqual(self.stale(), [])
        told = [one.data for one in self.room.events.since(last) or [] if one.kind == "rescoring"]
        self.assertEqual([one["done"] for one in told], [100, 184])
        self.assertEqual({one["of"] for one in told}, {184})

    def test_a_newer_lesson_cuts_a_pass_short(self) -> None:
        """A pass for an older state ends at once, and says nothing is done."""
        correct(self.room, self.offers[:1], "desk")
        rescorer = Rescorer(self.room)
        undo(self.room)
        self.assertFalse(rescorer.pass_over())
        self.assertNotEqual(settings.value(self.room.reader(), settings.SCORED, ""), lessons.state(self.room.reader()))

    def test_a_start_brings_what_an_end_cut_off(self) -> None:
        """With scores behind the lessons, the next start makes the pass; with none behind, nothing is done."""
        correct(self.room, self.offers[:1], "desk")
        self.reopen()
        rescorer = Rescorer(self.room)
        rescorer.start()
        self.addCleanup(rescorer.close)
        db = self.room.reader()
        await_("the pass", lambda: settings.value(db, settings.SCORED, "") == lessons.state(db))
        self.assertEqual(self.stale(), [])
