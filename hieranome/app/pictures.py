"""Remote pictures of a message, fetched when the owner asks: for one message, or always for a sender."""

from __future__ import annotations

import threading
from collections import OrderedDict
from concurrent.futures import Future, ThreadPoolExecutor

from hieranome.app.reading.processes import guarded
from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import CallerError, NotFound
from hieranome.mail.opening import remote_pictures
from hieranome.mail.remote import Fetch, Picture, fetch_picture
from hieranome.store import messages, searches

FETCHED_AT_ONCE = 6
"""Pictures that are fetched at the same time; others wait their turn, without a thread."""
KEPT = 8
"""Messages whose pictures' addresses are remembered."""


class Pictures:
    """Fetches the pictures of opened messages, each message's addresses found once."""

    def __init__(self, room: Mailroom, fetch: Fetch = fetch_picture) -> None:
        self._room = room
        self._fetch = fetch
        self._found: OrderedDict[int, list[str]] = OrderedDict()
        self._lock = threading.Lock()
        self._threads = ThreadPoolExecutor(FETCHED_AT_ONCE, thread_name_prefix="pictures")

    def close(self) -> None:
        """Fetch no more; what is under way ends by its deadline."""
        self._threads.shutdown(wait=False, cancel_futures=True)

    def get(self, number: int, at: int) -> Future[Picture]:
        """One picture, to come: it is fetched in threads of their own, so that slow servers hold nobody else up. It
        raises :class:`NotFound`, or :class:`hieranome.mail.remote.PictureRefused`."""
        return self._threads.submit(self._get, number, at)

    def _get(self, number: int, at: int) -> Picture:
        addresses = self._addresses(number)
        if not 0 <= at < len(addresses):
            raise NotFound(f"Message {number} has no remote picture {at}.")
        return self._fetch(addresses[at])

    def _addresses(self, number: int) -> list[str]:
        with self._lock:
            if number not in self._found:
                self._found[number] = guarded(remote_pictures, messages.raw(self._room.reader(), number))
                while len(self._found) > KEPT:
                    self._found.popitem(last=False)
            return self._found[number]


def senders(room: Mailroom) -> list[str]:
    """The senders whose pictures are always fetched."""
    return searches.pictured(room.reader())


def set_sender(room: Mailroom, address: str, wanted: bool) -> list[str]:
    """Fetch a sender's pictures always, or no longer; returns all such senders."""
    clean = address.strip().lower()
    if "@" not in clean or len(clean) > 254:
        raise CallerError(f"“{address}” is no address, so its pictures cannot be asked for.")
    with room.change() as db:
        searches.set_pictured(db, clean, wanted, room.clock())
    return searches.pictured(room.reader())
