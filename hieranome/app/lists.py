"""Lists of mail: a place page by page, by source, its numbers; and what each place holds."""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.rows import Row, dressed
from hieranome.core.buckets import JUNK
from hieranome.core.routing import bounds
from hieranome.store import listing, places, sources
from hieranome.store.listing import MAX_PAGE as MAX_PAGE
from hieranome.store.listing import Listing as Listing
from hieranome.store.listing import Order as Order
from hieranome.store.places import Place as Place
from hieranome.store.sources import OFTEN
from hieranome.store.sources import Ranked as Ranked
from hieranome.store.sources import Source as Source
from hieranome.store.sources import SourcePage as SourcePage

MOST_DOUBTED = 50
"""Of the mail in Junk that seems to matter, so many are shown."""
SEEN_WEEKS = OFTEN / (7 * 86_400)
"""Over so many weeks it is counted how often a source writes."""


@dataclass(frozen=True, slots=True)
class Page:
    """A page of rows; ``next`` is the cursor of the one that follows, or empty. ``shifted`` says that scores changed
    since the cursor was made, so that rows may be seen twice or not at all."""

    rows: list[Row]
    next: str
    shifted: bool = False


def every_place(room: Mailroom) -> list[Place]:
    """All places with their counts, in the order of the band."""
    return places.every(room.reader())


def page(room: Mailroom, wanted: Listing, cursor: str, limit: int) -> Page:
    """One page of a place. Raises :class:`hieranome.core.errors.NotFound` where there is no such place."""
    db = room.reader()
    places.check(db, wanted.place)
    revision, _, position = cursor.partition("~") if cursor else ("", "", "")
    found = listing.page(db, wanted, position, limit)
    follows = f"{room.revision}~{found.next}" if found.next else ""
    shifted = bool(cursor) and wanted.order == "importance" and revision != str(room.revision)
    return Page(dressed(room, found.messages), follows, shifted)


def numbers(
    room: Mailroom, name: str, *, sender: str, source: str, unread_only: bool, limit: int
) -> tuple[list[int], int]:
    """The ids of a place's newest messages, of one sender or source where one is named, and how many there are."""
    db = room.reader()
    if source:
        of_source = sources.numbers(db, name, source)
        return of_source[:limit], len(of_source)
    place = places.get(db, name)
    found = listing.numbers(db, Listing(name, unread_only=unread_only), sender, limit)
    return found, place.unread if unread_only else place.total


def by_source(room: Mailroom, name: str, order: Ranked, cursor: str, limit: int) -> SourcePage:
    """One page of the sources of a place's mail. Raises :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    places.check(db, name)
    return sources.page(db, name, order, cursor, limit)


def of_source(room: Mailroom, name: str, source: str, cursor: str, limit: int) -> Page:
    """One page of the mail of a source in a place, newest first. Raises :class:`hieranome.core.errors.NotFound`."""
    db = room.reader()
    places.check(db, name)
    found = sources.mail(db, name, source, cursor, limit)
    return Page(dressed(room, found.messages), found.next)


def doubted_in_junk(room: Mailroom) -> list[Row]:
    """Mail in Junk that the model thinks matters."""
    return dressed(room, listing.above(room.reader(), JUNK, bounds(room.costs).ask, MOST_DOUBTED))
