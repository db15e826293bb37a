"""The Desk in trays: each message stands in one, none is hidden, and what cannot be is refused."""

from __future__ import annotations

import random
from dataclasses import replace

from hieranome.app import searching, shaping_tags, tagging, trays
from hieranome.app.filing import file_away, put_back
from hieranome.app.following.owing import let_go, owed
from hieranome.app.room.marks import mark_opened
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError
from hieranome.core.trays import MOST, SHIPPED, Standing, Tray, is_dealt_with, parted
from hieranome.store import messages
from tests.support import NOON, RoomCase, letter

DAY = 86_400


class TraysTest(RoomCase):
    """A Desk with mail of some days."""

    def setUp(self) -> None:
        super().setUp()
        people = ("Ilse <ilse@hall.example>", "Ruben <ruben@quillmark.example>", "Turnstile <r@turnstile.example>")
        self.numbers = [
            self.take(
                letter(f"{'Rider' if n % 4 == 0 else 'Hotel'} {n}", sender=people[n % 3], at=NOON - n * DAY // 2,
                       body="Can you confirm it?" if n % 2 and n < 11 else "All is well.")
            )
            for n in range(12)
        ]  # fmt: skip
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")
            db.execute("UPDATE messages SET seen = 1 WHERE id IN (?, ?)", (self.numbers[2], self.numbers[11]))
            db.execute("UPDATE messages SET answered = 1 WHERE id = ?", (self.numbers[1],))
            db.execute("UPDATE messages SET seen = 1, flagged = 1 WHERE id = ?", (self.numbers[10],))
        self.clock.now = NOON + 60

    def shown(self, since: int = 0) -> dict[str, list[int]]:
        """Which of the messages stand in each tray, by where they stand among the twelve."""
        return {
            one.tray.name: [self.numbers.index(number) for number in one.numbers]
            for one in trays.show(self.room, since)[0]
        }

    def test_what_ships(self) -> None:
        """What came since, the rest by importance, what is dealt with last: answered, or read three days ago, but not
        what is flagged."""
        found = self.shown(NOON - DAY - 1)
        self.assertEqual(list(found), [one.name for one in SHIPPED])
        self.assertEqual(found["Came since you were last here"], [0, 2])
        self.assertEqual(found["Dealt with"], [1, 11])
        self.assertEqual(sorted(found["The rest"]), [3, 4, 5, 6, 7, 8, 9, 10])
        scores = [self.row(self.numbers[n]).score for n in found["The rest"]]
        self.assertEqual(scores, sorted(scores, reverse=True))
        self.assertEqual(self.shown()["Came since you were last here"], [])

    def test_what_was_put_there_by_hand_stays_in_sight(self) -> None:
        """Read and old, or answered, it stands above what is dealt with until it is read after that, or leaves."""
        shelved = [self.numbers[11], self.numbers[1]]
        with self.room.change() as db:
            messages.move_all(db, shelved, "shelf", Decider.MODEL)
        self.assertNotIn(11, self.shown()["Dealt with"])
        for number in shelved:
            correct(self.room, [number], "desk")
        self.assertEqual(self.shown()["Dealt with"], [])
        self.assertLessEqual({1, 11}, set(self.shown()["The rest"]))
        mark_opened(self.room, self.numbers[11])
        self.assertEqual(self.shown()["Dealt with"], [11])
        undo(self.room)
        correct(self.room, [self.numbers[1]], "desk")
        self.assertNotIn(1, self.shown()["Dealt with"])
        file_away(self.room, [self.numbers[1]], "archive")
        put_back(self.room, [self.numbers[1]])
        self.assertEqual(self.row(self.numbers[1]).place, "desk")

    def test_what_is_owed_is_not_dealt_with(self) -> None:
        """A question to the owner that was read and left stands above, for as long as it is owed."""
        asks = self.take(letter("Visa for Kim", body="Could you send me the form by Friday?", at=NOON - 5 * DAY))
        with self.room.change() as db:
            messages.move_all(db, [asks], "desk", Decider.MODEL)
            db.execute("UPDATE messages SET seen = 1, score = 0.6 WHERE id = ?", (asks,))
        self.numbers.append(asks)
        _, you = owed(self.room)
        self.assertIn(asks, [one.message.id for one in you])
        self.assertNotIn(12, self.shown()["Dealt with"])
        let_go(self.room, [asks])
        self.assertIn(12, self.shown()["Dealt with"])

    def test_each_kind_takes_its_mail_and_the_first_has_it(self) -> None:
        """A question that waits, colleagues, a line, a tag; the first tray that takes a message keeps it."""
        tag = shaping_tags.make(self.room, "Urgent").id
        tagging.put_on(self.room, [self.numbers[0], self.numbers[8]], tag)
        trays.put(
            self.room,
            [
                Tray("dealt", "Done"), Tray("line", "Urgent", line="tag:urgent"), Tray("waits", "Asked", order="time"),
                Tray("colleagues", "Ours", order="time"), Tray("line", "Riders", line="subject:rider", order="time"),
                Tray("rest", "Else", order="time"),
            ],
        )  # fmt: skip
        self.assertEqual(
            {name: sorted(those) for name, those in self.shown().items()},
            {"Urgent": [0, 8], "Asked": [3, 5, 7, 9], "Ours": [4, 10], "Riders": [], "Else": [2, 6], "Done": [1, 11]},
        )
        self.assertEqual(list(self.shown())[-1], "Done")

    def test_rows_are_as_many_as_said_and_whole_where_opened(self) -> None:
        """A tray shows its rows, none where it is folded, all where it is opened; its ids are all there."""
        trays.put(self.room, [replace(SHIPPED[2], rows=3), replace(SHIPPED[3], folded=True)])
        rest, dealt = trays.show(self.room, 0)[0]
        self.assertEqual((len(rest.messages), rest.total, len(rest.numbers)), (3, 10, 10))
        self.assertEqual((len(dealt.messages), dealt.total, dealt.unread), (0, 2, 1))
        rest, dealt = trays.show(self.room, 0, [0, 1])[0]
        self.assertEqual((len(rest.messages), len(dealt.messages)), (10, 2))

    def test_what_would_hide_mail_is_refused(self) -> None:
        """No rest, two of a kind, too many, no name, a line that says nothing or cannot be understood."""
        rest = SHIPPED[2]
        for wanted, why in (
            ([SHIPPED[1]], "rest"),
            ([rest, rest], "rest"),
            ([rest, SHIPPED[3], SHIPPED[3]], "twice"),
            ([rest] + [Tray("line", f"T{n}", line="a") for n in range(MOST)], "up to"),
            ([replace(rest, name=" ")], "name"),
            ([rest, Tray("line", "Empty")], "no search line"),
            ([rest, Tray("line", "Odd", line="subject:(")], "Odd"),
            ([replace(rest, rows=0)], "rows"),
            ([replace(rest, beside=True)], "beside"),
        ):
            with self.subTest(why), self.assertRaisesRegex(CallerError, why):
                trays.put(self.room, wanted)
        self.assertEqual(trays.every(self.room.reader()), list(SHIPPED))
        self.assertEqual(trays.put(self.room, []), [])
        self.assertEqual(trays.show(self.room, 0), ([], 0))

    def test_a_line_that_breaks_later_takes_nothing_and_says_so(self) -> None:
        """A tag that is deleted: its tray tells why, and its mail stands in the rest."""
        tag = shaping_tags.make(self.room, "Urgent").id
        tagging.put_on(self.room, self.numbers[:1], tag)
        trays.put(self.room, [Tray("line", "Urgent", line="tag:urgent"), SHIPPED[2]])
        shaping_tags.delete(self.room, tag, confirmed=True)
        urgent, rest = trays.show(self.room, 0)[0]
        self.assertRegex(urgent.problem, "no tag")
        self.assertEqual((urgent.total, rest.total), (0, 12))

    def test_what_is_older_than_trays_look_at_is_told(self) -> None:
        """Of a Desk with more than trays look at, the older are counted."""
        from unittest import mock

        with mock.patch.object(trays, "SCOPE", 5):
            shown, older = trays.show(self.room, 0)
        self.assertEqual((sum(one.total for one in shown), older), (5, 7))

    def test_random_trays_put_each_message_in_exactly_one(self) -> None:
        """Whatever trays there are: all mail stands in one, the dealt-with last, and lines find what a search does."""
        rng = random.Random(2)
        for _ in range(60):
            lines = rng.sample(["subject:rider", "from:ilse", "mark:unread hotel", "score:>30"], rng.randint(0, 3))
            made = [Tray("line", line, line=line) for line in lines] + [Tray("rest", "Rest")]
            made += [Tray(kind, kind) for kind in ("came", "waits", "colleagues", "dealt") if rng.random() < 0.5]
            rng.shuffle(made)
            kept = trays.put(self.room, made)
            shown, _ = trays.show(self.room, rng.choice([0, NOON - 2 * DAY]))
            self.assertEqual(sorted(n for one in shown for n in one.numbers), sorted(self.numbers))
            taken: set[int] = set(shown[-1].numbers) if kept[-1].kind == "dealt" else set()
            for one in shown:
                if one.tray.kind == "line":
                    found = set(searching.matching(self.room, one.tray.line, 99))
                    self.assertLessEqual(set(one.numbers), found)
                    earlier = {n for other in shown[: shown.index(one)] for n in other.numbers}
                    self.assertEqual(set(one.numbers), found - taken - earlier)

    def test_flagged_and_fresh_mail_is_not_dealt_with(self) -> None:
        """Read today waits; read long ago is dealt with; flagged never is."""
        mail = Standing(1, NOON, 0.5, True, False, False, "hall.example", False)
        self.assertFalse(is_dealt_with(mail, NOON + 3 * DAY - 1, 3))
        self.assertTrue(is_dealt_with(mail, NOON + 3 * DAY + 1, 3))
        self.assertFalse(is_dealt_with(mail._replace(flagged=True, answered=True), NOON + 9 * DAY, 3))
        parts = parted([SHIPPED[2]], [mail], {}, now=NOON + 9 * DAY, since=0, domains=frozenset())
        self.assertEqual(parts, [[mail]])
