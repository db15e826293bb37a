"""When people mean: a day or time as it is typed, and the dates that stand in a text.

The words are data (:mod:`hieranome.core.when_words`). A day without a time is a whole day. Times are those of the wall
clock in a zone; on the night the clocks go forward, a time that does not exist is an hour later.

It is long because it is one grammar.
"""

from __future__ import annotations

import calendar
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta, tzinfo

from hieranome.core import when_words as words
from hieranome.core.errors import CallerError
from hieranome.core.times import DAY, wall

MOST_YEARS = 20
"""Nothing is due further off."""
MOST_TEXT = 20_000
"""Characters of a text that are looked through for dates."""
_WORKING_DAYS = 5


@dataclass(frozen=True, slots=True)
class Moment:
    """A point of time (Unix seconds). A whole day (``day``) is told by its first second in the zone it was said in."""

    at: int
    day: bool = False


@dataclass(frozen=True, slots=True)
class Said:
    """A moment as a text says it: the words, and where they begin."""

    moment: Moment
    words: str
    start: int


_THIS = re.compile(r"^this (week|month|year)\b")


def is_no_time(said: str) -> bool:
    """Whether somebody typed that there is no time: *no date*, or nothing."""
    return " ".join(said.lower().split()) in words.NEVER


def read_moment(said: str, now: datetime) -> Moment:
    """The moment somebody typed: ``fri 14:00``, ``in 3 days``, ``end of month``, ``1 dec``, ``2026-12-01 9:30``,
    ``now``.

    ``now`` is aware. What has passed already comes again: a weekday next week, a date next year. Raises
    :class:`CallerError` for what cannot be understood, has passed for good, or lies too far off.
    """
    clean = " ".join(said.lower().replace(",", " ").split())
    if clean in words.NOW:
        return Moment(int(now.timestamp()))
    clean = _THIS.sub(r"end of this \1", clean)
    moment = _typed(clean, now)
    if moment is None:
        raise CallerError(
            f"“{said.strip()[:60]}” is no time that is understood. Write one such as “fri 14:00”, “in 3 days”, "
            "“end of month”, “1 dec” or “2026-12-01 9:30”."
        )
    last = moment.at + (DAY if moment.day else 0)
    if last <= now.timestamp():
        raise CallerError(f"“{said.strip()[:60]}” has passed already. Name a time to come.")
    if moment.at > now.timestamp() + MOST_YEARS * 366 * DAY:
        raise CallerError(f"“{said.strip()[:60]}” lies more than {MOST_YEARS} years off.")
    return moment


def moments_in(text: str, sent: datetime, after: datetime) -> list[Said]:
    """The dates that stand in a text, as they were meant when it was ``sent``, that are not over at ``after``; each
    moment once, in the order of the text."""
    found: dict[Moment, Said] = {}
    for said in _said(text[:MOST_TEXT], sent):
        if said.moment.at + (DAY if said.moment.day else 0) > after.timestamp():
            found.setdefault(said.moment, said)
    with_times = {_day_of(one.moment, sent) for one in found.values() if not one.moment.day}
    return [one for one in found.values() if not (one.moment.day and _day_of(one.moment, sent) in with_times)]


def at_hour(moment: Moment, hour: int, now: datetime) -> int:
    """When a moment is, a whole day taken at an hour of the clock; where that has passed, in an hour."""
    if not moment.day:
        return moment.at
    day = wall(moment.at, _zone(now))
    wanted = int(day.replace(hour=hour).timestamp())
    return wanted if wanted > now.timestamp() else int(now.timestamp()) + 3_600


def next_working_morning(now: datetime, hour: int) -> int:
    """The next morning, at an hour of the clock, of a day from Monday to Friday; never today."""
    day = now + timedelta(days=1)
    while day.weekday() >= _WORKING_DAYS:
        day += timedelta(days=1)
    return int(day.replace(hour=hour, minute=0, second=0, microsecond=0).timestamp())


# --- the grammar ------------------------------------------------------------------------------


def _any(found: Iterable[str]) -> str:
    return "|".join(re.escape(one) for one in sorted(found, key=len, reverse=True))


def _small(name: str) -> str:
    return _any(one for table in words.SMALL.values() for one in table[name].split("|"))


def _numbered(table: dict[str, tuple[str, ...]]) -> dict[str, int]:
    return {name: at for lines in table.values() for at, line in enumerate(lines) for name in line.split()}


_WEEKDAY, _MONTH = _numbered(words.WEEKDAYS), _numbered(words.MONTHS)
_DAY = {name: days for table in words.DAYS.values() for name, days in table.items()}
_UNIT = {name: unit for table in words.UNITS.values() for unit, line in table.items() for name in line.split()}
_TIME = {name: time for table in words.TIMES.values() for name, time in table.items()}
_COUNT = {name: at + 1 for line in words.NUMBERS.values() for at, name in enumerate(line.split())}
_COUNT |= {name: 1 for table in words.SMALL.values() for name in table["one"].split("|")}
_OTHERWISE = frozenset(name for line in words.OTHERWISE.values() for name in line.split())
_LONG_UNITS = [name for name in _UNIT if len(name) > 2]
_ENDS = [name for name, unit in _UNIT.items() if unit in ("day", "week", "month", "year") and name in _LONG_UNITS]

_ON = rf"(?:(?:{_small('on')}) )?(?:(?:{_small('the')}) )?"
_NTH = rf"(?:{_small('ordinal')})"
_DATE = (
    rf"(?P<iso>\d{{4}}-\d{{1,2}}-\d{{1,2}})"
    rf"|(?P<dots>\d{{1,2}}\. ?\d{{1,2}}\.(?: ?\d{{4}})?)"
    rf"|(?P<md>{_any(_MONTH)})\.? (?P<mdday>\d{{1,2}})(?:{_NTH})?(?:,? (?P<mdyear>\d{{4}}))?(?![\d:.]\d)"
    rf"|(?P<dm>\d{{1,2}})(?:{_NTH})? (?:(?:{_small('of')}) )?"
    rf"(?P<dmmonth>{_any(_MONTH)})\b\.?(?:,? (?P<dmyear>\d{{4}}))?"
    rf"|(?P<off>{_any(_DAY)})"
    rf"|(?P<ahead>(?:{_small('next')}) )?(?:(?:{_small('this')}) )?(?P<weekday>{_any(_WEEKDAY)})\b\.?"
    rf"|(?:{_small('in')}) (?P<count>\d{{1,4}}|{_any(_COUNT)}) (?P<unit>{_any(_LONG_UNITS)})"
    rf"|(?P<fromnow>\d{{1,4}}|{_any(_COUNT)}) (?P<fromunit>{_any(_LONG_UNITS)}) (?:{_small('now')})"
    rf"|(?P<end>{_small('end')}|(?P<nextend>{_small('next end')})) ?(?P<ended>{_any(_ENDS)})"
    rf"|(?:{_small('next')}) (?P<coming>{_any(_ENDS)})"
    rf"|(?:(?:{_small('this')}|{_small('next')}) )?(?P<weekend>{_small('weekend')})"
    rf"|(?P<nth>\d{{1,2}}){_NTH}"
)
_CLOCK = (
    rf"(?P<hour>\d{{1,2}})[:.](?P<minute>\d{{2}})(?: ?(?P<ampm>{_small('half-days')}))?(?!\.?\d)"
    rf"|(?P<bare>\d{{1,2}}) ?(?:(?P<bareampm>{_small('half-days')})\b|(?:{_small('clock')}))"
    rf"|(?P<past>{_small('half')}) (?P<pasthour>{_any(_COUNT)}|\d{{1,2}})"
    rf"|(?P<named>{_any(_TIME)})"
)
_AT = rf"(?:{_small('at')})"
_AT_HOUR = rf"{_AT} (?P<athour>\d{{1,2}}|{_any(_COUNT)})(?![\d:.%]| ?[a-z])"
_AT_TYPED = r"(?P<plain>[1-9]|1\d|2[0-3])"
_TYPED_SHORT = re.compile(rf"(?P<count>\d{{1,4}}) ?(?P<unit>{_any(_UNIT)})")
_DATE_TYPED = re.compile(rf"{_ON}(?:{_DATE})", re.IGNORECASE)
_CLOCK_TYPED = re.compile(rf"(?:{_AT} )?(?:{_CLOCK}|{_AT_TYPED})", re.IGNORECASE)
_DATE_TEXT = re.compile(rf"(?<![\w.:/-])(?:{_DATE})(?![\w/])", re.IGNORECASE)
_CLOCK_AFTER = re.compile(rf",?\s*(?:(?:{_AT}) )?(?:{_CLOCK})(?!\w)|,?\s*(?:{_AT_HOUR})", re.IGNORECASE)
_CLOCK_BEFORE = re.compile(
    rf"(?<![\w.:])(?:(?:(?:{_AT}) )?(?:{_CLOCK})|{_AT_HOUR}),?(?: (?:{_small('on')}))?\s*$", re.IGNORECASE
)


def _typed(clean: str, now: datetime) -> Moment | None:
    short = _TYPED_SHORT.fullmatch(clean)
    if short:
        return _ahead(now, int(short["count"]), _UNIT[short["unit"]])
    for split in range(len(clean), -1, -1):
        if split not in (0, len(clean)) and clean[split - 1 : split] != " ":
            continue
        first, second = clean[:split].strip(), clean[split:].strip()
        for dated, timed in ((first, second), (second, first)):
            moment = _both(dated, timed, now)
            if moment is not None:
                return moment
    return None


def _both(dated: str, timed: str, now: datetime) -> Moment | None:
    """A date and a time of the clock, either of them left out, where both are nothing else."""
    on = _DATE_TYPED.fullmatch(dated) if dated else None
    at = _CLOCK_TYPED.fullmatch(timed) if timed else None
    if (dated and on is None) or (timed and at is None) or not (dated or timed):
        return None
    clock = _clock(at) if at else None
    if timed and clock is None:
        return None
    if on is None:
        assert clock is not None
        moment = _with_clock(now.date(), clock, now)
        return moment if moment.at > now.timestamp() else _with_clock(now.date() + timedelta(days=1), clock, now)
    return _dated(on, clock, now)


def _said(text: str, sent: datetime) -> Iterator[Said]:
    for found in _DATE_TEXT.finditer(text):
        if _OTHERWISE & {found["md"], found["weekday"]}:
            continue
        before = _CLOCK_BEFORE.search(text, max(0, found.start() - 24), found.start())
        after = _CLOCK_AFTER.match(text, found.end())
        clock = _clock(after) if after else _clock(before) if before else None
        moment = _dated(_Lower(found), clock, sent)
        if moment is not None:
            start = found.start() if after or not before else before.start()
            end = after.end() if after and clock else found.end()
            yield Said(moment, " ".join(text[start:end].split()), start)


class _Lower:
    """The groups of a match in lower case."""

    def __init__(self, found: re.Match[str]) -> None:
        self._found = found

    def __getitem__(self, name: str) -> str | None:
        said = self._found[name]
        return said.lower() if said else None


_Groups = re.Match[str] | _Lower


def _clock(found: re.Match[str]) -> tuple[int, int] | None:
    """The time of the clock that was said, or None where there is no such time."""
    said = {name: word.lower() for name, word in found.groupdict().items() if word}
    if "named" in said:
        return _TIME[said["named"]]
    if "hour" in said:
        hour, minute, half = int(said["hour"]), int(said["minute"]), said.get("ampm", "")
    elif "bare" in said:
        hour, minute, half = int(said["bare"]), 0, said.get("bareampm", "")
    else:
        word = said.get("pasthour") or said.get("athour") or said.get("plain") or ""
        hour, minute, half = _COUNT.get(word) or int(word), 30 * ("past" in said), ""
    if not half and "hour" not in said and 1 <= hour <= 6:
        half = "pm"  # nobody says “at four” of the night
    if half:
        if not 1 <= hour <= 12:
            return None
        hour = hour % 12 + (12 if half == "pm" else 0)
    return (hour, minute) if hour < 24 and minute < 60 else None


def _dated(found: _Groups, clock: tuple[int, int] | None, now: datetime) -> Moment | None:
    """The moment of a date that was found, with its time of the clock where one was said."""
    try:
        count, unit = found["count"] or found["fromnow"], found["unit"] or found["fromunit"]
        if count and unit:
            return _ahead(now, _COUNT.get(count) or int(count), _UNIT[unit], clock)
        day = _day(found, clock, now)
        if day is None:
            return None
        if clock is None and found["off"]:
            clock = _TIME.get(found["off"])
        if clock is None and found["ended"] and _UNIT[found["ended"]] == "day":
            clock = words.WORKED_UNTIL
        return _with_clock(day, clock, now)
    except (ValueError, OverflowError):
        return None


def _day(found: _Groups, clock: tuple[int, int] | None, now: datetime) -> date | None:
    today = now.date()
    for name, read in _DAYS_BY_NAME:
        if found[name]:
            day = read(found, today)
            over = name == "weekday" and day == today and clock is not None and clock <= (now.hour, now.minute)
            return day + timedelta(days=7) if over else day
    return None


def _iso(found: _Groups, _today: date) -> date:
    year, month, day = (int(one) for one in str(found["iso"]).split("-"))
    return date(year, month, day)


def _dots(found: _Groups, today: date) -> date:
    numbers = [int(one) for one in re.findall(r"\d+", str(found["dots"]))]
    return date(numbers[2], numbers[1], numbers[0]) if len(numbers) == 3 else _coming(today, numbers[1], numbers[0])


def _month_day(found: _Groups, today: date) -> date:
    month, day = _MONTH[str(found["md"])] + 1, int(str(found["mdday"]))
    return date(int(str(found["mdyear"])), month, day) if found["mdyear"] else _coming(today, month, day)


def _day_month(found: _Groups, today: date) -> date:
    month, day = _MONTH[str(found["dmmonth"])] + 1, int(str(found["dm"]))
    return date(int(str(found["dmyear"])), month, day) if found["dmyear"] else _coming(today, month, day)


def _off(found: _Groups, today: date) -> date:
    return today + timedelta(days=_DAY[str(found["off"])])


def _of_week(found: _Groups, today: date) -> date:
    ahead = (_WEEKDAY[str(found["weekday"])] - today.weekday()) % 7
    if found["ahead"]:  # the one of the week that begins next Monday
        return today + timedelta(days=7 - today.weekday() + _WEEKDAY[str(found["weekday"])])
    return today + timedelta(days=ahead)


def _end(found: _Groups, today: date) -> date:
    later, unit = bool(found["nextend"]), _UNIT[str(found["ended"])]
    if unit == "day":
        return today + timedelta(days=later)
    if unit == "week":
        return today + timedelta(days=(4 - today.weekday()) % 7 + 7 * later)
    if unit == "year":
        return date(today.year + later, 12, 31)
    first = _months(today.replace(day=1), int(later))
    return first.replace(day=calendar.monthrange(first.year, first.month)[1])


def _next(found: _Groups, today: date) -> date:
    unit = _UNIT[str(found["coming"])]
    if unit in ("day", "week"):
        return today + timedelta(days=1 if unit == "day" else 7 - today.weekday())
    return date(today.year + 1, 1, 1) if unit == "year" else _months(today.replace(day=1), 1)


def _weekend(_found: _Groups, today: date) -> date:
    return today + timedelta(days=(5 - today.weekday()) % 7)


def _nth(found: _Groups, today: date) -> date:
    day = int(str(found["nth"]))
    for month in range(13):
        first = _months(today.replace(day=1), month)
        if day <= calendar.monthrange(first.year, first.month)[1] and first.replace(day=day) >= today:
            return first.replace(day=day)
    raise ValueError(day)


_DAYS_BY_NAME: tuple[tuple[str, Callable[[_Groups, date], date]], ...] = (
    ("iso", _iso),
    ("dots", _dots),
    ("md", _month_day),
    ("dm", _day_month),
    ("off", _off),
    ("weekday", _of_week),
    ("ended", _end),
    ("coming", _next),
    ("weekend", _weekend),
    ("nth", _nth),
)


def _coming(today: date, month: int, day: int) -> date:
    """A day of the year: this one, or the next that has it."""
    for year in range(today.year, today.year + 9):
        if day <= calendar.monthrange(year, month)[1] and date(year, month, day) >= today:
            return date(year, month, day)
    raise ValueError(day)


def _months(day: date, count: int) -> date:
    """So many months on; the last day where that month is shorter."""
    year, month = divmod(day.year * 12 + day.month - 1 + count, 12)
    return date(year, month + 1, min(day.day, calendar.monthrange(year, month + 1)[1]))


def _ahead(now: datetime, count: int, unit: str, clock: tuple[int, int] | None = None) -> Moment:
    if unit in ("minute", "hour"):
        return Moment(int(now.timestamp()) + count * (60 if unit == "minute" else 3_600))
    if unit in ("day", "week"):
        day = now.date() + timedelta(days=count * (7 if unit == "week" else 1))
    else:
        day = _months(now.date(), count * (12 if unit == "year" else 1))
    return _with_clock(day, clock, now)


def _with_clock(day: date, clock: tuple[int, int] | None, now: datetime) -> Moment:
    hour, minute = clock or (0, 0)
    moment = datetime(day.year, day.month, day.day, hour, minute, tzinfo=now.tzinfo)
    return Moment(int(moment.timestamp()), clock is None)


def _zone(now: datetime) -> tzinfo:
    return now.tzinfo or UTC


def _day_of(moment: Moment, zone: datetime) -> date:
    return wall(moment.at, _zone(zone)).date()
