"""Whatever statement of a change to tags, rules or trays fails, memory and store are as they were."""

from __future__ import annotations

from dataclasses import replace

from hieranome.app import second_look, shaping_tags, tagging, trays
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.correct import correct
from hieranome.app.teaching.undoing import undo
from hieranome.app.topics import answering
from hieranome.app.topics.finding import find_here
from hieranome.core.rules import Action, Rule
from hieranome.core.trays import SHIPPED, Tray
from hieranome.store import rules, tags, topics
from tests.app.room.failing import MOST, FailingCase
from tests.support import NOON, letter

DAY = 86_400


class SureTest(FailingCase):
    """Tags, rules, trays and the second look."""

    def test_tags(self) -> None:
        """Put on by a new name with the Archive in one go, taken off, renamed, put below, merged, deleted, undone."""
        two = self.letters[:2]
        self.try_every_failure(lambda: tagging.put_on(self.room, two, "Visas", away=True))
        (visas,) = tags.every(self.room.reader())
        other = shaping_tags.make(self.room, "Permits").id
        tagging.put_on(self.room, self.letters[1:4], other)
        self.try_every_failure(lambda: tagging.take_off(self.room, two[:1], visas.id))
        self.try_every_failure(lambda: shaping_tags.rename(self.room, visas.id, "Entry"))
        self.try_every_failure(lambda: shaping_tags.put_below(self.room, visas.id, other))
        self.try_every_failure(lambda: shaping_tags.merge(self.room, other, visas.id))
        self.try_every_failure(lambda: undo(self.room))
        self.try_every_failure(lambda: shaping_tags.delete(self.room, visas.id))

    def test_rules(self) -> None:
        """Kept, arranged, switched, run on what is here, on what grew old, taken back, removed; and an arrival that a
        rule takes."""
        tag = str(shaping_tags.make(self.room, "Visas").id)
        said = (Action("bucket", "digest"), Action("tag", tag), Action("flag"), Action("read"), Action("no-edition"))
        rule = Rule(0, "Letters", True, "arrives", 0, "came", False, "subject:letter", "subject:4", said)
        self.try_every_failure(lambda: keeping.put(self.room, rule))
        first = rules.every(self.room.reader())[0].id
        old = replace(rule, name="Old", when="ages", days=1, line="subject:offer or subject:weekend or subject:half")
        second = keeping.put(self.room, old).rule.id
        self.try_every_failure(lambda: keeping.arrange(self.room, [second, first]))
        self.try_every_failure(lambda: keeping.switch(self.room, second, on=False))
        keeping.switch(self.room, second, on=True)
        self.try_every_failure(lambda: running.run_here(self.room, first))
        self.try_every_failure(lambda: undo(self.room))
        fresh = iter(range(MOST))
        self.try_every_failure(lambda: self.take(letter("Letter of today", at=NOON + 99 + next(fresh))))
        self.room.clock = lambda: NOON + 400 * DAY
        self.try_every_failure(lambda: running.run_ageing(self.room))
        self.try_every_failure(lambda: keeping.remove(self.room, first))

    def test_topics(self) -> None:
        """Described, answered, switched on, found as mail arrives and among what is here, asked, taken back, ended."""
        self.try_every_failure(lambda: answering.describe(self.room, "letters to confirm the risers", "Letters"))
        number = topics.every(self.room.reader())[0].id
        self.try_every_failure(lambda: answering.answer(self.room, number, self.letters[:2], True))
        answering.answer(self.room, number, self.offers[:2], False)
        self.try_every_failure(lambda: answering.turn(self.room, number, True, "digest"))
        fresh = iter(range(MOST))
        self.try_every_failure(lambda: self.take(letter(f"Letter {next(fresh) % 5}", at=NOON + 99 + next(fresh))))
        self.try_every_failure(lambda: find_here(self.room, number))
        self.try_every_failure(lambda: undo(self.room))
        with self.room.change() as db:
            for asked in self.offers[3:6]:
                db.execute("UPDATE messages SET place = 'undecided', decided_by = 'topic' WHERE id = ?", (asked,))
                topics.note_found(db, number, asked, NOON, asked=True)
        self.try_every_failure(lambda: answering.answer(self.room, number, self.offers[3:4], False))
        self.try_every_failure(lambda: answering.rest(self.room, number))

    def test_trays_and_a_second_look(self) -> None:
        """Trays said anew; offered mail moved, and left; learned questions let go."""
        self.try_every_failure(
            lambda: trays.put(self.room, [*SHIPPED[:3], Tray("line", "Tour", line="subject:letter")])
        )
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk' WHERE id = ?", (self.offers[1],))
        correct(self.room, [self.offers[1]], "digest")
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'shelf', decided_by = 'model', low_edge = 0.8, score = 0.9")
            db.execute("DELETE FROM moves")
        self.room.clock = lambda: NOON + DAY
        (offered,) = second_look.offers(self.room)
        numbers = [one.id for one in offered.messages]
        self.try_every_failure(lambda: second_look.accept(self.room, numbers[:2]))
        self.try_every_failure(lambda: second_look.leave(self.room, numbers[2:]))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'undecided', decided_by = 'model'")
        self.room.costs = replace(self.room.costs, asking=1_000.0)
        self.try_every_failure(lambda: second_look.release_learned(self.room))
