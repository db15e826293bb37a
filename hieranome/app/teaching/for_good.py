"""What is said for always is asked about first, where it would surprise: of somebody the owner answers, writes to or
vouches for, or of several at once."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.teaching.promise import key_of
from hieranome.core.buckets import DESK, DIGEST, DRAIN, SHELF
from hieranome.core.errors import Asks
from hieranome.core.facts import Correspondent
from hieranome.core.sure import ALWAYS, Reach
from hieranome.store import places, sources
from hieranome.store.messages import Message

NAMED = 3
"""Of several senders and lists, so many are named."""


def ask_first(
    room: Mailroom, db: sqlite3.Connection, rows: Sequence[Message], belongs: str, reach: Reach | None, *, several: bool
) -> None:
    """Raises :class:`Asks` where mail of a sender or list is to go away from the Desk for always, and the owner should
    say first that they mean it: they answered, wrote to or vouch for a sender, or more than one sender or list is meant
    where ``several`` says that nobody chose them one by one."""
    if (reach is not None and reach not in ALWAYS) or belongs == DESK:
        return
    names = {key_of(row): sources.name_of(db, key_of(row), row) for row in rows}
    reasons = [reason for row in {row.sender_address: row for row in rows}.values() if (reason := _reason(room, row))]
    if not reasons and not (several and len(names) > 1):
        return
    title = next(place.title for place in places.every(db) if place.name == belongs)
    where = f"the {title}" if belongs in (SHELF, DIGEST, DRAIN) else title
    listed = ", ".join(list(names.values())[:NAMED])
    more = f" and {len(names) - NAMED} more" if len(names) > NAMED else ""
    whose = "their domain" if reach is Reach.DOMAIN else f"{listed}{more}"
    said = " ".join(reasons[:NAMED])
    raise Asks(f"{said} All mail from {whose} would go to {where} from now on.".strip())


def _reason(room: Mailroom, row: Message) -> str:
    """Why the owner may not want to lose sight of a sender; empty where nothing speaks for that."""
    who = row.sender_name or row.sender_address
    sender = Correspondent(row.sender_address)
    if any(one.covers(sender) for one in room.vouched):
        return f"You vouch for {who}."
    sums = room.relations.of(f"address:{row.sender_address}")
    if sums.answered:
        return f"You answered {who} {'once' if sums.answered == 1 else f'{sums.answered} times'}."
    if sums.written:
        return f"You wrote to {who} {'once' if sums.written == 1 else f'{sums.written} times'}."
    return ""
