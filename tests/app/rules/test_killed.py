"""A rule run on what is here by a process that is killed: all of it is done, or none."""

from __future__ import annotations

from pathlib import Path

from hieranome.app import shaping_tags
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import keeping, running
from hieranome.app.teaching.undoing import undo
from hieranome.core.rules import Action, Rule
from hieranome.store import tags
from tests.killing import kept_apart, run_and_kill
from tests.support import NOON, RoomCase, letter

RUN = """
import sys
from pathlib import Path
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules import running
room = Mailroom(Path(sys.argv[1]))
print("begun", flush=True)
running.run_here(room, int(sys.argv[2]))
room.close()
"""


class KilledTest(RoomCase):
    """Six hundred messages, put in the Archive, tagged and marked by one rule."""

    MANY = 600
    KILLS = 6

    def test_killed_in_the_middle_it_is_whole_or_not_there(self) -> None:
        """At whatever moment; then it can be run, and undone to what it was."""
        tag = shaping_tags.make(self.room, "Readings").id
        with self.room.change():
            for number in range(self.MANY):
                self.take(letter(f"Reading {number}", at=NOON + number))
        done = (Action("archive"), Action("tag", str(tag)), Action("flag"), Action("read"))
        rule = Rule(0, "Readings", True, "arrives", 0, "came", False, "subject:reading", "", done)
        number = keeping.put(self.room, rule).rule.id
        kept = kept_apart(self.room, self.folder)
        whole = run_and_kill(RUN, kept, self.folder / "0", str(number), seconds=60)
        before, after = self.state(kept), self.state(self.folder / "0")
        self.assertNotEqual(before, after)
        ended = []
        for kill in range(1, self.KILLS + 1):
            folder = self.folder / str(kill)
            run_and_kill(RUN, kept, folder, str(number), seconds=whole * kill / self.KILLS)
            ended.append(self.state(folder))
            self.assertIn(ended[-1], (before, after))
        self.assertIn(before, ended, "none was killed before its end")
        room = Mailroom(self.folder / "1", self.clock)
        self.addCleanup(room.close)
        if self.state_of(room) == before:
            running.run_here(room, number)
        self.assertEqual(self.state_of(room), after)
        undo(room)
        self.assertEqual(self.state_of(room), before)

    def state(self, folder: Path) -> tuple[int, ...]:
        """The state of a data folder."""
        room = Mailroom(folder, self.clock)
        try:
            return self.state_of(room)
        finally:
            room.close()

    @staticmethod
    def state_of(room: Mailroom) -> tuple[int, ...]:
        """How many messages are archived, flagged, read, tagged, taken by a rule."""
        db = room.reader()
        (tag,) = tags.every(db)
        counts = db.execute("SELECT sum(place = 'archive'), sum(flagged), sum(seen) FROM messages").fetchone()
        hits = db.execute("SELECT count(*) FROM rule_hits WHERE undone = 0").fetchone()[0]
        return (*counts, tag.total, hits)
