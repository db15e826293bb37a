"""Mail is put away, put back and marked; every step can be undone, and none of them teaches."""

import threading

from hieranome.app import arranging, filing
from hieranome.app.room import marks
from hieranome.app.teaching import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.store import journal, lessons, messages, places
from tests.patience import PATIENCE
from tests.support import NOON, OWNER, RoomCase, letter, offer


class FilingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(letter(f"Stage question {n}", at=NOON + n)) for n in range(4)]

    def test_archived_mail_comes_back_where_it_stood(self) -> None:
        """Put away and put back, a message stands as before, decided by what decided before."""
        before = self.state()
        filed = filing.file_away(self.room, self.numbers[:2], "archive")
        self.assertEqual(filed.messages, self.numbers[:2])
        self.assertEqual([self.row(n).place for n in self.numbers[:2]], ["archive", "archive"])
        self.assertEqual(self.standing_in("archive"), 2)
        filing.put_back(self.room, self.numbers[:2])
        self.assertEqual(self.state(), before)

    def test_filing_teaches_nothing(self) -> None:
        """No lesson is made, and no score moves."""
        before = {n: s[2] for n, s in self.state().items()}
        filing.file_away(self.room, self.numbers, "trash")
        self.assertEqual(len(self.room.engine), 0)
        self.assertEqual(lessons.ledger(self.room.reader(), 0, 10), [])
        self.assertEqual({n: s[2] for n, s in self.state().items()}, before)

    def test_each_step_is_undone_by_itself(self) -> None:
        """Undo takes back the latest step, then the one before."""
        before = self.state()
        filing.file_away(self.room, self.numbers[:1], "archive")
        filing.file_away(self.room, self.numbers[:1], "trash")
        undo(self.room)
        self.assertEqual(self.row(self.numbers[0]).place, "archive")
        undo(self.room)
        self.assertEqual(self.state(), before)

    def test_put_back_goes_one_step_at_a_time(self) -> None:
        """From the Trash back to the Archive it came from, and from there to its bucket."""
        home = self.row(self.numbers[0]).place
        filing.file_away(self.room, self.numbers[:1], "archive")
        filing.file_away(self.room, self.numbers[:1], "trash")
        filing.put_back(self.room, self.numbers[:1])
        self.assertEqual(self.row(self.numbers[0]).place, "archive")

        undo(self.room)
        undo(self.room)
        filing.put_back(self.room, self.numbers[:1])
        self.assertEqual(self.row(self.numbers[0]).place, home)

    def test_history_without_a_way_back_goes_to_the_desk(self) -> None:
        """Mail that came in archived is put on the Desk; the owner's own goes to Sent."""
        own = self.take_sent(letter("Mine", sender=f"Maren <{OWNER}>", to="hall@house.example"))
        with self.room.store.atomic() as db:
            messages.move(db, self.numbers[0], "archive", "history")
            messages.move(db, own, "trash", "own")
        filing.put_back(self.room, [self.numbers[0], own])
        self.assertEqual((self.row(self.numbers[0]).place, self.row(own).place), ("desk", "sent"))

    def test_own_mail_stays_own_wherever_it_is_filed(self) -> None:
        """Sent mail in the Archive is still the owner's, and nothing to learn from."""
        own = self.take_sent(letter("Mine", sender=f"Maren <{OWNER}>", to="hall@house.example"))
        filing.file_away(self.room, [own], "archive")
        self.assertEqual(self.row(own).decided_by, "own")
        with self.assertRaisesRegex(CallerError, "one you sent"):
            correct.correct(self.room, [own], "desk")
        filing.put_back(self.room, [own])
        self.assertEqual(self.row(own).place, "sent")

    def test_folders_of_ones_own(self) -> None:
        """A folder is made, holds mail, and can go again when it is empty and nothing names it."""
        folder = arranging.add_folder(self.room, "  Spring   tour ")
        self.assertEqual((folder.title, folder.band, folder.own), ("Spring tour", -1, True))
        with self.assertRaisesRegex(CallerError, "already"):
            arranging.add_folder(self.room, "spring TOUR")
        filing.file_away(self.room, self.numbers[:1], folder.name)
        with self.assertRaisesRegex(CallerError, "holds 1 messages"):
            arranging.remove_place(self.room, folder.name)
        undo(self.room)
        with self.assertRaisesRegex(CallerError, "stands in the journal"):
            arranging.remove_place(self.room, folder.name)
        other = arranging.add_folder(self.room, "Hotels")
        arranging.remove_place(self.room, other.name)
        self.assertNotIn(other.name, [place.name for place in places.every(self.room.reader())])
        with self.assertRaisesRegex(CallerError, "only folders you made"):
            arranging.remove_place(self.room, "archive")

    def test_what_cannot_be_filed_changes_nothing(self) -> None:
        """Buckets, unknown places, unknown messages and empty wishes are refused whole."""
        before = self.state()
        for numbers, place, error in (
            (self.numbers, "shelf", "is a verdict"),
            (self.numbers, "sent", "only what you write"),
            (self.numbers, "drafts", "only what you write"),
            (self.numbers, "cellar", "no place called"),
            ([*self.numbers, 999], "archive", "no message 999"),
            ([], "archive", "1 to 10000"),
        ):
            with self.subTest(place=place), self.assertRaisesRegex((CallerError, NotFound), error):
                filing.file_away(self.room, numbers, place)
        with self.assertRaisesRegex(CallerError, "nothing to put back"):
            filing.put_back(self.room, self.numbers)
        self.assertEqual(self.state(), before)
        self.assertEqual(journal.recent(self.room.reader(), 0, 10), [])

    def test_filed_mail_is_no_kin(self) -> None:
        """What was put away does not come back by a lesson about its like."""
        offers = [self.take(offer(n)) for n in range(3)]
        filing.file_away(self.room, offers[:1], "archive")
        outcome = correct.correct(self.room, offers[1:2], "desk")
        self.assertNotIn(offers[0], [kin.message.id for kin in outcome.kin])
        with self.assertRaisesRegex(CallerError, "None of these"):
            correct.pull(self.room, outcome.step, offers[:1])


class MarkTest(RoomCase):
    def test_marks_are_steps(self) -> None:
        """Read and flagged are set for many, counted, and taken back by undo as they were."""
        numbers = [self.take(letter(f"m{n}", at=NOON + n)) for n in range(3)]
        marks.mark(self.room, numbers[:1], "read")
        filed = marks.mark(self.room, numbers, "read")
        self.assertEqual(filed.messages, numbers[1:])
        marks.mark(self.room, numbers, "flagged")
        self.assertTrue(all(self.row(n).flagged and self.row(n).seen for n in numbers))
        self.assertEqual(journal.recent(self.room.reader(), 0, 1)[0].messages, 3)
        undo(self.room)
        undo(self.room)
        self.assertEqual([self.row(n).seen for n in numbers], [True, False, False])
        self.assertFalse(any(self.row(n).flagged for n in numbers))

    def test_marking_what_is_marked_is_no_step(self) -> None:
        """Nothing changed, nothing written."""
        number = self.take(letter())
        self.assertEqual(marks.mark(self.room, [number], "unread").step, 0)
        self.assertEqual(journal.recent(self.room.reader(), 0, 5), [])

    def test_opening_is_no_step_but_counts(self) -> None:
        """A message that is opened is read in its sender's sums, once."""
        number = self.take(letter())
        marks.mark_opened(self.room, number)
        marks.mark_opened(self.room, number)
        self.assertEqual(self.room.relations.of("address:brandel@salthall.example").read, 1)
        self.assertEqual(journal.recent(self.room.reader(), 0, 5), [])
        marks.mark(self.room, [number], "unread")
        self.assertEqual(self.room.relations.of("address:brandel@salthall.example").read, 0)
        undo(self.room)
        self.assertEqual(self.room.relations.of("address:brandel@salthall.example").read, 1)


class PlaceTest(RoomCase):
    def test_a_bucket_of_ones_own_is_routed_to(self) -> None:
        """Made, taught once, and the next such message goes there; after a restart as well."""
        bucket = arranging.add_bucket(self.room, "Paperwork", important=False)
        self.assertEqual(bucket.band, 5)
        first = self.take(offer(1))
        correct.correct(self.room, [first], bucket.name)
        self.assertEqual(self.row(self.take(offer(2))).place, bucket.name)
        self.reopen()
        self.assertEqual(self.row(self.take(offer(3))).place, bucket.name)

    def test_nobody_waits_while_a_bucket_is_added(self) -> None:
        """Its model is built beside the one in use: meanwhile another can correct, and that lesson is in both."""
        numbers = [self.take(offer(n)) for n in range(54)]
        for number in numbers[:51]:
            correct.correct(self.room, [number], "digest")
        given: list[int] = []

        def meanwhile() -> None:
            if not given:
                given.append(numbers[52])
                other = threading.Thread(target=lambda: correct.correct(self.room, [numbers[52]], "shelf"))
                other.start()
                other.join(PATIENCE)
                self.assertFalse(other.is_alive(), "a verdict waits for the bucket")

        self.addCleanup(self.room.events.listen(meanwhile))
        bucket = arranging.add_bucket(self.room, "Paperwork", important=False)
        self.assertEqual(given, [numbers[52]])
        held = self.room.engine.lesson_ids
        self.assertEqual(held, [one.id for one in lessons.teaching(self.room.reader())])
        self.assertEqual(len(held), 52)
        self.assertIn(bucket.name, [one.name for one in self.room.engine.buckets])

    def test_another_bucket_meanwhile_is_told(self) -> None:
        """Two buckets made at once: the second is refused with the cure, nothing of it is kept; then it works."""
        for number in range(51):
            correct.correct(self.room, [self.take(offer(number))], "digest")
        made: list[str] = []

        def meanwhile() -> None:
            if not made:
                made.append("begun")
                filing_thread = threading.Thread(target=arranging.add_bucket, args=(self.room, "Visas", False))
                filing_thread.start()
                filing_thread.join(PATIENCE)

        stop = self.room.events.listen(meanwhile)
        with self.assertRaisesRegex(Conflict, "Try once more"):
            arranging.add_bucket(self.room, "Paperwork", important=False)
        stop()
        titles = [place.title for place in places.every(self.room.reader())]
        self.assertIn("Visas", titles)
        self.assertNotIn("Paperwork", titles)
        self.assertEqual(self.room.engine.buckets, places.buckets(self.room.reader()))
        self.assertEqual(arranging.add_bucket(self.room, "Paperwork", important=False).title, "Paperwork")

    def test_wishes_of_a_place_are_kept(self) -> None:
        """Title, notice and rhythm change one at a time; looking is noted."""
        arranging.describe_place(self.room, "digest", title="Reading", notice=None, rhythm=None)
        arranging.describe_place(self.room, "digest", title=None, notice=12, rhythm=None)
        changed = arranging.describe_place(self.room, "digest", title=None, notice=None, rhythm="weekly")
        self.assertEqual((changed.title, changed.notice, changed.rhythm), ("Reading", 12, "weekly"))
        self.assertGreater(arranging.visit(self.room, "digest").looked_at, NOON)
        for title in ("", "x" * 41, "Desk"):
            with self.assertRaises(CallerError):
                arranging.describe_place(self.room, "digest", title=title, notice=None, rhythm=None)


class WeighingTest(RoomCase):
    def test_more_and_less_teach_without_moving(self) -> None:
        """The score follows, the message stays; undo takes the lesson back."""
        number = self.take(offer(1))
        place, before = self.row(number).place, self.row(number).score
        outcome = correct.weigh_anew(self.room, [number], up=True)
        self.assertEqual(self.row(number).place, place)
        self.assertGreater(self.row(number).score, before)
        self.assertEqual(self.row(number).decided_by, "model")
        self.assertTrue(outcome.changed)
        self.assertIn("matters more", journal.get(self.room.reader(), outcome.step).title)
        undo(self.room)
        self.assertAlmostEqual(self.row(number).score, before, delta=2e-3)

    def test_less_is_a_lesson_for_the_low_bucket_it_stands_in(self) -> None:
        """What stands in Digest and matters less belongs in Digest; on the Desk, in the likeliest low bucket."""
        low = self.take(offer(1))
        correct.correct(self.room, [low], "digest")
        correct.weigh_anew(self.room, [low], up=False)
        self.assertEqual(lessons.ledger(self.room.reader(), 0, 1)[0].belongs, "digest")
        high = self.take(letter("Can you answer today?"))
        likely = self.row(high).likely
        correct.weigh_anew(self.room, [high], up=False)
        self.assertEqual(lessons.ledger(self.room.reader(), 0, 1)[0].belongs, likely)

    def test_no_other_lesson_is_told_to_have_changed(self) -> None:
        """What a lesson contributed stays what it was, however many are named beside the message."""
        for number in range(8):
            correct.correct(self.room, [self.take(offer(number))], "desk" if number % 2 else "digest")
        outcome = correct.correct(self.room, [self.take(offer(9))], "desk")
        told = {change.line.lesson for change in outcome.changed if change.line.kind == "lesson"}
        self.assertEqual(told, set(outcome.lessons))
        self.assertNotIn("lessons", [change.line.kind for change in outcome.changed])

    def test_a_verdict_tells_what_evidence_changed(self) -> None:
        """The new lesson is named first, with nothing before it."""
        number = self.take(letter())
        outcome = correct.correct(self.room, [number], "drain")
        named = [change for change in outcome.changed if change.line.lesson == outcome.lessons[0]]
        self.assertEqual([change.before for change in named], [0.0])
        self.assertLess(named[0].line.value, 0)
