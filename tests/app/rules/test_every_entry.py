"""Every entry of the tables goes through every path: what rules and routines do, and what a search asks."""

from __future__ import annotations

from datetime import UTC
from typing import Any, get_args

from hieranome.app import tagging
from hieranome.app.routines import keeping as routine_keeping
from hieranome.app.routines import running as routine_running
from hieranome.app.rules import keeping, previewing, running
from hieranome.app.searching import names_of
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import phrasing
from hieranome.core import routines
from hieranome.core import rules as core
from hieranome.core.matching import holds
from hieranome.core.operators import OPERATORS
from hieranome.core.query import read_query
from hieranome.core.routines import Routine
from hieranome.mail.sieve_writing import OnServer, script_of
from hieranome.store import drafts, messages, search
from tests.app.away.test_away import write_as
from tests.app.rules.case import MailCase, rule
from tests.store.test_search import Plain
from tests.support import NOON, OWNER, letter

KNOWN_HERE = {"bucket": "bucket:desk", "tag": "tag:visas"}
"""Where the example of an operator names what is not here."""
ON_ALL = frozenset({"next"})
"""What routines do that changes no mail."""


class EveryEntryTest(MailCase):
    """A room in which each of them can be done."""

    def setUp(self) -> None:
        super().setUp()
        write_as(self.room, OWNER)
        self.phrase = phrasing.keep(self.room, "thanks", "Thank you.").id

    def target(self, takes: str) -> str:
        """Something an entry can be about."""
        return {
            "": "", "bucket": "digest", "folder": self.folder_name, "tag": str(self.tag), "time": "in 3 days",
            "address": "freight@office.example", "phrase": str(self.phrase),
        }[takes]  # fmt: skip

    def seen(self) -> Any:
        """All that doing something may change."""
        db = self.room.reader()
        due = db.execute("SELECT kind, message, at FROM following ORDER BY kind, message").fetchall()
        written = [(one.kind, one.subject, one.state) for one in drafts.in_state(db, "draft", "waiting")]
        return self.all_of_it(), [tuple(row) for row in due], written

    def test_the_tables_are_whole(self) -> None:
        """Each verb of the types has its entry, once."""
        self.assertEqual([one.verb for one in core.DOINGS], list(get_args(core.Verb)))
        self.assertEqual([one.verb for one in routines.DOINGS], list(get_args(routines.Verb)))

    def test_what_rules_do(self) -> None:
        """Kept, done to what arrives and to what is here, undone, tried out, said to a server or not: each does
        something, and nothing falls through."""
        names = OnServer({"digest": "Digest", self.folder_name: "Freight", "archive": "Archive", "trash": "Trash"},
                         {str(self.tag): "Visas"}, UTC)  # fmt: skip
        for doing in core.DOINGS:
            with self.subTest(doing.verb):
                if doing.verb == "untag":
                    self.arrives("tag")
                wanted = rule("subject:carnet", (doing.verb, self.target(doing.takes)))
                number = keeping.put(self.room, wanted, confirmed=True).rule.id
                plain = self.take(letter(f"Other for {doing.verb}", at=NOON + 9_000))
                before = self.seen()
                arrived = self.take(letter(f"Carnet for {doing.verb}", at=NOON + 9_001))
                rows, *beside = self.seen()
                done = rows[arrived] != rows[plain] or beside != list(before[1:])
                self.assertEqual(done, doing.verb not in ("untag", "stop"), "done as it arrived")
                self.assertTrue(previewing.preview(self.room, wanted).total)
                before = self.seen()
                step = 0 if doing.arriving else running.run_here(self.room, number)
                if step:
                    self.assertNotEqual(self.seen(), before, "nothing was done to what is here")
                    undo(self.room, step)
                    self.assertEqual(self.seen(), before)
                self.assertEqual(bool(step), not doing.arriving)
                keeping.remove(self.room, number)
                wanted = rule("from:freight@office.example", (doing.verb, self.target(doing.takes)))
                number = keeping.put(self.room, wanted, confirmed=True).rule.id
                script, left = script_of(keeping.reads(self.room), names)
                self.assertEqual(
                    (bool(script), [one.why for one in left]), (not doing.stays, [doing.stays] * len(left))
                )
                keeping.remove(self.room, number)

    def arrives(self, verb: str) -> None:
        """Let all carnets carry the tag, so that it can be taken off."""
        number = self.keep("subject:carnet", (verb, str(self.tag)))
        running.run_here(self.room, number)
        keeping.remove(self.room, number)

    def test_what_routines_do(self) -> None:
        """Told before, done, undone."""
        for doing in routines.DOINGS:
            with self.subTest(doing.verb):
                opposite = {"untag": "tag", "unflag": "flag", "unread": "read", "done": "due"}.get(doing.verb)
                if opposite:
                    takes = next(one.takes for one in routines.DOINGS if one.verb == opposite)
                    first = self.do(f"First {opposite}", routines.Action(opposite, self.target(takes)))  # type: ignore[arg-type]
                action = routines.Action(doing.verb, self.target(doing.takes))
                said, why = routine_keeping.tried(self.room, [action], self.numbers[0])
                self.assertEqual((why, bool(said[0].words)), ("", True))
                self.assertNotIn("nothing changes", said[0].words)
                before = self.seen()
                step = self.do(f"Do {doing.verb}", action)
                self.assertEqual(self.seen() == before, doing.verb in ON_ALL)
                if step:
                    undo(self.room, step)
                    self.assertEqual(self.seen(), before)
                if opposite:
                    undo(self.room, first)

    def do(self, name: str, action: routines.Action) -> int:
        """Do one thing to a message; the step."""
        kept = routine_keeping.keep(self.room, Routine(0, name, "", (action,)))
        return routine_running.run(self.room, kept.routine.id, self.numbers[:1]).step

    def test_what_a_search_asks(self) -> None:
        """Understood, in words, as SQL and of a message before it is stored (the same mail either way), as Sieve or
        not."""
        names = OnServer({"archive": "Archive"}, {}, UTC)
        known = names_of(self.room)
        db = self.room.reader()
        tagging.put_on(self.room, self.numbers[:2], self.tag)
        here = {
            number: Plain(self.row(number), messages.raw(db, number), False, set(self.carried(number))).mail
            for number in self.numbers
        }
        for operator in OPERATORS:
            line = KNOWN_HERE.get(operator.name, operator.example)
            with self.subTest(line):
                query = read_query(line, known)
                self.assertTrue(query.sentence)
                found = search.first(db, query.node, "time")
                held = {number for number, mail in here.items() if holds(query.node, mail)}
                self.assertEqual(set(found), held)
                read = core.Read(rule(line, ("archive", "")), query.node, None, core.narrowest(query.node))
                script, left = script_of([read], names)
                self.assertNotEqual(bool(script), bool(left), "neither said nor named")
