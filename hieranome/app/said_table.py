"""What was said for good as a CSV file: written, and said as such a file says."""

from __future__ import annotations

import csv
import io
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice

from hieranome.app.bulk import planning
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.said import WHAT, What, everything, newest_of
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import correct, key_bound
from hieranome.app.teaching.looking import MAX_AT_ONCE
from hieranome.core.buckets import DESK, DRAIN
from hieranome.core.errors import CallerError
from hieranome.core.sure import Reach
from hieranome.store import places, subscriptions

COLUMNS = ("kind", "key", "said", "goes to", "name", "since", "came since")
NEEDED = COLUMNS[:4]
MOST_LINES = 5_000
"""Lines of a file that is read in."""


@dataclass(frozen=True, slots=True)
class Line:
    """What one line says: of which address, list or domain, what, and the bucket its mail goes to (empty: that is not
    said)."""

    kind: Reach
    key: str
    what: What
    place: str

    @property
    def source(self) -> str:
        """Whom it is about, as ``list:`` and the list."""
        return f"{self.kind.value}:{self.key}"

    @property
    def about(self) -> tuple[Reach, str, str]:
        """What two lines would contradict each other about."""
        return self.kind, self.key, "goes" if self.what in ("refused", "always") else self.what


@dataclass(frozen=True, slots=True)
class Taken:
    """What became of a file that was read in: how many lines hold now that did not before, how many held already, and
    the lines of which nothing came, each with why."""

    added: int
    known: int
    refused: list[tuple[int, str]]


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


def take_in(room: Mailroom, text: str) -> Taken:
    """Say for good what a file of :func:`as_csv` says; what holds already, and what it does not name, stays, and no
    mail moves. Lines that say the same of several are one step. Raises :class:`CallerError` for what is no such file;
    nothing is said then."""
    holds = {(one.kind, one.key, one.what, one.place) for one in everything(room)}
    known, refused = 0, list[tuple[int, str]]()
    last: dict[tuple[Reach, str, str], tuple[int, Line]] = {}
    for at, fields in enumerate(_lines(text), 2):
        try:
            line = _line(room, fields)
        except CallerError as exc:
            refused.append((at, str(exc)))
            continue
        before = last.pop(line.about, None)
        last[line.about] = at, line
        if before and before[1] == line:
            known += 1
        elif before:
            refused.append((before[0], f"Line {at} says something else of “{line.key[:80]}”, and is later."))
    wanted = list[Line]()
    for at, line in last.values():
        if (line.kind, line.key, line.what, line.place) in holds:
            known += 1
            continue
        try:
            _vouch(room, line) if line.what == "vouched" else _check(room, line)
        except CallerError as exc:
            refused.append((at, str(exc)))
        else:
            wanted.append(line)
    _say(room, wanted)
    return Taken(len(wanted), known, sorted(refused))


def _lines(text: str) -> list[dict[str, str]]:
    table = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
    missing = [one for one in NEEDED if one not in (table.fieldnames or ())]
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
    return lines


def _line(room: Mailroom, fields: dict[str, str]) -> Line:
    kind, key, said, called = ((fields[name] or "").strip() for name in NEEDED)
    key = _as_said(key).lower()
    if kind.lower() not in ("address", "list", "domain") or not key:
        raise CallerError("It names neither an address, a list nor a domain.")
    reach = Reach(kind.lower())
    what = next((one for one, words in WHAT.items() if words == said.lower()), None)
    if what is None:
        raise CallerError(f"“{said[:40]}” is nothing that can be said. It is {', '.join(WHAT.values())}.")
    if what in ("vouched", "no edition"):
        return Line(reach, key, what, DESK if what == "vouched" else "")
    place = DRAIN if what == "refused" else ""
    for one in places.every_bucket(room.reader()):
        if called.casefold() in (one.name, one.title.casefold()):
            place = one.name
    if not place:
        raise CallerError(f"There is no bucket called “{called[:40]}”.")
    return Line(reach, key, what, place)


def _vouch(room: Mailroom, line: Line) -> None:
    """Vouch for somebody, which is no step."""
    if line.kind is Reach.LIST:
        raise CallerError("Nobody vouches for a list: say its address or its domain.")
    vouching.vouch(room, line.kind.value, line.key)


def _check(room: Mailroom, line: Line) -> None:
    """Raises :class:`CallerError` where a line cannot be said."""
    if line.what == "no edition":
        if line.kind is Reach.DOMAIN:
            raise CallerError("A domain stands in editions or not by its senders: name their addresses.")
        subscriptions.newest_of_all(room.reader(), [line.source])
    else:
        key_bound(room.reader(), newest_of(room, line.kind, line.key), line.kind, room.shared)


def _say(room: Mailroom, wanted: Sequence[Line]) -> None:
    """Say what can be said, lines that say the same at once."""
    out = [one.source for one in wanted if one.what == "no edition"]
    if out:
        planning.leave_out(room, out)
    alike: dict[tuple[str, Reach], list[int]] = defaultdict(list)
    for one in wanted:
        if one.what in ("refused", "always"):
            alike[one.place, one.kind].append(newest_of(room, one.kind, one.key).id)
    for (place, reach), numbers in alike.items():
        for at in range(0, len(numbers), MAX_AT_ONCE):
            correct(room, numbers[at : at + MAX_AT_ONCE], place, reach, stay=True, follow=False)


def _as_said(text: str) -> str:
    """A field as it was before it was written: see :func:`_plain`."""
    return text[1:] if text[:1] == "'" and text[1:2] in "=+-@\t\r" else text


def _plain(text: str) -> str:
    """Text that no table takes for a formula: what a stranger wrote may begin with a sign of one."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text
