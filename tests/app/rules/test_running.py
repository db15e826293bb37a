"""Rules run on what is here and on what grows old: undone exactly, never over a verdict."""

from __future__ import annotations

from datetime import date, datetime

from dateutil.tz import tzlocal

from hieranome.app import filing
from hieranome.app.room import marks
from hieranome.app.rules import keeping, previewing, running
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.sure import Reach
from hieranome.store import journal, messages, rules
from tests.app.rules.case import MailCase
from tests.support import NOON, letter

DAY = 86_400


class RunningTest(MailCase):
    """Rules run on what is here, and on what grows old."""

    def test_its_step_counts_all_it_changed(self) -> None:
        """Also where it did one thing to some and another to others: the journal's count is that of its title."""
        moved, read = self.take(letter("Ropes one")), self.take(letter("Ropes two"))
        marks.mark(self.room, [moved], "read")
        filing.file_away(self.room, [read], "archive")
        number = self.keep("subject:ropes", ("archive", ""), ("read", ""), name="Ropes")
        step = journal.get(self.room.reader(), running.run_here(self.room, number))
        self.assertEqual((step.title, step.messages), ("Rule “Ropes”: 2 messages", 2))

    def test_one_step_undone_as_one(self) -> None:
        """Put, tagged, flagged, read and kept out together; undo brings back every row and the ledger."""
        number = self.keep(
            "subject:carnet", ("folder", self.folder_name), ("tag", str(self.tag)), ("flag", ""), ("read", ""),
            ("no-edition", ""),
        )  # fmt: skip
        before = self.all_of_it()
        step = running.run_here(self.room, number)
        self.assertEqual(journal.get(self.room.reader(), step).messages, 6)
        self.assertEqual({self.row(n).place for n in self.numbers[:6]}, {self.folder_name})
        self.assertEqual(keeping.get(self.room, number).tally.hits, 6)
        self.assertEqual(running.run_here(self.room, number), 0)
        undo(self.room, step)
        self.assertEqual(self.all_of_it(), before)
        self.assertEqual(keeping.get(self.room, number).tally.hits, 0)

    def test_no_verdict_and_nothing_filed_is_moved(self) -> None:
        """What the owner put somewhere stays; it is tagged all the same."""
        correct(self.room, self.numbers[:1], "shelf", Reach.MESSAGE)
        correct(self.room, self.numbers[1:2], "shelf", Reach.LEARN)
        filing.file_away(self.room, self.numbers[2:3], "archive")
        filing.file_away(self.room, self.numbers[3:4], "trash")
        running.run_here(self.room, self.keep("subject:carnet", ("bucket", "digest"), ("tag", str(self.tag))))
        self.assertEqual(
            [self.row(n).place for n in self.numbers[:6]], ["shelf", "shelf", "archive", "trash", "digest", "digest"]
        )
        self.assertEqual([bool(self.carried(n)) for n in self.numbers[:6]], [True, True, True, False, True, True])

    def archived(self) -> list[int]:
        """Which of the six are in the Archive, by their place among them."""
        return [at for at, number in enumerate(self.numbers[:6]) if self.row(number).place == "archive"]

    def test_mail_that_grew_old_goes_once(self) -> None:
        """After three weeks, unless flagged, counted from the thread's newest; undone, it stays; what comes next is
        told."""
        marks.mark(self.room, self.numbers[:1], "flagged")
        number = self.keep(
            "subject:carnet", ("archive", ""), when="ages", days=21, counted="thread", excepted="mark:flagged"
        )
        self.take(letter("Re: Carnet 5", at=NOON + 5 * DAY))
        self.clock.now = NOON + 21 * DAY + 200
        self.assertEqual(len(running.run_ageing(self.room)), 1)
        self.assertEqual(self.archived(), [1, 2, 3])
        told = previewing.preview(self.room, rules.get(self.room.reader(), number))
        self.assertEqual([row.id for row, _ in told.following][:1], self.numbers[4:5])
        self.assertEqual(told.following[0][1], NOON + 240 + 21 * DAY)
        undo(self.room, journal.recent(self.room.reader(), 0, 1)[0].id)
        self.assertEqual(running.run_ageing(self.room), [])
        self.clock.now += 30 * DAY
        running.run_ageing(self.room)
        self.assertEqual(self.archived(), [4, 5])

    def test_the_last_of_each_day_stays(self) -> None:
        """Of hourly reports the newest of a day stays, the others go."""
        sender = "Turnstile <reports@turnstile.example>"
        hourly = [self.take(letter(f"Report {h}", sender=sender, at=NOON + h * 3600)) for h in range(-30, 0, 6)]
        self.keep("from:reports@turnstile.example", ("trash", ""), when="ages", days=1, last_of_day=True)
        self.clock.now = NOON + 5 * DAY
        running.run_ageing(self.room)
        days: dict[date, int] = {}
        for number in hourly:
            days[datetime.fromtimestamp(self.row(number).time, tzlocal()).date()] = number
        kept = [number for number in hourly if self.row(number).place != "trash"]
        self.assertEqual(kept, sorted(days.values()))

    def test_a_run_that_fails_leaves_nothing_half_done(self) -> None:
        """An error in the middle: every row is as it was, memory too."""
        number = self.keep("subject:carnet", ("bucket", "digest"), ("tag", str(self.tag)))
        before = self.all_of_it()
        with self.assertRaises(ZeroDivisionError), self.room.change() as db:
            running.run_here(self.room, number)
            self.assertEqual(messages.get(db, self.numbers[0]).place, "digest")
            raise ZeroDivisionError
        self.assertEqual(self.all_of_it(), before)
