"""The owner corrects: a lesson, its move and its journal line commit together; then the model follows."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.app.mailroom import Mailroom, rescore_rows
from hieranome.core.buckets import QUIET_PLACES
from hieranome.core.engine import Lesson
from hieranome.core.errors import CallerError
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows, likeness
from hieranome.core.routing import settle, settle_all
from hieranome.core.sure import ALWAYS, TEACHES, Reach, key_for
from hieranome.mail.reading import read
from hieranome.store import journal, lessons, messages, places
from hieranome.store.messages import Message

MAX_AT_ONCE = 500
"""Messages one verdict may cover."""
UNDO_AT_ONCE = 50
"""Lessons that may have come after one undone at once; an older one is taken out of the model in the background."""
CONTRARY_LIKENESS = 0.6
"""How like an earlier lesson's message must be for a verdict to contradict it."""
KIN_LIKENESS = 0.3
"""How like a corrected message another must be to be its kin; 1 is the same."""
CLOSE_LIKENESS = 0.6
"""How like it must be when the model would have moved it already."""
MAX_COMPARED = 10
"""Messages of one verdict whose kin are looked for."""
MAX_KIN = 200
"""Kin listed by name; the count is of all."""


@dataclass(frozen=True, slots=True)
class Effect:
    """What a verdict did to one message: its importance in [0, 1] before and after."""

    message: int
    before: float
    after: float


@dataclass(frozen=True, slots=True)
class Kin:
    """A standing message a lesson would move too: where it stands, where it would go, how sure (0 to 1)."""

    message: Message
    target: str
    sureness: float


@dataclass(frozen=True, slots=True)
class Contrary:
    """Earlier lessons about mail like this that say otherwise: the bucket, how many, the latest's time."""

    belongs: str
    count: int
    latest: int


@dataclass(frozen=True, slots=True)
class Outcome:
    """What follows from a verdict; ``followed`` is the step in which kin followed by the owner's setting, or 0."""

    step: int
    lessons: list[int]
    effects: list[Effect]
    kin: list[Kin]
    kin_total: int
    contrary: list[Contrary]
    followed: int = 0


@dataclass(slots=True)
class _Standing:
    """The messages a lesson rescores at once; of those like enough to be kin, how like they are (by position) and where
    the model would put them before the lesson."""

    numbers: list[int]
    rows: Rows | None
    near: dict[int, tuple[float, str]]


@dataclass(frozen=True, slots=True)
class _Near:
    """A standing message like a corrected one: how like, where the model would have put it, where it would now, and how
    sure it is of that."""

    message: int
    alike: float
    was: str
    target: str
    sureness: float


def correct(room: Mailroom, numbers: Sequence[int], belongs: str, reach: Reach = Reach.LEARN) -> Outcome:
    """Put messages where they belong, as lessons of the given reach.

    Raises :class:`CallerError` when the reach cannot hold for a message, :class:`NotFound` for a
    message or bucket that does not exist; nothing is changed then.
    """
    wanted = list(dict.fromkeys(numbers))
    if not wanted or len(wanted) > MAX_AT_ONCE:
        raise CallerError(f"A verdict covers 1 to {MAX_AT_ONCE} messages; {len(wanted)} were given.")
    with room.changing:
        reader = room.reader()
        _check_bucket(reader, belongs)
        rows = [messages.get(reader, number) for number in wanted]
        keys = [_key(reader, row, reach, room.shared) for row in rows]
        own = {number: messages.vector(reader, number) for number in wanted}
        standing = _standing(room, reader, list(own.values()) if reach in TEACHES else [])
        before = {number: room.engine.judge(vector).importance for number, vector in own.items()}
        contrary = _contrary(room, reader, own, belongs) if reach in TEACHES else []
        with room.store.atomic() as db:
            step = journal.begin(db, room.clock(), "verdict", _title(db, rows, belongs, reach))
            learned = [
                _write(room, db, step, row, own[row.id], belongs, reach, key)
                for row, key in zip(rows, keys, strict=True)
            ]
            taught = learned if reach in TEACHES else []
            try:
                for lesson in taught:
                    room.engine.learn(lesson)
                near = _rescore(room, db, standing)
                judged = rescore_rows(db, room.engine, wanted, Rows.stacked(list(own.values())))
                effects = [Effect(n, before[n], p) for n, p in zip(own, judged.importance.tolist(), strict=True)]
                kin = _kin(db, near, own) if taught else []
                kin = _bound_kin(db, rows, belongs, reach, kin)
                for lesson, effect in zip(learned, effects, strict=True):
                    lessons.note_effect(db, lesson.id, effect.before, effect.after, len(kin))
                room.load_sure(db)
            except BaseException:
                room.load()
                raise
        room.revision += 1
        followed = pull(room, step, [one.message.id for one in kin]) if kin and room.kin_follow else 0
    _announce(room, step, wanted)
    return Outcome(step, [one.id for one in learned], effects, kin[:MAX_KIN], len(kin), contrary, followed)


def pull(room: Mailroom, step: int, numbers: Sequence[int]) -> int:
    """Let kin of a step follow to where the model now puts them; returns the new step.

    These are moves in the journal, not lessons. Messages that went elsewhere since are left alone.
    """
    with room.changing:
        origin = journal.get(room.reader(), step)
        if origin.undone_at is not None:
            raise CallerError("That lesson was undone, so no kin can follow it.")
        made = [lessons.record(room.reader(), n) for n in lessons.of_step(room.reader(), step)]
        bound = next((one.belongs for one in made if one and one.reach not in ("learn", "message")), None)
        with room.store.atomic() as db:
            new = journal.begin(db, room.clock(), "kin", f"Kin that followed: {origin.title}")
            moved = []
            for row in messages.get_many(db, list(dict.fromkeys(numbers))[:MAX_AT_ONCE]):
                target = bound or settle(room.engine.judge(messages.vector(db, row.id)), room.costs)[0]
                if row.decided_by != "verdict" and row.place not in QUIET_PLACES and target != row.place:
                    journal.add_move(db, new, journal.Move(row.id, row.place, row.decided_by, target))
                    messages.move(db, row.id, target, "kin")
                    moved.append(row.id)
            if not moved:
                raise CallerError("None of these messages would move any more. Load the list again.")
    _announce(room, new, moved)
    return new


def undo(room: Mailroom, step: int | None = None) -> journal.Step:
    """Undo a step (the latest standing one when none is named).

    Messages still where the step put them go back; its lessons are taken out of the model, which then
    is what it would be had it never seen them. With more than :data:`UNDO_AT_ONCE` lessons after them, the
    journal and the mail change at once and the model follows in the background
    (:class:`hieranome.app.background.Rebuilder`).
    """
    with room.changing:
        reader = room.reader()
        target = journal.latest_standing(reader) if step is None else journal.get(reader, step)
        if target.undone_at is not None:
            raise CallerError(f"“{target.title}” is undone already.")
        made = lessons.of_step(reader, target.id)
        later = max((room.engine.later_than(number) for number in made), default=0) > UNDO_AT_ONCE
        standing = _Standing([], None, {}) if later else _standing(room, reader, [])
        with room.store.atomic() as db:
            moved = []
            for move in journal.moves(db, target.id):
                if messages.get(db, move.message).place == move.target:
                    messages.move(db, move.message, move.origin, move.origin_decided_by)
                    moved.append(move.message)
            journal.mark_undone(db, target.id, room.clock())
            lessons.mark_undone(db, target.id)
            try:
                if not later:
                    room.engine.forget_all(made)
                _rescore(room, db, standing)
                if moved:
                    rescore_rows(db, room.engine, moved, Rows.stacked([messages.vector(db, n) for n in moved]))
                room.load_sure(db)
            except BaseException:
                room.load()
                raise
        room.revision += 1
        if later:
            room.behind = True
            room.events.publish("rebuild", done=0, of=len(room.engine))
    _announce(room, target.id, moved)
    return journal.get(room.reader(), target.id)


def _check_bucket(db: sqlite3.Connection, belongs: str) -> None:
    known = [bucket.name for bucket in places.buckets(db)]
    if belongs not in known:
        raise CallerError(f"Mail cannot be put in {belongs!r} by a verdict. The buckets are: {', '.join(known)}.")


def _key(db: sqlite3.Connection, row: Message, reach: Reach, shared: frozenset[str]) -> str:
    if row.place in QUIET_PLACES and row.decided_by == "own":
        raise CallerError("This message is one you sent, so there is nothing to learn from where it stands.")
    if reach is Reach.THREAD:
        return str(row.thread)
    if reach in ALWAYS:
        return key_for(reach, _facts(db, row.id), shared)
    return ""


def _facts(db: sqlite3.Connection, number: int) -> MessageFacts:
    return read(messages.raw(db, number)).facts


def _title(db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach) -> str:
    title = next(p.title for p in places.every(db) if p.name == belongs)
    what = f"“{rows[0].subject[:80] or '(no subject)'}”" if len(rows) == 1 else f"{len(rows)} messages"
    how = {
        Reach.MESSAGE: ", this message only",
        Reach.THREAD: ", this thread from now on",
        Reach.LEARN: "",
        Reach.ADDRESS: ", always this sender",
        Reach.LIST: ", always this list",
        Reach.DOMAIN: ", always this domain",
    }[reach]
    return f"{what} to {title}{how}"


def _write(
    room: Mailroom,
    db: sqlite3.Connection,
    step: int,
    row: Message,
    vector: Vector,
    belongs: str,
    reach: Reach,
    key: str,
) -> Lesson:
    journal.add_move(db, step, journal.Move(row.id, row.place, row.decided_by, belongs))
    messages.move(db, row.id, belongs, "verdict")
    new = lessons.NewLesson(step, row.id, room.clock(), row.place, belongs, reach, key, vector)
    return lessons.add(db, new)


def _standing(room: Mailroom, db: sqlite3.Connection, corrected: Sequence[Vector]) -> _Standing:
    """What stands now, and what of it is like the ``corrected`` messages."""
    numbers = messages.standing(db)
    if not numbers:
        return _Standing([], None, {})
    rows = room.vectors.rows(db, numbers)
    alike = np.zeros(len(numbers))
    for vector in corrected[:MAX_COMPARED]:
        alike = np.maximum(alike, likeness(rows, vector))
    near = np.flatnonzero(alike >= KIN_LIKENESS).tolist()
    vectors = room.vectors.of(db, [numbers[at] for at in near])
    targets = settle_all(room.engine.weigh(Rows.stacked(vectors)), room.costs) if near else []
    return _Standing(numbers, rows, {at: (float(alike[at]), t) for at, t in zip(near, targets, strict=True)})


def _rescore(room: Mailroom, db: sqlite3.Connection, standing: _Standing) -> list[_Near]:
    """Bring the scores of what stands up to the model; returns what is like the corrected messages."""
    if standing.rows is None:
        return []
    found = rescore_rows(db, room.engine, standing.numbers, standing.rows)
    targets = settle_all(found, room.costs)
    near = []
    for at, (alike, was) in standing.near.items():
        importance, target = float(found.importance[at]), targets[at]
        sure = importance
        if target not in room.engine.important:
            sure = (1 - importance) * float(found.low[at, found.low_names.index(target)])
        near.append(_Near(standing.numbers[at], alike, was, target, sure))
    return near


def _contrary(room: Mailroom, db: sqlite3.Connection, own: dict[int, Vector], belongs: str) -> list[Contrary]:
    """What earlier lessons about such mail say, where it is something else."""
    found = {
        lesson.id
        for vector in list(own.values())[:MAX_COMPARED]
        for lesson in room.engine.like_lessons(vector, CONTRARY_LIKENESS)
        if lesson.belongs != belongs
    }
    said = lessons.latest_of(db, sorted(found)) if found else {}
    return [Contrary(bucket, count, latest) for bucket, (count, latest) in said.items()]


def _kin(db: sqlite3.Connection, near: Sequence[_Near], own: dict[int, Vector]) -> list[Kin]:
    """Like messages that stand elsewhere than the model now would put them; the surest first."""
    found = {
        one.message: (one.target, one.sureness)
        for one in near
        if one.message not in own and (one.target != one.was or one.alike >= CLOSE_LIKENESS)
    }
    rows = messages.get_many(db, list(found))
    kin = [
        Kin(row, *found[row.id])
        for row in rows
        if row.place != found[row.id][0] and row.place not in QUIET_PLACES and row.decided_by in ("model", "kin")
    ]
    return sorted(kin, key=lambda one: -one.sureness)


_BOUND_BY = {
    Reach.THREAD: "thread",
    Reach.ADDRESS: "sender_address",
    Reach.LIST: "list_id",
    Reach.DOMAIN: "sender_domain",
}


def _bound_kin(
    db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach, kin: list[Kin]
) -> list[Kin]:
    """For a lesson that binds a thread or a sender, what it binds comes first, and for sure."""
    column = _BOUND_BY.get(reach)
    if column is None:
        return kin
    own = {row.id for row in rows}
    found = messages.standing_with(db, column, [_column_value(r, reach) for r in rows], MAX_KIN)
    bound = [
        Kin(row, belongs, 1.0)
        for row in found
        if row.id not in own and row.place != belongs and row.decided_by != "verdict"
    ]
    ids = {one.message.id for one in bound}
    return bound + [one for one in kin if one.message.id not in ids]


def _column_value(row: Message, reach: Reach) -> str | int:
    if reach is Reach.THREAD:
        return row.thread
    if reach is Reach.LIST:
        return row.list_id
    return row.sender_address if reach is Reach.ADDRESS else row.sender_address.rpartition("@")[2]


def _announce(room: Mailroom, step: int, moved: Sequence[int]) -> None:
    room.events.publish("moved", step=step, messages=list(moved)[:100], revision=room.revision)
    room.tell_counts()
