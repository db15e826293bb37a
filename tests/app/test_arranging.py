"""Buckets the owner does without: their mail goes where they say, and what was taught of them with it."""

from hieranome.app.arranging import describe_place, moved_off, switch_off, switch_on
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import look_past
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError
from hieranome.core.sure import Reach
from hieranome.store import journal, messages, places
from tests.support import RoomCase, letter, offer


class SwitchedOffTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(offer(n)) for n in range(3)]
        correct(self.room, [self.numbers[0]], "digest")
        self.other = self.take(letter())

    def judged(self) -> list[tuple[float, dict[str, float]]]:
        vectors = [messages.vectors(self.room.reader(), [number])[number] for number in (*self.numbers, self.other)]
        return [(one.log_odds, one.low) for one in self.room.engine.judge_all(vectors)]

    def test_mail_and_lessons_go_elsewhere(self) -> None:
        """What stands in it moves in one step, what was taught of it counts for the other, new mail goes there."""
        stood = [number for number, _ in messages.standing_in(self.room.reader(), "digest")]
        switch_off(self.room, "digest", "shelf")
        self.assertEqual({self.row(number).place for number in stood}, {"shelf"})
        self.assertEqual(places.get(self.room.reader(), "digest").total, 0)
        self.assertNotIn("digest", self.judged()[0][1])
        self.assertEqual(self.row(self.take(offer(7))).place, "shelf")
        step = journal.latest_standing(self.room.reader())
        self.assertEqual(step.title, "Digest switched off: its mail to Shelf")
        undo(self.room, step.id)
        self.assertEqual({self.row(number).place for number in stood}, {"digest"})

    def test_a_verdict_for_it_counts_for_the_other(self) -> None:
        """Mail another program puts there, and what was said for always, is meant for what stands in for it."""
        correct(self.room, [self.numbers[1]], "digest", Reach.ADDRESS)
        switch_off(self.room, "digest", "drain")
        correct(self.room, [self.numbers[2]], "digest")
        self.assertEqual(self.row(self.numbers[2]).place, "drain")
        self.assertEqual(self.row(self.take(offer(9))).place, "drain")

    def test_used_again_it_is_as_before(self) -> None:
        """Switched on again, the model is the one there was, and a restart agrees."""
        look_past(self.room, [(self.numbers[1], self.row(self.numbers[1]).place)])
        before = self.judged()
        switch_off(self.room, "digest", "shelf")
        during = self.judged()
        self.room.load()
        self.assertEqual(self.judged(), during)
        switch_on(self.room, "digest")
        self.assertEqual(self.judged(), before)

    def test_what_stands_in_may_be_switched_off_too(self) -> None:
        """Mail of both goes to the third, never to one that is not used."""
        switch_off(self.room, "digest", "shelf")
        switch_off(self.room, "shelf", "drain")
        self.assertEqual(places.get(self.room.reader(), "digest").instead, "drain")
        self.assertEqual(self.row(self.take(offer(8))).place, "drain")

    def test_what_is_refused_stays_refused(self) -> None:
        """With the Drain switched off, refused mail stands there and comes there, and nowhere else; all other mail goes
        where it was said."""
        refused = self.take(letter("Cheap strings", sender="Sales <sales@strings.example>"))
        correct(self.room, [refused], "drain", Reach.ADDRESS)
        correct(self.room, [self.numbers[2]], "drain")
        switch_off(self.room, "drain", "shelf")
        self.assertEqual((self.row(refused).place, self.row(self.numbers[2]).place), ("drain", "shelf"))
        self.assertEqual(
            self.row(self.take(letter("More strings", sender="Sales <sales@strings.example>"))).place, "drain"
        )
        other = self.take(letter("Bows", sender="Bows <bows@bows.example>"))
        correct(self.room, [other], "drain", Reach.ADDRESS)
        self.assertEqual(self.row(other).place, "drain")
        self.assertEqual(self.row(self.take(letter("Bows again", sender="Bows <bows@bows.example>"))).place, "drain")
        self.room.load()
        self.assertEqual(self.row(self.take(letter("Bows 3", sender="Bows <bows@bows.example>"))).place, "drain")

    def test_its_mail_comes_back(self) -> None:
        """Switched on, what switching off moved is known, and comes back in one step; nothing else does."""
        stood = [number for number, _ in messages.standing_in(self.room.reader(), "digest")]
        self.assertIsNone(moved_off(self.room, "digest"))
        switch_off(self.room, "digest", "shelf")
        step = moved_off(self.room, "digest")
        assert step is not None
        self.assertEqual(step.messages, len(stood))
        switch_on(self.room, "digest")
        undo(self.room, step.id)
        self.assertEqual({self.row(number).place for number in stood}, {"digest"})
        self.assertIsNone(moved_off(self.room, "digest"))

    def test_what_cannot_be_is_said(self) -> None:
        """The Desk stays, a folder is no bucket, the last low bucket stays, and one in use is not switched on."""
        with self.assertRaisesRegex(CallerError, "Desk cannot be switched off"):
            switch_off(self.room, "desk", "shelf")
        with self.assertRaisesRegex(CallerError, "cannot go to Archive"):
            switch_off(self.room, "digest", "archive")
        with self.assertRaisesRegex(CallerError, "in use already"):
            switch_on(self.room, "digest")
        switch_off(self.room, "digest", "shelf")
        switch_off(self.room, "drain", "shelf")
        with self.assertRaisesRegex(CallerError, "last bucket for what can wait"):
            switch_off(self.room, "shelf", "desk")
        with self.assertRaisesRegex(CallerError, "cannot be switched off"):
            switch_off(self.room, "digest", "shelf")

    def test_a_renamed_bucket_can_be_learned_of(self) -> None:
        """The model calls it as it is called, so that it can be built anew; and a name a line could not say is
        refused."""
        describe_place(self.room, "shelf", title="Later", notice=None, rhythm=None)
        self.assertEqual(self.room.engine.buckets, places.buckets(self.room.reader()))
        self.room.behind = True
        self.assertTrue(Rebuilder(self.room).rebuild())
        for title in ('To "do"', "a\u202eb", "a\x00b"):
            with self.assertRaises(CallerError):
                describe_place(self.room, "shelf", title=title, notice=None, rhythm=None)
