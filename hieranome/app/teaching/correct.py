"""The owner corrects: a lesson, its move and its journal line commit together; then the model follows."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.arrival.placement import examine
from hieranome.app.arrival.processes import reading_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.scoring import rescore_in_sight, rescore_rows
from hieranome.app.teaching.contrary import Contrary, contrary_to
from hieranome.app.teaching.kin import MAX_COMPARED, MAX_KIN, Kin, Like, bound_kin, kin_of
from hieranome.app.teaching.looking import withdraw
from hieranome.core.buckets import DESK, QUIET_PLACES
from hieranome.core.errors import CallerError
from hieranome.core.evidence import Line, explain, shifted
from hieranome.core.facts import MessageFacts
from hieranome.core.features import Vector
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Lesson
from hieranome.core.routing import settle
from hieranome.core.sure import ALWAYS, TEACHES, Reach, key_for
from hieranome.store import accounts, goals, journal, lessons, messages, places, threads
from hieranome.store.lessons import LessonRecord
from hieranome.store.messages import Message

MAX_AT_ONCE = 500
"""Messages one verdict may cover."""
MAX_CHANGES = 4
"""Lines of evidence told that a lesson changed."""


class NothingFollows(CallerError):
    """None of the kin asked for would move."""


@dataclass(frozen=True, slots=True)
class Effect:
    """What a verdict did to one message: its importance in [0, 1] before and after."""

    message: int
    before: float
    after: float


@dataclass(frozen=True, slots=True)
class Change:
    """A line of evidence a lesson changed: what it says now, what it contributed before, the lesson it is about."""

    line: Line
    before: float
    lesson: LessonRecord | None


@dataclass(frozen=True, slots=True)
class Outcome:
    """What follows from a verdict; ``changed`` is the evidence of a single message that changed most; ``moved`` is how
    many messages it was about, those that went along included; ``followed`` is the step in which kin followed by the
    owner's setting, or 0."""

    step: int
    lessons: list[int]
    effects: list[Effect]
    kin: list[Kin]
    kin_total: int
    contrary: list[Contrary]
    changed: list[Change]
    moved: int
    followed: int = 0


def correct(
    room: Mailroom,
    numbers: Sequence[int],
    belongs: str,
    reach: Reach = Reach.LEARN,
    *,
    stay: bool = False,
    found: str = "",
    elsewhere: bool = False,
    follow: bool | None = None,
    along: Sequence[int] = (),
) -> Outcome:
    """Put messages where they belong, as lessons of the given reach; with ``stay`` the lesson is learned and the
    messages stay where they stand. ``found`` is where another program put them, when it taught the lesson;
    ``elsewhere`` says that one did, without moving them now. ``follow`` says whether kin follow at once; left out, the
    owner's setting does. Messages ``along`` go there too in the same step, without a lesson of their own.

    Raises :class:`CallerError` when the reach cannot hold for a message, :class:`NotFound` for a
    message or bucket that does not exist; nothing is changed then.
    """
    wanted = list(dict.fromkeys(numbers))
    if not wanted or len(wanted) > MAX_AT_ONCE:
        raise CallerError(f"A verdict covers 1 to {MAX_AT_ONCE} messages; {len(wanted)} were given.")
    with room.change() as db:
        belongs = places.in_use(db, belongs)
        _check_bucket(db, belongs)
        rows = [messages.get(db, number) for number in wanted]
        keys = [_key(db, row, reach, room.shared) for row in rows]
        before = _Before.of(room, db, rows, belongs, reach)
        kind = "elsewhere" if found or elsewhere else "verdict"
        beside = messages.stood(db, set(along).difference(wanted))
        step = journal.begin(db, room.clock(), kind, _title(db, rows, belongs, reach, stay, kind, len(beside)))
        if not stay:
            _move(db, step, messages.stood(db, wanted), found or belongs, "verdict")
            _carry(db, wanted)
        _move(db, step, beside, belongs, "kin")
        withdraw(room, db, [*wanted, *along])
        own = before.vectors
        learned = [
            lessons.add(db, lessons.NewLesson(step, row.id, room.clock(), row.place, belongs, reach, key, own[row.id]))
            for row, key in zip(rows, keys, strict=True)
        ]
        effects, changed, kin = _follow(room, db, before, rows, belongs, reach, learned)
        followed = 0
        if kin and (room.kin_follow if follow is None else follow):
            with contextlib.suppress(NothingFollows):
                followed = pull(room, step, [one.message.id for one in kin])
        room.tell_moved(step, [*wanted, *along])
    ids, moved = [one.id for one in learned], len(rows) + len(beside)
    return Outcome(step, ids, effects, kin[:MAX_KIN], len(kin), before.contrary, changed, moved, followed)


def _follow(
    room: Mailroom,
    db: sqlite3.Connection,
    before: _Before,
    rows: Sequence[Message],
    belongs: str,
    reach: Reach,
    learned: Sequence[Lesson],
) -> tuple[list[Effect], list[Change], list[Kin]]:
    """Let the model take in new lessons, and the scores follow it; what that did."""
    room.touch()
    own = before.vectors
    taught = learned if reach in TEACHES else []
    for lesson in taught:
        room.engine.learn(lesson)
    if taught:
        rescore_in_sight(room, db)
    judged = rescore_rows(db, room.engine, [row.id for row in rows], Rows.stacked(list(own.values())))
    effects = before.effects(judged.importance.tolist())
    changed = before.weighed.changes(db) if before.weighed else []
    kin = kin_of(db, before.like.now(), set(own)) if before.like else []
    kin = bound_kin(db, rows, belongs, reach, kin)
    for lesson, effect in zip(learned, effects, strict=True):
        lessons.note_effect(db, lesson.id, effect.before, effect.after, len(kin))
    room.load_sure(db)
    room.revision += 1
    return effects, changed, kin


def pull(room: Mailroom, step: int, numbers: Sequence[int]) -> int:
    """Let kin of a step follow to where the model now puts them; returns the new step.

    These are moves in the journal, not lessons. Messages that went elsewhere since are left alone. Raises
    :class:`NothingFollows` when none of them would move any more.
    """
    with room.change() as db:
        origin = journal.get(db, step)
        if origin.undone_at is not None:
            raise CallerError("That lesson was undone, so no kin can follow it.")
        made = [lessons.record(db, n) for n in lessons.of_step(db, step)]
        bound = next((one.belongs for one in made if one and one.reach not in ("learn", "message")), None)
        moves = []
        for row in messages.get_many(db, list(dict.fromkeys(numbers))[:MAX_AT_ONCE]):
            target = bound or settle(room.engine.judge(messages.vector(db, row.id)), room.costs)[0]
            if row.decided_by not in ("verdict", "filed") and row.place not in QUIET_PLACES and target != row.place:
                moves.append(journal.Move(row.id, row.place, row.decided_by, target))
        if not moves:
            raise NothingFollows("None of these messages would move any more. Load the list again.")
        new = journal.begin(db, room.clock(), "kin", f"Kin that followed: {origin.title}")
        for move in moves:
            journal.add_move(db, new, move)
            messages.move(db, move.message, move.target, "kin")
        withdraw(room, db, [move.message for move in moves])
        room.tell_moved(new, [move.message for move in moves])
    return new


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
    return reading_of(messages.raw(db, number)).facts


def weigh_anew(room: Mailroom, numbers: Sequence[int], *, up: bool) -> Outcome:
    """Teach that messages matter more, or less, than the model thinks; they stay where they stand.

    More is a lesson for the Desk; less is one for the low bucket each stands in, or else the likeliest of them.
    """
    reader = room.reader()
    rows = [messages.get(reader, number) for number in dict.fromkeys(numbers)]
    low_buckets = {bucket.name for bucket in room.engine.buckets if not bucket.important}
    low = {row.place if row.place in low_buckets else row.likely for row in rows}
    if not up and len(low) > 1:
        raise CallerError("These messages would belong in different buckets. Weigh them one bucket at a time.")
    return correct(room, numbers, DESK if up or not low else low.pop(), stay=True)


def _title(
    db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach, stay: bool, kind: str, along: int
) -> str:
    title = next(p.title for p in places.every(db) if p.name == belongs)
    if kind == "elsewhere":
        return f"“{rows[0].subject[:80] or '(no subject)'}” to {title}, in another program"
    if stay:
        title = "matters more: Desk" if belongs == DESK else f"matters less: {title}"
    what = f"“{rows[0].subject[:80] or '(no subject)'}”" if len(rows) == 1 else f"{len(rows)} messages"
    how = {
        Reach.MESSAGE: ", this message only",
        Reach.THREAD: ", this thread from now on",
        Reach.LEARN: "",
        Reach.ADDRESS: ", always this sender",
        Reach.LIST: ", always this list",
        Reach.DOMAIN: ", always this domain",
    }[reach]
    what += f" and {along} others" if along > 1 else " and one other" if along else ""
    return f"{what} {title}, and stays" if stay else f"{what} to {title}{how}"


def _move(
    db: sqlite3.Connection, step: int, stood: Sequence[tuple[int, str, str]], belongs: str, decided_by: str
) -> None:
    journal.add_moves(db, step, (journal.Move(*one, belongs) for one in stood))
    messages.move_all(db, [number for number, _, _ in stood], belongs, decided_by)


def _carry(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """A verdict carries on the server too where the message stands there already here."""
    for account in accounts.every(db):
        if account.routing:
            goals.aim(db, account.id, numbers)


class _Evidence:
    """The evidence of one message before a lesson, to be compared with what it is afterwards."""

    def __init__(self, room: Mailroom, db: sqlite3.Connection, row: Message) -> None:
        self._room = room
        self._vector = messages.vector(db, row.id)
        self._facts = _facts(db, row.id)
        self._context = examine(room, db, self._facts, row.id).context(room, threads.has_mine(db, row.thread))
        self._before = self._lines()

    def _lines(self) -> list[Line]:
        every = len(self._room.engine)
        return explain(self._room.engine, self._vector, self._facts, self._context, named=every)

    def changes(self, db: sqlite3.Connection) -> list[Change]:
        """What changed most since."""
        found = shifted(self._before, self._lines())[:MAX_CHANGES]
        return [Change(line, was, lessons.record(db, line.lesson) if line.lesson else None) for line, was in found]


@dataclass(frozen=True, slots=True)
class _Before:
    """What was so before a lesson, to be compared with what follows from it."""

    vectors: dict[int, Vector]
    importance: dict[int, float]
    like: Like | None
    weighed: _Evidence | None
    contrary: list[Contrary]

    @classmethod
    def of(cls, room: Mailroom, db: sqlite3.Connection, rows: list[Message], belongs: str, reach: Reach) -> _Before:
        """Look at the messages of a lesson; at what it teaches only where it does."""
        vectors = {row.id: messages.vector(db, row.id) for row in rows}
        teaches = reach in TEACHES
        return cls(
            vectors,
            {number: room.engine.judge(vector).importance for number, vector in vectors.items()},
            Like(room, db, list(vectors.values())[:MAX_COMPARED]) if teaches else None,
            _Evidence(room, db, rows[0]) if teaches and len(rows) == 1 else None,
            contrary_to(room, db, vectors, belongs) if teaches else [],
        )

    def effects(self, now: Sequence[float]) -> list[Effect]:
        """What the lesson did to each message, given the importances now."""
        return [Effect(n, self.importance[n], after) for n, after in zip(self.vectors, now, strict=True)]
