"""Remote pictures, fetched by the server when the owner asks for them: nothing of the owner goes with the request.

Only raster pictures from public addresses are taken. Every address a name stands for is looked at before it is
connected to, and again after each redirect, so that no message can make this machine ask its own network. The whole of
it, looking up names and redirects included, ends at one deadline.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urljoin

from hieranome.core.errors import WorldError
from hieranome.mail.public import Deadline, NotPublic, Permit, TooLate, Unreached, ask, by_public_network, is_public

MAX_BYTES = 5_000_000
MAX_REDIRECTS = 3
PATIENCE = 10.0
"""Seconds one picture may take in all."""
_ACCEPT = {"Accept": "image/png, image/jpeg, image/gif, image/webp"}
_SIGNS = (
    (b"\x89PNG\r\n\x1a\n", "image/png"),
    (b"\xff\xd8\xff", "image/jpeg"),
    (b"GIF87a", "image/gif"),
    (b"GIF89a", "image/gif"),
)


class PictureRefused(WorldError):
    """A remote picture that was not taken."""

    status = 502


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture's bytes and the media type they show."""

    content: bytes
    media_type: str


Fetch = Callable[[str], Picture]


def fetch_picture(url: str, permit: Permit = is_public, patience: float = PATIENCE) -> Picture:
    """The picture at a web address, within ``patience`` seconds. Raises :class:`PictureRefused`, which says why."""
    try:
        return _fetched(url, permit, Deadline.after(patience))
    except NotPublic as exc:
        raise PictureRefused(
            "The picture's address lies in a private network, where mail has nothing to fetch."
        ) from exc
    except TooLate as exc:
        raise PictureRefused(f"The sender's server did not send the picture within {PATIENCE:.0f} seconds.") from exc
    except Unreached as exc:
        raise PictureRefused(f"The picture could not be fetched from the sender's server. {exc}") from exc


def _fetched(url: str, permit: Permit, deadline: Deadline) -> Picture:
    for _ in range(MAX_REDIRECTS + 1):
        answer = ask(url, by_public_network(permit), deadline, MAX_BYTES, headers=_ACCEPT)
        if answer.status in (301, 302, 303, 307, 308) and answer.location:
            try:
                url = urljoin(url, answer.location)
            except ValueError as exc:
                raise PictureRefused("The picture's address leads to one that is none.") from exc
            continue
        if answer.status != 200:
            raise PictureRefused(f"The sender's server answered {answer.status} instead of the picture.")
        return Picture(answer.content, raster_type(answer.content))
    raise PictureRefused("The picture's address leads from one to the next without end.")


def raster_type(content: bytes) -> str:
    """The media type the bytes themselves show. Raises :class:`PictureRefused` for anything but raster pictures."""
    if content[:4] == b"RIFF" and content[8:12] == b"WEBP":
        return "image/webp"
    found = next((kind for sign, kind in _SIGNS if content.startswith(sign)), None)
    if found is None:
        raise PictureRefused("What the sender's server sent is not a PNG, JPEG, GIF or WebP picture.")
    return found
