"""Search lines that are kept go on finding what they found when what they name is called otherwise."""

from __future__ import annotations

import random
from typing import Any

from hieranome.app import arranging, searching, shaping_tags, tagging, trays
from hieranome.app.away import keeping as away_keeping
from hieranome.app.bulk import planning
from hieranome.app.rules import keeping
from hieranome.app.teaching.undoing import undo
from hieranome.core.away import Away, Circle
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.core.query import renamed
from hieranome.core.trays import SHIPPED, Tray
from hieranome.store import away, plans, rules, search, searches
from tests.app.rules.case import RulesCase, rule
from tests.support import NOON, letter

SETS = 200
NAMES = ("Riders", "Été", "Spring tour", "a (b)", "Or", "Freight", "Ünder way")
OTHERS = ("Permits", "Summer", "Autumn tour 2", "c (d)", "Not", "Cargo", "Ongoing")


class RenamedTest(RulesCase):
    def test_only_what_is_named(self) -> None:
        """However it is typed; words, other operators and longer names stay as they were typed."""
        for line, wanted in {
            "tag:visas": "tag:Permits",
            'TAG:"VISAS" -tag:visas  (from:ilse or tag:Visas)': "tag:Permits -tag:Permits  (from:ilse or tag:Permits)",
            'visas "tag:visas" tag:visas2 subject:visas': 'visas "tag:visas" tag:visas2 subject:visas',
            "": "",
            'tag:"visas': "tag:Permits",
        }.items():
            self.assertEqual(renamed(line, "tag", "Visas", "Permits"), wanted)
        self.assertEqual(renamed('bucket:"your call"', "bucket", "Your call", "Ask me"), 'bucket:"Ask me"')

    def found(self) -> list[Any]:
        """What every kept line finds, in order."""
        db = self.room.reader()
        lines = [one.line for one in rules.every(db)] + [one.excepted for one in rules.every(db)]
        lines += [one.line for one in searches.every(db)] + [one.plan.search for one in plans.every(db)]
        lines += [one.line for one in trays.every(db)] + [one.line for one in away.get(db).circles]
        return [search.first(db, searching.understand(self.room, line).node, "time") for line in lines if line]

    def test_sets_of_lines_after_renames(self) -> None:
        """Whatever stands on tags, buckets and folders finds what it found; undone, too."""
        rng = random.Random(5)
        made = {name: shaping_tags.make(self.room, name).id for name in NAMES}
        folder = arranging.add_folder(self.room, "Carnets (old)").name
        numbers = [self.take(letter(f"Carnet {n}", at=NOON + n)) for n in range(12)]
        for name in made:
            tagging.put_on(self.room, rng.sample(numbers, 4), made[name])
        calls = dict.fromkeys(made.values(), "") | {number: name for name, number in made.items()}
        titles = {"shelf": "Shelf", folder: "Carnets (old)"}
        for _ in range(SETS):
            self.lines(rng, list(calls.values()), list(titles.values()))
            before = self.found()
            self.assertTrue(any(before))
            if rng.random() < 0.7:
                number = rng.choice(list(calls))
                free = [one for one in (*NAMES, *OTHERS) if one not in calls.values()]
                name, old = rng.choice(free), calls[number]
                shaping_tags.rename(self.room, number, name)
                self.assertEqual(self.found(), before)
                if rng.random() < 0.3:
                    undo(self.room)
                    self.assertEqual(self.found(), before)
                    name = old
                calls[number] = name
            else:
                place = rng.choice(list(titles))
                title = rng.choice(
                    [one for one in ("Later", "Old ones", "b (c)", "Quiet") if one not in titles.values()]
                )
                arranging.describe_place(self.room, place, title=title, notice=None, rhythm=None)
                titles[place] = title
                self.assertEqual(self.found(), before)

    def lines(self, rng: random.Random, tags: list[str], titles: list[str]) -> None:
        """A rule, a saved search, a plan, a tray and a circle, each on something."""

        def line() -> str:
            said = [f'tag:"{rng.choice(tags)}"', f'bucket:"{rng.choice(titles)}"', "subject:carnet"]
            chosen = rng.sample(said, rng.randint(1, 3))
            joined = rng.choice([" ", " or "]).join(chosen)
            return rng.choice([joined, f"-({joined})", joined.swapcase() if "É" not in joined else joined])

        for one in rules.every(self.room.reader()):
            keeping.remove(self.room, one.id)
        keeping.put(self.room, rule(line(), ("read", ""), excepted=line()))
        searching.save(self.room, "Kept", line())
        for plan in plans.every(self.room.reader()):
            planning.remove(self.room, plan.id)
        planning.make(self.room, Plan("Daily", buckets=("digest",), days=EVERY_DAY, search=line()))
        trays.put(self.room, [*SHIPPED[:1], Tray("line", "Mine", line()), *SHIPPED[1:]])
        circle = Circle("Some", "line", line(), {"": "Away."})
        away_keeping.set_away(self.room, Away(False, NOON, NOON + 86_400, 7, (circle,)))

    def test_a_merged_tag(self) -> None:
        """What asked for the one asks for the other."""
        one, other = shaping_tags.make(self.room, "Old").id, shaping_tags.make(self.room, "New one").id
        number = self.take(letter("Carnet"))
        tagging.put_on(self.room, [number], one)
        searching.save(self.room, "Kept", "tag:old")
        shaping_tags.merge(self.room, one, other)
        self.assertEqual(self.found()[0], [number])
