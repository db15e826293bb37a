"""The owner takes a step back: mail returns, and the model forgets."""

from __future__ import annotations

import sqlite3
from collections import defaultdict

from hieranome.app import tagging
from hieranome.app.room import arranged
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import set_marks, tell_following
from hieranome.app.room.scoring import rescore_in_sight, rescore_rows
from hieranome.core.deciders import Decider
from hieranome.core.errors import CallerError
from hieranome.core.gaussian import Rows
from hieranome.core.steps import StepKind
from hieranome.store import always, drafts, following, journal, lessons, messages, routines, rules, scores, topics

SCORED = 500
"""Of the messages that go back so many are scored anew at once; the others follow in the background."""


def undo(room: Mailroom, step: int | None = None) -> journal.Step:
    """Undo a step (the latest standing one when none is named).

    Messages still where the step put them go back; its lessons are taken out of the model, which then
    is what it would be had it never seen them. With too many after them, the
    journal and the mail change at once and the model follows in the background
    (:class:`hieranome.app.room.rescoring.Rebuilder`).
    """
    with room.change() as db:
        target = journal.latest_standing(db) if step is None else journal.get(db, step)
        if target.undone_at is not None:
            raise CallerError(f"“{target.title}” is undone already.")
        if target.gone and target.kind == StepKind.DISCARDED:
            raise CallerError(f"“{target.title}”: it was kept for thirty days and is gone.")
        if target.gone:
            raise CallerError(f"“{target.title}”: that mail was taken out of the Trash for good.")
        if not target.undoable:
            raise CallerError(f"“{target.title}” tells what happened; there is nothing to undo.")
        made = lessons.of_step(db, target.id)
        moved = _take_back(room, db, target)
        room.touch()
        if made and room.forget(made):
            rescore_in_sight(room, db)
        shown = scores.weighed(db, moved[:SCORED])
        if shown and made:
            rescore_rows(db, room.engine, shown, Rows.stacked(room.vectors.of(db, shown)))
        room.load_sure(db)
        room.revision += 1
        room.tell_moved(target.id, moved)
        if target.kind in (StepKind.ARRANGED, StepKind.TAGS):
            room.tell("arranged", step=0, title=f"Undone: {target.title}")
    return journal.get(room.reader(), target.id)


def _take_back(room: Mailroom, db: sqlite3.Connection, target: journal.Step) -> list[int]:
    """Marks and moves of a step taken back in the store; the messages that went back."""
    moved: list[int] = []
    for number, name, wanted in journal.marks(db, target.id):
        set_marks(room, db, [number], name, not wanted, None)
    same: dict[tuple[str, Decider, str], list[int]] = defaultdict(list)
    for move in journal.moves(db, target.id):
        same[move.origin, move.origin_decided_by, move.target].append(move.message)
    for (origin, decided_by, place), numbers in same.items():
        moved += messages.move_all(db, numbers, origin, decided_by, out_of=place)
    arranged.take_back(room, db, target.id)
    moved += tagging.take_back(room, db, target.id)
    followed = following.take_back(db, target.id)
    if followed:
        tell_following(room, followed, target.id)
    moved += followed
    if any((routines.take_back(db, target.id), drafts.bring_back(db, target.id))):
        room.tell("drafts")
    rules.undo(db, target.id)
    if topics.answered_by(db, target.id):
        room.tell("topics")
    journal.mark_undone(db, target.id, room.clock())
    lessons.mark_undone(db, target.id)
    always.bring_back(db, target.id)
    return moved
