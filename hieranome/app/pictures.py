"""Remote pictures of a message, fetched when the owner asks: for one message, or always for a sender."""

from __future__ import annotations

import threading
from collections import OrderedDict

from hieranome.app.mailroom import Mailroom
from hieranome.core.errors import CallerError, NotFound
from hieranome.mail.reading import read
from hieranome.mail.remote import Fetch, Picture, fetch_picture
from hieranome.mail.safe_html import SafeHtml
from hieranome.store import messages, searches

KEPT = 8
"""Messages whose pictures' addresses are remembered."""


class Pictures:
    """Fetches the pictures of opened messages, each message's addresses found once."""

    def __init__(self, room: Mailroom, fetch: Fetch = fetch_picture) -> None:
        self._room = room
        self._fetch = fetch
        self._found: OrderedDict[int, list[str]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, number: int, at: int) -> Picture:
        """One picture. Raises :class:`NotFound`, or :class:`hieranome.mail.remote.PictureRefused`."""
        addresses = self._addresses(number)
        if not 0 <= at < len(addresses):
            raise NotFound(f"Message {number} has no remote picture {at}.")
        return self._fetch(addresses[at])

    def _addresses(self, number: int) -> list[str]:
        with self._lock:
            if number not in self._found:
                html = read(messages.raw(self._room.reader(), number)).html
                self._found[number] = SafeHtml(html).remote if html else []
                while len(self._found) > KEPT:
                    self._found.popitem(last=False)
            return self._found[number]


def set_sender(room: Mailroom, address: str, wanted: bool) -> list[str]:
    """Fetch a sender's pictures always, or no longer; returns all such senders."""
    clean = address.strip().lower()
    if "@" not in clean or len(clean) > 254:
        raise CallerError(f"“{address}” is no address, so its pictures cannot be asked for.")
    with room.changing, room.store.atomic() as db:
        searches.set_pictured(db, clean, wanted, room.clock())
    return searches.pictured(room.reader())
