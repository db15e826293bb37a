"""Days, months and years named in words or digits, as spans of time."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, timedelta, tzinfo

DAY = 86_400
"""Seconds of a day of the clock that has no seasons."""
_DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_AGO = re.compile(r"(\d{1,4})\s*(d|w|m|y)")
_DATE = re.compile(r"(\d{4})(?:-(\d{1,2})(?:-(\d{1,2}))?)?")


def wall(at: int, zone: tzinfo) -> datetime:
    """What the clock of a zone shows at a point of time (Unix seconds)."""
    return zone.fromutc((_EPOCH + timedelta(seconds=at)).replace(tzinfo=zone))


_EPOCH = datetime(1970, 1, 1)


@dataclass(frozen=True, slots=True)
class Span:
    """From ``start`` up to but without ``end``, Unix seconds, and how it is called."""

    start: int
    end: int
    title: str


_NOW = re.compile(r'\b(?:since|before|on|due):"?(?!\d{4}\b)', re.IGNORECASE)


def speaks_of_now(line: str) -> bool:
    """Whether a search line names dates that move with the clock, as ``since:2w`` does."""
    return _NOW.search(line) is not None


def read_span(said: str, now: datetime) -> Span | None:
    """What ``said`` stands for, or None when it is no date: ``2026-03-05``, ``2026-03``, ``2026``, ``today``,
    ``yesterday``, a weekday (the latest one), or how long ago: ``3d``, ``2w``, ``6m``, ``1y``. ``now``
    is aware: days begin and end by its zone."""
    word = said.strip().lower()
    today = now.replace(hour=0, minute=0, second=0, microsecond=0)
    if word in ("today", "yesterday"):
        return _day(today - timedelta(days=word == "yesterday"))
    if word in _DAYS or (len(word) >= 3 and any(day.startswith(word) for day in _DAYS)):
        wanted = next(number for number, day in enumerate(_DAYS) if day.startswith(word))
        return _day(today - timedelta(days=(today.weekday() - wanted) % 7))
    ago = _AGO.fullmatch(word)
    if ago:
        return _ago(today, int(ago[1]), ago[2])
    date = _DATE.fullmatch(word)
    return _dated(today, *date.groups()) if date else None


def _day(day: datetime) -> Span:
    # The next midnight of the wall clock: a day on which the clocks change has 23 or 25 hours.
    end = day + timedelta(days=1)
    return Span(_stamp(day), _stamp(end), f"{day.day} {day:%B %Y}")


def _stamp(moment: datetime) -> int:
    return int(moment.timestamp())


def _ago(today: datetime, count: int, unit: str) -> Span | None:
    try:
        if unit in "dw":
            return _day(today - timedelta(days=count * (7 if unit == "w" else 1)))
        months = today.year * 12 + today.month - 1 - count * (12 if unit == "y" else 1)
        year, month = divmod(months, 12)
        for day in range(today.day, 0, -1):
            try:
                return _day(today.replace(year=year, month=month + 1, day=day))
            except ValueError:
                continue
    except (ValueError, OverflowError):
        return None
    return None


def _dated(today: datetime, year: str, month: str | None, day: str | None) -> Span | None:
    try:
        if day and month:
            return _day(today.replace(year=int(year), month=int(month), day=int(day)))
        if month:
            start = today.replace(year=int(year), month=int(month), day=1)
            end = (start + timedelta(days=32)).replace(day=1)
            return Span(_stamp(start), _stamp(end), f"{start:%B %Y}")
        start = today.replace(year=int(year), month=1, day=1)
        return Span(_stamp(start), _stamp(start.replace(year=start.year + 1)), year)
    except (ValueError, OverflowError):
        return None
