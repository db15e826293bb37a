"""What a rule would do, told while it is written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rules.keeping import sentence, understood, whole_node
from hieranome.app.rules.running import next_ones
from hieranome.app.searching import names_of
from hieranome.core.routing import bounds
from hieranome.core.rules import Read, Rule
from hieranome.core.times import DAY
from hieranome.store import places, rules, search
from hieranome.store.messages import Message, get_many

DAYS = 90
NEWEST = 10
FEW = 5
HIDDEN_DAYS = 7
"""For how long it is told that a rule hid something."""
MOST_HIDDEN = 50
QUICK = 200
"""Messages after which a quick answer stops counting."""


@dataclass(frozen=True, slots=True)
class Preview:
    """Which mail of the last :data:`DAYS` days a rule would take: how it reads, how many (``exact`` or at least so
    many), the newest; how many of those stand where the rule puts them already, and how many of these by the model;
    how many the owner put elsewhere by a verdict; those the owner answered; those the model is surest belong elsewhere;
    and, of a rule for mail that grows old, what goes next and when (Unix seconds)."""

    sentence: str
    total: int
    exact: bool
    newest: list[Message]
    standing: int = 0
    by_model: int = 0
    against: int = 0
    answered: int = 0
    answers: list[Message] = field(default_factory=list)
    marginal: list[Message] = field(default_factory=list)
    following: list[tuple[Message, int]] = field(default_factory=list)


def preview(room: Mailroom, rule: Rule, *, quick: bool = False) -> Preview:
    """What a rule would take; with ``quick`` only the newest, and a count that may be too small.

    Raises :class:`hieranome.core.values.QueryError` for a line that cannot be understood.
    """
    db, known = room.reader(), names_of(room)
    one = understood(known, rule)
    said = sentence(known, rule.line, rule.excepted)
    since = room.clock() - DAYS * DAY
    found = search.every(db, whole_node(one), since, QUICK if quick else 0)
    kept = set(rules.received(db, found))
    numbers = [number for number in found if number in kept]
    told = Preview(said, len(numbers), not quick or len(found) < QUICK, get_many(db, numbers[:NEWEST]))
    return told if quick else _with_more(room, one, numbers, told)


def _with_more(room: Mailroom, one: Read, numbers: Sequence[int], told: Preview) -> Preview:
    db, place = room.reader(), one.rule.place
    rows = rules.standing(db, numbers)
    answered = [row[0] for row in rows if row[3]]
    at_place = [row for row in rows if row[1] == place]
    following = []
    if one.rule.when == "ages":
        soon = next_ones(db, one, NEWEST)
        by_id = {row.id: row for row in get_many(db, [number for number, _ in soon])}
        following = [(by_id[number], at) for number, at in soon if number in by_id]
    return replace(
        told,
        standing=len(at_place),
        by_model=sum(row[2] in ("model", "kin") for row in at_place),
        against=sum(row[2] in ("verdict", "thread") and row[1] != place for row in rows) if place else 0,
        answered=len(answered),
        answers=get_many(db, answered[:FEW]),
        marginal=get_many(db, _marginal(room, one.rule, rows)),
        following=following,
    )


def _marginal(room: Mailroom, rule: Rule, rows: Sequence[tuple[int, str, str, int, float]]) -> list[int]:
    """The messages a rule would put on the other side of the Desk than the model, or mark read although they look like
    the Desk, those it is surest of first."""
    target = next((one for one in places.every(room.reader()) if one.name == rule.place), None)
    shows = target is not None and target.important
    if target is None and not any(one.verb == "read" for one in rule.actions):
        return []
    desk = bounds(room.costs).desk
    wrong = [(row[4], row[0]) for row in rows if (row[4] >= desk) != shows]
    return [number for _, number in sorted(wrong, reverse=not shows)][:FEW]


@dataclass(frozen=True, slots=True)
class Hidden:
    """A message a rule put where nobody looks at once, or marked read, and that looks like the Desk."""

    rule: Rule
    message: Message


def hidden(room: Mailroom) -> list[Hidden]:
    """What rules hid lately of what looks like the Desk, the latest first, but for what the owner let stand."""
    db = room.reader()
    found = rules.hidden(db, room.clock() - HIDDEN_DAYS * DAY, bounds(room.costs).desk, MOST_HIDDEN)
    rows = {row.id: row for row in get_many(db, [number for _, number in found])}
    return [Hidden(rule, rows[number]) for rule, number in found if number in rows]
