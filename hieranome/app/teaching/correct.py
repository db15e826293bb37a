"""The owner corrects: a lesson, its move and its journal line commit together; then the model follows."""

from __future__ import annotations

import contextlib
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from hieranome.app.reading.processes import reading_of
from hieranome.app.reading.vectors import vector_of
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.moving import move
from hieranome.app.room.scoring import rescore_in_sight, rescore_rows
from hieranome.app.teaching.before import Before, Change, Effect
from hieranome.app.teaching.contrary import Contrary
from hieranome.app.teaching.kin import MAX_KIN, Kin, bound_kin, kin_of
from hieranome.app.teaching.looking import withdraw
from hieranome.app.teaching.promise import Promise, promise_of
from hieranome.core.actors import Actor
from hieranome.core.buckets import DESK, QUIET_PLACES
from hieranome.core.deciders import BY_HAND, Decider
from hieranome.core.errors import CallerError
from hieranome.core.gaussian import Rows
from hieranome.core.judgement import Lesson
from hieranome.core.routing import settle
from hieranome.core.steps import StepKind
from hieranome.core.sure import ALWAYS, TEACHES, Reach, key_for
from hieranome.store import accounts, goals, journal, lessons, messages, places, rules
from hieranome.store.messages import Message

MAX_AT_ONCE = 500
"""Messages one verdict may cover."""


class NothingFollows(CallerError):
    """None of the kin asked for would move."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """What follows from a verdict; ``changed`` is the evidence of a single message that changed most; ``moved`` is how
    many messages it was about, those that went along included; ``followed`` is the step in which kin followed by the
    owner's setting, or 0; ``rule`` is one that had put a message where the verdict says it does not belong, or 0;
    ``promise`` says what the next message of their one source does, None where they are of several."""

    step: int
    lessons: list[int]
    effects: list[Effect]
    kin: list[Kin]
    kin_total: int
    contrary: list[Contrary]
    changed: list[Change]
    moved: int
    followed: int = 0
    rule: int = 0
    promise: Promise | None = None


def correct(
    room: Mailroom,
    numbers: Sequence[int],
    belongs: str,
    reach: Reach | None = Reach.LEARN,
    *,
    stay: bool = False,
    title: str = "",
    found: str = "",
    elsewhere: bool = False,
    follow: bool | None = None,
    along: Sequence[int] = (),
    step: int = 0,
) -> Outcome:
    """Put messages where they belong, as lessons of the given reach (None: always, for the list of each, or else its
    sender); with ``stay`` the lesson is learned and the messages stay where they stand, but for those ``along``.
    ``title`` is what the journal calls it, if not by its messages. ``found`` is where another program put them, when it
    taught the lesson; ``elsewhere`` says that one did, without moving them now. ``follow`` says whether kin follow at
    once; left out, the owner's setting does. Messages ``along`` go there too in the same step, untaught. ``step`` was
    begun, and this is part of it. Raises :class:`CallerError` when the reach cannot hold for a message,
    :class:`NotFound` for a message or bucket that does not exist; nothing is changed then.
    """
    wanted = list(dict.fromkeys(numbers))
    with room.change() as db:
        belongs = _checked(db, wanted, belongs, reach)
        rows = [messages.get(db, number) for number in wanted]
        bound = _bound(room, db, rows, reach)
        before = Before.of(room, db, rows, belongs, bound[0][0])
        beside = messages.stood(db, set(along) if stay else set(along).difference(wanted))
        title = title or _title(db, rows, belongs, bound[0][0], stay, bool(found) or elsewhere, len(beside))
        step = step or _begin(room, db, title, elsewhere=bool(found) or elsewhere)
        if not stay:
            move(db, step, messages.stood(db, wanted), found or belongs, Decider.VERDICT)
            _carry(db, wanted)
        move(db, step, beside, belongs, Decider.KIN)
        withdraw(room, db, [*wanted, *along])
        own = before.vectors
        learned = [
            lessons.add(db, lessons.NewLesson(step, row.id, room.clock(), row.place, belongs, far, key, own[row.id]))
            for row, (far, key) in zip(rows, bound, strict=True)
        ]
        effects, changed, kin = _follow(room, db, before, rows, belongs, bound[0][0], learned)
        followed = _pull_all(room, step, kin) if kin and (room.kin_follow if follow is None else follow) else 0
        promise, rule = promise_of(room, db, rows, belongs), _rule_against(db, rows, belongs)
        room.tell_moved(step, [*wanted, *along])
    moved = len(beside) + (0 if stay else len(rows))
    ids, some = [one.id for one in learned], kin[:MAX_KIN]
    return Outcome(step, ids, effects, some, len(kin), before.contrary, changed, moved, followed, rule, promise)


def _begin(room: Mailroom, db: sqlite3.Connection, title: str, *, elsewhere: bool) -> int:
    kind, actor = (StepKind.ELSEWHERE, Actor.ELSEWHERE) if elsewhere else (StepKind.VERDICT, Actor.OWNER)
    return journal.begin(db, room.clock(), kind, title, actor)


def _rule_against(db: sqlite3.Connection, rows: Sequence[Message], belongs: str) -> int:
    """A rule that had put one of some messages, as they stood, elsewhere than they belong; 0 where none did."""
    put = (rules.placing(db, row.id) for row in rows if row.decided_by == Decider.RULE and row.place != belongs)
    return next(put, 0)


def _follow(
    room: Mailroom,
    db: sqlite3.Connection,
    before: Before,
    rows: Sequence[Message],
    belongs: str,
    reach: Reach,
    learned: Sequence[Lesson],
) -> tuple[list[Effect], list[Change], list[Kin]]:
    """Let the model take in new lessons, and the scores follow it; what that did."""
    room.touch()
    own = before.vectors
    taught = learned if reach in TEACHES else []
    for lesson in taught:  # of a bucket that is switched off, the model learns what stands for it
        room.engine.learn(replace(lesson, belongs=places.in_use(db, lesson.belongs)))
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


def _pull_all(room: Mailroom, step: int, kin: Sequence[Kin]) -> int:
    """Let all kin of a step follow; the new step, or 0 where none would move."""
    with contextlib.suppress(NothingFollows):
        return pull(room, step, [one.message.id for one in kin])
    return 0


def pull(room: Mailroom, step: int, numbers: Sequence[int]) -> int:
    """Let kin of a step follow to where the model now puts them; returns the new step.

    These are moves in the journal, not lessons. Messages that went elsewhere since are left alone. Raises
    :class:`NothingFollows` when none of them would move any more.
    """
    with room.change() as db:
        origin = journal.get(db, step)
        if origin.undone_at is not None:
            raise CallerError("That lesson was undone, so no similar mail can follow it.")
        made = [lessons.record(db, n) for n in lessons.of_step(db, step)]
        bound = next((one.belongs for one in made if one and one.reach not in ("learn", "message")), None)
        moves = []
        for row in messages.get_many(db, list(dict.fromkeys(numbers))[:MAX_AT_ONCE]):
            target = bound or settle(room.engine.judge(vector_of(room, db, row.id)), room.costs)[0]
            if row.decided_by not in BY_HAND and row.place not in QUIET_PLACES and target != row.place:
                moves.append(journal.Move(row.id, row.place, row.decided_by, target))
        if not moves:
            raise NothingFollows("None of these messages would move any more. Load the list again.")
        new = journal.begin(db, room.clock(), StepKind.KIN, f"Similar mail that followed: {origin.title}")
        for move in moves:
            journal.add_move(db, new, move)
            messages.move(db, move.message, move.target, Decider.KIN)
        withdraw(room, db, [move.message for move in moves])
        room.tell_moved(new, [move.message for move in moves])
    return new


def _checked(db: sqlite3.Connection, wanted: Sequence[int], belongs: str, reach: Reach | None) -> str:
    """The bucket a verdict means: the one that takes its mail, where it is switched off; what is refused goes to the
    Drain all the same."""
    if not wanted or len(wanted) > MAX_AT_ONCE:
        raise CallerError(f"A verdict covers 1 to {MAX_AT_ONCE} messages; {len(wanted)} were given.")
    always = reach is None or reach in ALWAYS
    taken = places.bound_for(db, belongs) if always else places.in_use(db, belongs)
    known = [bucket.name for bucket in (places.every_bucket(db) if always else places.buckets(db))]
    if taken not in known:
        raise CallerError(f"Mail cannot be put in {taken!r} by a verdict. The buckets are: {', '.join(known)}.")
    return taken


def _bound(
    room: Mailroom, db: sqlite3.Connection, rows: Sequence[Message], reach: Reach | None
) -> list[tuple[Reach, str]]:
    """How far a lesson about each message reaches, and what it binds there."""
    reaches = [reach or (Reach.LIST if row.list_id else Reach.ADDRESS) for row in rows]
    return [(far, key_bound(db, row, far, room.shared)) for row, far in zip(rows, reaches, strict=True)]


def key_bound(db: sqlite3.Connection, row: Message, reach: Reach, shared: frozenset[str]) -> str:
    """What a lesson of some reach about a message binds; ``shared`` are domains many unrelated people write from.
    Raises :class:`CallerError` when it cannot."""
    if row.decided_by == Decider.EDITION:
        raise CallerError(
            "This message is an edition, put together here: there is nothing to learn from where it stands."
        )
    if row.place in QUIET_PLACES and row.decided_by == Decider.OWN:
        raise CallerError("This message is one you sent, so there is nothing to learn from where it stands.")
    if reach is Reach.THREAD:
        return str(row.thread)
    if reach in ALWAYS:
        return key_for(reach, reading_of(messages.raw(db, row.id)).facts, shared)
    return ""


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
    db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach, stay: bool, elsewhere: bool, along: int
) -> str:
    title = next(p.title for p in places.every(db) if p.name == belongs)
    if elsewhere:
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


def _carry(db: sqlite3.Connection, numbers: Sequence[int]) -> None:
    """A verdict carries on the server too where the message stands there already here."""
    for account in accounts.every(db):
        if account.routing:
            goals.aim(db, account.id, numbers)
