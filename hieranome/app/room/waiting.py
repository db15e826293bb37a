"""Away notices that wait to be sent."""

from __future__ import annotations

import sqlite3

from hieranome.app.room.mailroom import Mailroom
from hieranome.store import away, drafts

STOPPED = "The notice was turned off before a server took it."
"""Why a notice that waited did not go."""


def stop_where_off(room: Mailroom, db: sqlite3.Connection) -> None:
    """Within a change, let no notice go that still waits where none is to be sent; who would have got it is told."""
    if away.get(db).on:
        return
    for one in drafts.in_state(db, "waiting"):
        if one.automatic:
            away.note_failed(db, one.message_id, STOPPED)
            drafts.remove(db, one.id)
            room.tell("drafts")
