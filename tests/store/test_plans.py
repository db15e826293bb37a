"""No statement the application runs over a table that grows with the mailbox reads all of it, but for those that have
to."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Callable
from typing import Any

from fastapi.testclient import TestClient

from hieranome.app import arranging, filing
from hieranome.app.mailbox import mailboxes
from hieranome.app.mailbox.leaving import bring_back, forget
from hieranome.app.room import marks
from hieranome.app.service import Service
from hieranome.app.teaching import undoing, vouching
from hieranome.app.teaching.correct import correct, pull
from hieranome.app.teaching.looking import look_past
from hieranome.store import scores
from hieranome.web.application import build
from tests.app.mailbox.case import MailboxCase
from tests.support import MARK, NOON, letter, offer

GROWING = frozenset(
    {"messages", "raw", "vectors", "words", "copies", "threads", "mentions", "answers", "moves", "marks", "silences"}
)
WHOLE = (
    # begin of a statement that has to read a whole table, and why
    ("SELECT count(DISTINCT list_id) FROM messages", "what the history tells, asked while a mailbox is connected"),
    ("SELECT w.recipients FROM messages", "the same"),
    ("SELECT id FROM messages WHERE decided_by IN", "what was decided on goes its way when routing is turned on"),
)
"""Statements that may read a whole table."""


class PlansTest(MailboxCase):
    def watch(self) -> set[str]:
        """Every statement run from here on, as text."""
        asked: set[str] = set()
        store = self.room.store
        open_reader: Callable[[], sqlite3.Connection] = store._open_reader

        def watched() -> sqlite3.Connection:
            made = open_reader()
            made.set_trace_callback(asked.add)
            return made

        store._open_reader = watched  # type: ignore[method-assign]
        for connection in (store._writer, *store._readers.values()):
            connection.set_trace_callback(asked.add)
        return asked

    def work(self) -> None:
        """A day with it: mail comes, is corrected, filed, searched, opened, moved elsewhere; a mailbox is left."""
        vouching.vouch(self.room, "domain", "salthall.example")
        numbers = [self.arrive(offer(n)) for n in range(6)]
        numbers += [self.arrive(letter(f"Letter {n}", at=NOON + n)) for n in range(4)]
        outcome = correct(self.room, numbers[:1], "drain")
        if outcome.kin:
            pull(self.room, outcome.step, [one.message.id for one in outcome.kin])
        undoing.undo(self.room)
        filing.file_away(self.room, numbers[1:2], "archive")
        filing.put_back(self.room, numbers[1:2])
        marks.mark(self.room, numbers[2:4], "read")
        self.settle()
        self.move_elsewhere(numbers[6], self.bucket("drain"))
        self.settle()
        look_past(self.room, [(number, self.row(number).place) for number in numbers])
        correct(self.room, numbers[4:5], "shelf")
        arranging.switch_off(self.room, "digest", "shelf")
        self.ask(numbers)
        mailboxes.preview(self.room, self.account)
        mailboxes.route(self.room, self.account, on=False)
        mailboxes.route(self.room, self.account, on=True)
        bring_back(self.room, self.imap, self.account)
        forget(self.room, self.account)

    def ask(self, numbers: list[int]) -> None:
        with TestClient(build(Service.of(self.room, open_to_all=True), hosts=("testserver",)), headers=MARK) as client:
            for place in ("desk", "undecided", "shelf", "digest", "drain", "archive", "sent"):
                for order in ("importance", "time"):
                    for more in ("", "&unread_first=true", "&unread_only=true"):
                        answer = client.get(f"/api/messages?place={place}&order={order}{more}")
                        self.assertEqual(answer.status_code, 200, answer.text)
            for line in (
                "risers",
                "from:brandel",
                "subject:offer",
                "list:news",
                "mark:unread",
                "bucket:digest risers",
                "account:maren",
            ):
                self.assertEqual(client.get("/api/search", params={"line": line}).status_code, 200)
            for path in (
                *(
                    "places",
                    "steps",
                    "lessons",
                    "mailboxes",
                    "elsewhere",
                    "junk/doubted",
                    "health",
                    "drafts",
                    "searches",
                    "said",
                ),
                *(f"messages/{numbers[0]}", f"messages/{numbers[0]}/thread", f"mailboxes/{self.account}/folders"),
                "correspondents?start=ma",
            ):
                self.assertLess(client.get(f"/api/{path}").status_code, 400, path)
            client.post(f"/api/messages/{numbers[5]}/opened")

    def test_nothing_reads_a_whole_mailbox(self) -> None:
        """The plan of every statement: an index, a key, or a table that does not grow."""
        asked = self.watch()
        self.work()
        statements = {re.sub(r"\s+", " ", one).strip() for one in asked}
        plain = [one for one in statements if re.match(r"(SELECT|UPDATE|DELETE|WITH|INSERT)", one) and "-- " not in one]
        self.assertGreater(len(plain), 150)
        found: dict[str, list[str]] = {}
        db = sqlite3.connect(f"file:{self.room.store.path}?mode=ro", uri=True)
        self.addCleanup(db.close)
        db.create_function("spaced", 1, str)
        for statement in plain:
            scans = self.scans(db, statement)
            if scans and not statement.startswith(tuple(begin for begin, _ in WHOLE)):
                found.setdefault(re.sub(r"\d+|'[^']*'", "?", statement)[:260], scans)
        self.assertEqual(found, {})

    def test_scores_are_brought_up_to_date_in_the_order_of_ids(self) -> None:
        """Each chunk reads its own rows alone: nothing has to be put in order first."""
        db = self.room.reader()
        for band in (True, False):
            asked: list[str] = []
            db.set_trace_callback(asked.append)
            scores.chunk_below(db, 2**62, 5, band=band)
            db.set_trace_callback(None)
            plan = [str(row[3]) for row in db.execute(f"EXPLAIN QUERY PLAN {asked[0]}")]
            self.assertEqual([line for line in plan if "TEMP B-TREE" in line], [], plan)

    @staticmethod
    def scans(db: sqlite3.Connection, statement: str) -> list[str]:
        """The lines of a statement's plan that go through a growing table without an index that narrows it, and do not
        stop after some rows."""
        try:
            rows: list[Any] = db.execute(f"EXPLAIN QUERY PLAN {statement}").fetchall()
        except sqlite3.Error:
            return []
        names = dict(re.findall(r"(?:FROM|JOIN|,) (\w+) AS (\w+)", statement))
        aliases = {alias: table for table, alias in names.items()}
        lines = []
        for *_, line in rows:
            match = re.match(r"SCAN (\w+)(?! USING)", line)
            if match and aliases.get(match[1], match[1]) in GROWING and not re.search(r" USING ", line):
                lines.append(line)
        return lines
