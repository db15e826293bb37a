"""What the owner says of addresses mail reaches them at, and who writes to each."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.core.addresses import Purpose


@dataclass(frozen=True, slots=True)
class Said:
    """What was said of an address: what it is for, whom it was given to (may be empty), and when it was made here (Unix
    seconds), or 0."""

    address: str
    purpose: Purpose
    given_to: str
    made_at: int


@dataclass(frozen=True, slots=True)
class Written:
    """Mail from one domain to one address in one place: how much, when the first came (Unix seconds), and which."""

    address: str
    domain: str
    place: str
    total: int
    first: int
    message: int


@dataclass(frozen=True, slots=True)
class Reached:
    """All mail that reached an address: how much, and how much of it is unread."""

    total: int
    unread: int


def every(db: sqlite3.Connection) -> dict[str, Said]:
    """All that was said, by address."""
    rows = db.execute("SELECT address, purpose, given_to, made_at FROM addresses")
    return {row[0]: _said(row) for row in rows}


def of(db: sqlite3.Connection, address: str) -> Said | None:
    """What was said of one address, or None."""
    row = db.execute(
        "SELECT address, purpose, given_to, made_at FROM addresses WHERE address = ?", (address,)
    ).fetchone()
    return _said(row) if row else None


def purposes(db: sqlite3.Connection) -> dict[str, Purpose]:
    """What addresses are said to be for, where that is said."""
    return {address: one.purpose for address, one in every(db).items() if one.purpose}


def put(db: sqlite3.Connection, one: Said) -> None:
    """Note what is said of an address, instead of what was."""
    db.execute(
        "INSERT INTO addresses VALUES (?1, ?2, ?3, ?4) ON CONFLICT (address) DO UPDATE SET"
        " purpose = excluded.purpose, given_to = excluded.given_to, made_at = excluded.made_at",
        (one.address, one.purpose.value, one.given_to, one.made_at),
    )


def forget(db: sqlite3.Connection, address: str) -> None:
    """Forget what was said of an address."""
    db.execute("DELETE FROM addresses WHERE address = ?", (address,))


def _said(row: sqlite3.Row) -> Said:
    return Said(row[0], Purpose(row[1]), row[2], row[3])


def written(db: sqlite3.Connection, address: str = "") -> list[Written]:
    """Who writes to each address, or to one; where that is not known, and what the owner wrote, left out."""
    which = "= :address" if address else "<> ''"
    rows = db.execute(
        "SELECT reached, sender_domain, place, count(*), min(time), id FROM messages INDEXED BY messages_by_reached"
        f" WHERE reached {which} AND reached <> '' AND place NOT IN ('sent', 'drafts')"
        " GROUP BY reached, sender_domain, place",
        {"address": address},
    )
    return [Written(*row) for row in rows]


def reached(db: sqlite3.Connection) -> dict[str, Reached]:
    """How much reached each address, by the sums of the weeks; own mail and junk aside."""
    rows = db.execute("SELECT reached, sum(total), sum(unread) FROM weekly WHERE reached <> '' GROUP BY reached")
    return {row[0]: Reached(*row[1:]) for row in rows}
