"""Queues: kept, shown by state and age, worked through, undone; keywords of other programs; what cannot be."""

from __future__ import annotations

from dataclasses import replace

from hieranome.app import filing, shaping_tags, tagging, trays
from hieranome.app.queues import keeping, working
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.queues import Of, Queue, State
from hieranome.core.times import DAY
from hieranome.core.trays import SHIPPED, Tray
from hieranome.store import journal, queues, tags
from tests.app.room.failing import FailingCase
from tests.support import NOON, RoomCase, letter

STATES = (State("new"), State("asked"), State("granted"))


class QueueCase(RoomCase):
    """Three letters on the Shelf."""

    def setUp(self) -> None:
        super().setUp()
        self.clock.now = NOON + DAY
        self.numbers = [self.take(letter(f"Visa {n}", at=NOON - n * 60)) for n in range(3)]
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model'")

    def queue(self, of: Of = "bucket", target: str = "shelf", name: str = "Visas") -> Queue:
        return keeping.keep(self.room, Queue(0, name, of, target, STATES))

    def standing(self, queue: Queue) -> list[list[int]]:
        """The ids in each state, those that stand in it longest first."""
        return [[row.message.id for row in one.rows] for one in working.show(self.room, queue.id).columns]


class WorkingTest(QueueCase):
    def test_to_the_next_state_and_back(self) -> None:
        """Oldest first; one step each; the state is a tag, so that the message's journal and servers have it."""
        queue = self.queue()
        first, second, third = self.numbers
        self.assertEqual(self.standing(queue), [[third, second, first], [], []])
        filed, state = working.step_on(self.room, [first, second], 1)
        self.assertEqual((filed.messages, state), ([first, second], "asked"))
        self.assertEqual(self.standing(queue), [[third], [first, second], []])
        self.assertEqual(tags.of(self.room.reader(), [first]), {first: [queue.states[1].tag]})
        self.assertEqual(journal.recent(self.room.reader(), 0, 1)[0].title, "2 messages to “asked” (Visas)")
        self.assertEqual([one.tag for one in journal.of_message(self.room.reader(), first)], ["Visas: asked"])
        self.clock.now += DAY
        working.step_on(self.room, [first], 1)
        working.step_on(self.room, [first], 1)
        self.assertEqual(self.standing(queue), [[third], [second], [first]])
        working.bring(self.room, queue.id, [first], 0)
        self.assertEqual(self.standing(queue), [[third, first], [second], []])
        for _ in range(2):
            undo(self.room)
        self.assertEqual(self.standing(queue), [[third], [first, second], []])
        self.assertEqual([one.total for one in working.show(self.room, queue.id).columns], [1, 2, 0])

    def test_since_when(self) -> None:
        """Since it came, since it was brought there, since another program set the keyword."""
        queue = self.queue()
        first, second, _ = self.numbers

        def since(number: int) -> int:
            columns = working.show(self.room, queue.id).columns
            return next(row.since for one in columns for row in one.rows if row.message.id == number)

        self.assertEqual(since(first), NOON)
        working.step_on(self.room, [first], 1)
        self.assertAlmostEqual(since(first), NOON + DAY, delta=60)
        with self.room.store.atomic() as db:
            tags.set_on(db, second, queue.states[2].tag, True, NOON + 2 * DAY)
        self.assertEqual((since(second), self.standing(queue)[2]), (NOON + 2 * DAY, [second]))

    def test_the_furthest_of_several_keywords_counts(self) -> None:
        """And going on from there leaves one."""
        queue = self.queue()
        first = self.numbers[0]
        with self.room.store.atomic() as db:
            for state in queue.states[1:]:
                tags.set_on(db, first, state.tag, True)
        self.assertEqual(self.standing(queue)[2], [first])
        working.step_on(self.room, [first], -1)
        self.assertEqual(tags.of(self.room.reader(), [first]), {first: [queue.states[1].tag]})

    def test_of_a_tag_and_of_a_tray(self) -> None:
        """What passes through is the mail of either; what is thrown away or put elsewhere does not any more."""
        tag = shaping_tags.make(self.room, "Cases").id
        tagging.put_on(self.room, self.numbers[:2], tag)
        queue = self.queue("tag", str(tag), "Cases of visas")
        self.assertEqual(len(self.standing(queue)[0]), 2)
        self.assertEqual(tags.get(self.room.reader(), queue.states[1].tag).parent, tag)
        filing.file_away(self.room, self.numbers[:1], "trash")
        self.assertEqual(self.standing(queue)[0], self.numbers[1:2])
        trays.put(self.room, [*SHIPPED[:2], Tray("line", "Visas", line="subject:visa"), *SHIPPED[2:]])
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk'")
        other = self.queue("tray", "Visas", "Visas of the Desk")
        self.assertEqual(len(self.standing(other)[0]), 3)
        trays.put(self.room, SHIPPED)
        self.assertEqual(self.standing(other)[0], [])
        self.assertIn("not there any more", working.show(self.room, other.id).problem)
        self.assertEqual(working.show(self.room, queue.id).problem, "")

    def test_what_passes_through_none(self) -> None:
        with self.assertRaisesRegex(CallerError, "no queue"):
            working.step_on(self.room, self.numbers[:1], 1)
        queue = self.queue()
        with self.assertRaisesRegex(CallerError, "no state 9"):
            working.bring(self.room, queue.id, self.numbers[:1], 8)
        filing.file_away(self.room, self.numbers[:1], "archive")
        with self.assertRaisesRegex(CallerError, "not in “Visas”"):
            working.bring(self.room, queue.id, self.numbers[:1], 1)
        with self.assertRaises(NotFound):
            working.show(self.room, 99)


class KeepingTest(QueueCase):
    def test_renamed_ordered_and_left_out(self) -> None:
        """Its tags are renamed with it; a state with mail in it stays; the tag of one cannot be deleted."""
        queue = self.queue()
        working.step_on(self.room, self.numbers[:1], 1)
        new, asked, granted = queue.states
        renamed = replace(queue, name="Permits", states=(new, State("granted", granted.tag), State("sent", asked.tag)))
        kept = keeping.keep(self.room, renamed)
        self.assertEqual([one.tag for one in kept.states], [0, granted.tag, asked.tag])
        self.assertEqual(tags.get(self.room.reader(), asked.tag).name, "Permits: sent")
        self.assertEqual(self.standing(kept)[2], self.numbers[:1])
        with self.assertRaisesRegex(CallerError, "1 message stands in “sent”"):
            keeping.keep(self.room, replace(kept, states=kept.states[:2]))
        for work in (
            lambda: shaping_tags.delete(self.room, asked.tag),
            lambda: shaping_tags.merge(self.room, asked.tag, granted.tag),
        ):
            with self.assertRaisesRegex(CallerError, "needs the tag"):
                work()
        keeping.remove(self.room, kept.id)
        shaping_tags.delete(self.room, asked.tag)
        self.assertEqual(queues.every(self.room.reader()), [])

    def test_the_step_that_made_its_tag_is_not_undone(self) -> None:
        """A queue about a tag needs it; its states came with it, and go with it where no mail stands in them."""
        tag = shaping_tags.make(self.room, "Visas wanted")
        made = journal.latest_standing(self.room.reader()).id
        queue = keeping.keep(self.room, Queue(0, "Visas", "tag", str(tag.id), STATES))
        with self.assertRaisesRegex(CallerError, "needs the tag"):
            undo(self.room, made)
        kept = journal.latest_standing(self.room.reader()).id
        tagging.put_on(self.room, self.numbers[:1], tag.id)
        working.step_on(self.room, self.numbers[:1], 1)
        undo(self.room, kept)
        self.assertEqual(queues.every(self.room.reader()), [])
        left = [one.name for one in tags.every(self.room.reader())]
        self.assertEqual(left, ["Visas wanted", f"Visas: {queue.states[1].name}"])

    def test_what_is_no_queue_is_refused(self) -> None:
        good = Queue(0, "Visas", "bucket", "shelf", STATES)
        wrong: list[tuple[Queue, type[Exception], str]] = [
            (replace(good, name=" "), CallerError, "1 to 40"),
            (replace(good, states=STATES[:1]), CallerError, "2 to 9"),
            (replace(good, states=(State("a"), State("A"))), CallerError, "same name"),
            (replace(good, target="archive"), CallerError, "bucket"),
            (replace(good, of="tag", target="77"), NotFound, "tag"),
            (replace(good, of="tag", target="x" * 40), NotFound, "tag"),
            (replace(good, of="tray", target="none"), CallerError, "tray"),
        ]
        for one, kind, why in wrong:
            with self.assertRaisesRegex(kind, why):
                keeping.keep(self.room, one)
        self.queue()
        with self.assertRaises(Conflict):
            self.queue(name="visas")
        self.assertEqual(len(queues.every(self.room.reader())), 1)


class FailingQueuesTest(FailingCase):
    """Whatever statement fails, memory and store are as they were."""

    def test_queues(self) -> None:
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model'")
        self.try_every_failure(lambda: keeping.keep(self.room, Queue(0, "Visas", "bucket", "shelf", STATES)))
        self.try_every_failure(lambda: working.step_on(self.room, self.letters[:2], 1))
        self.try_every_failure(lambda: undo(self.room))
        (queue,) = queues.every(self.room.reader())
        self.try_every_failure(lambda: keeping.remove(self.room, queue.id))
