"""Tags themselves: made, renamed, merged, moved, deleted, coloured. Each is one step of the journal."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app import uses
from hieranome.app.lines import follow
from hieranome.app.room.arranged import noting
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.arranged import Thing
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.steps import StepKind
from hieranome.core.tags import (
    MAX_TAGS,
    TONES,
    Tag,
    check_parent,
    clean_name,
    keyword_for,
    may_be_tag,
    name_from,
)
from hieranome.store import journal, keywords, queues, tags

SHAPED = StepKind.TAGS
"""The kind of step that makes or changes tags."""


def make(room: Mailroom, name: str, *, parent: int = 0, tone: int | None = None) -> Tag:
    """Make a tag. Raises :class:`Conflict` when there is one of that name."""
    with room.change() as db:
        title = clean_name(name)
        _check_free(db, title)
        check_parent(tags.every(db), 0, parent)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{title}” made")
        number = make_new(room, db, step, title, parent, tone=tone)
        _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


def make_in(room: Mailroom, db: sqlite3.Connection, step: int, name: str, parent: int = 0) -> int:
    """As part of a step, make a tag; its id. Raises as :func:`make` does."""
    title = clean_name(name)
    _check_free(db, title)
    check_parent(tags.every(db), 0, parent)
    return make_new(room, db, step, title, parent)


def show(room: Mailroom, number: int, *, tone: int | None = None, shown: bool | None = None) -> Tag:
    """Change how a tag looks."""
    with room.change() as db:
        tag = tags.get(db, number)
        wanted = (tag.tone if tone is None else tone, tag.shown if shown is None else shown)
        if wanted != (tag.tone, tag.shown):
            how = "hidden" if not wanted[1] else "shown" if not tag.shown else "coloured otherwise"
            step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” {how}")
            tags.change(db, step, number, tone=wanted[0], shown=int(wanted[1]))
            _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


def rename(room: Mailroom, number: int, name: str) -> Tag:
    """Call a tag otherwise; on servers it stays the keyword it is."""
    with room.change() as db:
        tag, title = tags.get(db, number), clean_name(name)
        if title != tag.name:
            step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” renamed “{title}”")
            rename_in(room, db, step, number, title)
            _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


def rename_in(room: Mailroom, db: sqlite3.Connection, step: int, number: int, name: str) -> None:
    """As part of a step, call a tag otherwise. Raises as :func:`rename` does."""
    tag, title = tags.get(db, number), clean_name(name)
    if title.casefold() != tag.name.casefold():
        _check_free(db, title)
    tags.change(db, step, number, name=title)
    follow(room, db, "tag", tag.name, title)
    renamed(room)


def put_below(room: Mailroom, number: int, parent: int) -> Tag:
    """Let a tag stand below another (0: below none). Raises :class:`CallerError` when that one stands below it."""
    with room.change() as db:
        tag = tags.get(db, number)
        check_parent(tags.every(db), number, parent)
        if tag.parent != parent:
            where = f"below “{tags.get(db, parent).name}”" if parent else "below none"
            step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” moved {where}")
            tags.change(db, step, number, parent=parent or None)
            _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


def merge(room: Mailroom, number: int, into: int) -> journal.Step:
    """Let another tag take the place of one: on all its messages, and above those that stand below it."""
    with room.change() as db:
        tag, target = tags.get(db, number), tags.get(db, into)
        if number == into:
            raise CallerError("A tag cannot be merged with itself. Choose another.")
        check_unused(db, tag)
        carry = tags.carrying(db, number)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” merged with “{target.name}”")
        tags.note_tagging(db, step, tags.put_on(db, carry, into), into, True)
        above = {one.id: one.parent for one in tags.every(db)}
        over = into
        while above.get(over, 0) not in (0, number):
            over = above[over]
        if above.get(over, 0) == number:
            tags.change(db, step, into, parent=tag.parent or None)
        with noting(db, step, Thing.RULE, Thing.ROUTINE, Thing.SEARCH, Thing.PLAN, Thing.TRAYS, Thing.AWAY):
            uses.lead_to(db, number, into, room.clock())
            follow(room, db, "tag", tag.name, target.name)
        _remove(db, step, tag, into)
        for event in ("rules", "routines"):
            room.tell(event)
        _tell_shaped(room, step, carry)
    return journal.get(room.reader(), step)


def delete(room: Mailroom, number: int, *, confirmed: bool = False) -> journal.Step:
    """Take a tag off all its messages and away; those below it stand where it stood. Raises
    :class:`hieranome.core.errors.Asks` where something is built on it and that is not ``confirmed``."""
    with room.change() as db:
        tag, carry = tags.get(db, number), tags.carrying(db, number)
        check_unused(db, tag)
        uses.ask_before(f"“{tag.name}” would be deleted", uses.of_tag(db, tag), confirmed=confirmed)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” deleted")
        _remove(db, step, tag, tag.parent)
        _tell_shaped(room, step, carry)
    return journal.get(room.reader(), step)


def adopt(room: Mailroom, keyword: str, name: str = "") -> Tag:
    """Make a tag of a keyword another program set, on every message that has it. Raises :class:`CallerError` for one
    that means something else, or that no message has."""
    with room.change() as db:
        if not may_be_tag(keyword):
            raise CallerError(f"{keyword} is a keyword with a meaning of its own, so no tag can be made of it.")
        known = tags.keywords(db)
        numbers = keywords.messages_with(db, keyword)
        if not numbers or keyword.lower() in known:
            raise CallerError(f"No message has the keyword {keyword}, or there is a tag for it already.")
        title = clean_name(name or name_from(keyword))
        _check_free(db, title)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{title}” made of the keyword {keyword}")
        number = make_new(room, db, step, title, 0, keyword)
        tags.note_tagging(db, step, tags.put_on(db, numbers, number), number, True)
        _tell_shaped(room, step, numbers)
    return tags.get(room.reader(), number)


def check_unused(db: sqlite3.Connection, tag: Tag) -> None:
    """Raises :class:`CallerError` for a tag without which a queue could not be."""
    queue = queues.using(db, tag.id)
    if queue:
        raise CallerError(f"The queue “{queue}” needs the tag “{tag.name}”. Change or remove the queue first.")


def _remove(db: sqlite3.Connection, step: int, tag: Tag, parent: int) -> None:
    """Take a tag off all messages and away as part of a step; what stands below it stands below ``parent`` then."""
    carry = tags.carrying(db, tag.id)
    tags.note_tagging(db, step, tags.take_off(db, carry, tag.id), tag.id, False)
    for one in tags.every(db):
        if one.parent == tag.id:
            tags.change(db, step, one.id, parent=parent or None)
    tags.change(db, step, tag.id, removed=1)


def make_new(
    room: Mailroom,
    db: sqlite3.Connection,
    step: int,
    name: str,
    parent: int,
    keyword: str = "",
    tone: int | None = None,
) -> int:
    """As part of a step, make a tag whose name is free, in the tone used least where none is named; its id."""
    there = tags.every(db)
    if len(there) >= MAX_TAGS:
        raise CallerError(f"There are {MAX_TAGS} tags, which is the most. Merge or delete some.")
    word = keyword or keyword_for(name, tags.keywords(db).keys() | keywords.known(db))
    used = [one.tone for one in there]
    rarest = min(range(TONES), key=lambda one: (used.count(one), one))
    number = tags.add(db, name, rarest if tone is None else tone, parent, word)
    tags.note(db, step, number, None)
    renamed(room)
    return number


def named_so(db: sqlite3.Connection, name: str) -> Tag | None:
    """The tag of a name, in whatever case, or None."""
    return next((one for one in tags.every(db) if one.name.casefold() == name.casefold()), None)


def _check_free(db: sqlite3.Connection, name: str) -> None:
    other = named_so(db, name)
    if other is not None:
        raise Conflict(f"There is a tag “{other.name}” already. Choose another name, or merge the two.")


def _tell_shaped(room: Mailroom, step: int, numbers: Sequence[int]) -> None:
    renamed(room)
    room.tell_moved(step, numbers)
    room.tell("arranged", step=step, title=journal.get(room.reader(), step).title)


def renamed(room: Mailroom) -> None:
    """Tell that tags are others now; the lines of rules may mean something else."""
    room.rules = room.topics = None
    room.tell("tags")
