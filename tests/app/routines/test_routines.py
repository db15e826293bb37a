"""Routines: kept, tried, done as one step to one message and to many, undone as one."""

from __future__ import annotations

from unittest.mock import patch

from hieranome.app import shaping_tags
from hieranome.app.arrival.arrive import receive
from hieranome.app.following import due
from hieranome.app.routines import keeping, running
from hieranome.app.rules import keeping as ruling
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import beginning, phrasing
from hieranome.app.writing import drafts as writing
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.routines import Action, Routine
from hieranome.core.rules import Action as RuleAction
from hieranome.core.rules import Rule
from hieranome.store import drafts, following, journal, lessons, messages, routines, rules, tags
from tests.app.room.failing import FailingCase
from tests.app.writing.test_phrasing import with_identity
from tests.support import NOON, OWNER, RoomCase, letter


class RoutineCase(RoomCase):
    """Three letters on the Desk, a tag, a phrase."""

    def setUp(self) -> None:
        super().setUp()
        with_identity(self)
        self.numbers = [
            self.take(letter(f"Rider {n}", sender=f"Oskar Brandel <o{n}@salthall.example>")) for n in range(3)
        ]
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
        self.tag = shaping_tags.make(self.room, "riders").id
        self.phrase = phrasing.keep(self.room, "ack", "Dear {first name|all}, thank you.").id

    def routine(self, *actions: Action, key: str = "") -> int:
        return keeping.keep(self.room, Routine(0, "Rider in", key, actions)).routine.id

    def full(self) -> int:
        """A routine of eight things."""
        return self.routine(
            Action("reply", str(self.phrase)), Action("reply-all", str(self.phrase)),
            Action("forward", str(self.phrase)), Action("tag", str(self.tag)), Action("due", "in 3 days"),
            Action("read"), Action("bucket", "shelf"), Action("next"),
        )  # fmt: skip

    def whole(self) -> list[object]:
        """All that a routine may change of the letters."""
        db = self.room.reader()
        rows = [(r.place, r.decided_by, r.seen, r.flagged) for r in messages.get_many(db, self.numbers)]
        return [rows, tags.of(db, self.numbers), following.of(db, self.numbers), len(drafts.unsent(db))]


class RunningTest(RoutineCase):
    def test_one_step_done_and_undone(self) -> None:
        """Everything is done, the journal has one line of it, and undoing it takes all back: the drafts too, and what
        the model learned."""
        number, before = self.full(), self.whole()
        steps = len(journal.recent(self.room.reader(), 0, 50))
        done = running.run(self.room, number, self.numbers)
        self.assertEqual(done.refused, {})
        self.assertEqual(len(done.drafts), 9)
        rows, carried, noted, unsent = self.whole()
        self.assertEqual(rows, [("shelf", "verdict", True, True)] * 3)
        self.assertEqual(carried, {one: [self.tag] for one in self.numbers})
        self.assertEqual([one.kind for one in noted], ["due"] * 3)  # type: ignore[attr-defined]
        self.assertEqual(unsent, 9)
        there = journal.recent(self.room.reader(), 0, 50)
        self.assertEqual((len(there), there[0].title), (steps + 1, "Routine “Rider in”: 3 messages"))
        self.assertEqual(len(lessons.of_step(self.room.reader(), done.step)), 3)
        undo(self.room)
        self.assertEqual(self.whole(), before)
        self.assertEqual(len(self.room.engine), 0)

    def test_how_far_it_is_is_told(self) -> None:
        """Up to its end, the last of it with what was done only when it is done."""
        before = self.room.events.latest
        done = running.run(self.room, self.full(), self.numbers)
        told = [one.data for one in self.room.events.since(before) or [] if one.kind == "running"]
        self.assertEqual([one["step"] for one in told], [0] * 8)
        counts = [one["done"] for one in told]
        self.assertEqual(counts, sorted(counts))
        self.assertEqual((len(done.messages), {one["of"] for one in told}), (3, {24}))
        self.assertLess(counts[-1], 24)

    def test_a_draft_the_owner_wrote_on_outlives_the_step(self) -> None:
        done = running.run(self.room, self.full(), self.numbers[:1])
        one = drafts.get(self.room.reader(), done.drafts[0])
        fields = {name: getattr(one, name) for name in ("sender", "recipients", "cc", "bcc", "subject")}
        writing.change(self.room, one.id, writing.Changed(**fields, body="My own words."))
        undo(self.room)
        self.assertEqual([left.body for left in drafts.unsent(self.room.reader())], ["My own words."])

    def test_what_cannot_be_done_is_said_before_anything_is(self) -> None:
        """Nothing is done while some are refused; then the others alone."""
        own = self.take(letter("Mine", sender=f"Maren <{OWNER}>"))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'sent', decided_by = 'own' WHERE id = ?", (own,))
        number, before = self.full(), self.whole()
        told = running.run(self.room, number, [*self.numbers, own])
        self.assertEqual(told.step, 0)
        self.assertEqual(list(told.refused), [own])
        self.assertIn("you wrote it", told.refused[own])
        self.assertEqual(self.whole(), before)
        done = running.run(self.room, number, [*self.numbers, own], leaving=True)
        self.assertEqual(done.messages, self.numbers)
        self.assertEqual(messages.get(self.room.reader(), own).place, "sent")
        only = running.run(self.room, number, [own], leaving=True)
        self.assertEqual((only.step, list(only.refused)), (0, [own]))

    def test_what_fails_under_way_leaves_that_message_as_it_was(self) -> None:
        """One draft cannot be made: nothing else is done to its message, nor is a draft of it left."""
        number, begin = self.full(), beginning.begin
        calls = []

        def failing(room: object, kind: str, message: int, read: object) -> object:
            calls.append(message)
            if message == self.numbers[1] and kind == "forward":
                raise ValueError("a header that is none")
            return begin(room, kind, message, read)  # type: ignore[arg-type]

        with patch.object(beginning, "begin", failing):
            done = running.run(self.room, number, self.numbers)
        self.assertEqual(done.messages, [self.numbers[0], self.numbers[2]])
        self.assertIn("a header that is none", done.refused[self.numbers[1]])
        row = messages.get(self.room.reader(), self.numbers[1])
        self.assertEqual((row.place, row.flagged, row.seen), ("desk", False, False))
        self.assertEqual({one.answers for one in drafts.unsent(self.room.reader())}, {self.numbers[0], self.numbers[2]})
        with patch.object(beginning, "begin", side_effect=ValueError("none")):
            lost = running.run(self.room, number, self.numbers[1:2])
        self.assertEqual((lost.step, list(lost.refused)), (0, self.numbers[1:2]))

    def test_each_thing_it_can_do(self) -> None:
        """What is done by each alone, and that undoing takes it back."""
        ways: list[tuple[Action, str]] = [
            (Action("archive"), "archive"), (Action("trash"), "trash"), (Action("park", "in 2 hours"), "parked"),
            (Action("park-answer"), "parked"), (Action("bucket", "drain"), "drain"),
        ]  # fmt: skip
        before = self.whole()
        for action, place in ways:
            number = self.routine(action)
            running.run(self.room, number, self.numbers)
            self.assertEqual({r.place for r in messages.get_many(self.room.reader(), self.numbers)}, {place})
            undo(self.room)
            self.assertEqual(self.whole(), before, action)
            keeping.remove(self.room, number)
        due.set_due(self.room, self.numbers, "tomorrow")
        with_due = self.whole()
        for verb in ("done", "unflag"):
            number = self.routine(Action(verb))
            running.run(self.room, number, self.numbers)
            self.assertEqual(self.whole(), before, verb)
            undo(self.room)
            self.assertEqual(self.whole(), with_due, verb)
            keeping.remove(self.room, number)

    def test_tried_it_changes_nothing(self) -> None:
        before = self.whole()
        actions = routines.get(self.room.reader(), self.full()).actions
        lines, refused = keeping.tried(self.room, actions, self.numbers[0])
        self.assertEqual(refused, "")
        self.assertIn("Dear Oskar, thank you.", lines[0].text)
        words = [one.words for one in lines]
        self.assertIn("“riders” is put on.", words)
        self.assertIn("From Desk to Shelf, as a lesson.", words)
        self.assertEqual(self.whole(), before)


class KeepingTest(RoutineCase):
    def test_what_is_no_routine_is_refused(self) -> None:
        """With what is wrong, and nothing is kept."""
        wrong = [
            ((), "does nothing yet"),
            ((Action("archive"), Action("trash")), "two places"),
            ((Action("flag"), Action("unflag")), "against each other"),
            ((Action("read"), Action("read")), "same thing twice"),
            ((Action("tag", str(self.tag)), Action("untag", str(self.tag))), "put on and taken off"),
            ((Action("due"),), "needs to know time"),
            ((Action("due", "when pigs fly"),), "time"),
            ((Action("next"), Action("read")), "comes last"),
            ((Action("bucket", "nowhere"),), "not there"),
            ((Action("folder", "shelf"),), "not there"),
            ((Action("tag", "99"),), "not there"),
            ((Action("reply", "99"),), "not there"),
        ]
        for actions, why in wrong:
            with self.assertRaisesRegex(CallerError, why):
                self.routine(*actions)
        with self.assertRaisesRegex(CallerError, "one letter"):
            self.routine(Action("read"), key="ab")
        self.assertEqual(keeping.every(self.room), [])

    def test_names_and_keys_are_one_routines(self) -> None:
        first = self.routine(Action("read"), key="1")
        with self.assertRaises(Conflict):
            self.routine(Action("flag"))
        with self.assertRaisesRegex(Conflict, "key 1"):
            keeping.keep(self.room, Routine(0, "Other", "1", (Action("flag"),)))
        keeping.keep(self.room, Routine(first, "Rider in", "1", (Action("flag"),)))
        self.assertEqual(keeping.every(self.room)[0].routine.actions, (Action("flag"),))

    def test_a_phrase_in_use_stays(self) -> None:
        """And a routine whose tag is gone says that it rests, and is not done."""
        number = self.routine(Action("reply", str(self.phrase)), Action("tag", str(self.tag)))
        with self.assertRaisesRegex(CallerError, "used by the routine “Rider in”"):
            phrasing.remove(self.room, self.phrase)
        shaping_tags.delete(self.room, self.tag, confirmed=True)
        self.assertIn("tag", keeping.every(self.room)[0].broken)
        with self.assertRaises(CallerError):
            running.run(self.room, number, self.numbers)


class RuleTest(RoutineCase):
    """A rule begins a reply with a phrase: a draft, never sent."""

    def rule(self) -> Rule:
        action = RuleAction("draft", str(self.phrase))
        return Rule(0, "Thanks", True, "arrives", 0, "came", False, "subject:rider", "", (action,))

    def test_a_draft_is_begun(self) -> None:
        ruling.put(self.room, self.rule())
        number = receive(self.room, letter("Rider 9", sender="Ilse Varga <ilse@salthall.example>"))
        (draft,) = drafts.unsent(self.room.reader())
        self.assertEqual(
            (draft.answers, draft.state, draft.recipients), (number, "draft", "Ilse Varga <ilse@salthall.example>")
        )
        self.assertTrue(draft.body.startswith("Dear Ilse, thank you."))
        with self.assertRaisesRegex(CallerError, "used by the rule “Thanks”"):
            phrasing.remove(self.room, self.phrase)

    def test_what_cannot_be_begun_leaves_the_message(self) -> None:
        """It arrives, and the rule is told to have come to nothing; no half of a draft is left."""
        kept = ruling.put(self.room, self.rule()).rule.id
        with patch("hieranome.app.rules.forwarding.begin_with", side_effect=ValueError("no header")):
            number = receive(self.room, letter("Rider 9", sender="Ilse Varga <ilse@salthall.example>"))
        self.assertIsNotNone(number)
        self.assertEqual(drafts.unsent(self.room.reader()), [])
        self.assertEqual(rules.lost(self.room.reader(), 0)[0][0], kept)

    def test_there_is_a_bound(self) -> None:
        ruling.put(self.room, self.rule())
        with patch("hieranome.app.rules.forwarding.A_DAY", 2):
            for n in range(4):
                receive(self.room, letter(f"Rider x{n}", sender="Ilse Varga <ilse@salthall.example>", at=NOON + n))
        self.assertEqual(len(drafts.unsent(self.room.reader())), 2)


class FailingTest(FailingCase):
    """Whatever statement fails, memory and store are as they were."""

    def test_routines(self) -> None:
        with_identity(self)
        phrase = phrasing.keep(self.room, "ack", "So.").id
        actions = (Action("reply", str(phrase)), Action("due", "tomorrow"), Action("bucket", "shelf"))
        self.try_every_failure(lambda: keeping.keep(self.room, Routine(0, "One", "", actions)))
        number = keeping.every(self.room)[0].routine.id
        self.try_every_failure(lambda: running.run(self.room, number, self.letters[:2]))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: keeping.remove(self.room, number))
