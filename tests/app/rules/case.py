"""Rules to try, and rooms to try them in."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from hieranome.app import arranging, shaping_tags
from hieranome.app.rules import keeping
from hieranome.core.rules import Action, Rule
from hieranome.store import tags
from tests.support import NOON, RoomCase, letter


def rule(line: str, *actions: tuple[str, str], **fields: Any) -> Rule:
    """A rule for arriving mail, named by its line."""
    done = tuple(Action(verb, target) for verb, target in actions)  # type: ignore[arg-type]
    return replace(Rule(0, line[:60], True, "arrives", 0, "came", False, line, "", done), **fields)


class RulesCase(RoomCase):
    """A room with a tag and a folder."""

    def setUp(self) -> None:
        super().setUp()
        self.tag = shaping_tags.make(self.room, "Visas").id
        self.folder_name = arranging.add_folder(self.room, "Freight").name

    def keep(self, line: str, *actions: tuple[str, str], **fields: Any) -> int:
        """Keep a rule; its id."""
        return keeping.put(self.room, rule(line, *actions, **fields)).rule.id

    def carried(self, number: int) -> list[int]:
        """The tags a message carries."""
        return tags.of(self.room.reader(), [number]).get(number, [])

    def all_of_it(self, one: int = 0) -> dict[int, tuple[Any, ...]]:
        """Where every message (or one) stands, by what, its marks, its tags, whether editions may have it."""
        db = self.room.reader()
        out = {row[0] for row in db.execute("SELECT message FROM no_edition")}
        rows = db.execute(
            "SELECT id, place, decided_by, seen, flagged, answered FROM messages WHERE ?1 IN (0, id)", (one,)
        ).fetchall()
        carried = tags.of(db, [row[0] for row in rows])
        return {row[0]: (*row[1:], tuple(carried.get(row[0], ())), row[0] in out) for row in rows}


class MailCase(RulesCase):
    """Mail that is here: six carnets, and riders."""

    def setUp(self) -> None:
        super().setUp()
        self.numbers = [self.take(letter(f"Carnet {n}", at=NOON + 60 * n)) for n in range(6)]
        self.numbers += [self.take(letter(f"Rider {n}", at=NOON + 1000 + n)) for n in range(3)]
