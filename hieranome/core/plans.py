"""Edition plans: which mail, at which times, in what form."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from enum import StrEnum

from hieranome.core.errors import CallerError

WEEKDAYS, EVERY_DAY = 0b0011111, 0b1111111
"""Days of the week as bits, Monday the lowest."""
MOST_TIMES = 12
MAX_NAME = 60
_EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
_TIME = re.compile(r"([01]\d|2[0-3]):[0-5]\d")


class Grouped(StrEnum):
    """What the mail of an edition is grouped by."""

    LIST = "list"
    SENDER = "sender"
    TOPIC = "topic"


class Length(StrEnum):
    """How much of an edition is told: see :data:`LENGTHS`."""

    SHORT = "short"
    MEDIUM = "medium"
    LONG = "long"


LENGTHS = {Length.SHORT: (8, 1), Length.MEDIUM: (20, 3), Length.LONG: (60, 5)}
"""Of how many groups an extract is told, and of how many sentences; the other groups are told by their subjects."""


@dataclass(frozen=True, slots=True)
class Plan:
    """An edition plan as its owner describes it: the mail of ``buckets``, of ``sources`` (lists and senders by the keys
    of the sums), and what a ``search`` line finds; on which ``days`` (bits of :data:`WEEKDAYS`) at which ``times``
    (``HH:MM``) of a ``zone`` (an IANA name); ``delivered`` also as a message on the Desk."""

    name: str
    enabled: bool = True
    buckets: tuple[str, ...] = ()
    sources: tuple[str, ...] = ()
    search: str = ""
    days: int = WEEKDAYS
    times: tuple[str, ...] = ("07:30",)
    zone: str = "UTC"
    grouped: Grouped = Grouped.LIST
    length: Length = Length.MEDIUM
    delivered: bool = True

    def check(self) -> None:
        """Raise :class:`CallerError` naming what cannot be carried out; whether there is such a zone is for others to
        say."""
        if not self.name.strip() or len(self.name) > MAX_NAME:
            raise CallerError(f"A plan has a name of 1 to {MAX_NAME} characters.")
        if not (self.buckets or self.sources or self.search.strip()):
            raise CallerError("The plan takes no mail. Name a bucket, a list or sender, or a search.")
        if not 0 < self.days <= EVERY_DAY:
            raise CallerError("The plan has no day. Choose at least one day of the week.")
        if not 0 < len(self.times) <= MOST_TIMES:
            raise CallerError(f"A plan has 1 to {MOST_TIMES} times of the day; this one has {len(self.times)}.")
        for one in self.times:
            if not _TIME.fullmatch(one):
                raise CallerError(f"“{one[:20]}” is no time of the day. Write hours and minutes, such as 07:30.")


def due(plan: Plan, zone: tzinfo, after: int, until: int) -> list[int]:
    """When editions of a plan are due by the clocks of a zone, later than ``after`` up to ``until`` (Unix seconds).

    A time that the clocks skip on a day counts as many minutes after the hour they skipped to; one that comes twice
    counts once, the first time.
    """
    if until <= after:
        return []
    first = _day(after, zone) - timedelta(days=1)
    last = _day(until, zone) + timedelta(days=1)
    found = {at for day in _days(first, last) if plan.days >> day.weekday() & 1 for at in _times(plan, day, zone)}
    return sorted(at for at in found if after < at <= until)


def _day(at: int, zone: tzinfo) -> date:
    """The day it is somewhere at a time."""
    return zone.fromutc((_EPOCH + timedelta(seconds=at)).replace(tzinfo=zone)).date()


def _days(first: date, last: date) -> Iterator[date]:
    return (first + timedelta(days=number) for number in range((last - first).days + 1))


def _times(plan: Plan, day: date, zone: tzinfo) -> Iterator[int]:
    for one in plan.times:
        hour, minute = map(int, one.split(":"))
        yield int(datetime.combine(day, time(hour, minute), zone).timestamp())


def next_due(plan: Plan, zone: tzinfo, after: int) -> int:
    """When the next edition is due after a time; 0 when the plan is not enabled."""
    found = due(plan, zone, after, after + 8 * 86_400) if plan.enabled else []
    return found[0] if found else 0
