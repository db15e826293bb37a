"""Tags on messages: put on, taken off, listed; what steps did with tags is taken back here."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app import filing, shaping_tags
from hieranome.app.lines import follow
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_filed
from hieranome.core.buckets import ARCHIVE
from hieranome.core.errors import Conflict
from hieranome.core.steps import StepKind
from hieranome.core.tags import (
    Tag,
    clean_name,
    in_order,
)
from hieranome.store import accounts, journal, keywords, tags, topics

TAGGED = StepKind.TAGGED
"""The kind of step that tags messages."""


@dataclass(frozen=True, slots=True)
class Tags:
    """All tags with how deep each stands below others, each followed by those below it; the keywords other programs
    set, with how many messages bear them; the mailboxes whose servers keep no keywords of ours."""

    tags: list[tuple[Tag, int]]
    foreign: list[tuple[str, int]]
    kept_here: list[str]


def listed(room: Mailroom) -> Tags:
    """All there is to know of tags."""
    db = room.reader()
    here = [one.address for one in accounts.every(db) if keywords.kept_here(db, one.id)]
    return Tags(in_order(tags.every(db)), keywords.foreign(db), here)


def get(room: Mailroom, number: int) -> tuple[Tag, int]:
    """A tag, and how deep it stands below others. Raises :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    tag = tags.get(db, number)
    return tag, next((depth for one, depth in in_order(tags.every(db)) if one.id == number), 0)


def put_on(room: Mailroom, numbers: Sequence[int], tag: int | str, *, away: bool = False) -> Filed:
    """Put a tag on messages; one that is named and not there yet is made in the same step. ``away`` puts them in the
    Archive as well.

    Raises :class:`CallerError` for a name that can be none, :class:`NotFound` for what does not exist.
    """
    with room.change() as db:
        rows = rows_of(db, numbers)
        known = tags.get(db, tag) if isinstance(tag, int) else shaping_tags.named_so(db, clean_name(tag))
        title = known.name if known else clean_name(str(tag))
        carry = set(tags.carrying(db, known.id)) if known else set()
        fresh = [row.id for row in rows if row.id not in carry]
        to_move = [row for row in rows if row.place != ARCHIVE] if away else []
        if known and not fresh and not to_move:
            return Filed(0, [])
        how = " and put in the Archive" if away else ""
        step = journal.begin(db, room.clock(), TAGGED, f"{named(rows)} tagged “{title}”{how}")
        number = known.id if known else shaping_tags.make_new(room, db, step, title, 0)
        tag_in(room, db, step, fresh, number, True)
        if to_move:
            filing.move_rows(db, step, to_move, ARCHIVE)
        return tell_filed(room, step, rows)


def take_off(room: Mailroom, numbers: Sequence[int], tag: int) -> Filed:
    """Take a tag off messages."""
    with room.change() as db:
        rows, known = rows_of(db, numbers), tags.get(db, tag)
        carry = set(tags.carrying(db, tag))
        rows = [row for row in rows if row.id in carry]
        if not rows:
            return Filed(0, [])
        step = journal.begin(db, room.clock(), TAGGED, f"“{known.name}” taken off {named(rows)}")
        tag_in(room, db, step, [row.id for row in rows], tag, False)
        return tell_filed(room, step, rows)


def tag_in(room: Mailroom, db: sqlite3.Connection, step: int, numbers: Sequence[int], tag: int, wanted: bool) -> None:
    """As part of a step, put a tag on messages or take it off; a tag that learns takes it for an answer."""
    changed = tags.put_on(db, numbers, tag, room.clock()) if wanted else tags.take_off(db, numbers, tag)
    tags.note_tagging(db, step, changed, tag, wanted)
    _teach(db, step, tag, changed, wanted)
    room.tell("tags")


def take_back(room: Mailroom, db: sqlite3.Connection, step: int) -> list[int]:
    """Within a change, take back what a step did with tags; the messages it concerned.

    Raises :class:`Conflict` when a tag was changed again since, or its name is another's now.
    """
    changed = tags.changed_by(db, step)
    names = {one.id: one.name.casefold() for one in tags.every(db)}
    for number, before, behind in changed:
        if before is None:
            continue
        if tags.state(db, number) != behind:
            raise Conflict(f"The tag “{behind['name']}” was changed again since. Undo the later step first.")
        taken = {name for other, name in names.items() if other != number}
        if not before["removed"] and before["name"].casefold() in taken:
            raise Conflict(f"Another tag is called “{before['name']}” now. Rename that one first.")
        tags.set_state(db, number, before)
        follow(room, db, "tag", behind["name"], before["name"])
    moved = tags.take_back(db, step)
    for number, before, behind in changed:
        if before is None and not tags.carrying(db, number):
            shaping_tags.check_unused(db, tags.get(db, number))
            tags.set_state(db, number, behind | {"removed": 1})
    if changed:
        shaping_tags.renamed(room)
    return moved


def _teach(db: sqlite3.Connection, step: int, tag: int, numbers: Sequence[int], wanted: bool) -> None:
    """A tag that learns takes what the owner does with it for an answer."""
    topic = topics.of_tag(db, tag)
    if topic is not None:
        topics.note_answers(db, step, topic.id, topics.weighed(db, numbers), wanted)
