"""Random rules over generated mail do what a plain reading of the table says."""

from __future__ import annotations

import random
import re
from dataclasses import replace
from typing import Any

from hieranome.app import searching
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.core.rules import Rule
from hieranome.core.sure import Reach
from hieranome.demo import mailgen
from hieranome.store import rules, settings, tags
from tests.app.rules.case import RulesCase, rule
from tests.support import SOAK

SETS, RUNS = (1_000, 60) if SOAK else (150, 15)
"""How many sets of rules are tried on a message, and how many rules on what is here."""
WORDS = ("rider", "hotel", "visa", "report", "strings", "the", "harbour", "thank")


class RandomTest(RulesCase):
    """Random rules over generated mail do what a plain reading of the table says."""

    def random_rule(self, rng: random.Random) -> Rule:
        """Any rule for arriving mail."""
        terms = [f"subject:{rng.choice(WORDS)}", rng.choice(WORDS), "larger:1KB", "mark:unread", "tag:visas"]
        terms += ["bucket:shelf", "score:>30", "from:@turnstile.example"]
        line = " ".join(rng.choice(["", "", "-"]) + rng.choice(terms) for _ in range(rng.randint(1, 3)))
        actions = [("tag", str(self.tag)), ("untag", str(self.tag)), ("flag", ""), ("read", ""), ("no-edition", "")]
        some = rng.sample(actions, rng.randint(0, 2))
        place = [("bucket", rng.choice(["desk", "shelf", "digest"])), ("folder", self.folder_name), ("archive", "")]
        some += [rng.choice(place)] if rng.random() < 0.6 or not some else []
        some += [("stop", "")] if rng.random() < 0.2 else []
        return rule(line, *some, excepted=f"subject:{rng.choice(WORDS)}" if rng.random() < 0.3 else "")

    def plainly(self, kept: list[Rule], number: int) -> tuple[str, bool, bool, bool, bool]:
        """What rules say of a stored message that none of them touched: where it goes (empty: they do not say), and
        whether it carries the tag, is flagged, read, kept out of editions."""
        place, tagged, flagged, seen, out = "", False, False, False, False
        for one in kept:
            # The tag stands on the message while its line is asked.
            with self.room.change() as db:
                tags.set_on(db, number, self.tag, tagged)
            but = f" -({one.excepted})" if one.excepted else ""
            found = searching.matching(self.room, f"({one.line}){but}", 4_000)
            if number not in found:
                continue
            for action in one.actions:
                if action.verb in ("bucket", "folder", "archive"):
                    place = place or action.target or "archive"
                tagged = {"tag": True, "untag": False}.get(action.verb, tagged)
                flagged = flagged or action.verb == "flag"
                seen = seen or action.verb == "read"
                out = out or action.verb == "no-edition"
            if one.stops:
                break
        with self.room.change() as db:
            tags.set_on(db, number, self.tag, False)
        return place, tagged, flagged, seen, out

    def test_rules_on_arriving_mail_do_what_the_table_says(self) -> None:
        """Random sets of rules, each for one message, read plainly from a copy that came without rules."""
        rng = random.Random(11)
        self.room.costs = replace(self.room.costs, asking=1_000.0)  # what is asked depends on what came before
        mail = [one.raw for one in mailgen.generate(90, 5) if one.belongs != "sent"]
        placed = 0
        for _ in range(SETS):
            for old in rules.every(self.room.reader()):
                keeping.remove(self.room, old.id)
            raw = rng.choice(mail)
            known = self.sums()
            number = self.take(self.copy_of(raw, rng))
            kept = [keeping.put(self.room, self.random_rule(rng)).rule for _ in range(rng.randint(1, 4))]
            place, *rest = self.plainly(kept, number)
            self.bring_back(known)  # of its sender the second must not be known more than the first
            stands = self.all_of_it(came := self.take(self.copy_of(raw, rng)))[came]
            self.assertEqual(self.row(came).score, self.row(number).score)
            placed += bool(place)
            self.assertEqual(stands[0], place or self.row(number).place, [one.line for one in kept])
            self.assertEqual(stands[1] == "rule", bool(place))
            self.assertEqual([stands[5] == (self.tag,), bool(stands[3]), bool(stands[2]), stands[6]], rest)
        self.assertGreater(placed, SETS // 7)

    def sums(self) -> list[tuple[Any, ...]]:
        """What is known of correspondents."""
        return [tuple(row) for row in self.room.reader().execute("SELECT * FROM sums")]

    def bring_back(self, known: list[tuple[Any, ...]]) -> None:
        """Know of correspondents what was known before."""
        with self.room.change() as db:
            db.execute("DELETE FROM sums")
            db.executemany("INSERT INTO sums VALUES (?, ?, ?, ?, ?, ?, ?)", known)
            self.room.relations = settings.relations(db)

    @staticmethod
    def copy_of(raw: bytes, rng: random.Random) -> bytes:
        """The same message once more, with an id and a length of its own that change nothing rules look at."""
        mark = f"{rng.getrandbits(64):016x}".encode()
        return re.sub(rb"(?i)(message-id: <)", rb"\g<1>" + mark, raw, count=1)

    def test_runs_on_what_is_here_are_undone_exactly_and_leave_verdicts(self) -> None:
        """Random rules run on mail with verdicts among it: no verdict moves, and undo restores every row."""
        rng = random.Random(12)
        numbers = [self.take(one.raw) for one in mailgen.generate(120, 6)]
        for number in rng.sample([n for n in numbers if self.row(n).place != "sent"], 25):
            correct(self.room, [number], rng.choice(["desk", "shelf", "digest", "drain"]), Reach.MESSAGE)
        ran = 0
        for _ in range(RUNS):
            before = self.all_of_it()
            decided = {n: one[0] for n, one in before.items() if one[1] == "verdict"}
            step = running.run_here(self.room, keeping.put(self.room, self.random_rule(rng)).rule.id)
            after = self.all_of_it()
            self.assertEqual({n: after[n][0] for n in decided}, decided)
            if step:
                ran += 1
                undo(self.room, step)
            self.assertEqual(self.all_of_it(), before)
        self.assertGreater(ran, RUNS // 3)
