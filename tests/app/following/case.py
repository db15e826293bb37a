"""What tests of following through share."""

from __future__ import annotations

from datetime import datetime
from zoneinfo import ZoneInfo

from hieranome.store import following, journal
from tests.support import NOON, RoomCase, letter

BERLIN = ZoneInfo("Europe/Berlin")
HOUR = 3_600


class FollowingCase(RoomCase):
    """A Desk with one message, in a zone whose clocks change."""

    def setUp(self) -> None:
        super().setUp()
        self.room.zone = BERLIN
        self.clock.now = NOON
        self.number = self.take(letter("Rider for the 19th", at=NOON - HOUR))
        with self.room.store.atomic() as db:
            db.execute("UPDATE messages SET place = 'desk', decided_by = 'model'")

    def at(self, said: str) -> int:
        """A time of the owner's clock in this October."""
        return int(datetime.strptime(f"2025-10-{said}", "%Y-%m-%d %H:%M").replace(tzinfo=BERLIN).timestamp())

    def noted(self, kind: following.Kind) -> following.State | None:
        return following.get(self.room.reader(), kind, self.number)

    def titles(self) -> list[str]:
        return [one.title for one in journal.recent(self.room.reader(), 0, 20)]
