"""The Trash emptied: what goes is gone, what it taught is not; nothing else goes, and what comes again is new."""

from __future__ import annotations

import zipfile

import numpy as np

from hieranome.app import emptying
from hieranome.app.arrival import importing
from hieranome.app.bulk import addresses, old_mail, subscriptions
from hieranome.app.exporting import export, restore
from hieranome.app.filing import file_away, put_back
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.rebuilding import Rebuilder
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.searching import find
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import look_past
from hieranome.app.teaching.undoing import undo
from hieranome.app.viewing import open_message, thread_of
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.core.steps import StepKind
from hieranome.store import drafts, editions, foreign, journal, lately, lessons, messages, places, plans
from tests.patience import await_
from tests.support import MARK, NOON, ApiCase, RoomCase, letter, offer

WEEK = 604_800


class EmptyingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.room.set_owner(["maren@quillmark.example", "m.aldous@oldharbour.example"])
        self.raws = [offer(number) for number in range(6)]
        self.offers = [self.take(raw) for raw in self.raws]
        self.letters = [self.take(letter(f"Letter {number}", at=NOON + number)) for number in range(3)]
        self.emptier = emptying.Emptier(self.room)
        self.addCleanup(self.emptier.close)

    def empty(self) -> journal.Step:
        """Empty it of all it holds, and see that done."""
        step = emptying.empty(self.room, emptying.look(self.room).messages)
        self.emptier.work()
        return step

    def found(self, line: str) -> list[messages.Message]:
        """What a search finds, newest first."""
        return find(self.room, line, "time", "", 50).page.messages

    def probe(self) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
        """What the model says of all letters."""
        return np.array(
            [self.room.engine.judge(messages.vectors(self.room.reader(), [n])[n]).log_odds for n in self.letters]
        )

    def test_what_goes_is_gone(self) -> None:
        """Here its bytes, its words and its row in every list; the journal keeps a line, which cannot be undone."""
        file_away(self.room, self.offers[:4], "trash")
        told = emptying.look(self.room)
        self.assertEqual((told.messages, told.staying, told.going), (4, 0, 0))
        self.assertEqual(told.size, sum(self.row(number).size for number in self.offers[:4]))
        step = self.empty()
        self.assertIn("4 messages", step.title)
        self.assertFalse(step.undoable)
        self.assertEqual(emptying.look(self.room), emptying.Trash(0, 0, 0, 0))
        db = self.room.reader()
        for table in ("raw", "words", "vectors", "leaving"):
            among = f"SELECT count(*) FROM {table} WHERE message IN ({', '.join(map(str, self.offers[:4]))})"
            self.assertEqual(db.execute(among).fetchone()[0], 0, table)
        for number in self.offers[:4]:
            with self.assertRaises(NotFound):
                open_message(self.room, number)
        self.assertEqual([one.name for one in places.every(db) if one.name == "gone"], [])
        self.assertEqual(messages.how_many(db), 5)
        self.assertEqual({one.id for one in self.found("")}, {*self.offers[4:], *self.letters})
        self.assertEqual([one.id for one in self.found("stands")], self.offers[:3:-1])
        self.assertNotIn("gone", dict(lately.came_between(db, 0, NOON + 99)))
        self.assertEqual([one.total for one in subscriptions.find(self.room)], [2])
        self.assertEqual(sum(row.free for row in old_mail.weigh(self.room, 0, "source").rows), 5)
        self.assertLessEqual({one.id for one in thread_of(self.room, self.offers[5])}, {*self.offers[4:]})
        old = next(one for one in addresses.find(self.room) if one.address == "m.aldous@oldharbour.example")
        self.assertEqual(old.total, 6, "what an address brought it brought")
        found = db.execute("PRAGMA integrity_check").fetchone()[0]
        self.assertEqual((found, db.execute("PRAGMA foreign_key_check").fetchall()), ("ok", []))

    def test_what_it_taught_stays(self) -> None:
        """Lessons and what was looked past: the model is the very same, also after a restart and built anew; a lesson
        about what is gone can still be undone."""
        look_past(self.room, [(self.offers[5], self.row(self.offers[5]).place)])
        taught = correct(self.room, [self.offers[0]], "drain", follow=False)
        correct(self.room, [self.letters[0]], "desk", follow=False)
        file_away(self.room, [self.offers[0], self.offers[5]], "trash")
        before = self.probe()
        self.empty()
        np.testing.assert_array_equal(self.probe(), before)
        self.reopen()
        np.testing.assert_allclose(self.probe(), before, atol=1e-9)
        self.assertTrue(Rebuilder(self.room).rebuild())
        np.testing.assert_allclose(self.probe(), before, atol=1e-9)
        self.assertTrue(Rescorer(self.room).pass_over())
        record = next(one for one in lessons.ledger(self.room.reader(), 0, 9) if one.message == self.offers[0])
        self.assertIn("Offer 0", record.subject)
        undo(self.room, taught.step)
        self.assertTrue(np.abs(self.probe() - before).max() > 1e-6)
        self.assertEqual(self.place_of(self.offers[0]), "gone")

    def place_of(self, number: int) -> str:
        """Where the row of a message stands."""
        return str(self.room.reader().execute("SELECT place FROM messages WHERE id = ?", (number,)).fetchone()[0])

    def test_earlier_steps(self) -> None:
        """One whose mail is all gone cannot be undone, says why, and is passed over; of one whose mail is partly gone
        the rest goes back."""
        first = file_away(self.room, self.letters[:1], "archive").step
        some = file_away(self.room, self.offers[:2], "trash").step
        put_back(self.room, self.offers[:1])
        whole = file_away(self.room, self.offers[2:4], "trash").step
        self.empty()
        self.assertFalse(journal.get(self.room.reader(), whole).undoable)
        with self.assertRaises(CallerError) as refused:
            undo(self.room, whole)
        self.assertIn("for good", str(refused.exception))
        self.assertTrue(journal.get(self.room.reader(), some).undoable)
        undone = [undo(self.room).id for _ in range(2)]
        self.assertNotIn(whole, undone)
        self.assertEqual(undone[-1], some)
        self.assertEqual(undo(self.room).id, first)
        self.assertEqual(self.place_of(self.offers[2]), "gone")

    def test_what_is_put_elsewhere_meanwhile_stays(self) -> None:
        """Until it is gone it can be rescued; what comes into the Trash later is no part of the step."""
        file_away(self.room, self.offers[:3], "trash")
        emptying.empty(self.room, 3)
        put_back(self.room, self.offers[:1])
        file_away(self.room, self.offers[4:5], "trash")
        self.emptier.work()
        self.assertEqual([self.place_of(n) == "gone" for n in self.offers], [False, True, True, False, False, False])
        self.assertEqual(emptying.look(self.room).messages, 1)
        self.assertTrue(messages.raw(self.room.reader(), self.offers[0]))

    def test_what_comes_again_is_new(self) -> None:
        """The same bytes, imported once more, are a message like any other."""
        file_away(self.room, self.offers[:2], "trash")
        self.empty()
        path = self.folder / "again.eml"
        path.write_bytes(self.raws[0])
        done = importing.run(self.room, importing.begin(self.room, path))
        self.assertEqual((done.added, done.known), (1, 0))
        again = self.found("subject:Offer")[-1]
        self.assertTrue(again.subject.startswith("Offer 0"))
        self.assertNotIn(again.id, self.offers)
        self.assertEqual(messages.raw(self.room.reader(), again.id), self.raws[0])
        self.assertEqual(messages.how_many(self.room.reader()), 8)

    def test_refused(self) -> None:
        """Where there is nothing, or not what was told: nothing is changed."""
        with self.assertRaises(Conflict):
            emptying.empty(self.room, 1)
        file_away(self.room, self.offers[:2], "trash")
        with self.assertRaises(Conflict):
            emptying.empty(self.room, 1)
        self.emptier.work()
        self.assertEqual(emptying.look(self.room).messages, 2)

    def test_cut_off_anywhere(self) -> None:
        """What the end cut off is gone on with."""
        many = [self.take(letter(f"Old {number}", at=NOON - number * WEEK)) for number in range(emptying.CHUNK + 30)]
        file_away(self.room, many, "trash")
        emptying.empty(self.room, len(many))
        self.assertTrue(self.emptier._chunk())
        self.assertEqual(emptying.look(self.room).going, 30)
        self.reopen()
        self.assertEqual(emptying.look(self.room).going, 30)
        emptying.Emptier(self.room).work()
        self.assertEqual(emptying.look(self.room), emptying.Trash(0, 0, 0, 0))

    def test_in_an_export(self) -> None:
        """What is gone is in none; the lessons about it are."""
        correct(self.room, [self.offers[0]], "drain", follow=False)
        file_away(self.room, [self.offers[0]], "trash")
        self.empty()
        self.assertEqual(export(self.room, self.folder / "out.zip"), 8)
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        self.assertEqual(restore(other, self.folder / "out.zip"), 8)
        self.assertEqual(len(other.engine), 1)
        self.assertEqual(places.every(other.reader()), places.every(self.room.reader()))
        again = [one for one in journal.recent(other.reader(), 0, 9) if one.kind == StepKind.REMOVED]
        self.assertEqual(len(again), 1)

    def test_what_else_named_it(self) -> None:
        """A draft that went on from it can be sent, an edition it stood for waits for no server, moves in another
        program that are asked about go without it, and a row in sight that is gone says nothing."""
        with self.room.change() as db:
            draft = drafts.add(
                db, sender="", recipients="", cc="", bcc="", subject="", body="", kind="new", in_reply_to="",
                mentions="", calendar="", changed_at=NOON, answers=self.offers[0], continues=self.offers[1],
            )  # fmt: skip
            foreign.ask(db, NOON, "drain", [(self.offers[0], "desk"), (self.offers[5], "desk")])
            plan = plans.add(db, Plan("Daily", buckets=("digest",), days=EVERY_DAY), NOON, NOON)
            db.execute(
                "INSERT INTO editions (plan, due, made_at, name, content, messages, message, put)"
                " VALUES (?, ?, ?, 'Daily', '', 0, ?, 'wanted')",
                (plan, NOON, NOON, self.offers[2]),
            )
        file_away(self.room, self.offers[:3], "trash")
        self.empty()
        db = self.room.reader()
        left = drafts.get(db, draft)
        self.assertEqual((left.answers, left.continues), (None, None))
        self.assertEqual(editions.to_put(db), [])
        self.assertEqual(foreign.waiting(db)[0].messages, [self.offers[5]])
        seen = [(number, self.row(self.offers[4]).place) for number in (self.offers[0], self.offers[4])]
        self.assertEqual(look_past(self.room, seen), 1)

    def test_after_an_older_export_came_in(self) -> None:
        """What was written before there was such a place, and with a column that is there no more, can be emptied as
        well."""
        file_away(self.room, self.offers[:2], "trash")
        whole, older = self.folder / "whole.zip", self.folder / "older.zip"
        export(self.room, whole)
        with zipfile.ZipFile(whole) as source, zipfile.ZipFile(older, "w") as target:
            for name in source.namelist():
                lines = source.read(name).splitlines(keepends=True)
                kept = [line for line in lines if name != "places.jsonl" or b'"name":"gone"' not in line]
                if name == "messages.jsonl":
                    kept = [line.replace(b"{", b'{"ask_value":0.5,', 1) for line in kept]
                target.writestr(name, b"".join(kept))
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        restore(other, older)
        emptying.empty(other, 2)
        emptier = emptying.Emptier(other)
        self.addCleanup(emptier.close)
        emptier.work()
        self.assertEqual(emptying.look(other), emptying.Trash(0, 0, 0, 0))


class EmptyingApiTest(ApiCase):
    def test_told_and_gone(self) -> None:
        """Told, emptied of exactly that, from behind, in the journal; what is gone is answered as such."""
        offers = [self.take(offer(number)) for number in range(3)]
        file_away(self.room, offers[:2], "trash")
        told = self.client.get("/api/trash").json()
        self.assertEqual((told["messages"], told["going"]), (2, 0))
        odd = self.client.post("/api/trash/empty", json={"messages": 7}, headers=MARK)
        self.assertEqual(odd.status_code, 409)
        done = self.client.post("/api/trash/empty", json={"messages": 2}, headers=MARK).json()
        self.assertEqual((done["kind"], done["undoable"]), ("removed", False))
        nothing = {"messages": 0, "size": 0, "staying": 0, "going": 0}
        await_("it to be emptied", lambda: self.client.get("/api/trash").json() == nothing)
        gone = self.client.get(f"/api/messages/{offers[0]}")
        self.assertEqual(gone.status_code, 404)
        self.assertIn("for good", gone.json()["detail"])
        listed = self.client.get("/api/messages", params={"place": "gone"})
        self.assertEqual(listed.status_code, 404)
