"""What is said for always is asked about first, where it would surprise: of somebody the owner answers, writes to or
vouches for, or of several at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.correct import Outcome, correct
from hieranome.app.teaching.promise import key_of
from hieranome.app.teaching.undoing import undo
from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF
from hieranome.core.errors import Asks
from hieranome.core.facts import Correspondent
from hieranome.core.sure import ALWAYS, Reach
from hieranome.store import messages, places, sources
from hieranome.store.messages import Message

NAMED = 3
"""Of several senders and lists, so many are named."""


def correct_asked(
    room: Mailroom,
    numbers: Sequence[int],
    belongs: str,
    reach: Reach | None,
    *,
    confirmed: bool,
    several: bool = True,
    instead: int = 0,
    stay: bool = False,
    title: str = "",
    follow: bool | None = None,
    along: Sequence[int] = (),
) -> Outcome:
    """What :func:`hieranome.app.teaching.correct.correct` does, asked about first where it is not ``confirmed`` and
    :func:`ask_first` says so; nothing is changed then. A step it comes ``instead`` of is undone in the same change.
    Raises :class:`Asks` besides what these raise."""
    with room.change() as db:
        if instead:
            undo(room, instead)
        if not confirmed:
            ask_first(room, db, messages.get_many(db, list(numbers)), belongs, reach, several=several)
        return correct(room, numbers, belongs, reach, stay=stay, title=title, follow=follow, along=along)


def ask_first(
    room: Mailroom, db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach | None, *, several: bool
) -> None:
    """Raises :class:`Asks` where mail of a sender or list is to go away from the Desk for always, and the owner should
    say first that they mean it: they answered, wrote to or vouch for a sender, or more than one sender or list is meant
    where ``several`` says that nobody chose them one by one."""
    if (reach is not None and reach not in ALWAYS) or belongs == DESK:
        return
    newest = {key_of(row): row for row in rows}
    names = {key: sources.name_of(db, key, row) for key, row in newest.items()}
    reasons = [reason for key, row in newest.items() if (reason := _reason(room, key, row, names[key]))]
    if not reasons and not (several and len(names) > 1):
        return
    title = next(place.title for place in places.every(db) if place.name == belongs)
    where = f"the {title}" if belongs in (SHELF, DIGEST, DRAIN) else title
    listed = ", ".join(list(names.values())[:NAMED])
    more = f" and {len(names) - NAMED} more" if len(names) > NAMED else ""
    domains = sorted({row.sender_address.rpartition("@")[2] for row in rows})
    whose = f"everybody at {', '.join(domains[:NAMED])}" if reach is Reach.DOMAIN else f"{listed}{more}"
    said = " ".join(reasons[:NAMED])
    raise Asks(f"{said} All mail from {whose} would go to {where} from now on.".strip())


def _reason(room: Mailroom, key: str, row: Message, who: str) -> str:
    """Why the owner may not want to lose sight of a sender or list; empty where nothing speaks for that."""
    listed = key.startswith("list:")
    if not listed and any(one.covers(Correspondent(row.sender_address)) for one in room.vouched):
        return f"You vouch for {who}."
    sums = room.relations.of(key)
    if sums.answered:
        return f"You answered {f'mail of {who}' if listed else who} {_times(sums.answered)}."
    return f"You wrote to {who} {_times(sums.written)}." if sums.written else ""


def _times(count: int) -> str:
    return "once" if count == 1 else f"{count} times"
