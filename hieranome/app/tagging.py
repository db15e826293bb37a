"""Tags: put on messages and taken off, made, renamed, merged, moved, deleted. Each is one step of the journal."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app import filing
from hieranome.app.lines import follow
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of, tell_filed
from hieranome.core.buckets import ARCHIVE
from hieranome.core.errors import CallerError, Conflict
from hieranome.core.steps import StepKind
from hieranome.core.tags import (
    MAX_TAGS,
    TONES,
    Tag,
    check_parent,
    clean_name,
    in_order,
    keyword_for,
    may_be_tag,
    name_from,
)
from hieranome.store import accounts, journal, keywords, queues, tags, topics

TAGGED, SHAPED = StepKind.TAGGED, StepKind.TAGS
"""The kinds of steps that tag messages, and that make or change tags."""


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
        known = tags.get(db, tag) if isinstance(tag, int) else _named(db, clean_name(tag))
        title = known.name if known else clean_name(str(tag))
        carry = set(tags.carrying(db, known.id)) if known else set()
        fresh = [row.id for row in rows if row.id not in carry]
        to_move = [row for row in rows if row.place != ARCHIVE] if away else []
        if known and not fresh and not to_move:
            return Filed(0, [])
        how = " and put in the Archive" if away else ""
        step = journal.begin(db, room.clock(), TAGGED, f"{named(rows)} tagged “{title}”{how}")
        number = known.id if known else _make(room, db, step, title, 0)
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


def make(room: Mailroom, name: str, *, parent: int = 0, tone: int | None = None) -> Tag:
    """Make a tag. Raises :class:`Conflict` when there is one of that name."""
    with room.change() as db:
        title = clean_name(name)
        _check_free(db, title)
        check_parent(tags.every(db), 0, parent)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{title}” made")
        number = _make(room, db, step, title, parent)
        if tone is not None:
            tags.show(db, number, tone, True)
        _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


def show(room: Mailroom, number: int, *, tone: int | None = None, shown: bool | None = None) -> Tag:
    """Change how a tag looks; no step of the journal."""
    with room.change() as db:
        tag = tags.get(db, number)
        tags.show(db, number, tag.tone if tone is None else tone, tag.shown if shown is None else shown)
        room.tell("tags")
    return tags.get(room.reader(), number)


def rename(room: Mailroom, number: int, name: str) -> Tag:
    """Call a tag otherwise; on servers it stays the keyword it is."""
    with room.change() as db:
        tag, title = tags.get(db, number), clean_name(name)
        if title != tag.name:
            if title.casefold() != tag.name.casefold():
                _check_free(db, title)
            step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” renamed “{title}”")
            tags.change(db, step, number, name=title)
            follow(room, db, "tag", tag.name, title)
            _tell_shaped(room, step, [])
    return tags.get(room.reader(), number)


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
        _check_unused(db, tag)
        carry = tags.carrying(db, number)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” merged with “{target.name}”")
        tags.note_tagging(db, step, tags.put_on(db, carry, into), into, True)
        above = {one.id: one.parent for one in tags.every(db)}
        over = into
        while above.get(over, 0) not in (0, number):
            over = above[over]
        if above.get(over, 0) == number:
            tags.change(db, step, into, parent=tag.parent or None)
        _remove(db, step, tag, into)
        follow(room, db, "tag", tag.name, target.name)
        _tell_shaped(room, step, carry)
    return journal.get(room.reader(), step)


def delete(room: Mailroom, number: int) -> journal.Step:
    """Take a tag off all its messages and away; those below it stand where it stood."""
    with room.change() as db:
        tag, carry = tags.get(db, number), tags.carrying(db, number)
        _check_unused(db, tag)
        step = journal.begin(db, room.clock(), SHAPED, f"Tag “{tag.name}” deleted")
        _remove(db, step, tag, tag.parent)
        _tell_shaped(room, step, carry)
    return journal.get(room.reader(), step)


def _check_unused(db: sqlite3.Connection, tag: Tag) -> None:
    """Raises :class:`CallerError` for a tag without which a queue could not be."""
    queue = queues.using(db, tag.id)
    if queue:
        raise CallerError(f"The queue “{queue}” needs the tag “{tag.name}”. Change or remove the queue first.")


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
        number = _make(room, db, step, title, 0, keyword)
        tags.note_tagging(db, step, tags.put_on(db, numbers, number), number, True)
        _tell_shaped(room, step, numbers)
    return tags.get(room.reader(), number)


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
            _check_unused(db, tags.get(db, number))
            tags.set_state(db, number, behind | {"removed": 1})
    if changed:
        _renamed(room)
    return moved


def _remove(db: sqlite3.Connection, step: int, tag: Tag, parent: int) -> None:
    """Take a tag off all messages and away as part of a step; what stands below it stands below ``parent`` then."""
    carry = tags.carrying(db, tag.id)
    tags.note_tagging(db, step, tags.take_off(db, carry, tag.id), tag.id, False)
    for one in tags.every(db):
        if one.parent == tag.id:
            tags.change(db, step, one.id, parent=parent or None)
    tags.change(db, step, tag.id, removed=1)


def _make(room: Mailroom, db: sqlite3.Connection, step: int, name: str, parent: int, keyword: str = "") -> int:
    there = tags.every(db)
    if len(there) >= MAX_TAGS:
        raise CallerError(f"There are {MAX_TAGS} tags, which is the most. Merge or delete some.")
    word = keyword or keyword_for(name, tags.keywords(db).keys() | keywords.known(db))
    used = [one.tone for one in there]
    tone = min(range(TONES), key=lambda one: (used.count(one), one))
    number = tags.add(db, name, tone, parent, word)
    tags.note(db, step, number, None)
    _renamed(room)
    return number


def _named(db: sqlite3.Connection, name: str) -> Tag | None:
    return next((one for one in tags.every(db) if one.name.casefold() == name.casefold()), None)


def _check_free(db: sqlite3.Connection, name: str) -> None:
    other = _named(db, name)
    if other is not None:
        raise Conflict(f"There is a tag “{other.name}” already. Choose another name, or merge the two.")


def _teach(db: sqlite3.Connection, step: int, tag: int, numbers: Sequence[int], wanted: bool) -> None:
    """A tag that learns takes what the owner does with it for an answer."""
    topic = topics.of_tag(db, tag)
    if topic is not None:
        topics.note_answers(db, step, topic.id, topics.weighed(db, numbers), wanted)


def _tell_shaped(room: Mailroom, step: int, numbers: Sequence[int]) -> None:
    _renamed(room)
    room.tell_moved(step, numbers)


def _renamed(room: Mailroom) -> None:
    """Tell that tags are others now; the lines of rules may mean something else."""
    room.rules = room.topics = None
    room.tell("tags")
