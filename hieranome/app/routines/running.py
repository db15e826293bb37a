"""Routines done: on one message or many, as one step that is undone as one."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import assert_never

from hieranome.app.filing import move_rows
from hieranome.app.following.due import clear_in, note_due, noted_of, time_of
from hieranome.app.following.parking import answer_returns, park_in
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Mark, mark_in, named, rows_of, tell_filed, tell_following
from hieranome.app.routines.keeping import check_whole, refused
from hieranome.app.rules.keeping import Here
from hieranome.app.tagging import tag_in
from hieranome.app.teaching.correct import MAX_AT_ONCE, correct
from hieranome.app.writing.phrasing import begin_with
from hieranome.core.actors import Actor
from hieranome.core.errors import CallerError, HieranomeError
from hieranome.core.routines import BY_VERB, Action, Routine, Verb
from hieranome.core.steps import StepKind
from hieranome.store import following, journal, phrases, routines
from hieranome.store.messages import Message

DONE = StepKind.ROUTINE
"""The kind of steps a routine made."""
_MARKS: dict[Verb, Mark] = {"flag": "flagged", "unflag": "unflagged", "read": "read", "unread": "unread"}


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a routine did: the step (0 where nothing was done), the messages it was done to, the drafts it began, and
    the messages it could not be done to, each with why."""

    step: int
    messages: list[int]
    drafts: list[int]
    refused: dict[int, str]


def run(room: Mailroom, number: int, numbers: Sequence[int], *, leaving: bool = False) -> Outcome:
    """Do a routine to messages. Where it cannot be done to some, nothing is done and they are told, unless ``leaving``
    says that they are left as they are. A message for which something fails under way is left as it was, and told.

    Raises :class:`CallerError` for a routine that cannot be done at all, :class:`NotFound`; nothing is done then.
    """
    with room.change() as db:
        routine = routines.get(db, number)
        check_whole(room, Here.of(room), routine)
        rows = rows_of(db, numbers)
        if len(rows) > MAX_AT_ONCE:
            raise CallerError(f"A routine is done to up to {MAX_AT_ONCE} messages at once; {len(rows)} are selected.")
        against = refused(routine.actions, rows)
        if against and (not leaving or len(against) == len(rows)):
            return Outcome(0, [], [], against)
        drafts, failed = _write(room, db, routine, [row for row in rows if row.id not in against])
        rows = [row for row in rows if row.id not in against and row.id not in failed]
        if not rows:
            return Outcome(0, [], [], against | failed)
        step = journal.begin(db, room.clock(), DONE, f"Routine “{routine.name}”: {named(rows)}", Actor.ROUTINE)
        for draft in drafts:
            routines.note_laid(db, draft, room.clock(), step=step)
        for at, action in enumerate(routine.actions):
            _do(room, db, step, action, rows)
            _progress(room, number, len(rows) * (at + 1), len(rows) * len(routine.actions))
        tell_filed(room, step, rows)
        return Outcome(step, [row.id for row in rows], drafts, against | failed)


def _progress(room: Mailroom, number: int, done: int, of: int) -> None:
    # At once, not after the commit: this is how far the change under way is.
    room.events.publish("running", routine=number, done=min(done, of - 1), of=of, step=0)


def _write(
    room: Mailroom, db: sqlite3.Connection, routine: Routine, rows: Sequence[Message]
) -> tuple[list[int], dict[int, str]]:
    """Begin the drafts of a routine: they are all of it that can fail for one message alone. Which, and for which
    messages none could be begun."""
    wanted = [(kind, phrases.get(db, int(one.target)).short) for one in routine.actions
              if (kind := BY_VERB[one.verb].begins)]  # fmt: skip
    made: list[int] = []
    failed: dict[int, str] = {}
    for row in rows if wanted else ():
        try:
            with room.part(db):
                begun = [begin_with(room, kind, row.id, short).id for kind, short in wanted]
        except (HieranomeError, ValueError, LookupError) as exc:
            failed[row.id] = f"no draft can be begun for it: {exc}"
            continue
        made += begun
    return made, failed


def _do(room: Mailroom, db: sqlite3.Connection, step: int, action: Action, rows: Sequence[Message]) -> None:
    """Do one thing of a routine to messages, as part of a step."""
    numbers = [row.id for row in rows]
    verb, target = action.verb, action.target
    match verb:
        case "bucket":
            correct(room, numbers, target, follow=False, step=step)
        case "park" | "park-answer":
            until = time_of(room, db, target)
            park_in(room, db, step, rows, until, not until or answer_returns(db))
            tell_following(room, numbers, step)
        case "folder" | "archive" | "trash":
            place = BY_VERB[verb].place or target
            move_rows(db, step, [row for row in rows if row.place != place], place)
        case "tag" | "untag":
            tag_in(room, db, step, numbers, int(target), verb == "tag")
        case "due":
            note_due(room, db, numbers, target, step)
            following.note_said(db, target, room.clock())
        case "done":
            clear_in(room, db, step, noted_of(db, numbers))
            tell_following(room, numbers, step)
        case "flag" | "unflag" | "read" | "unread":
            mark_in(room, db, step, numbers, _MARKS[verb])
        case "reply" | "reply-all" | "forward" | "next":
            pass  # drafts were begun before all this; where to go next is the page's to know
        case _:
            assert_never(verb)
