"""What listens to arriving mail, and what it is told of a message."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from hieranome.app.reading.incoming import Incoming, Placed
from hieranome.app.reading.placement import Examined
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.features import Vector
from hieranome.core.judgement import Judgement


@dataclass(slots=True)
class Arriving:
    """A message on its way in, within the change that stores it. ``mine`` says that the owner wrote it; ``placed`` is
    where it goes, None while only the model has a say; ``number`` is its id once it is stored, 0 before."""

    room: Mailroom
    db: sqlite3.Connection
    incoming: Incoming
    found: Examined
    mine: bool
    thread: int
    vector: Vector
    judgement: Judgement
    placed: Placed | None
    number: int = 0

    @property
    def where(self) -> Placed:
        """Where it goes, once that is decided."""
        assert self.placed is not None
        return self.placed


class Listener:
    """One that listens to arriving mail. It is made anew for each message, so it may remember what it found from the
    first call to the second."""

    def place(self, one: Arriving) -> None:
        """Before a message is stored: may say where it goes, by :attr:`Arriving.placed`."""

    def stored(self, one: Arriving) -> None:
        """The message is stored at :attr:`Arriving.where`: do what follows from it, in the same change."""
