"""What is built on a tag, a bucket or a folder is named before it is deleted, and goes on where two tags are merged."""

from __future__ import annotations

import random

from hieranome.app import arranging, searching, shaping_tags, tagging, trays, uses
from hieranome.app.away import keeping as away_keeping
from hieranome.app.bulk import planning
from hieranome.app.queues import keeping as queue_keeping
from hieranome.app.routines import keeping as routine_keeping
from hieranome.app.rules import keeping
from hieranome.app.teaching.undoing import undo
from hieranome.core.away import Away, Circle
from hieranome.core.errors import Asks
from hieranome.core.plans import EVERY_DAY, Plan
from hieranome.core.queues import Queue, State
from hieranome.core.routines import Action, Routine
from hieranome.core.trays import SHIPPED, Tray
from hieranome.store import away, places, plans, routines, rules, searches, tags
from tests.app.rules.case import RulesCase, rule
from tests.support import NOON, letter

SETS = 200


class UsesTest(RulesCase):
    def test_random_sets_are_named_whole(self) -> None:
        """Of two hundred sets of things on tags, buckets and folders, exactly what names one is named; it stays until
        that is confirmed."""
        rng = random.Random(7)
        names = ("Visas", "Spring tour", "Carnets")
        made = {name: shaping_tags.make(self.room, name).id for name in names[1:]} | {"Visas": self.tag}
        folder = arranging.add_folder(self.room, "Old papers").name
        titles = {"shelf": "Shelf", "digest": "Digest", folder: "Old papers"}
        queue_keeping.keep(self.room, Queue(0, "Cases", "bucket", "shelf", (State("new"), State("done"))))
        asked = 0
        for _ in range(SETS):
            expected = self.lay(rng, made, titles)
            db = self.room.reader()
            for name, number in made.items():
                used = uses.of_tag(db, tags.get(db, number))
                self.assertEqual(set(used), expected[f"tag {number}"])
                if used:
                    asked += 1
                    with self.assertRaisesRegex(Asks, "would be deleted: the"):
                        shaping_tags.delete(self.room, number)
                    self.assertIn(name, [one.name for one in tags.every(db)])
            for place in titles:
                self.assertEqual(set(uses.of_place(db, places.get(db, place))), expected[f"place {place}"])
            if expected[f"place {folder}"]:
                with self.assertRaises(Asks):
                    arranging.remove_place(self.room, folder)
            if expected["place digest"]:
                with self.assertRaises(Asks):
                    arranging.switch_off(self.room, "digest", "shelf")
        self.assertGreater(asked, SETS // 2)

    def lay(self, rng: random.Random, made: dict[str, int], titles: dict[str, str]) -> dict[str, set[str]]:
        """One of each kind of thing, on whatever; by tag and place, what is built on it."""
        db = self.room.reader()
        for one in rules.every(db):
            keeping.remove(self.room, one.id)
        for routine in routines.every(db):
            routine_keeping.remove(self.room, routine.id)
        for plan in plans.every(db):
            planning.remove(self.room, plan.id)
        expected: dict[str, set[str]] = {f"tag {one}": set() for one in made.values()}
        expected |= {f"place {one}": set() for one in titles}

        def line(called: str) -> str:
            chosen = []
            for name, number in rng.sample(sorted(made.items()), rng.randint(0, 2)):
                chosen.append(f'-tag:"{name.swapcase()}"')
                expected[f"tag {number}"].add(called)
            for place, title in rng.sample(sorted(titles.items()), rng.randint(0, 1)):
                chosen.append(f'bucket:"{rng.choice([title, place])}"')
                expected[f"place {place}"].add(called)
            return " ".join([*chosen, "subject:carnet"])

        def put(called: str) -> tuple[str, str]:
            verb = rng.choice(["tag", "bucket", "folder", "read"])
            if verb == "tag":
                number = rng.choice(sorted(made.values()))
                expected[f"tag {number}"].add(called)
                return verb, str(number)
            if verb == "read":
                return verb, ""
            place = rng.choice([one for one in titles if (one in ("shelf", "digest")) == (verb == "bucket")])
            expected[f"place {place}"].add(called)
            return verb, place

        keeping.put(self.room, rule(line("the rule “Mine”"), put("the rule “Mine”"), name="Mine"))
        routine_keeping.keep(self.room, Routine(0, "Done", "", (Action(*put("the routine “Done”")),)))
        searching.save(self.room, "Kept", line("the saved search “Kept”"))
        planning.make(self.room, Plan("Daily", buckets=("digest",), days=EVERY_DAY, search=line("the plan “Daily”")))
        expected["place digest"].add("the plan “Daily”")
        trays.put(self.room, [Tray("line", "Part", line("the tray “Part”")), *SHIPPED[1:]])
        circle = Circle("Some", "line", line("the away notice for “Some”"), {"": "Away."})
        away_keeping.set_away(self.room, Away(False, NOON, NOON + 86_400, 7, (circle,)))
        expected["place shelf"].add("the queue “Cases”")
        return expected

    def test_a_merged_tag_leads_what_is_built_on_it(self) -> None:
        """Rules, routines and lines are about the other tag, once; undone, all of them are as they were."""
        other = shaping_tags.make(self.room, "Papers").id
        number = self.take(letter("Carnet"))
        tagging.put_on(self.room, [number], self.tag)
        keeping.put(self.room, rule("tag:visas", ("tag", str(self.tag)), ("tag", str(other)), name="Both"))
        routine_keeping.keep(self.room, Routine(0, "Done", "", (Action("untag", str(self.tag)),)))
        searching.save(self.room, "Kept", "tag:visas")
        circle = Circle("Some", "line", "tag:visas", {"": "Away."})
        away_keeping.set_away(self.room, Away(False, NOON, NOON + 86_400, 7, (circle,)))

        def there() -> object:
            db = self.room.reader()
            return rules.every(db), routines.every(db), searches.every(db), away.get(db), tags.every(db)

        before = there()
        shaping_tags.merge(self.room, self.tag, other)
        db = self.room.reader()
        (kept,) = rules.every(db)
        self.assertEqual((kept.line, [one.target for one in kept.actions]), ("tag:Papers", [str(other)]))
        self.assertEqual(routines.every(db)[0].actions[0].target, str(other))
        self.assertEqual((searches.every(db)[0].line, away.get(db).circles[0].line), ("tag:Papers", "tag:Papers"))
        undo(self.room)
        self.assertEqual(there(), before)

    def test_a_long_list_is_told_by_how_many(self) -> None:
        """Five are named, the others counted; confirmed, it goes, and comes back with undo."""
        for n in range(8):
            searching.save(self.room, f"Search {n}", "tag:visas")
        with self.assertRaisesRegex(Asks, "“Search 4” and 3 more need it"):
            shaping_tags.delete(self.room, self.tag)
        shaping_tags.delete(self.room, self.tag, confirmed=True)
        undo(self.room)
        self.assertEqual([one.name for one in tags.every(self.room.reader())], ["Visas"])
