"""Mail moved by a step of the journal, many messages at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.actors import Actor
from hieranome.core.deciders import Decider
from hieranome.core.steps import StepKind
from hieranome.store import journal, messages


def move(
    db: sqlite3.Connection, step: int, stood: Sequence[tuple[int, str, Decider]], target: str, decided_by: Decider
) -> list[int]:
    """Move mail, given as :func:`hieranome.store.messages.stood` tells it, as part of a step; which ones."""
    journal.add_moves(db, step, (journal.Move(*one, target) for one in stood))
    return messages.move_all(db, [number for number, _, _ in stood], target, decided_by)


def move_as_step(
    room: Mailroom,
    db: sqlite3.Connection,
    kind: StepKind,
    title: str,
    numbers: Iterable[int],
    target: str,
    decided_by: Decider,
    actor: Actor = Actor.OWNER,
) -> journal.Step:
    """Within a change, move mail as a step of its own of whoever does it, and tell of it."""
    step = journal.begin(db, room.clock(), kind, title, actor)
    room.tell_moved(step, move(db, step, messages.stood(db, numbers), target, decided_by))
    return journal.get(db, step)
