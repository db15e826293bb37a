"""What works behind the page goes on after every error, and tells how it is."""

from __future__ import annotations

import sqlite3
import threading
from collections.abc import Callable
from unittest import mock

from hieranome.app.arrival import importing
from hieranome.app.room import rescoring, worker
from hieranome.app.room.worker import Worker
from hieranome.app.teaching.correct import correct
from hieranome.core.errors import StoreFull
from hieranome.store import lessons, settings
from tests.mail.test_sources import mbox
from tests.patience import await_
from tests.support import ApiCase, RoomCase, letter, offer


class WorkerTest(RoomCase):
    def make(self, work: Callable[[], float | None]) -> Worker:
        made = Worker(self.room, "test", "trying", work)
        self.addCleanup(made.close)
        return made

    def test_it_works_when_woken_and_when_it_is_time(self) -> None:
        """Once at the start, once for each time it is woken, and again after the seconds it asked for."""
        done: list[float | None] = []
        answers: list[float | None] = [None, 0.01, None]

        def work() -> float | None:
            done.append(answers[len(done)] if len(done) < len(answers) else None)
            return done[-1]

        made = self.make(work)
        made.start()
        await_("it", lambda: len(done) == 1)
        made.wake()
        await_("it", lambda: len(done) == 3)
        self.assertFalse(made.health.in_trouble)

    def test_it_goes_on_after_errors_and_tells_of_them(self) -> None:
        """Errors of ours are told as they are, others by their kind; when it works again, nothing is told any more."""
        raised = [StoreFull("The disk is full."), sqlite3.OperationalError("odd"), ValueError("\ud800")]
        done: list[bool] = []

        def work() -> None:
            if raised:
                raise raised.pop(0)
            done.append(True)

        made = self.make(work)
        last = self.room.events.latest
        with mock.patch.object(worker, "FIRST_WAIT", 0.2), self.assertLogs(level="ERROR"):
            made.start()
            await_("it", lambda: made.health.failures == 1)
            self.assertEqual(made.health.error, "The disk is full.")
            await_("it", lambda: made.health.failures == 2)
            self.assertIn("OperationalError", made.health.error)
            await_("it", lambda: done)
        self.assertFalse(made.health.in_trouble)
        told = [one.kind for one in self.room.events.since(last) or []]
        self.assertEqual(told, ["health"] * 4)

    def test_a_thread_that_ended_is_trouble(self) -> None:
        """Whatever ended it."""

        def work() -> None:
            raise SystemExit

        made = self.make(work)
        self.assertFalse(made.health.in_trouble)
        made.start()
        await_("it", lambda: made.health.in_trouble)


class RoomWorkers(ApiCase):
    def test_the_scores_follow_when_the_disk_has_room_again(self) -> None:
        """A full disk ends nothing: the page is told, and the pass is made later."""
        numbers = [self.take(offer(n)) for n in range(5)]
        full = StoreFull("The disk is full. Free some space.")
        with (
            mock.patch.object(rescoring, "rescore_rows", side_effect=full),
            mock.patch.object(worker, "FIRST_WAIT", 0.3),
        ):
            correct(self.room, numbers[:1], "drain")
            await_("it", lambda: self.client.get("/api/health").json())
            (told,) = self.client.get("/api/health").json()
            self.assertEqual((told["name"], told["error"]), ("rescorer", str(full)))
            self.assertIn("scores", told["doing"])
        await_("it", lambda: not self.client.get("/api/health").json())
        await_(
            "it", lambda: settings.value(self.room.reader(), settings.SCORED, "") == lessons.state(self.room.reader())
        )

    def test_an_import_that_ends_oddly_does_not_end_importing(self) -> None:
        """Its job says that it failed, and the next one is done."""
        with (
            mock.patch.object(importing, "run", side_effect=OSError("a dangling link")),
            self.assertLogs(level="ERROR"),
        ):
            first = self.client.post("/api/imports", files={"files": ("a.mbox", mbox(letter("one")))}).json()
            await_("it", lambda: self.client.get(f"/api/imports/{first['id']}").json()["state"] == "failed")
        second = self.client.post("/api/imports", files={"files": ("b.mbox", mbox(letter("two")))}).json()
        await_("it", lambda: self.client.get(f"/api/imports/{second['id']}").json()["state"] == "done")


class ReaderConnections(RoomCase):
    def test_threads_that_come_and_go_leave_no_connection(self) -> None:
        """A hundred threads one after another share what they need; threads at the same time have one each."""
        for _ in range(100):
            thread = threading.Thread(target=lambda: self.room.reader().execute("SELECT 1").fetchone())
            thread.start()
            thread.join()
        self.assertLess(len(self.room.store._readers), 5)
        here, there = self.room.reader(), []
        thread = threading.Thread(target=lambda: there.append(self.room.reader()))
        thread.start()
        thread.join()
        self.assertIsNot(there[0], here)
