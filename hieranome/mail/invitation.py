"""Calendar invitations (iCalendar, RFC 5545; iTIP, RFC 5546) read for a card."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time

from icalendar import Calendar
from icalendar.cal import Component

MAX_BYTES = 200_000
"""Bytes of a calendar part that are read."""
_METHODS = {
    "REQUEST": "Invitation",
    "CANCEL": "Cancelled",
    "REPLY": "Answer to an invitation",
    "PUBLISH": "Event",
    "COUNTER": "Another time is proposed",
}


@dataclass(frozen=True, slots=True)
class Invitation:
    """The first event of a calendar part. Times are Unix seconds, 0 where there is none; ``all_day`` says that they
    are days, whose times are midnights of UTC."""

    kind: str
    title: str
    start: int
    end: int
    all_day: bool
    place: str
    organiser: str
    attendees: tuple[str, ...]
    repeats: bool


def read_invitation(raw: bytes) -> Invitation | None:
    """The event of a calendar part, or None when it holds none that can be read. Never raises."""
    try:
        calendar = Calendar.from_ical(raw[:MAX_BYTES])
        event = next(iter(calendar.walk("VEVENT")), None)
        if event is None:
            return None
        start, all_day = _moment(event, "DTSTART")
        end, _ = _moment(event, "DTEND")
        return Invitation(
            kind=_METHODS.get(str(calendar.get("METHOD", "")).upper(), "Event"),
            title=_text(event, "SUMMARY") or "(no title)",
            start=start,
            end=end,
            all_day=all_day,
            place=_text(event, "LOCATION"),
            organiser=_person(event.get("ORGANIZER")),
            attendees=tuple(_person(one) for one in _several(event, "ATTENDEE")[:200]),
            repeats="RRULE" in event,
        )
    except (ValueError, KeyError, TypeError, AttributeError, IndexError, OverflowError, RecursionError):
        return None


def _text(event: Component, name: str) -> str:
    return str(event.get(name, ""))[:500].strip()


def _moment(event: Component, name: str) -> tuple[int, bool]:
    found = event.get(name)
    if found is None:
        return 0, False
    value = found.dt
    if isinstance(value, datetime):
        return int(value.timestamp()), False
    if isinstance(value, date):
        return int(datetime.combine(value, time(), UTC).timestamp()), True
    return 0, False


def _several(event: Component, name: str) -> list[object]:
    found = event.get(name, [])
    return list(found) if isinstance(found, list) else [found]


def _person(value: object) -> str:
    if value is None:
        return ""
    named = str(getattr(value, "params", {}).get("CN", ""))
    address = str(value)
    return (named or (address[7:] if address.lower().startswith("mailto:") else address))[:200]
