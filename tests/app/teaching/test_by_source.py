"""The mail of a bucket by source, and a verdict on all of one."""

from __future__ import annotations

import base64
import json
import random
from collections import Counter

from hieranome.app.filing import file_away
from hieranome.app.room.marks import mark
from hieranome.app.teaching.by_source import put_source
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, NotFound, StaleCursor
from hieranome.core.sure import Reach
from hieranome.store import lessons, sources
from tests.support import NOON, ApiCase, letter, offer

LIST = "list:news.birchbow.example"


class BySourceTest(ApiCase):
    """A bucket full of offers, with a few letters in it."""

    def setUp(self) -> None:
        super().setUp()
        self.offers = [self.take(offer(number)) for number in range(12)]
        self.letters = [self.take(letter(f"Letter {number}", at=NOON + 100 + number)) for number in range(3)]
        self.place = self.row(self.offers[0]).place
        self.assertEqual({self.row(number).place for number in self.offers}, {self.place})

    def recount(self) -> Counter[tuple[object, ...]]:
        """What the triggers should have kept, counted anew."""
        rows = self.room.reader().execute(
            "SELECT place, source, count(*), count(*) - sum(seen), max(time) FROM messages GROUP BY place, source"
        )
        return Counter(tuple(row) for row in rows)

    def kept(self) -> Counter[tuple[object, ...]]:
        """What they kept."""
        rows = self.room.reader().execute("SELECT place, source, total, unread, newest FROM sources")
        return Counter(tuple(row) for row in rows)

    def test_sums_hold_through_whatever_happens(self) -> None:
        """Verdicts, filing, marks, arrivals and undo at random."""
        rng = random.Random(3)
        every = self.offers + self.letters
        for step in range(60):
            some = rng.sample(every, rng.randrange(1, 4))
            kind = rng.randrange(5)
            if kind == 0:
                correct(self.room, some, rng.choice(["desk", "shelf", "digest", "drain"]))
            elif kind == 1:
                file_away(self.room, some, rng.choice(["archive", "trash"]))
            elif kind == 2:
                mark(self.room, some, rng.choice(["read", "unread"]))
            elif kind == 3 and step > 10:
                undo(self.room)
            else:
                every.append(self.take(offer(1_000 + step)))
            self.assertEqual(self.kept(), self.recount(), step)

    def test_a_verdict_on_a_source_is_one_lesson(self) -> None:
        """All its mail goes with it in one step, which is undone as one; what was decided on singly stays."""
        correct(self.room, [self.offers[2]], self.place, Reach.MESSAGE)
        before = [one.id for one in lessons.teaching(self.room.reader())]
        outcome = put_source(self.room, self.place, LIST, "drain", always=False)
        moved = [number for number in self.offers if number != self.offers[2]]
        self.assertEqual({self.row(number).place for number in moved}, {"drain"})
        self.assertEqual((self.row(self.offers[2]).place, outcome.moved), (self.place, len(moved)))
        self.assertEqual(len(lessons.teaching(self.room.reader())) - len(before), 1)
        self.assertEqual(self.row(self.offers[11]).decided_by, "verdict")
        undo(self.room, outcome.step)
        self.assertEqual({self.row(number).place for number in self.offers}, {self.place})
        self.assertEqual([one.id for one in lessons.teaching(self.room.reader())], before)

    def test_always_holds_for_what_comes(self) -> None:
        """Refused: the next of the list stands in the Drain, whatever the model thinks."""
        put_source(self.room, self.place, LIST, "drain", always=True)
        self.assertEqual(self.row(self.take(offer(99))).place, "drain")

    def test_of_a_source_that_is_not_there(self) -> None:
        """It is told, and nothing is changed."""
        with self.assertRaises(NotFound):
            put_source(self.room, self.place, "list:nothing.example", "drain", always=False)
        with self.assertRaises(CallerError):
            put_source(self.room, self.place, LIST, "archive", always=False)
        self.assertEqual(lessons.teaching(self.room.reader()), [])

    def test_at_the_api(self) -> None:
        """Sources page by page, their mail, the ids, a verdict; odd cursors are refused."""
        told = self.client.get(f"/api/places/{self.place}/sources").json()
        first = told["sources"][0]
        self.assertEqual((first["key"], first["listed"], first["total"], first["unread"]), (LIST, True, 12, 12))
        self.assertEqual((first["newest"]["id"], first["weekly"], first["read"]), (self.offers[11], 3.0, 0.0))
        path = f"/api/places/{self.place}/sources/mail"
        mail = self.client.get(path, params={"source": LIST, "limit": 5}).json()
        more = self.client.get(path, params={"source": LIST, "limit": 7, "cursor": mail["next"]}).json()
        self.assertEqual([one["id"] for one in mail["messages"] + more["messages"]], self.offers[::-1])
        self.assertEqual(more["next"], "")
        ids = self.client.get(f"/api/places/{self.place}/messages", params={"source": LIST}).json()
        self.assertEqual((ids["messages"], ids["total"]), (self.offers[::-1], 12))
        for cursor in ("total", "newest 5 x", "total x y", "\0", "total 99999999999999999999 x"):
            answer = self.client.get(f"/api/places/{self.place}/sources", params={"cursor": cursor})
            self.assertEqual(answer.status_code, 422, cursor)
        for key in ([0, 1e999, 1], [0, 1, 1e999], [0, 1, 10**30], [0, 10**30, 1], [0, None, 1], [0, "x", 1]):
            for kind, where in (("source", path), ("importance", "/api/messages"), ("time", "/api/messages")):
                odd = base64.urlsafe_b64encode(json.dumps([kind, *key]).encode()).decode()
                cursor = odd if where == path else f"1~{odd}"
                params = {"source": LIST} if where == path else {"place": self.place, "order": kind}
                answer = self.client.get(where, params=params | {"cursor": cursor})
                self.assertIn(answer.status_code, (200, 422), (kind, key, answer.text[:200]))
        body = {"source": LIST, "belongs": "drain"}
        answer = self.client.post(f"/api/places/{self.place}/sources/verdict", json=body)
        self.assertEqual(answer.status_code, 200, answer.text)
        self.assertEqual(self.client.get("/api/places/drain/sources").json()["count"], 1)
        gone = self.client.post(f"/api/places/{self.place}/sources/verdict", json=body)
        self.assertEqual(gone.status_code, 404, gone.text)
        self.assertEqual(self.client.get("/api/places/nowhere/sources").status_code, 404)

    def test_pages_hold_every_source_once(self) -> None:
        """By count and by time, equal counts included."""
        for number in range(23):
            self.take(letter(f"From {number}", sender=f"someone{number}@hall.example", at=NOON + number % 5))
        with self.room.change() as db:
            db.execute("UPDATE messages SET place = 'shelf'")
        db = self.room.reader()
        orders: tuple[sources.Ranked, ...] = ("total", "newest")
        for ranked in orders:
            found: list[str] = []
            cursor = ""
            while not found or cursor:
                page = sources.page(db, "shelf", ranked, cursor, 4)
                found += [one.key for one in page.sources]
                cursor = page.next
            self.assertEqual((len(found), len(set(found))), (page.count, page.count), ranked)
        with self.assertRaises(StaleCursor):
            sources.page(db, "shelf", "total", "newest 3 x", 4)
