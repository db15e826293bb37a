"""Old mail: sums as plain SQL has them, what is kept apart stays, and putting away is one step with a way back."""

from __future__ import annotations

import random
import sqlite3
from pathlib import Path

from hieranome.app.arranging import add_folder
from hieranome.app.bulk import old_mail
from hieranome.app.filing import file_away
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import mark
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.app.teaching.vouching import vouch
from hieranome.core.errors import CallerError, Conflict
from hieranome.demo import mailgen
from hieranome.demo.world import OWNER_ADDRESSES
from hieranome.store import journal, marked, messages, subscriptions
from tests.killing import kept_apart, run_and_kill
from tests.support import NOON, ApiCase, RoomCase, letter, offer

WEEK = 604_800
LIST = "list:news.birchbow.example"


def old(number: int, weeks: int, name: str = "meter", **headers: str) -> bytes:
    """A message of so many weeks ago."""
    at = NOON - weeks * WEEK
    return letter(f"{name} {number}", sender=f"{name} <{name}@x{name}.example>", body="y" * 500, at=at, **headers)


class OldMailTest(ApiCase):
    def rows(self, weeks: int = 52, by: old_mail.By = "source") -> dict[str, old_mail.Row]:
        """The rows by their keys."""
        return {one.key: one for one in old_mail.weigh(self.room, weeks, by).rows}

    def test_figures_are_those_of_plain_sql(self) -> None:
        """On made-up mail with verdicts, marks and filing at random, at every age."""
        self.room.set_owner(OWNER_ADDRESSES)
        rng = random.Random(5)
        made = [one for one in mailgen.generate(250, 9) if one.source]
        self.clock.now = int(made[-1].at.timestamp())
        numbers = [self.take(one.raw) for one in made]
        folder = add_folder(self.room, "Spring").name
        for number in numbers:
            kind = rng.randrange(9)
            if kind == 0:
                correct(self.room, [number], rng.choice(["desk", "drain"]), follow=False)
            elif kind == 1:
                mark(self.room, [number], rng.choice(["read", "flagged"]))
            elif kind == 2:
                file_away(self.room, [number], rng.choice(["archive", "trash", folder]))
        now = subscriptions.week_of(self.room.clock())
        for weeks in (0, 1, 2, 4):
            found = self.rows(weeks)
            plain = self.room.reader().execute(
                """ SELECT source, count(*), sum(size) FROM messages WHERE place NOT IN ('sent', 'drafts', 'junk',
                'trash', ?) AND flagged = 0 AND answered = 0 AND decided_by NOT IN ('verdict', 'own', 'edition') AND
                (time + 259200) / 604800 <= ? GROUP BY source """,
                (folder, now - weeks),
            )
            self.assertEqual(
                {key: (one.free, one.free_size) for key, one in found.items()}, {r[0]: (r[1], r[2]) for r in plain}
            )
            told = next((one for one in old_mail.weigh(self.room, 0, "source").ages if one.weeks == weeks), None)
            if told is not None:
                self.assertEqual(told.size, sum(one.free_size for one in found.values()))
        self.assertEqual(
            sum(one.free for one in self.rows(0, "domain").values()), sum(one.free for one in self.rows(0).values())
        )

    def test_what_was_never_opened_comes_first(self) -> None:
        """Then the heaviest; names, shares and how much a year."""
        heavy = [self.take(old(n, 60 + n, "heavy")) for n in range(5)]
        self.take(old(1, 70, "light"))
        mark(self.room, heavy[:1], "read")
        rows = old_mail.weigh(self.room, 52, "source").rows
        self.assertEqual([one.name for one in rows], ["light", "heavy"])
        self.assertEqual((rows[1].free, round(rows[1].read, 2), rows[1].yearly), (5, 0.2, 5.0))
        self.assertLess(rows[1].oldest, rows[1].newest)

    def test_what_is_kept_apart_stays(self) -> None:
        """Vouched for, flagged, answered, with a verdict, in an own folder: counted apart, and only asked for it
        goes."""
        numbers = [self.take(old(n, 60)) for n in range(6)]
        vouched = [self.take(old(1, 60, "ilse")), self.take(old(2, 60, "kim", List_Id="<news.birchbow.example>"))]
        self.take(old(3, 60, "else", List_Id="<news.birchbow.example>"))
        vouch(self.room, "address", "ilse@xilse.example")
        vouch(self.room, "domain", "xkim.example")
        mark(self.room, [numbers[0]], "flagged")
        correct(self.room, [numbers[1]], "shelf", follow=False)
        file_away(self.room, [numbers[2]], add_folder(self.room, "Spring").name)
        with self.room.change() as db:
            marked.mark(db, [numbers[3]], "answered", True)
        found = self.rows()
        self.assertEqual(set(found), {"address:meter@xmeter.example", LIST})
        self.assertEqual(
            (found["address:meter@xmeter.example"].free, found["address:meter@xmeter.example"].kept), (2, 4)
        )
        self.assertEqual((found[LIST].free, found[LIST].kept), (1, 1))
        step, _ = old_mail.put_away(self.room, list(found), 52, "source")
        self.assertEqual(step.messages, 3)
        places = [self.row(number).place for number in numbers]
        self.assertEqual(places[4:], ["trash", "trash"])
        self.assertNotIn("trash", places[:4] + [self.row(number).place for number in vouched])
        with self.assertRaises(Conflict):
            old_mail.put_away(self.room, list(found), 52, "source")
        self.assertEqual(old_mail.put_away(self.room, list(found), 52, "source", kept=True)[0].messages, 5)

    def test_one_step_and_back(self) -> None:
        """Everything stands again where it stood; younger mail was never touched."""
        numbers = [self.take(old(n, 60)) for n in range(3)]
        young = self.take(old(9, 51))
        with self.room.change() as db:
            messages.move_all(db, numbers[:1], "archive", "history")
        before = self.state()
        step, size = old_mail.put_away(self.room, ["xmeter.example"], 52, "domain")
        self.assertEqual(step.title.partition(",")[0], "3 messages to Trash")
        self.assertEqual(size, sum(self.row(number).size for number in numbers))
        self.assertEqual({self.row(number).place for number in numbers}, {"trash"})
        self.assertNotEqual(self.row(young).place, "trash")
        undo(self.room, step.id)
        self.assertEqual({n: one[:2] for n, one in self.state().items()}, {n: one[:2] for n, one in before.items()})

    def test_it_ends_whole_or_not_at_all(self) -> None:
        """A store that fails in the middle leaves everything where it was; too much for a step is told."""
        numbers = [self.take(old(n, 60)) for n in range(5)]
        before = self.state()
        with self.room.change() as db:
            db.execute(
                f"CREATE TRIGGER broken BEFORE UPDATE OF place ON messages WHEN NEW.id = {numbers[3]}"
                " BEGIN SELECT RAISE(ABORT, 'disk I/O error'); END"
            )
        with self.assertRaises(sqlite3.Error):
            old_mail.put_away(self.room, ["address:meter@xmeter.example"], 52, "source")
        self.assertEqual(self.state(), before)
        with self.room.change() as db:
            db.execute("DROP TRIGGER broken")
        most = old_mail.MOST_AT_ONCE
        self.addCleanup(setattr, old_mail, "MOST_AT_ONCE", most)
        old_mail.MOST_AT_ONCE = 4
        with self.assertRaises(CallerError):
            old_mail.put_away(self.room, ["address:meter@xmeter.example"], 52, "source")
        self.assertEqual(self.state(), before)

    def test_at_the_api(self) -> None:
        """The table, the ages, putting away with the total freed."""
        for number in range(3):
            self.take(old(number, 60 + number))
        self.take(offer(1))
        told = self.client.get("/api/old-mail", params={"weeks": 52}).json()
        self.assertEqual([(one["name"], one["free"]) for one in told["rows"]], [("meter", 3)])
        self.assertEqual([one["messages"] for one in told["ages"]], [4, 3, 3, 3, 3, 0, 0, 0, 0])
        body = {"keys": ["address:meter@xmeter.example"], "weeks": 52}
        gone = self.client.post("/api/old-mail/trash", json=body).json()
        self.assertEqual((gone["step"]["messages"], gone["step"]["undoable"], gone["size"] > 1500), (3, True, True))
        self.assertEqual(self.client.post("/api/old-mail/trash", json=body).status_code, 409)
        self.assertEqual(self.client.get("/api/old-mail", params={"by": "weight"}).status_code, 422)


PUT_AWAY = """
import sys
from pathlib import Path
from hieranome.app.bulk import old_mail
from hieranome.app.room.mailroom import Mailroom

room = Mailroom(Path(sys.argv[1]), lambda: int(sys.argv[2]))
print("begun", flush=True)
old_mail.put_away(room, sys.argv[3:], 52, "source")
print("done", flush=True)
room.close()
"""


class KillTest(RoomCase):
    """A step over many messages, in a process of its own that is killed."""

    MANY = 600
    KILLS = 7

    def test_killed_in_the_middle_it_is_whole_or_not_there(self) -> None:
        """At whatever moment: either all of it is in the Trash and in the journal, or none of either; then it can be
        made, and undone."""
        with self.room.change():
            for number in range(self.MANY):
                self.take(old(number, 60 + number % 40))
        kept = kept_apart(self.room, self.folder)
        whole = self.put_away(self.folder / "0", kept, 60.0)
        self.assertEqual(self.state(self.folder / "0"), (self.MANY, 1))
        ended = []
        for kill in range(1, self.KILLS + 1):
            folder = self.folder / str(kill)
            self.put_away(folder, kept, whole * (kill / self.KILLS) ** 2)  # early too, on a machine that got quicker
            state = self.state(folder)
            self.assertIn(state, [(0, 0), (self.MANY, 1)])
            ended.append(state[0])
        self.assertIn(0, ended, "none was killed before its end")
        room = Mailroom(self.folder / "1", self.clock)
        self.addCleanup(room.close)
        self.assertEqual(room.reader().execute("PRAGMA integrity_check").fetchone()[0], "ok")
        if not self.state_of(room)[0]:
            old_mail.put_away(room, ["address:meter@xmeter.example"], 52, "source")
        undo(room)
        self.assertEqual(self.state_of(room)[0], 0)

    def put_away(self, folder: Path, kept: Path, seconds: float) -> float:
        """Let a process put all of it away in a copy of the data, and kill it after so many seconds; how long it
        took."""
        words = (str(self.clock.now), "address:meter@xmeter.example")
        return run_and_kill(PUT_AWAY, kept, folder, *words, seconds=seconds)

    def state(self, folder: Path) -> tuple[int, int]:
        """How much is in the Trash of a data folder, and how many steps its journal has."""
        room = Mailroom(folder, self.clock)
        try:
            return self.state_of(room)
        finally:
            room.close()

    @staticmethod
    def state_of(room: Mailroom) -> tuple[int, int]:
        rows = room.reader().execute("SELECT count(*) FROM messages WHERE place = 'trash'").fetchone()[0]
        return rows, len(journal.recent(room.reader(), 0, 9))
