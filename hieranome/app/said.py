"""Everything that was said for good of a sender, a list or a domain: listed with what came since, changed, ended."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from typing import Literal

from hieranome.app.bulk import planning
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching import vouching
from hieranome.app.teaching.correct import Outcome
from hieranome.app.teaching.for_good import correct_asked
from hieranome.core.actors import Actor
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


@dataclass(frozen=True, slots=True)
class Said:
    """One thing that was said for good: of an address, a list or a domain, how that is called, what was said, where its
    mail goes (empty: that is not said), since when (Unix seconds), how much came since, and who said it: the owner here
    or in another program."""

    kind: Reach
    key: str
    name: str
    what: What
    place: str
    at: int
    came: int
    by: Actor = Actor.OWNER

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
    return Said(one.reach, one.key, name, "refused" if place == DRAIN else "always", place, one.at, came, one.by)


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


def change(room: Mailroom, kind: Reach, key: str, place: str, *, confirmed: bool) -> Outcome:
    """Let all mail of a sender, list or domain go to another bucket from now on, as a step; what is here stays where it
    stands. Raises :class:`CallerError` where no mail of it is here any more, and as
    :func:`hieranome.app.teaching.for_good.correct_asked` does, which asks first."""
    newest = newest_of(room, kind, key).id
    return correct_asked(room, [newest], place, kind, confirmed=confirmed, several=False, stay=True, follow=False)


def newest_of(room: Mailroom, kind: Reach, key: str) -> messages.Message:
    """The newest message of a sender, list or domain, of which a lesson is learned. Raises :class:`CallerError` where
    none is here."""
    db = room.reader()
    newest = always.newest_of(db, kind, key)
    if newest is None:
        raise CallerError(f"No mail of “{key[:80]}” is here, so there is nothing to learn from.")
    return messages.get(db, newest)
