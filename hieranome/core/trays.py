"""Trays: the Desk in parts. A message stands in the first tray that takes it; what is dealt with stands last."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from operator import attrgetter
from typing import Literal, NamedTuple

from hieranome.core.errors import CallerError
from hieranome.core.times import DAY

Kind = Literal["due", "came", "waits", "colleagues", "line", "rest", "dealt"]
Order = Literal["importance", "time"]
MOST = 8
MAX_ROWS = 200
MAX_NAME = 60
MAX_DAYS = 365


@dataclass(frozen=True, slots=True)
class Tray:
    """A part of the Desk. ``kind`` is what it takes: what is due and what came back, wherever it stands; what came
    since the owner was last here, what waits for an answer, mail of the owner's own organisations, what a search
    ``line`` finds, the rest, or what is dealt with (answered, or read and left for ``days``). ``rows`` are shown at
    most, in ``order``; none where it is ``folded``. One that stands ``beside`` the band is a place of its own there,
    and is not repeated on the Desk."""

    kind: Kind
    name: str
    line: str = ""
    order: Order = "importance"
    rows: int = 20
    folded: bool = False
    days: int = 3
    beside: bool = False


SHIPPED = (
    Tray("due", "Due and back", order="time", rows=30),
    Tray("came", "Came since you were last here", order="time", rows=30),
    Tray("rest", "The rest", rows=50),
    Tray("dealt", "Dealt with", order="time", rows=10, folded=True),
)
"""What is on before the owner says anything."""


class Standing(NamedTuple):
    """What trays look at in a message on the Desk: when it came (Unix seconds), its score, its marks, its sender's
    domain, whether it asks something."""

    id: int
    time: int
    score: float
    seen: bool
    answered: bool
    flagged: bool
    domain: str
    asks: bool


def check(trays: Sequence[Tray]) -> None:
    """Raises :class:`CallerError` for trays that hide mail, or are too many."""
    if len(trays) > MOST:
        raise CallerError(f"The Desk has up to {MOST} trays; these are {len(trays)}.")
    kinds = [one.kind for one in trays]
    if trays and kinds.count("rest") != 1:
        raise CallerError("One tray must take the rest, or mail would stand nowhere.")
    for kind in ("due", "came", "waits", "colleagues", "dealt"):
        if kinds.count(kind) > 1:
            raise CallerError("A tray of one kind stands there twice. Take one out.")
    if any(one.kind == "rest" and one.beside for one in trays):
        raise CallerError("The rest stands on the Desk itself. Let another tray stand beside the band.")
    for one in trays:
        if not one.name.strip() or len(one.name) > MAX_NAME:
            raise CallerError(f"A tray has a name of 1 to {MAX_NAME} characters.")
        if one.kind == "line" and not one.line.strip():
            raise CallerError(f"“{one.name}” has no search line yet, so it would take nothing.")
        if not 1 <= one.rows <= MAX_ROWS or not 1 <= one.days <= MAX_DAYS:
            raise CallerError(f"A tray shows 1 to {MAX_ROWS} rows, and mail is left for 1 to {MAX_DAYS} days.")


def is_dealt_with(mail: Standing, now: int, days: int, upheld: frozenset[int] = frozenset()) -> bool:
    """Whether a message was answered, or read and left for so many days; what is flagged, or among those ``upheld``,
    is not."""
    left = mail.answered or (mail.seen and mail.time < now - days * DAY)
    return left and not mail.flagged and mail.id not in upheld


def parted(
    trays: Sequence[Tray],
    mail: Sequence[Standing],
    found: Mapping[int, frozenset[int]],
    *,
    now: int,
    since: int,
    domains: frozenset[str],
    heads: Sequence[int] = (),
    upheld: frozenset[int] = frozenset(),
) -> list[list[Standing]]:
    """The mail of each tray, in its order. ``heads`` is what is due or came back, in order; ``found`` is what the line
    of each tray that has one finds, by where the tray stands; ``since`` is when the owner was last here (0: not known),
    ``domains`` are the owner's own, ``upheld`` what is not dealt with whatever its marks say."""
    dealt = next((one for one in trays if one.kind == "dealt"), None)
    first = set(heads) if any(one.kind == "due" for one in trays) else set()
    aside = frozenset(first) | upheld
    done = {one.id for one in mail if dealt is not None and is_dealt_with(one, now, dealt.days, aside)}
    left = [one for one in mail if one.id not in done]
    parts: list[list[Standing]] = []
    for at, tray in enumerate(trays):
        taken = _TAKERS[tray.kind](left, _Asked(found.get(at, frozenset()), since, domains, frozenset(heads)))
        if taken:
            gone = {one.id for one in taken}
            left = [one for one in left if one.id not in gone]
        parts.append(taken)
    for at, tray in enumerate(trays):
        if tray.kind == "rest":  # what no later tray took either
            parts[at] = left
        elif tray.kind == "dealt":
            parts[at] = [one for one in mail if one.id in done]
        if tray.kind == "due":
            order = {number: place for place, number in enumerate(heads)}
            parts[at].sort(key=lambda one: order[one.id])
        else:
            parts[at].sort(key=_BY_SCORE if tray.order == "importance" else _BY_TIME, reverse=True)
    return parts


_BY_SCORE = attrgetter("score", "id")
_BY_TIME = attrgetter("time", "id")


@dataclass(frozen=True, slots=True)
class _Asked:
    """What a tray may ask by: what its line finds, when the owner was last here, the owner's own domains, what
    heads the Desk."""

    found: frozenset[int]
    since: int
    domains: frozenset[str]
    heads: frozenset[int]


_TAKERS: dict[Kind, Callable[[list[Standing], _Asked], list[Standing]]] = {
    "due": lambda mail, asked: [one for one in mail if one.id in asked.heads],
    "came": lambda mail, asked: [one for one in mail if 0 < asked.since < one.time],
    "waits": lambda mail, _: [one for one in mail if one.asks and not one.answered],
    "colleagues": lambda mail, asked: [one for one in mail if one.domain in asked.domains],
    "line": lambda mail, asked: [one for one in mail if one.id in asked.found],
    "rest": lambda _mail, _: [],
    "dealt": lambda _mail, _: [],
}
