"""Editions: compiled when they are due, once, from what stands there; written out; acted on; put on the Desk."""

from __future__ import annotations

import json
import random
from collections import Counter
from dataclasses import replace
from datetime import datetime
from zoneinfo import ZoneInfo

from hieranome.app.bulk import planning, printing
from hieranome.app.bulk.compiling import compile_due, compile_one, first_plan
from hieranome.app.bulk.content import Content
from hieranome.app.bulk.delivering import message_of
from hieranome.app.exporting import export, restore
from hieranome.app.filing import file_away
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import mark
from hieranome.app.room.rescoring import Rescorer
from hieranome.app.searching import find
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.looking import look_past
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.plans import EVERY_DAY, Grouped, Length, Plan
from hieranome.mail.reading import read
from hieranome.store import editions, lessons, messages, plans
from tests.support import ApiCase, RoomCase, letter

BERLIN = ZoneInfo("Europe/Berlin")
DAY = 86_400
START = int(datetime(2026, 3, 2, 6, 0, tzinfo=BERLIN).timestamp())
"""A Monday, an hour and a half before the first edition."""
PARTS = ("roof", "floor", "stage", "stairs", "foyer")
DIGEST = Plan("Digest", buckets=("digest",), days=EVERY_DAY, zone="Europe/Berlin")


def bulletin(number: int, at: int, sender: str = "bell") -> bytes:
    """A newsletter with something to tell."""
    return letter(
        f"Issue {number} of the {sender}",
        sender=f"The {sender.title()} <news@{sender}.example>",
        body=f"Good morning.\n\nWe have a cat.\n\nHall {number} closes from the {number % 28 + 1}th of May until "
        f"2027 for repairs of the {PARTS[number % 5]}.\n\nYou get this since you signed up at our door in May 2020.",
        at=at,
        List_Id=f"<news.{sender}.example>",
    )


class EditionCase(ApiCase):
    """A room at six in the morning, with a plan for half past seven and mail in the Digest."""

    def setUp(self) -> None:
        super().setUp()
        self.clock.now = START
        first_plan(self.room)
        for kept in plans.every(self.room.reader()):
            planning.remove(self.room, kept.id)
        self.plan = planning.make(self.room, DIGEST)

    def bring(self, *raws: bytes, place: str = "digest") -> list[int]:
        """Let mail arrive and stand in a bucket."""
        numbers = [self.take(raw) for raw in raws]
        with self.room.change() as db:
            messages.move_all(db, numbers, place, "model")
        return numbers

    def compiled(self, at: int = START + 2 * 3600) -> Content:
        """The edition that is made at a time."""
        self.clock.now = at
        made = compile_due(self.room)
        self.assertEqual(len(made), 1)
        self.edition = made[0]
        return planning.opened(self.room, made[0])[1]


class CompilingTest(EditionCase):
    def test_what_stands_in_it(self) -> None:
        """Unread mail of the bucket in groups, of each the newest with its extract, the rest by its subjects."""
        bell = self.bring(*(bulletin(n, START - 100 * (9 - n)) for n in range(4)))
        horn = self.bring(bulletin(1, START - 50, "horn"))
        self.bring(letter("On the Shelf", at=START), place="shelf")
        mark(self.room, [bell[0]], "read")
        content = self.compiled()
        groups = {one.title: one for one in content.groups}
        self.assertEqual(set(groups), {"The Bell", "The Horn"})
        told = groups["The Bell"]
        self.assertEqual([one.message for one in told.entries], [bell[3], bell[2], bell[1]])
        self.assertTrue(any("Hall 3 closes" in said for said in told.newest.sentences))
        self.assertFalse(any("signed up" in said for said in told.newest.sentences), told.newest.sentences)
        self.assertEqual(groups["The Horn"].newest.message, horn[0])
        self.assertEqual(datetime.fromtimestamp(content.due, BERLIN).strftime("%a %H:%M"), "Mon 07:30")

    def test_the_same_mail_and_clock_give_the_same_edition(self) -> None:
        """Byte for byte, in every form; in another room too."""
        self.bring(*(bulletin(n, START - n, name) for n in range(5) for name in ("bell", "horn")))
        content = self.compiled()
        other = Mailroom(self.folder / "other", lambda: START + 2 * 3600)
        self.addCleanup(other.close)
        export(self.room, self.folder / "out.zip")
        restore(other, self.folder / "out.zip")
        with other.change() as db:
            db.execute("DELETE FROM edition_items")
            db.execute("DELETE FROM editions")
            db.execute("DELETE FROM messages WHERE decided_by = 'edition'")
        number = compile_one(other, plans.every(other.reader())[0], content.due)
        again = planning.opened(other, number)[1]
        self.assertEqual(json.dumps(again.kept()), json.dumps(content.kept()))
        for write in (printing.plain, printing.markdown, printing.html):
            self.assertEqual(write(again), write(content))
        self.assertEqual(message_of(again, "a@b.example"), message_of(content, "a@b.example"))

    def test_nothing_twice_and_nothing_lost(self) -> None:
        """What stood in an edition stands in no later one of its plan; without mail there is none."""
        self.bring(bulletin(1, START - 10))
        self.compiled()
        self.clock.now = START + DAY + 2 * 3600
        self.assertEqual(compile_due(self.room), [])
        late = self.bring(bulletin(2, START - 5 * DAY))
        self.assertEqual([one.message for one in self.compiled(START + 2 * DAY + 7200).entries], late)

    def test_sources_named_elsewhere_left_out_and_by_search(self) -> None:
        """A list another plan names stands there alone; one left out nowhere, until that is undone."""
        self.bring(*(bulletin(n, START - n, name) for n in range(2) for name in ("bell", "horn", "drum")))
        wanted = replace(DIGEST, name="Bell", buckets=(), sources=("list:news.bell.example",), grouped=Grouped.SENDER)
        planning.make(self.room, wanted)
        planning.make(self.room, replace(DIGEST, name="Horn", buckets=(), search="subject:horn", length=Length.SHORT))
        step = planning.leave_out(self.room, ["list:news.drum.example"])
        self.clock.now = START + 7200
        told = {}
        for number in compile_due(self.room):
            content = planning.opened(self.room, number)[1]
            told[content.name] = {one.title for one in content.groups}
        self.assertEqual(told, {"Digest": {"The Horn"}, "Bell": {"The Bell"}, "Horn": {"The Horn"}})
        undo(self.room, step.id)
        self.clock.now += DAY
        self.assertEqual(
            {one.title for one in planning.opened(self.room, compile_due(self.room)[0])[1].groups}, {"The Drum"}
        )
        planning.leave_out(self.room, ["list:news.drum.example"])
        planning.leave_in(self.room, "list:news.drum.example")
        with self.assertRaises(NotFound):
            planning.leave_in(self.room, "list:news.drum.example")

    def test_by_topic(self) -> None:
        """Mail about the same stands together, whoever wrote it."""
        planning.change(self.room, self.plan.id, replace(DIGEST, grouped=Grouped.TOPIC))
        for number, words in enumerate(("roof repairs scaffold slates", "strings rosin bows gut") * 3):
            self.bring(
                letter(
                    f"About {words}", sender=f"P{number} <p{number}@x{number}.example>", body=words, at=START - number
                )
            )
        groups = self.compiled().groups
        self.assertEqual(sorted(len(one.entries) for one in groups), [3, 3])
        self.assertEqual({len({e.subject for e in one.entries}) for one in groups}, {1})

    def test_the_end_tells_what_happened(self) -> None:
        """What came and where it stands, what was moved by which step, lessons, what waits."""
        numbers = self.bring(*(bulletin(n, START - n) for n in range(2)))
        self.clock.now = START - 600
        correct(self.room, [numbers[0]], "shelf")
        self.bring(letter("Shall we?", at=START - 5), place="undecided")
        end = self.compiled().end
        self.assertEqual(dict(end.came), {"Digest": 1, "Shelf": 1, "Your call": 1})
        self.assertIn("to Shelf", end.steps[0].title)
        self.assertEqual((end.lessons, end.asked, len(end.questions)), (1, 1, 1))
        text = printing.plain(planning.opened(self.room, self.edition)[1])
        self.assertIn("Waiting in Your call\n  Oskar Brandel: Shall we?", text)

    def test_a_plan_that_is_changed_meanwhile(self) -> None:
        """An edition that was being compiled of how it was is not kept."""
        self.bring(bulletin(1, START - 10))
        stale = replace(self.plan, plan=replace(DIGEST, name="Before"))
        self.assertEqual(compile_one(self.room, stale, START), 0)
        self.assertEqual(editions.recent(self.room.reader(), 0, 10), [])

    def test_a_plan_that_can_no_longer_be_carried_out(self) -> None:
        """Its search names a bucket that is gone: it is told, and the other plans are compiled all the same."""
        self.bring(bulletin(1, START - 10))
        broken = planning.make(self.room, replace(DIGEST, name="Broken", search="subject:x"))
        with self.room.change() as db:
            db.execute("UPDATE plans SET search = 'bucket:attic', id = 0 WHERE id = ?", (broken.id,))
        self.clock.now = START + 7200
        with self.assertRaisesRegex(CallerError, "“Broken” cannot be compiled"):
            compile_due(self.room)
        self.assertEqual([one.name for one in editions.recent(self.room.reader(), 0, 9)], ["Digest"])

    def test_hostile_words_stay_words(self) -> None:
        """Nothing of a message becomes markup in any form, or a line of a header."""
        self.bring(
            letter(
                "<script>alert(1)</script> [x](javascript:1) `y`", sender='"<b>Mallory</b>\\r\\nX: y" <m@x.example>',
                body="Pay <img src=x onerror=alert(1)> 3 now before noon at https://x.example today.", at=START - 1,
            )
        )  # fmt: skip
        content = self.compiled()
        page = printing.html(content)
        for tag in ("<script", "<img", "<b>"):
            self.assertNotIn(tag, page)
        self.assertNotIn("](javascript", printing.markdown(content))
        self.assertEqual(read(message_of(content, "a@b.example")).facts.sender.address, "a@b.example")


class YearTest(RoomCase):
    def test_a_year_with_an_hour_of_downtime_a_day(self) -> None:
        """Two plans, two changes of the clocks: each plan's edition exactly once a day, each message at most once a
        plan, and in one sooner or later."""
        rng = random.Random(2026)
        begin = int(datetime(2026, 1, 1, 0, 30, tzinfo=BERLIN).timestamp())
        self.clock.now = begin
        night = Plan(
            "Night", buckets=("digest",), days=EVERY_DAY, times=("02:30",), zone="Europe/Berlin", delivered=False
        )
        for plan in (replace(DIGEST, delivered=False), night):
            planning.make(self.room, plan)
        numbers = []
        for day in range(365):
            down = begin + day * DAY + rng.randrange(23) * 3600
            for half in range(48):
                now = begin + day * DAY + half * 1800
                if half in (0, 9, 20):
                    self.clock.now = now
                    numbers.append(self.take(bulletin(day * 3 + half, now - 60, f"p{half}")))
                    with self.room.change() as db:
                        messages.move_all(db, numbers[-1:], "digest", "model")
                if not down <= now < down + 3600:
                    self.clock.now = now
                    compile_due(self.room)
        db = self.room.reader()
        for kept in plans.every(db):
            made = [one for one in editions.recent(db, 0, 10_000) if one.plan == kept.id]
            days = Counter(datetime.fromtimestamp(one.due, BERLIN).date() for one in made)
            self.assertEqual((len(days), set(days.values())), (365, {1}), kept.plan.name)
            told = [e.message for one in made for e in planning.opened(self.room, one.id)[1].entries]
            self.assertEqual((len(told), len(set(told))), (len(set(told)), len(told)))
            self.assertLessEqual(len(set(numbers)) - len(told), 4)

    def test_several_missed_are_made_up_once(self) -> None:
        """After a week without the machine there is one edition of each plan, for the latest time."""
        self.clock.now = START
        planning.make(self.room, DIGEST)
        for day in range(7):
            number = self.take(bulletin(day, START + day * DAY))
            with self.room.change() as db:
                messages.move_all(db, [number], "digest", "model")
        self.clock.now = START + 7 * DAY
        self.assertEqual(len(compile_due(self.room)), 1)
        self.assertEqual(compile_due(self.room), [])
        edition = editions.recent(self.room.reader(), 0, 10)[0]
        self.assertEqual((edition.messages, START + 7 * DAY - edition.due < DAY), (7, True))


class OnTheDeskTest(EditionCase):
    def setUp(self) -> None:
        super().setUp()
        self.news = self.bring(*(bulletin(n, START - n) for n in range(3)))
        self.compiled()
        self.message = editions.recent(self.room.reader(), 0, 1)[0].message or 0

    def test_an_ordinary_message(self) -> None:
        """Text and HTML, to the owner, on the Desk; found by its subject, not by what stands in it."""
        row, raw = self.row(self.message), messages.raw(self.room.reader(), self.message)
        self.assertEqual((row.place, row.decided_by, row.seen), ("desk", "edition", False))
        reading = read(raw)
        self.assertEqual(reading.facts.media_type, "multipart/alternative")
        self.assertIn("Hall 0 closes", reading.text)
        self.assertIn("mid:", reading.html)
        found = find(self.room, "subject:digest", "time", "", 10)
        self.assertEqual([one.id for one in found.page.messages], [self.message])
        self.assertNotIn(self.message, [one.id for one in find(self.room, "closes", "time", "", 10).page.messages])
        opened = self.client.get(f"/api/messages/{self.message}")
        self.assertEqual(opened.status_code, 200)

    def test_neither_scored_nor_learned_from(self) -> None:
        """No lesson, no silence, no score, no sum of its sender, no subscription; filing it teaches nothing."""
        sums = self.room.relations
        with self.assertRaisesRegex(CallerError, "edition"):
            correct(self.room, [self.message], "digest")
        self.assertEqual(look_past(self.room, [(self.message, "desk")]), 0)
        mark(self.room, [self.message], "read")
        correct(self.room, [self.news[0]], "shelf")
        Rescorer(self.room).pass_over()
        self.assertEqual(self.row(self.message).score, 0.0)
        step = file_away(self.room, [self.message], "archive").step
        self.assertEqual(self.row(self.message).decided_by, "edition")
        undo(self.room, step)
        self.assertEqual((self.row(self.message).place, self.row(self.message).decided_by), ("desk", "edition"))
        self.assertEqual(len(lessons.teaching(self.room.reader())), 1)
        self.assertEqual(self.room.relations, sums)
        summed = self.room.reader().execute("SELECT count(*) FROM weekly WHERE source LIKE '%maren%'").fetchone()[0]
        self.assertEqual(summed, 0)

    def test_one_that_only_says_it_is_one(self) -> None:
        """A message with the Message-ID of an edition is mail like any other."""
        message_id = editions.message_id(self.room.reader(), self.message)
        number = self.take(letter("Digest", sender="Hieranome <maren@quillmark.example>", message_id=message_id))
        self.assertNotEqual(self.row(number).decided_by, "edition")

    def test_read_here_it_is_read_there(self) -> None:
        """Both are marked, and what waits is counted down."""
        self.assertEqual(editions.unread(self.room.reader()), 1)
        planning.read(self.room, self.edition)
        self.assertTrue(self.row(self.message).seen)
        self.assertEqual(editions.unread(self.room.reader()), 0)

    def test_at_the_api(self) -> None:
        """Listed, opened with where everything stands now, read, kept as a file; odd plans are refused."""
        told = self.client.get("/api/editions").json()
        self.assertEqual((told["unread"], told["editions"][0]["messages"]), (1, 3))
        correct(self.room, [self.news[1]], "desk")
        opened = self.client.get(f"/api/editions/{self.edition}").json()
        others = opened["groups"][0]["others"]
        self.assertEqual([(one["stood"], one["place"]) for one in others], [("digest", "desk"), ("digest", "digest")])
        self.assertEqual({one["source_name"] for one in others}, {"The Bell"})
        self.assertEqual(self.client.post(f"/api/editions/{self.edition}/read").status_code, 204)
        for form, words in (("html", "<h2>The Bell</h2>"), ("markdown", "## The Bell"), ("text", "The Bell\n---")):
            answer = self.client.get(f"/api/editions/{self.edition}/file", params={"form": form})
            self.assertIn(words, answer.text)
            self.assertIn("attachment", answer.headers["content-disposition"])
        self.assertEqual(self.client.get("/api/editions/99").status_code, 404)
        listed = self.client.get("/api/plans").json()["plans"]
        self.assertEqual((listed[0]["name"], listed[0]["next_due"] > START), ("Digest", True))
        for said, status in (
            ({"name": "Digest", "buckets": ["digest"]}, 409),
            ({"name": "x"}, 422),
            ({"name": "x", "buckets": ["attic"]}, 422),
            ({"name": "x", "search": "from:"}, 422),
            ({"name": "x", "sources": ["halls"]}, 422),
            ({"name": "x", "buckets": ["digest"], "zone": "Nowhere"}, 422),
            ({"name": "x", "buckets": ["digest"], "zone": "../etc/passwd"}, 422),
            ({"name": "x", "buckets": ["digest"], "zone": "a\0"}, 422),
        ):
            self.assertEqual(self.client.post("/api/plans", json=said).status_code, status, said)
        made = self.client.post("/api/plans", json={"name": "Lists", "sources": ["list:news.bell.example"]}).json()
        self.assertEqual(made["names"], ["The Bell"])
        path = f"/api/plans/{made['id']}"
        changed = self.client.put(path, json={"name": "Lists", "sources": ["list:x"], "enabled": False}).json()
        self.assertEqual((changed["names"], changed["next_due"]), (["x"], 0))
        self.assertEqual(self.client.delete(path).status_code, 204)
        self.assertEqual(self.client.delete(path).status_code, 404)
        step = self.client.post("/api/left-out", json={"sources": ["list:news.bell.example"]}).json()
        self.assertTrue(step["undoable"])
        out = self.client.get("/api/plans").json()["left_out"]
        self.assertEqual(out, [{"source": "list:news.bell.example", "name": "The Bell"}])
        self.assertEqual(
            self.client.delete("/api/left-out", params={"source": "list:news.bell.example"}).status_code, 204
        )

    def test_in_an_export(self) -> None:
        """Plans, editions and what stood in them come along."""
        export(self.room, self.folder / "out.zip")
        other = Mailroom(self.folder / "other")
        self.addCleanup(other.close)
        restore(other, self.folder / "out.zip")
        self.assertEqual(
            planning.opened(other, self.edition)[1].kept(), planning.opened(self.room, self.edition)[1].kept()
        )
        self.assertEqual(plans.every(other.reader()), plans.every(self.room.reader()))
        with self.assertRaises(Conflict):
            planning.make(other, DIGEST)

    def test_an_export_with_a_plan_that_cannot_be(self) -> None:
        """It is refused whole."""
        for changed in ("grouped = 'colour'", "times = '[1]'", "zone = 'Nowhere'", "buckets = 'x'"):
            with self.subTest(changed):
                with self.room.change() as db:
                    before = [tuple(row) for row in db.execute("SELECT * FROM plans")]
                    db.execute(f"UPDATE plans SET {changed}")
                export(self.room, self.folder / "odd.zip")
                with self.room.change() as db:
                    db.execute("DELETE FROM edition_items")
                    db.execute("DELETE FROM editions")
                    db.execute("DELETE FROM plans")
                    marks = ", ".join("?" * len(before[0]))
                    db.executemany(f"INSERT INTO plans VALUES ({marks})", before)
                other = Mailroom(self.folder / changed.partition(" ")[0])
                self.addCleanup(other.close)
                with self.assertRaises(CallerError):
                    restore(other, self.folder / "odd.zip")
                self.assertEqual(plans.every(other.reader(), removed=True), [])
