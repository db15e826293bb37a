"""Owed: what others owe the owner, and what the owner owes others."""

from __future__ import annotations

import sqlite3
import statistics
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from hieranome.app.following.due import tell_followed, time_of, told, typed
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import Filed, named, rows_of
from hieranome.core.errors import CallerError
from hieranome.core.owing import BOUND, Awaiting, Example, declines, open_question, promise, questions
from hieranome.core.steps import StepKind
from hieranome.core.text import passages
from hieranome.core.times import DAY
from hieranome.core.when import Moment, moments_in
from hieranome.store import following, journal, messages, owing
from hieranome.store.following import State
from hieranome.store.messages import Message
from hieranome.store.owing import Letter

Side = Literal["they", "you"]
OWED = StepKind.OWED
"""The kind of steps that let go what is owed, or wait for it."""
DAYS = 30
"""What is older is owed no more."""
LEARNED_DAYS = 240
"""Mail that old is learned from."""
RIPE = {"they": 3 * DAY, "you": 2 * DAY}
"""Seconds after which no answer to mail counts as none."""
IMPORTANT = 0.2
"""From which importance on the owner owes an answer to mail that does not stand on the Desk."""
IMPORTANT_OF_MANY = 0.5
"""The same of mail that went to many."""
PROMISED = 0.5
"""The importance of what the owner promised: below that of most questions, for many promises are kept otherwise."""
HOUR = 3_600
MOST = 200
"""Lines of each list."""


@dataclass(frozen=True, slots=True)
class Owed:
    """An answer, or what was promised, that is owed: the message it is about, the sentence that asks or promises, who
    owes it or waits for it, how long that person usually takes (seconds, 0: not known), until when the owner waits
    (0: no time was said), the due time a promise names (0: none), and whether nobody answered until then."""

    message: Message
    sentence: str
    person: str
    usual: int
    until: int
    proposed: str
    promised: bool
    missed: bool


def owed(room: Mailroom) -> tuple[list[Owed], list[Owed]]:
    """What they owe the owner, the longest over their usual time first, and what the owner owes them, by importance and
    age."""
    now = room.clock()
    they, you = _stands(room, lambda _: True, lambda one: one.standing and _is_important(one))
    they.sort(key=lambda one: -(now - one.message.time) / max(DAY, one.usual))
    you.sort(key=lambda one: -_weight(one, now))
    return they[:MOST], you[:MOST]


def owed_among(room: Mailroom, numbers: Sequence[int]) -> frozenset[int]:
    """Those of some messages that the owner owes an answer."""
    db, now = room.reader(), room.clock()
    letters = owing.received(db, now - DAYS * DAY, among=numbers) if numbers else []
    found = [one for one in letters if _is_open(one, now) and one.standing and _is_important(one)]
    if not found:
        return frozenset()
    kept = room.awaiting.get("you")
    recent = kept is not None and isinstance(kept[0], tuple) and kept[0][0] == now // HOUR
    known = [] if recent else owing.received(db, now - LEARNED_DAYS * DAY)
    model = kept[1] if kept is not None and recent else learned(room, "you", known)
    asking = _likely(room, model, found)
    said = owing.texts(db, asking)
    return frozenset(number for number in asking if not declines(_own_text(said.get(number, ""))))


def open_with(room: Mailroom, address: str) -> tuple[list[Owed], list[Owed]]:
    """What one person owes the owner, and what the owner owes them, question by question, the oldest first; what they
    ask whether or not it is important."""

    def theirs(one: Letter) -> bool:
        return one.person == address

    they, you = _stands(room, theirs, theirs)
    return _each(room.reader(), they), sorted(_each(room.reader(), you), key=lambda one: one.message.time)


def _stands(
    room: Mailroom, mine_of: Callable[[Letter], bool], theirs_of: Callable[[Letter], bool]
) -> tuple[list[Owed], list[Owed]]:
    """What stands open both ways, of some of what the owner wrote and of what others did."""
    db = room.reader()
    now = room.clock()
    since = now - LEARNED_DAYS * DAY
    mine, theirs = owing.written(db, since), owing.received(db, since)
    awaited = {one.message: one.state for one in following.every(db, "awaited")}
    missed = {one.message for one in following.every(db, "unanswered")}
    to_them = [one for one in _latest(one for one in mine if _is_open(one, now)) if mine_of(one)]
    by_them = [one for one in theirs if _is_open(one, now) and theirs_of(one)]
    asked = set(_awaiting(room, "they", mine, to_them)) | awaited.keys() | missed
    asking = set(_awaiting(room, "you", theirs, by_them))
    usual = _usual_times(mine)
    they = _shown(db, [one for one in to_them if one.id in asked], usual, awaited, missed)
    you = _shown(db, [one for one in by_them if one.id in asking], {}, {}, set())
    return they, [*you, *_promises(room, db, [one for one in mine if mine_of(one)], now)]


def _each(db: sqlite3.Connection, found: Sequence[Owed]) -> list[Owed]:
    """What messages ask, question by question; a promise is one."""
    said = owing.texts(db, [one.message.id for one in found if not one.promised])
    asked = [(one, questions(_own_text(said.get(one.message.id, ""))) or [one.sentence]) for one in found]
    return [replace(one, sentence=sentence) for one, several in asked for sentence in several]


def _weight(one: Owed, now: int) -> float:
    """Importance times age."""
    importance = PROMISED if one.promised else one.message.score
    return importance * max(1.0, (now - one.message.time) / DAY)


def _is_open(one: Letter, now: int) -> bool:
    return not one.answered_at and not one.settled and one.time >= now - DAYS * DAY


def _is_important(one: Letter) -> bool:
    bound = IMPORTANT_OF_MANY if one.many else IMPORTANT
    return one.on_desk or one.score >= bound


def _latest(found: Iterable[Letter]) -> list[Letter]:
    """The last of each thread."""
    last: dict[int, Letter] = {}
    for one in found:
        last[one.thread] = one
    return list(last.values())


def _awaiting(room: Mailroom, side: Side, known: Sequence[Letter], asked: Sequence[Letter]) -> list[int]:
    """Those of some messages that await an answer, by what such mail got so far."""
    return _likely(room, learned(room, side, known), asked)


def _likely(room: Mailroom, model: Awaiting, asked: Sequence[Letter]) -> list[int]:
    vectors = messages.vectors(room.reader(), [one.id for one in asked])
    there = [one for one in asked if one.id in vectors]
    found = model.likely([vectors[one.id] for one in there])
    return [one.id for one, likely in zip(there, found.tolist(), strict=True) if likely >= BOUND]


def learned(room: Mailroom, side: Side, known: Sequence[Letter]) -> Awaiting:
    """What mail of one side got so far, learned: once an hour, and whenever something was let go."""
    now = room.clock()
    stands = (now // HOUR, tuple(one.id for one in known if one.settled))
    kept = room.awaiting.get(side)
    if kept is not None and kept[0] == stands:
        return kept[1]
    ripe = [one for one in known if one.answered_at or one.settled or one.time < now - RIPE[side]]
    vectors = messages.vectors(room.reader(), [one.id for one in ripe])
    model = Awaiting.learned(
        [Example(vectors[one.id], bool(one.answered_at), one.settled) for one in ripe if one.id in vectors]
    )
    room.awaiting[side] = (stands, model)
    return model


def _usual_times(mine: Sequence[Letter]) -> dict[str, int]:
    """How long each person usually takes to answer; under the empty name, all of them."""
    lags: dict[str, list[int]] = defaultdict(list)
    for one in mine:
        if one.answered_at:
            lags[one.person].append(one.answered_at - one.time)
            lags[""].append(one.answered_at - one.time)
    return {person: int(statistics.median(found)) for person, found in lags.items()}


def _own_text(text: str) -> str:
    return "\n".join(part.text for part in passages(text) if not part.quoted)


def _shown(
    db: sqlite3.Connection,
    letters: Sequence[Letter],
    usual: dict[str, int],
    awaited: dict[int, State],
    missed: set[int],
) -> list[Owed]:
    rows = {row.id: row for row in messages.get_many(db, [one.id for one in letters])}
    names = owing.names(db, [one.person for one in letters])
    said = owing.texts(db, list(rows))
    found = []
    for one in letters:
        text = _own_text(said.get(one.id, ""))
        wished = one.id in awaited or one.id in missed
        if one.id in rows and (wished or not declines(text)):
            waits = awaited.get(one.id)
            found.append(
                Owed(
                    rows[one.id],
                    open_question(text),
                    names.get(one.person, one.person),
                    usual.get(one.person, usual.get("", 0)),
                    waits.at if waits else 0,
                    "",
                    False,
                    one.id in missed,
                )
            )
    return found


def _promises(room: Mailroom, db: sqlite3.Connection, mine: Sequence[Letter], now: int) -> list[Owed]:
    """What the owner promised in mail after which they wrote nothing more in the thread."""
    kept = {one.message for one in following.every(db, "kept")}
    recent = _latest(one for one in mine if one.time >= now - DAYS * DAY)
    open_ones = [one for one in recent if one.id not in kept]
    said = owing.texts(db, [one.id for one in open_ones])
    promised = {one.id: sentence for one in open_ones if (sentence := promise(_own_text(said.get(one.id, ""))))}
    rows = {row.id: row for row in messages.get_many(db, list(promised))}
    names = owing.names(db, [one.person for one in open_ones if one.id in rows])
    found = []
    for one in open_ones:
        if one.id in rows:
            dates = moments_in(promised[one.id], datetime.fromtimestamp(one.time, room.zone), room.now())
            proposed = typed(dates[0].moment, room) if dates else ""
            person = names.get(one.person, one.person)
            found.append(Owed(rows[one.id], promised[one.id], person, 0, 0, proposed, True, False))
    return found


def let_go(room: Mailroom, numbers: Sequence[int], *, promised: bool = False) -> Filed:
    """Nobody owes anything for these messages any more; the next like them is not listed. ``promised`` says that what
    was promised in them is meant."""
    kind: following.Kind = "kept" if promised else "settled"
    with room.change() as db:
        rows = rows_of(db, numbers)
        step = journal.begin(db, room.clock(), OWED, f"{named(rows)}: nothing is owed any more")
        for row in rows:
            following.change(db, step, kind, row.id, State(0, room.clock()))
            _forget(db, step, row.id, () if promised else ("awaited", "unanswered"))
        return tell_followed(room, step, rows)


def _forget(db: sqlite3.Connection, step: int, number: int, kinds: Iterable[following.Kind]) -> None:
    for kind in kinds:
        if following.get(db, kind, number) is not None:
            following.change(db, step, kind, number, None)


def await_answer(room: Mailroom, numbers: Sequence[int], said: str) -> Filed:
    """Tell when nobody has answered these messages by a time that was typed."""
    with room.change() as db:
        until = time_of(room, db, said)
        if not until:
            raise CallerError("Say by when an answer is wanted.")
        rows = rows_of(db, numbers)
        title = f"{named(rows)}: reminder if nobody answers by {told(room, Moment(until))}"
        step = journal.begin(db, room.clock(), OWED, title)
        for row in rows:
            following.change(db, step, "awaited", row.id, State(until, room.clock()))
            _forget(db, step, row.id, ("unanswered", "settled"))
        following.note_said(db, said, room.clock())
        return tell_followed(room, step, rows)


def question_of(room: Mailroom, number: int) -> str:
    """The open question of a message, to be quoted when it is asked again."""
    return open_question(_own_text(owing.texts(room.reader(), [number]).get(number, "")))
