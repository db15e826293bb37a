"""The away notice set, and its circles read."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from hieranome.app.room.arranged import arranging
from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.waiting import stop_where_off
from hieranome.app.searching import names_of
from hieranome.core.arranged import Thing
from hieranome.core.away import Away, Circle, check
from hieranome.core.conditions import Node
from hieranome.core.errors import CallerError
from hieranome.core.query import read_query
from hieranome.core.relations import Relations
from hieranome.store import away as kept
from hieranome.store import drafts, scripts, settings
from hieranome.store.away import Told as Told

SHOWN = 200
"""Of those who got a notice, so many are shown."""


@dataclass(frozen=True, slots=True)
class Reader:
    """The circles with their lines understood today."""

    circles: tuple[Circle, ...]
    nodes: tuple[Node | None, ...]
    relations: Relations

    @classmethod
    def of(cls, room: Mailroom, circles: Sequence[Circle]) -> Reader:
        """Read circles. Raises :class:`hieranome.core.values.QueryError` for a line that means nothing."""
        names = names_of(room)
        nodes = tuple(read_query(one.line, names).node if one.who == "line" else None for one in circles)
        return cls(tuple(circles), nodes, room.relations)

    def circle_of(self, address: str, holds: Callable[[Node], bool]) -> Circle | None:
        """The first circle that holds a message of an address; ``holds`` says whether it meets a line."""
        for one, node in zip(self.circles, self.nodes, strict=True):
            written = one.who == "written" and self.relations.of(f"address:{address}").written > 0
            if one.who == "all" or written or (node is not None and holds(node)):
                return one
        return None


def set_away(room: Mailroom, wanted: Away) -> Away:
    """Keep the notice. Raises :class:`CallerError` for one that could not be sent; it stays as it was then."""
    circles = tuple(replace(one, name=" ".join(one.name.split()), line=one.line.strip()) for one in wanted.circles)
    clean = replace(wanted, circles=circles)
    with arranging(room, Thing.AWAY, "Away notice changed", [settings.AWAY]) as it:
        db = it.db
        check(clean)
        Reader.of(room, circles)
        if clean.on and clean.ends <= room.clock():
            raise CallerError("The time away is over already. Say a later time for its end.")
        if clean.on and not drafts.identities(db):
            raise CallerError("No mailbox is connected, so no notice can be sent. Connect one under Mailboxes.")
        kept.put(db, clean)
        stop_where_off(room, db)
    return clean


def notice(room: Mailroom) -> Away:
    """The notice as it stands."""
    return kept.get(room.reader())


def told(room: Mailroom) -> list[Told]:
    """Those who got a notice, or would have, the latest first."""
    return kept.told(room.reader(), SHOWN)


def switch_off(room: Mailroom) -> Away:
    """Send no more notices, nor those that still wait; what was written stays for the next time."""
    with arranging(room, Thing.AWAY, "Away notice switched off", [settings.AWAY]) as it:
        kept.put(it.db, replace(kept.get(it.db), on=False))
        stop_where_off(room, it.db)
    return kept.get(room.reader())


def answered_by_server(room: Mailroom, address: str) -> bool:
    """Whether the server of the mailbox with an address sends the notice: then nothing is sent from here."""
    return bool(address) and address in scripts.away_at(room.reader())
