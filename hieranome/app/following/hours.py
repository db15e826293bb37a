"""The hours at which somebody usually answers, by their own clock."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import timedelta, timezone

from hieranome.app.following.due import typed
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.when import Moment
from hieranome.mail.reading import written_at
from hieranome.store import messages

MOST = 60
"""Messages of somebody that are looked at."""
LEAST = 3
"""Messages without which nothing is said."""
OFFERED = 2
_HEAD = 65_536
_WORKING_DAYS = 5


@dataclass(frozen=True, slots=True)
class Hour:
    """A time at which somebody usually writes: the next one (Unix seconds), as it is typed here, the hour by their
    clock, and how far that is from ours, in minutes."""

    at: int
    said: str
    hour: int
    apart: int


def usual_hours(room: Mailroom, address: str) -> list[Hour]:
    """The next times at which somebody usually writes, the commonest hour first; none where too little is known."""
    heads = messages.heads_from(room.reader(), address, MOST, _HEAD)
    written = [one for head in heads if (one := written_at(head)) is not None]
    if len(written) < LEAST:
        return []
    now = room.now()
    newest = max(written)
    there = timezone(newest.utcoffset() or timedelta())
    weekends = any(one.weekday() >= _WORKING_DAYS for one in written)
    counts = Counter(one.hour for one in written)
    apart = int(((newest.utcoffset() or timedelta()) - (now.utcoffset() or timedelta())).total_seconds() // 60)
    found = []
    for hour, _ in sorted(counts.items(), key=lambda pair: (-pair[1], pair[0]))[:OFFERED]:
        when = now.astimezone(there).replace(hour=hour, minute=0, second=0, microsecond=0)
        while when <= now or (when.weekday() >= _WORKING_DAYS and not weekends):
            when += timedelta(days=1)
        at = int(when.timestamp())
        found.append(Hour(at, typed(Moment(at), room), hour, apart))
    return found
