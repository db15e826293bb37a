"""What the owner writes: drafts, the outbox, what was sent; and who the owner writes as."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from hieranome.core.errors import NotFound


@dataclass(frozen=True, slots=True)
class Identity:
    """Who the owner writes as, and the mailbox that hands its mail in."""

    address: str
    account: int
    name: str
    signature: str


@dataclass(frozen=True, slots=True)
class Draft:
    """What the owner writes. Recipients are as typed, comma-separated; ``answers`` is the message it replies to or
    forwards, ``continues`` the draft of another program it goes on from; ``state`` is ``draft``, ``waiting``,
    ``sending``, ``handing``, ``sent`` or ``unsure``. ``timed`` is when the owner wants it to go (Unix
    seconds, 0: at once), ``awaited`` by when an answer is waited for once it has gone (0: none is), ``phrased`` that a
    phrase was put into it."""

    id: int
    sender: str
    recipients: str
    cc: str
    bcc: str
    subject: str
    body: str
    kind: str
    answers: int | None
    in_reply_to: str
    mentions: str
    calendar: str
    changed_at: int
    state: str
    due_at: int
    tries: int
    error: str
    message_id: str
    filed: bool
    continues: int | None
    timed: int
    awaited: int
    phrased: bool
    automatic: bool


@dataclass(frozen=True, slots=True)
class DraftAttachment:
    """A file that goes with a draft, without its bytes."""

    id: int
    name: str
    media_type: str
    size: int


_FIELDS = tuple(Draft.__dataclass_fields__)
_STANDING = f"SELECT {', '.join(_FIELDS)} FROM drafts WHERE id NOT IN (SELECT draft FROM discarded)"


def _letter(row: sqlite3.Row) -> Draft:
    values: dict[str, Any] = dict(row)
    values["filed"] = bool(values["filed"])
    values["phrased"] = bool(values["phrased"])
    values["automatic"] = bool(values["automatic"])
    return Draft(**values)


def identities(db: sqlite3.Connection) -> list[Identity]:
    """Whom the owner writes as, the first added first."""
    rows = db.execute("SELECT address, account, name, signature FROM identities ORDER BY rowid")
    return [Identity(*row) for row in rows]


def put_identity(db: sqlite3.Connection, one: Identity) -> None:
    """Store an identity; one of the same address gives way."""
    db.execute(
        "INSERT INTO identities (address, account, name, signature) VALUES (?, ?, ?, ?) ON CONFLICT (address) DO UPDATE"
        " SET account = excluded.account, name = excluded.name, signature = excluded.signature",
        (one.address, one.account, one.name, one.signature),
    )


def remove_identity(db: sqlite3.Connection, address: str) -> None:
    """Write as somebody no longer."""
    db.execute("DELETE FROM identities WHERE address = ?", (address,))


def add(db: sqlite3.Connection, **values: str | int | None) -> int:
    """Store a new draft; its id."""
    names = ", ".join(values)
    marks = ", ".join("?" * len(values))
    number = db.execute(f"INSERT INTO drafts ({names}) VALUES ({marks})", list(values.values())).lastrowid
    assert number is not None
    return number


def update(db: sqlite3.Connection, number: int, **values: str | int | bytes | None) -> None:
    """Set columns of a draft."""
    sets = ", ".join(f"{name} = ?" for name in values)
    db.execute(f"UPDATE drafts SET {sets} WHERE id = ?", [*values.values(), number])


def get(db: sqlite3.Connection, number: int) -> Draft:
    """One draft. Raises :class:`NotFound`."""
    row = db.execute(f"{_STANDING} AND id = ?", (number,)).fetchone()
    if row is None:
        raise NotFound(f"There is no draft {number}. It may have been sent or thrown away; load the page again.")
    return _letter(row)


def unsent(db: sqlite3.Connection) -> list[Draft]:
    """All of the owner's that is not sent, or not surely, the latest changed first."""
    rows = db.execute(f"{_STANDING} AND state <> 'sent' AND automatic = 0 ORDER BY changed_at DESC, id DESC")
    return [_letter(row) for row in rows]


def continuing(db: sqlite3.Connection, message: int) -> Draft | None:
    """What goes on from another program's draft and is not sent, or None."""
    row = db.execute(f"{_STANDING} AND continues = ? AND state <> 'sent' ORDER BY id DESC", (message,)).fetchone()
    return None if row is None else _letter(row)


def invitation_answers(db: sqlite3.Connection, messages: Sequence[int]) -> dict[int, str]:
    """What the owner answered to invitations among some messages, as the subject of each answer says it."""
    rows = db.execute(
        "SELECT answers, subject FROM drafts INDEXED BY drafts_by_answered WHERE calendar <> '' AND state <> 'draft'"
        " AND answers IN (SELECT value FROM json_each(?)) ORDER BY id",
        (json.dumps(list(messages)),),
    )
    return {row[0]: str(row[1]).partition(":")[0] for row in rows}


def in_state(db: sqlite3.Connection, *states: str) -> list[Draft]:
    """Those in some states, the first due first."""
    marks = ", ".join("?" * len(states))
    rows = db.execute(f"{_STANDING} AND state IN ({marks}) ORDER BY due_at, id", states)
    return [_letter(row) for row in rows]


def to_file(db: sqlite3.Connection, account: int) -> list[Draft]:
    """Sent messages of a mailbox whose copies are not yet in its Sent folder."""
    rows = db.execute(
        f"{_STANDING} AND state = 'sent' AND filed = 0"
        " AND sender IN (SELECT address FROM identities WHERE account = ?) ORDER BY id",
        (account,),
    )
    return [_letter(row) for row in rows]


def raw(db: sqlite3.Connection, number: int) -> bytes:
    """The bytes of a message in the outbox or sent. Raises :class:`NotFound`."""
    row = db.execute("SELECT raw FROM drafts WHERE id = ?", (number,)).fetchone()
    if row is None or row[0] is None:
        raise NotFound(f"Draft {number} was not put into the outbox.")
    return bytes(row[0])


def envelope(db: sqlite3.Connection, number: int) -> list[str]:
    """The addresses a message of the outbox goes to, as they were settled when it went there."""
    row = db.execute("SELECT envelope FROM drafts WHERE id = ?", (number,)).fetchone()
    return str(row[0]).split() if row else []


def remove(db: sqlite3.Connection, number: int) -> None:
    """Remove a draft for good."""
    db.execute("DELETE FROM drafts WHERE id = ?", (number,))


def discard(db: sqlite3.Connection, number: int, step: int) -> None:
    """Let a draft stand nowhere any more, until its step is undone."""
    db.execute("INSERT INTO discarded VALUES (?, ?)", (number, step))


def bring_back(db: sqlite3.Connection, step: int) -> bool:
    """Let what a step discarded stand again; False where it discarded nothing."""
    return db.execute("DELETE FROM discarded WHERE step = ?", (step,)).rowcount > 0


def forget_discarded(db: sqlite3.Connection, before: int) -> None:
    """Remove for good what was discarded before a time (Unix seconds); nothing is left to undo of those steps."""
    old = "SELECT d.draft FROM discarded AS d JOIN steps AS s ON s.id = d.step WHERE s.at < ?"
    db.execute(f"DELETE FROM drafts WHERE id IN ({old})", (before,))


def attachments(db: sqlite3.Connection, draft: int) -> list[DraftAttachment]:
    """The files that go with a draft."""
    rows = db.execute(
        "SELECT id, name, media_type, length(content) FROM attachments WHERE draft = ? ORDER BY id", (draft,)
    )
    return [DraftAttachment(*row) for row in rows]


def attached(db: sqlite3.Connection, draft: int) -> list[tuple[str, str, bytes]]:
    """The name, media type and bytes of each file that goes with a draft."""
    rows = db.execute("SELECT name, media_type, content FROM attachments WHERE draft = ? ORDER BY id", (draft,))
    return [(row[0], row[1], bytes(row[2])) for row in rows]


def attach(db: sqlite3.Connection, draft: int, name: str, media_type: str, content: bytes) -> None:
    """Add a file to a draft."""
    db.execute(
        "INSERT INTO attachments (draft, name, media_type, content) VALUES (?, ?, ?, ?)",
        (draft, name, media_type, content),
    )


def take_out(db: sqlite3.Connection, draft: int, attachment: int) -> None:
    """Take a file out of a draft."""
    db.execute("DELETE FROM attachments WHERE draft = ? AND id = ?", (draft, attachment))
