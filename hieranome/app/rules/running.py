"""Rules run on mail that is here, in one step with progress, and on mail that grew old, once an hour."""

from __future__ import annotations

import sqlite3
from collections import deque
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Literal, assert_never

from dateutil.tz import tzlocal

from hieranome.app.following.due import note_due
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import MARKS, Mark, mark_in
from hieranome.app.room.moving import move
from hieranome.app.room.schedule import Regular, Schedule
from hieranome.app.room.worker import Worker
from hieranome.app.rules.applying import RULE
from hieranome.app.rules.keeping import Here, check_whole, read, whole_node
from hieranome.app.topics.finding import check_learned, find_here
from hieranome.core.actors import Actor
from hieranome.core.buckets import DESK
from hieranome.core.deciders import may_move
from hieranome.core.errors import Conflict
from hieranome.core.rules import Read, Rule
from hieranome.core.steps import StepKind
from hieranome.core.sure import Reach
from hieranome.core.times import DAY
from hieranome.store import following, journal, marked, rules, search, tags
from hieranome.store.rules import Hit

RAN = StepKind.RULE
"""The kind of steps in which a rule was run on the owner's word."""
HOUR = 3_600.0
MOST_AT_ONCE = 10_000
"""Messages that grew old, of one rule, at one look."""
_CHUNK = 1_000

Progress = Callable[[int, int], None]


class Runner:
    """Runs rules on what is here and lets topics find theirs in it, one after the other, from a thread. Each run is one
    change: whatever ends it, it is made or not."""

    def __init__(self, room: Mailroom) -> None:
        self._room = room
        self._waiting: deque[tuple[str, int]] = deque()
        self.worker = Worker(room, "rules", "running rules on the mail that is here", self._round)

    def start(self) -> None:
        """Begin to work."""
        self.worker.start()

    def close(self) -> None:
        """Stop after the run at hand; what waited is forgotten."""
        self._waiting.clear()
        self.worker.close()

    def run(self, number: int) -> None:
        """Run a rule soon. Raises :class:`CallerError` for one that cannot run, :class:`Conflict` for one that waits
        already."""
        rule = rules.get(self._room.reader(), number)
        check_whole(Here.of(self._room), rule)
        self._await("rule", number, rule.name)

    def find(self, number: int) -> None:
        """Let a topic find its mail soon. Raises :class:`Conflict` for one nothing was answered about, or that waits
        already."""
        one = check_learned(self._room, number)
        self._await("topic", number, tags.get(self._room.reader(), one.kept.tag).name)

    def _await(self, kind: str, number: int, name: str) -> None:
        if (kind, number) in self._waiting:
            raise Conflict(f"“{name}” is about to run already.")
        self._waiting.append((kind, number))
        self.worker.wake()

    def _round(self) -> float | None:
        while self._waiting and not self.worker.ended.is_set():
            (kind, number), step = self._waiting.popleft(), 0
            try:
                step = (run_here if kind == "rule" else find_here)(self._room, number)
            finally:  # whoever waits for it must not wait for ever
                self._room.tell("running", **{kind: number}, done=1, of=1, step=step)
        return None


def run_here(room: Mailroom, number: int) -> int:
    """Run a rule on all received mail that is here; the step, or 0 where nothing had to change."""

    def told(done: int, of: int) -> None:
        # At once, not after the commit: this is how far the change under way is.
        room.events.publish("running", rule=number, done=done, of=max(of, done + 1), step=0)

    with room.change() as db:
        one = _read(room, rules.get(db, number))
        found = search.every(db, whole_node(one))
        if one.rule.when == "ages":
            found = _due(db, one.rule, found, room.clock())
        return _carry_out(room, db, one, rules.received(db, found), told)


def ageing(room: Mailroom, schedule: Schedule) -> Regular:
    """What runs the rules for mail that grows old."""

    def work() -> None:
        run_ageing(room)

    return Regular(room, schedule, "ageing", "running rules for mail that grows old", HOUR, work)


def run_ageing(room: Mailroom) -> list[int]:
    """Run every rule for mail that grows old on what grew old since; the steps. No message is taken twice by one, not
    even where that was undone."""
    steps = []
    for rule in rules.every(room.reader()):
        if not rule.enabled or rule.when != "ages" or read(Here.of(room), rule) is None:
            continue
        with room.change() as db:
            one = _read(room, rules.get(db, rule.id))
            before = rules.taken(db, rule.id)
            old = _due(db, one.rule, search.every(db, whole_node(one)), room.clock())
            found = [n for n in old if n not in before]
            those = rules.received(db, found[-MOST_AT_ONCE:])
            step = _carry_out(room, db, one, those, kind=StepKind.AGED) if those else 0
            steps += [step] if step else []
    return steps


def next_ones(db: sqlite3.Connection, one: Read, most: int) -> list[tuple[int, int]]:
    """(id, when) of the messages a rule for mail that grows old takes next, the soonest first."""
    before = rules.taken(db, one.rule.id) if one.rule.id else set()
    found = [n for n in search.every(db, whole_node(one)) if n not in before]
    kept = set(rules.received(db, found))
    times = [(number, at) for number, at in _goes_at(db, one.rule, found) if number in kept]
    return sorted(times, key=lambda pair: (pair[1], pair[0]))[:most]


def _due(db: sqlite3.Connection, rule: Rule, found: Sequence[int], now: int) -> list[int]:
    """Those of some messages that are old enough for a rule, newest first."""
    return [number for number, at in _goes_at(db, rule, found) if at <= now]


def _goes_at(db: sqlite3.Connection, rule: Rule, found: Sequence[int]) -> list[tuple[int, int]]:
    """(id, when a rule takes it) of some messages, newest first; without those that stay as the last of their day."""
    rows = rules.ages(db, found)
    last = _last_of_day(rows) if rule.last_of_day else set()
    return [
        (number, (newest if rule.counted == "thread" else came) + rule.days * DAY)
        for number, _, came, newest in rows
        if number not in last
    ]


def _last_of_day(rows: Sequence[tuple[int, str, int, int]]) -> set[int]:
    """The newest message of each source and day of the owner's clock; the rows come newest first."""
    seen: dict[tuple[str, str], int] = {}
    for number, source, came, _ in rows:
        seen.setdefault((source, str(datetime.fromtimestamp(came, tzlocal()).date())), number)
    return set(seen.values())


def _read(room: Mailroom, rule: Rule) -> Read:
    here = Here.of(room)
    check_whole(here, rule)
    one = read(here, rule)
    assert one is not None
    return one


def _carry_out(
    room: Mailroom,
    db: sqlite3.Connection,
    one: Read,
    numbers: Sequence[int],
    told: Progress = lambda *_: None,
    kind: StepKind = RAN,
) -> int:
    """Do to messages what a rule says, as one step; the step, or 0 where nothing had to change."""
    rule = one.rule
    assured = rule.place == DESK and one.reach in (Reach.ADDRESS, Reach.DOMAIN)
    moving = rules.movable(db, numbers, rule.place, may_move(one.reach), assured=assured) if rule.place else []
    changes = [(name, wanted, _to_change(db, name, wanted, numbers)) for name, wanted in _wanted(rule)]
    changed = {row[0] for row in moving}.union(*(those for _, _, those in changes))
    if not changed:
        return 0
    title = f"Rule “{rule.name}”: {'1 message' if len(changed) == 1 else f'{len(changed)} messages'}"
    step = journal.begin(db, room.clock(), kind, title, Actor.RULE)
    for start in range(0, len(moving), _CHUNK):
        move(db, step, moving[start : start + _CHUNK], rule.place, RULE)
        told(start + _CHUNK, len(moving))
    for name, wanted, those in changes:
        _change(room, db, step, name, wanted, those)
    moved = {row[0] for row in moving}
    rules.note(db, [_hit(rule, number, moved) for number in numbers], room.clock(), step)
    room.tell_moved(step, sorted(changed))
    room.tell("rules")
    return step


def _hit(rule: Rule, number: int, moved: set[int]) -> Hit:
    return Hit(rule.id, number, rule.place if number in moved else "")


Changes = Literal["tag", "untag", "flag", "read", "due", "no-edition"]
_MARKS: dict[Changes, Mark] = {"flag": "flagged", "read": "read"}


def _wanted(rule: Rule) -> list[tuple[Changes, str]]:
    """What a rule does besides moving: what it changes, and of a tag which."""
    found: list[tuple[Changes, str]] = []
    for one in rule.actions:
        match one.verb:
            case "tag" | "untag" | "flag" | "read" | "due" | "no-edition":
                found.append((one.verb, one.target))
            case "bucket" | "folder" | "archive" | "trash" | "forward" | "draft" | "stop":
                pass  # moved by the step itself; what is sent and begun is for arriving mail alone
            case _:
                assert_never(one.verb)
    return found


def _to_change(db: sqlite3.Connection, name: Changes, target: str, numbers: Sequence[int]) -> list[int]:
    """The messages that are not yet as a rule wants them."""
    match name:
        case "tag" | "untag":
            carry = set(tags.carrying(db, int(target)))
            return [number for number in numbers if (number in carry) == (name == "untag")]
        case "flag" | "read":
            return marked.unmarked(db, numbers, MARKS[_MARKS[name]][0])
        case "due":
            have = {one.message for one in following.of(db, numbers) if one.kind == "due"}
            return [number for number in numbers if number not in have]
        case "no-edition":
            return rules.in_editions(db, numbers)
        case _:
            assert_never(name)


def _change(
    room: Mailroom, db: sqlite3.Connection, step: int, name: Changes, target: str, numbers: Sequence[int]
) -> None:
    match name:
        case "tag" | "untag":
            work = tags.put_on if name == "tag" else tags.take_off
            tags.note_tagging(db, step, work(db, numbers, int(target)), int(target), name == "tag")
            room.tell("tags")
        case "flag" | "read":
            mark_in(room, db, step, numbers, _MARKS[name])
        case "due":
            note_due(room, db, numbers, target, step)
        case "no-edition":
            rules.keep_out(db, numbers, step)
        case _:
            assert_never(name)
