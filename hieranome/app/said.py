"""Everything that was said for good of a sender, a list or a domain: listed with what came since, and ended."""

from __future__ import annotations

import csv
import io
import sqlite3
from dataclasses import dataclass
from itertools import islice
from typing import Literal

from hieranome.app.bulk import planning
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct
from hieranome.core.buckets import DESK, DRAIN
from hieranome.core.errors import CallerError, NotFound
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
COLUMNS = ("kind", "key", "said", "goes to", "name", "since", "came since")
MOST_LINES = 5_000
"""Lines of a list that is read in."""


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
    found = [_of_lesson(db, one, places.bound_for(db, one.belongs)) for one in always.every(db)]
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
    table.writerow(COLUMNS)
    for one in everything(room):
        place = titles.get(one.place, one.place)
        table.writerow([one.kind.value, _plain(one.key), one.words, place, _plain(one.name), one.at, one.came])
    return out.getvalue()


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of a list that was read in: how many lines hold now that did not before, how many held already, and
    the lines of which nothing came, each with why."""

    added: int
    known: int
    refused: list[tuple[int, str]]


def take_in(room: Mailroom, text: str) -> Taken:
    """Say for good what a list of :func:`as_csv` says; what holds already, and what the list does not name, stays. Each
    line is a step of its own. Raises :class:`CallerError` for what is no such list; nothing is said then."""
    table = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    missing = [one for one in COLUMNS[:4] if one not in (table.fieldnames or ())]
    if missing:
        raise CallerError(
            f"This is no list of senders: it has no column {', '.join(missing)}. Its first line names the columns: "
            f"{', '.join(COLUMNS)}."
        )
    try:
        lines = list(islice(table, MOST_LINES + 1))
    except csv.Error as exc:
        raise CallerError(f"Line {table.line_num} cannot be read as CSV ({exc}). Nothing was said.") from exc
    if len(lines) > MOST_LINES:
        raise CallerError(f"The list has more than {MOST_LINES:,} lines. Divide it. Nothing was said.")
    holds = {(one.kind.value, one.key, one.what, one.place) for one in everything(room)}
    added, known, refused = 0, 0, []
    for at, line in enumerate(lines, 2):
        try:
            wanted = _line(room, line)
            if wanted in holds:
                known += 1
                continue
            _say(room, *wanted)
            added += 1
        except CallerError as exc:
            refused.append((at, str(exc)))
    return Taken(added, known, refused)


def _line(room: Mailroom, line: dict[str, str]) -> tuple[str, str, What, str]:
    kind, key = (line["kind"] or "").strip().lower(), _as_said(line["key"] or "").strip().lower()
    what = next((one for one, words in WHAT.items() if words == (line["said"] or "").strip().lower()), None)
    if kind not in ("address", "list", "domain") or not key:
        raise CallerError("It names neither an address, a list nor a domain.")
    if what is None:
        raise CallerError(
            f"“{(line['said'] or '')[:40]}” is nothing that can be said. It is {', '.join(WHAT.values())}."
        )
    if what == "vouched":
        return kind, key, what, DESK
    if what == "no edition":
        return kind, key, what, ""
    called = (line["goes to"] or "").strip().casefold()
    place = DRAIN if what == "refused" else ""
    for one in places.every_bucket(room.reader()):
        if called in (one.name, one.title.casefold()):
            place = one.name
    if not place:
        raise CallerError(f"There is no bucket called “{(line['goes to'] or '')[:40]}”.")
    return kind, key, what, place


def _say(room: Mailroom, kind: str, key: str, what: What, place: str) -> None:
    """Say one thing for good. Raises :class:`CallerError` where it cannot be said."""
    if what == "vouched":
        if kind == "list":
            raise CallerError("Nobody vouches for a list: say its address or its domain.")
        vouching.vouch(room, "domain" if kind == "domain" else "address", key)
        return
    if what == "no edition":
        if kind == "domain":
            raise CallerError("A domain stands in editions or not by its senders: name their addresses.")
        planning.leave_out(room, [f"{kind}:{key}"])
        return
    newest = always.newest_of(room.reader(), Reach(kind), key)
    if newest is None:
        raise CallerError(f"No mail of “{key[:80]}” is here, so there is nothing to learn from.")
    correct(room, [newest], place, Reach(kind), stay=True, follow=False)


def _as_said(text: str) -> str:
    """A field as it was before it was written: see :func:`_plain`."""
    return text[1:] if text[:1] == "'" and text[1:2] in "=+-@\t\r" else text


def _plain(text: str) -> str:
    """Text that no table takes for a formula: what a stranger wrote may begin with a sign of one."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text
