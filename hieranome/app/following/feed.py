"""What is due as a calendar of to-dos (RFC 5545, VTODO), and the address at which calendars may read it."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from datetime import UTC, datetime

from icalendar import Calendar, Todo

from hieranome import __version__
from hieranome.app.room.mailroom import Mailroom
from hieranome.store import following, messages, settings
from hieranome.store.messages import Message

TOKEN_BYTES = 24


def to_dos(room: Mailroom) -> bytes:
    """All that is due, each message a to-do: its subject, its sender, when it is due, whole days as days."""
    calendar = Calendar()
    calendar.add("prodid", f"-//Hieranome//{__version__}//EN")
    calendar.add("version", "2.0")
    calendar.add("method", "PUBLISH")
    db = room.reader()
    due = following.due(db)
    rows = {row.id: row for row in messages.get_many(db, [one.message for one in due])}
    for one in due:
        if one.message in rows:
            calendar.add_component(_to_do(room, rows[one.message], one.state))
    return bytes(calendar.to_ical())


def _to_do(room: Mailroom, row: Message, state: following.State) -> Todo:
    todo = Todo()
    ident = hashlib.sha256(f"{row.id} {row.time} {row.sender_address}".encode("utf-8", "replace")).hexdigest()[:32]
    todo.add("uid", f"{ident}@hieranome.invalid")
    todo.add("dtstamp", datetime.fromtimestamp(state.since, UTC))
    todo.add("summary", _clean(row.subject) or "(no subject)")
    todo.add("description", _clean(f"{row.sender_name} <{row.sender_address}>: {row.snippet}"))
    due = datetime.fromtimestamp(state.at, room.zone)
    todo.add("due", due.date() if state.day else due.astimezone(UTC))
    todo.add("status", "NEEDS-ACTION")
    return todo


def _clean(text: str) -> str:
    """Text without characters that no line of a calendar may hold."""
    return "".join(" " if char < " " or char == "\x7f" else char for char in text).encode("utf-8", "replace").decode()


def open_feed(room: Mailroom) -> str:
    """A new token by which what is due may be read, and nothing else; the one before is worth nothing any more. It is
    told once: only its hash is kept."""
    token = secrets.token_urlsafe(TOKEN_BYTES)
    with room.change() as db:
        settings.put(db, settings.FEED, _hash(token))
    return token


def close_feed(room: Mailroom) -> None:
    """Let nobody read what is due by a token any more."""
    with room.change() as db:
        settings.put(db, settings.FEED, "")


def is_open(room: Mailroom) -> bool:
    """Whether there is a token."""
    return bool(settings.value(room.reader(), settings.FEED, ""))


def may_read(room: Mailroom, token: str) -> bool:
    """Whether a token is the one that was given."""
    kept = str(settings.value(room.reader(), settings.FEED, ""))
    return bool(kept) and hmac.compare_digest(kept, _hash(token))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()
