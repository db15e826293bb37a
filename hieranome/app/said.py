"""Everything that was said for good of a sender, a list or a domain: listed with what came since, and ended."""

from __future__ import annotations

import csv
import io
import sqlite3
from dataclasses import dataclass
from typing import Literal

from hieranome.app.bulk import planning
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.core.buckets import DESK, DRAIN
from hieranome.core.errors import NotFound
from hieranome.core.steps import StepKind
from hieranome.core.sure import Reach
from hieranome.store import always, journal, messages, places, plans

What = Literal["refused", "always", "vouched", "no edition"]
WHAT: dict[What, str] = {
    "refused": "refused",
    "always": "always",
    "vouched": "vouched for",
    "no edition": "never in editions",
}
"""What can be said for good, and how that reads."""


@dataclass(frozen=True, slots=True)
class Said:
    """One thing that was said for good: of an address, a list or a domain, how that is called, what was said, where its
    mail goes (empty: that is not said), since when (Unix seconds), and how much came since."""

    kind: Reach
    key: str
    name: str
    what: What
    place: str
    at: int
    came: int

    @property
    def words(self) -> str:
        """What was said, as it reads."""
        return WHAT[self.what]


def everything(room: Mailroom) -> list[Said]:
    """All that holds, the newest first."""
    db = room.reader()
    off = places.switched_off(db)
    found = [_of_lesson(db, one, off.get(one.belongs, one.belongs)) for one in always.every(db)]
    since = always.vouched_since(db)
    for one in room.vouched:
        kind, at = Reach(one.kind), since.get((one.kind, one.key), 0)
        came = always.came_since(db, kind, one.key, at)
        found.append(Said(kind, one.key, one.name or one.key, "vouched", DESK, at, came))
    out = always.left_out_since(db)
    keys = sorted(plans.left_out(db))
    for key, name in zip(keys, planning.names(room, keys), strict=True):
        named, _, bare = key.partition(":")
        reach, at = Reach(named), out.get(key, 0)
        found.append(Said(reach, bare, name, "no edition", "", at, always.came_since(db, reach, bare, at)))
    return sorted(found, key=lambda one: (-one.at, one.key))


def _of_lesson(db: sqlite3.Connection, one: always.Always, place: str) -> Said:
    row = messages.get(db, one.message)
    name = one.key if one.reach is Reach.DOMAIN else row.sender_name or one.key
    came = always.came_since(db, one.reach, one.key, one.at)
    return Said(one.reach, one.key, name, "refused" if place == DRAIN else "always", place, one.at, came)


def end(room: Mailroom, kind: Reach, key: str, what: What) -> journal.Step | None:
    """Let one thing that was said hold no more. What was said by verdicts is ended by a step, which can be undone; the
    mail stays where it stands, and the model keeps what it learned. Raises :class:`NotFound` where nothing is said."""
    if what == "vouched":
        vouching.remove(room, kind.value, key)
        return None
    if what == "no edition":
        planning.leave_in(room, f"{kind.value}:{key}")
        return None
    with room.change() as db:
        title = f"{'No longer refused' if what == 'refused' else 'No longer always'}: {key[:120]}"
        step = journal.begin(db, room.clock(), StepKind.ENDED, title)
        if not always.end(db, step, kind, key):
            raise NotFound(f"Nothing was said for always of “{key[:120]}”. Load the list again.")
        room.load_sure(db)
        room.tell_moved(step, [])
        return journal.get(db, step)


def as_csv(room: Mailroom) -> str:
    """All of it as CSV (RFC 4180), to be kept or read elsewhere."""
    titles = {place.name: place.title for place in places.every(room.reader())}
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["kind", "key", "name", "said", "goes to", "since", "came since"])
    for one in everything(room):
        place = titles.get(one.place, one.place)
        table.writerow([one.kind.value, _plain(one.key), _plain(one.name), one.words, place, one.at, one.came])
    return out.getvalue()


def _plain(text: str) -> str:
    """Text that no table takes for a formula: what a stranger wrote may begin with a sign of one."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text
