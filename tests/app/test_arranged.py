"""Everything the owner makes besides mail: made, changed, removed, undone, taken along. One table names all kinds."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from hieranome.app import owner_settings, searching, shaping_tags, trays
from hieranome.app.away import keeping as away_keeping
from hieranome.app.bulk import planning
from hieranome.app.exporting import export, restore
from hieranome.app.queues import keeping as queue_keeping
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.routines import keeping as routine_keeping
from hieranome.app.rules import keeping as rule_keeping
from hieranome.app.teaching.undoing import undo
from hieranome.app.writing import attaching, beginning, drafts, phrasing
from hieranome.app.writing.drafts import Changed
from hieranome.core.arranged import Thing
from hieranome.core.away import Away, Circle
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.plans import Grouped, Length, Plan
from hieranome.core.queues import Queue, State
from hieranome.core.routines import Action as Doing
from hieranome.core.routines import Routine
from hieranome.core.rules import Action, Rule
from hieranome.core.steps import StepKind
from hieranome.core.trays import SHIPPED
from hieranome.store import drafts as stored_drafts
from hieranome.store import journal, phrases, plans, queues, routines, rules, tags
from tests.app.writing.test_phrasing import with_identity
from tests.support import NOON, OWNER, RoomCase, letter, offer

PLAN = Plan("Evening", True, ("digest",), (), "", 127, ("18:00",), "Europe/Berlin", Grouped.SENDER, Length.SHORT, False)
RULE = Rule(0, "Offers", True, "arrives", 0, "came", False, "subject:offer", "", (Action("read"),))

AWAY = Away(False, NOON, NOON + 86_400, 7, (Circle("All", "all", "", {"": "I am away."}),))


@dataclass(frozen=True)
class Kind:
    """How one kind of thing is made (its number), changed and removed, and what there is of it."""

    make: Callable[[Mailroom], int]
    change: Callable[[Mailroom, int], object]
    remove: Callable[[Mailroom, int], object]
    there: Callable[[Mailroom], Any]
    again: Callable[[Mailroom, int], object] | None = None
    """Saving it as it is, where making its change twice would be another change."""


def made(work: Callable[[Mailroom], object]) -> Callable[[Mailroom], int]:
    """Something there is one of: it has no number."""

    def make(room: Mailroom) -> int:
        work(room)
        return 0

    return make


def phrase_there(room: Mailroom) -> object:
    db = room.reader()
    return [(one, [row[1:] for row in phrases.contents(db, one.id)]) for one in phrases.every(db)]


def add_phrase(room: Mailroom) -> int:
    number = phrasing.keep(room, "ack", "Dear {first name|all}, it came.").id
    phrasing.attach(room, number, "plan.txt", "text/plain", b"\x00 as it is \xff")
    return number


def change_phrase(room: Mailroom, number: int) -> None:
    phrasing.keep(room, "thanks", "Thank you.", number)


def write(room: Mailroom, number: int, body: str) -> None:
    drafts.change(room, number, Changed(OWNER, "Ilse Vann <vann@northpier.example>", "", "", "Risers", body))


def begin_draft(room: Mailroom) -> int:
    first = room.reader().execute("SELECT min(id) FROM messages").fetchone()[0]
    draft = beginning.begin(room, "reply", first)
    write(room, draft.id, "Yes, at nine.")
    attaching.attach(room, draft.id, "rider.txt", "text/plain", b"two risers")
    return draft.id


def drafts_there(room: Mailroom) -> object:
    db = room.reader()
    return [(replace(one, changed_at=0), stored_drafts.attached(db, one.id)) for one in stored_drafts.unsent(db)]


def add_queue(room: Mailroom) -> int:
    return queue_keeping.keep(room, Queue(0, "Cases", "bucket", "desk", (State("new"), State("asked")))).id


def change_queue(room: Mailroom, number: int) -> None:
    there = queues.get(room.reader(), number)
    states = (there.states[0], replace(there.states[1], name="waiting"), State("done"))
    queue_keeping.keep(room, replace(there, name="Matters", states=states))


def keep_queue(room: Mailroom, number: int) -> None:
    queue_keeping.keep(room, queues.get(room.reader(), number))


def queue_there(room: Mailroom) -> object:
    return queues.every(room.reader()), tags.every(room.reader())


KINDS: dict[str, Kind] = {
    Thing.TRAYS: Kind(
        made(lambda room: trays.put(room, SHIPPED[1:])),
        lambda room, _: trays.put(room, [replace(SHIPPED[0], rows=3), *SHIPPED[1:]]),
        lambda room, _: trays.put(room, []),
        lambda room: trays.every(room.reader()),
    ),
    Thing.SEARCH: Kind(
        lambda room: searching.save(room, "Risers", "risers").id,
        lambda room, _: searching.save(room, "Risers", "risers mark:unread"),
        searching.forget,
        searching.saved,
    ),
    Thing.PHRASE: Kind(add_phrase, change_phrase, phrasing.remove, phrase_there),
    Thing.ROUTINE: Kind(
        lambda room: routine_keeping.keep(room, Routine(0, "Away", "", (Doing("archive"), Doing("read")))).routine.id,
        lambda room, n: routine_keeping.keep(room, Routine(n, "Aside", "", (Doing("read"),))),
        routine_keeping.remove,
        lambda room: routines.every(room.reader()),
    ),
    Thing.QUEUE: Kind(add_queue, change_queue, queue_keeping.remove, queue_there, keep_queue),
    Thing.PLAN: Kind(
        lambda room: planning.make(room, PLAN).id,
        lambda room, n: planning.change(room, n, replace(PLAN, name="Morning", times=("07:30",))),
        planning.remove,
        lambda room: [(one.id, one.plan) for one in plans.every(room.reader())],
    ),
    Thing.RULE: Kind(
        lambda room: rule_keeping.put(room, RULE).rule.id,
        lambda room, n: rule_keeping.put(room, replace(RULE, id=n, name="All offers", line="offer")),
        rule_keeping.remove,
        lambda room: rules.every(room.reader()),
    ),
    Thing.APPEARANCE: Kind(
        made(lambda room: owner_settings.arrange_look(room, appearance={"density": "one"})),
        lambda room, _: owner_settings.arrange_look(room, appearance={"density": "one", "reading": "off"}),
        lambda room, _: owner_settings.arrange_look(room, appearance={}),
        owner_settings.look,
    ),
    Thing.KEYS: Kind(
        made(lambda room: owner_settings.arrange_look(room, keys={"undo": "z"})),
        lambda room, _: owner_settings.arrange_look(room, keys={"undo": "U"}),
        lambda room, _: owner_settings.arrange_look(room, keys={}),
        owner_settings.look,
    ),
    Thing.AWAY: Kind(
        made(lambda room: away_keeping.set_away(room, AWAY)),
        lambda room, _: away_keeping.set_away(room, replace(AWAY, days=3)),
        lambda room, _: away_keeping.set_away(room, replace(AWAY, days=1)),
        away_keeping.notice,
    ),
    "tag": Kind(
        lambda room: shaping_tags.make(room, "Trip", tone=3).id,
        lambda room, n: shaping_tags.show(room, n, tone=5),
        shaping_tags.delete,
        lambda room: tags.every(room.reader()),
    ),
    "draft": Kind(begin_draft, lambda room, n: write(room, n, "No."), drafts.discard, drafts_there),
}
"""Every kind of thing the owner makes. Drafts are made and changed by writing, which is no step; discarding one is."""
WRITTEN = {"draft"}
TAGGING = {"tag"}
"""A tag is made by tagging too, and undoing that leaves one that was changed since where mail carries it."""


class ArrangedTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.take(letter("Risers"))
        self.take(offer(1))
        with_identity(self)

    def steps(self) -> int:
        return int(self.room.reader().execute("SELECT count(*) FROM steps").fetchone()[0])

    def elsewhere(self, name: str) -> Mailroom:
        room = Mailroom(self.folder / name)
        self.addCleanup(room.close)
        return room

    def taken_along(self, name: str) -> Mailroom:
        """A mailroom restored from an export of this one."""
        file = Path(self.folder) / f"{name}.zip"
        export(self.room, file)
        room = self.elsewhere(name)
        restore(room, file)
        return room

    def test_no_kind_is_forgotten(self) -> None:
        """Each kind of thing that is arranged stands in the table."""
        self.assertLessEqual(set(Thing), set(KINDS))

    def test_made_changed_removed_undone_and_taken_along(self) -> None:
        """Undo goes back through every change, one by one; an export brings each of them elsewhere, with its steps."""
        for name, kind in KINDS.items():
            with self.subTest(name):
                seen = [kind.there(self.room)]
                number = kind.make(self.room)
                seen.append(kind.there(self.room))
                kind.change(self.room, number)
                seen.append(kind.there(self.room))
                kind.remove(self.room, number)
                gone = kind.there(self.room)
                for at, (before, behind) in enumerate(zip(seen, [*seen[1:], gone], strict=True)):
                    self.assertNotEqual(before, behind, at)
                other = self.taken_along(f"removed {name}")
                undo(other)
                self.assertEqual(kind.there(other), seen[2], "undone elsewhere")
                undo(self.room)
                self.assertEqual(kind.there(self.room), seen[2], "brought back")
                self.assertEqual(kind.there(self.taken_along(f"whole {name}")), seen[2], "taken along")
                if name in WRITTEN:
                    continue
                undo(self.room)
                self.assertEqual(kind.there(self.room), seen[1], "changed back")
                while kind.there(self.room) != seen[0]:
                    undo(self.room)

    def test_the_same_again_is_no_step(self) -> None:
        """Saving what is there already says nothing."""
        for name, kind in KINDS.items():
            if name in WRITTEN:
                continue
            with self.subTest(name):
                number = kind.make(self.room)
                kind.change(self.room, number)
                before = self.steps()
                there = kind.there(self.room)
                (kind.again or kind.change)(self.room, number)
                self.assertEqual(kind.there(self.room), there)
                self.assertEqual(self.steps(), before)

    def test_what_was_changed_again_is_not_brought_back_over_it(self) -> None:
        """An earlier step is not undone past a later one."""
        for name, kind in KINDS.items():
            if name in WRITTEN | TAGGING:
                continue
            with self.subTest(name):
                before = self.steps()
                number = kind.make(self.room)
                first = before + 1
                kind.change(self.room, number)
                there = kind.there(self.room)
                with self.assertRaises(Conflict):
                    undo(self.room, first)
                self.assertEqual(kind.there(self.room), there)

    def test_a_name_taken_meanwhile(self) -> None:
        """What cannot stand beside what is there now stays away, and says why."""
        for name, anew in (
            (Thing.PHRASE, lambda: phrasing.keep(self.room, "ack", "Another.")),
            (
                Thing.QUEUE,
                lambda: queue_keeping.keep(self.room, Queue(0, "Cases", "bucket", "shelf", (State("a"), State("b")))),
            ),
            (Thing.PLAN, lambda: planning.make(self.room, PLAN)),
            (Thing.SEARCH, lambda: searching.save(self.room, "Risers", "stands")),
        ):
            with self.subTest(name):
                kind = KINDS[name]
                kind.remove(self.room, kind.make(self.room))
                removed = journal.latest_standing(self.room.reader()).id
                anew()
                there = kind.there(self.room)
                with self.assertRaisesRegex(Conflict, "name|called"):
                    undo(self.room, removed)
                self.assertEqual(kind.there(self.room), there)

    def test_rules_in_another_order(self) -> None:
        """The order of rules is a step."""
        numbers = [rule_keeping.put(self.room, replace(RULE, name=f"Rule {n}")).rule.id for n in range(3)]
        rule_keeping.arrange(self.room, numbers[::-1])
        self.assertEqual([one.id for one in rules.every(self.room.reader())], numbers[::-1])
        self.assertEqual(undo(self.room).kind, StepKind.ARRANGED)
        self.assertEqual([one.id for one in rules.every(self.room.reader())], numbers)

    def test_the_uses_of_a_phrase_come_back(self) -> None:
        """What a phrase was used for is learned, and comes back with it; where the mail is gone, the rest does."""
        number = KINDS[Thing.PHRASE].make(self.room)
        draft = beginning.begin(self.room, "reply", 1)
        phrasing.put_into(self.room, draft.id, "ack")
        phrasing.remove(self.room, number)
        undo(self.room)
        self.assertEqual(phrases.get(self.room.reader(), number).uses, 1)

    def test_a_note_that_was_tampered_with_brings_nothing_back(self) -> None:
        """What cannot be such a thing is not brought back, and all stays as it is."""
        for name, part, cannot in (
            (Thing.RULE, "rules", {"actions": '[{"verb": "explode"}]'}),
            (Thing.AWAY, "settings", {"value": '{"circles": [{"name": 5}]}'}),
            (Thing.ROUTINE, "routines", {"actions": "no list"}),
            (Thing.TRAYS, "settings", {"value": '[{"where": 1}]'}),
        ):
            with self.subTest(name):
                kind = KINDS[name]
                number = kind.make(self.room)
                kind.change(self.room, number)
                there = kind.there(self.room)
                step = journal.latest_standing(self.room.reader()).id
                written = self.room.reader().execute("SELECT before FROM arranged WHERE step = ?", (step,)).fetchone()
                before = json.loads(written[0])
                before[part][0].update(cannot)
                with self.room.change() as db:
                    db.execute("UPDATE arranged SET before = ? WHERE step = ?", (json.dumps(before), step))
                with self.assertRaisesRegex(Conflict, "cannot be read any more"):
                    undo(self.room)
                self.assertEqual(kind.there(self.room), there)
                with self.room.change() as db:
                    db.execute("UPDATE arranged SET before = ? WHERE step = ?", (written[0], step))
                undo(self.room)

    def test_a_note_about_another_thing_is_no_export(self) -> None:
        """A step's note reaches the thing it names alone: one of another's rows, or of a setting, is refused."""
        KINDS[Thing.RULE].make(self.room)
        KINDS[Thing.APPEARANCE].make(self.room)
        for thing, column, value in (
            (Thing.RULE, "key", "17"),
            (Thing.APPEARANCE, "key", "mailboxes"),
            (Thing.APPEARANCE, "thing", "weather"),
            (Thing.RULE, "behind", '{"settings": [{"key": "mailboxes", "value": "[]"}]}'),
        ):
            with self.subTest(f"{thing} {column}"):
                where = (value, thing)
                (was,) = (
                    self.room.reader().execute(f"SELECT {column} FROM arranged WHERE thing = ?", (thing,)).fetchone()
                )
                with self.room.change() as db:
                    db.execute(f"UPDATE arranged SET {column} = ? WHERE thing = ?", where)
                with self.assertRaisesRegex(CallerError, "not a whole export"):
                    self.taken_along(f"{thing} {column}")
                other = "weather" if column == "thing" else thing
                with self.room.change() as db:
                    db.execute(f"UPDATE arranged SET {column} = ? WHERE thing = ?", (was, other))
        self.assertEqual(len(rules.every(self.taken_along("whole").reader())), 1)

    def test_nothing_waits_to_be_sent_elsewhere(self) -> None:
        """What waits in the outbox is a draft in an export, even in one somebody made."""
        number = begin_draft(self.room)
        with self.room.change() as db:
            stored_drafts.update(db, number, state="waiting", due_at=1, raw=b"x", envelope="a@x.example")
        room = self.taken_along("waiting")
        self.assertEqual([one.state for one in stored_drafts.unsent(room.reader())], ["draft"])
        self.assertEqual(stored_drafts.in_state(room.reader(), "waiting"), [])
