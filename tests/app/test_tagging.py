"""Tags: put on and taken off, made and changed; each one step that can be undone exactly."""

import random

from hieranome.app import searching, shaping_tags, tagging
from hieranome.app.exporting import export, restore
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.undoing import undo
from hieranome.core.errors import CallerError, Conflict, NotFound
from hieranome.core.tags import (
    MAX_NAME,
    Tag,
    check_parent,
    clean_name,
    in_order,
    is_keyword,
    keyword_for,
    with_children,
)
from hieranome.store import journal, tags
from tests.generated import given, settings, st
from tests.support import NOON, RoomCase, letter


class TaggingTest(RoomCase):
    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(letter(f"Visa question {n}", at=NOON + n)) for n in range(4)]

    def snapshot(self) -> tuple[object, ...]:
        """All tags and who carries them, and where mail stands."""
        db = self.room.reader()
        live = {one.id: (one.name, one.tone, one.parent, one.shown, one.keyword, one.total) for one in tags.every(db)}
        carried = {number: tags.of(db, [number]).get(number, []) for number in self.numbers}
        return live, carried, self.state()

    def named(self) -> list[str]:
        """The names of the tags, in order, deeper ones set in."""
        return ["-" * depth + tag.name for tag, depth in in_order(tags.every(self.room.reader()))]

    def test_a_tag_is_made_in_the_same_breath_and_gone_with_its_step(self) -> None:
        """A new name makes a tag; a second message takes the same, however it is written; undo leaves nothing."""
        before = self.snapshot()
        tagging.put_on(self.room, self.numbers[:2], " Visas ")
        second = tagging.put_on(self.room, self.numbers[1:3], "VISAS")
        self.assertEqual(self.named(), ["Visas"])
        self.assertEqual(tags.every(self.room.reader())[0].total, 3)
        self.assertEqual(journal.get(self.room.reader(), second.step).messages, 1)
        undo(self.room)
        undo(self.room)
        self.assertEqual(self.snapshot(), before)

    def test_undoing_the_making_keeps_a_tag_others_carry(self) -> None:
        """A tag that was put on more mail since stays when the step that made it is undone."""
        first = tagging.put_on(self.room, self.numbers[:1], "Visas")
        tagging.put_on(self.room, self.numbers[1:2], "Visas")
        undo(self.room, first.step)
        (tag,) = tags.every(self.room.reader())
        self.assertEqual(tags.carrying(self.room.reader(), tag.id), self.numbers[1:2])

    def test_tag_and_put_away_is_one_step(self) -> None:
        """Tagged and archived together, and back together; what is there already is left alone."""
        before = self.snapshot()
        done = tagging.put_on(self.room, self.numbers[:2], "Visas", away=True)
        self.assertEqual([self.row(n).place for n in self.numbers[:2]], ["archive", "archive"])
        self.assertEqual(tagging.put_on(self.room, self.numbers[:2], "Visas", away=True).step, 0)
        undo(self.room, done.step)
        self.assertEqual(self.snapshot(), before)

    def test_what_does_not_exist_is_refused_and_nothing_changes(self) -> None:
        """Unknown tags and messages, and names that can be none."""
        before = self.snapshot()
        with self.assertRaises(NotFound):
            tagging.put_on(self.room, self.numbers[:1], 99)
        with self.assertRaises(NotFound):
            tagging.put_on(self.room, [*self.numbers, 10**6], "Visas")
        for name in ("", "  ", "x" * (MAX_NAME + 1), 'a"b', "a\u202eb"):
            with self.assertRaises(CallerError):
                tagging.put_on(self.room, self.numbers[:1], name)
        self.assertEqual(self.snapshot(), before)

    def test_names_are_unique_whatever_their_case(self) -> None:
        """A second tag of a name, made or renamed, is refused and says so."""
        shaping_tags.make(self.room, "Straße")
        other = shaping_tags.make(self.room, "Freight")
        for attempt in (
            lambda: shaping_tags.make(self.room, "STRASSE"),
            lambda: shaping_tags.rename(self.room, other.id, "straße"),
        ):
            with self.assertRaisesRegex(Conflict, "already"):
                attempt()
        self.assertEqual(shaping_tags.rename(self.room, other.id, "FREIGHT").name, "FREIGHT")

    def test_a_tag_cannot_stand_below_itself(self) -> None:
        """Neither directly nor over others."""
        a = shaping_tags.make(self.room, "A")
        b = shaping_tags.make(self.room, "B", parent=a.id)
        c = shaping_tags.make(self.room, "C", parent=b.id)
        for parent in (a.id, c.id):
            with self.assertRaisesRegex(CallerError, "its own parent"):
                shaping_tags.put_below(self.room, a.id, parent)
        self.assertEqual(self.named(), ["A", "-B", "--C"])

    def test_a_search_finds_what_stands_below(self) -> None:
        """tag: finds the tag and all below it; an unknown one is named."""
        tour = shaping_tags.make(self.room, "Spring tour")
        visas = shaping_tags.make(self.room, "Visas", parent=tour.id)
        tagging.put_on(self.room, self.numbers[:1], tour.id)
        tagging.put_on(self.room, self.numbers[1:2], visas.id)
        self.assertEqual(searching.matching(self.room, 'tag:"spring tour"', 9), self.numbers[1::-1])
        self.assertEqual(searching.matching(self.room, "tag:visas", 9), self.numbers[1:2])
        self.assertEqual(searching.matching(self.room, "visa -tag:visas", 9), [*self.numbers[:1:-1], self.numbers[0]])
        with self.assertRaisesRegex(CallerError, "There are: Spring tour, Visas"):
            searching.matching(self.room, "tag:permits", 9)
        self.assertIn('tag:"Spring tour" ', [one.line for one in searching.suggest(self.room, "tag:spr")])

    def test_a_merge_lets_children_follow_and_is_undone_exactly(self) -> None:
        """The one merged goes, its mail carries the other, what stood below it stands below the other."""
        a = shaping_tags.make(self.room, "A")
        b = shaping_tags.make(self.room, "B", parent=a.id)
        shaping_tags.make(self.room, "C", parent=a.id)
        tagging.put_on(self.room, self.numbers[:3], a.id)
        tagging.put_on(self.room, self.numbers[2:], b.id)
        before = self.snapshot()
        step = shaping_tags.merge(self.room, a.id, b.id)
        self.assertEqual(self.named(), ["B", "-C"])
        self.assertEqual(tags.carrying(self.room.reader(), b.id), self.numbers)
        undo(self.room, step.id)
        self.assertEqual(self.snapshot(), before)

    def test_a_step_on_a_tag_changed_since_is_not_undone_halfway(self) -> None:
        """Renamed twice, the first cannot be undone before the second; nothing changes by trying."""
        tag = shaping_tags.make(self.room, "A")
        shaping_tags.rename(self.room, tag.id, "B")
        first = journal.latest_standing(self.room.reader()).id
        shaping_tags.rename(self.room, tag.id, "C")
        before = self.snapshot()
        with self.assertRaisesRegex(Conflict, "changed again"):
            undo(self.room, first)
        self.assertEqual(self.snapshot(), before)
        undo(self.room)
        undo(self.room, first)
        self.assertEqual(self.named(), ["A"])

    def test_a_name_taken_meanwhile_is_told_when_undoing(self) -> None:
        """A deleted tag cannot come back beside another of its name."""
        step = shaping_tags.delete(self.room, shaping_tags.make(self.room, "A").id)
        shaping_tags.make(self.room, "a")
        with self.assertRaisesRegex(Conflict, "Another tag"):
            undo(self.room, step.id)
        self.assertEqual(self.named(), ["a"])

    def test_forty_nested_and_a_merge_of_two_with_many(self) -> None:
        """Forty tags below one another; two with all mail each merged in the middle; undone exactly."""
        chain = [shaping_tags.make(self.room, "Level 0")]
        for depth in range(1, 40):
            chain.append(shaping_tags.make(self.room, f"Level {depth}", parent=chain[-1].id))
        for tag in (chain[10], chain[20]):
            tagging.put_on(self.room, self.numbers, tag.id)
        before = self.snapshot()
        step = shaping_tags.merge(self.room, chain[10].id, chain[20].id)
        self.assertEqual(len(self.named()), 39)
        undo(self.room, step.id)
        self.assertEqual(self.snapshot(), before)

    def do_something(self, rng: random.Random, turn: int) -> None:
        """Anything that can be done with tags."""
        known = [one.id for one in tags.every(self.room.reader())]
        few = rng.sample(self.numbers, rng.randint(1, 4))
        one, two = (rng.choice(known), rng.choice(known)) if known else (0, 0)
        what = rng.randrange(7 if known else 2)
        if what == 0:
            tagging.put_on(self.room, few, f"Tag {rng.randint(0, 9)}", away=rng.random() < 0.3)
        elif what == 1:
            shaping_tags.make(self.room, f"Made {turn}", parent=one)
        elif what == 2:
            tagging.take_off(self.room, few, one)
        elif what == 3:
            shaping_tags.rename(self.room, one, f"Called {turn}")
        elif what == 4:
            shaping_tags.put_below(self.room, one, two)
        elif what == 5:
            shaping_tags.merge(self.room, one, two)
        else:
            shaping_tags.delete(self.room, one)

    def test_random_steps_undone_in_turn_leave_every_state_as_it_was(self) -> None:
        """Whatever is done with tags, undoing goes back through the very same states."""
        rng = random.Random(4)
        passed = []
        for turn in range(120):
            before, steps = self.snapshot(), len(journal.recent(self.room.reader(), 0, 500))
            try:
                self.do_something(rng, turn)
            except CallerError:
                self.assertEqual(self.snapshot(), before)
            if len(journal.recent(self.room.reader(), 0, 500)) > steps:
                passed.append(before)
        self.assertGreater(len(passed), 60)
        for before in reversed(passed):
            undo(self.room)
            self.assertEqual(self.snapshot(), before)

    def test_tags_are_part_of_an_export(self) -> None:
        """Out and in again: tags, who carries them, and steps that can still be undone."""
        tour = shaping_tags.make(self.room, "Été 2027")
        shaping_tags.make(self.room, "Visas", parent=tour.id)
        tagging.put_on(self.room, self.numbers[:2], tour.id)
        kept = self.snapshot()
        export(self.room, self.folder / "all.zip")
        other = Mailroom(self.folder / "other", self.clock)
        self.addCleanup(other.close)
        restore(other, self.folder / "all.zip")
        self.room.close()
        self.room = other
        self.assertEqual(self.snapshot()[:2], kept[:2])
        undo(self.room)
        self.assertEqual(tags.of(self.room.reader(), self.numbers), {})


class NamesTest(RoomCase):
    @settings(max_examples=300)
    @given(st.text(max_size=80), st.sets(st.sampled_from(["visas", "tag", "tag_2", "a"])))
    def test_every_name_has_a_keyword_of_its_own(self, text: str, taken: set[str]) -> None:
        """Whatever is typed is a name with a keyword any server takes, or is refused."""
        try:
            name = clean_name(text)
        except CallerError:
            return
        keyword = keyword_for(name, taken)
        self.assertTrue(is_keyword(keyword), keyword)
        self.assertNotIn(keyword.lower(), taken)
        self.assertEqual(clean_name(name), name)

    def test_circles_among_what_is_stored_end(self) -> None:
        """Tags that stand below each other in a circle, as a damaged file may say, hang up nothing."""
        circle = [Tag(1, "A", 0, 2, True, "a"), Tag(2, "B", 0, 1, True, "b")]
        self.assertEqual(with_children(circle), {1: frozenset({1, 2}), 2: frozenset({1, 2})})
        self.assertEqual(in_order(circle), [])
        with self.assertRaises(CallerError):
            check_parent(circle, 1, 2)
