"""What the reading side asks of one message's bytes: functions of the bytes alone, so that they can be carried out in a
process that can be ended."""

from __future__ import annotations

from dataclasses import dataclass

from hieranome.core.errors import CallerError, NotFound
from hieranome.core.facts import Correspondent
from hieranome.mail.charsets import decode_bytes
from hieranome.mail.invitation import Invitation, read_invitation
from hieranome.mail.mime import Entity, parse
from hieranome.mail.people import mailboxes
from hieranome.mail.reading import Reading, name_of, read
from hieranome.mail.safe_html import SafeHtml

PDF = "application/pdf"
CALENDAR = "text/calendar"
MAX_PREVIEW = 200_000
"""Characters of an attached text that are shown."""
_RASTER = frozenset({"image/png", "image/jpeg", "image/gif", "image/webp"})


@dataclass(frozen=True, slots=True)
class View:
    """A message read for showing: how many remote pictures its HTML names, the event of its first calendar part."""

    reading: Reading
    remote: int
    invitation: Invitation | None


def view(raw: bytes) -> View:
    """Read a message for showing."""
    reading = read(raw)
    calendar = any(part.media_type == CALENDAR for part in reading.parts)
    remote = len(SafeHtml(reading.html).remote) if reading.html else 0
    return View(reading, remote, read_invitation(calendar_of(raw)) if calendar else None)


def calendar_of(raw: bytes) -> bytes:
    """The first calendar part of a message. Raises :class:`CallerError` where there is none."""
    part = parse(raw).first(CALENDAR)
    if part is None:
        raise CallerError("This message holds no invitation.")
    return part.content


def remote_pictures(raw: bytes) -> list[str]:
    """The addresses of the remote pictures of a message's HTML, in order."""
    html = read(raw).html
    return SafeHtml(html).remote if html else []


def html_page(raw: bytes, base: str, *, pictures: bool = False) -> str:
    """A message's HTML, cleaned, as a page for the frame; ``base`` is where its parts are had. Raises
    :class:`NotFound` when it has none.

    Its remote pictures are left out, or with ``pictures`` named by where this server fetches them.
    """
    reading = read(raw)
    if not reading.html:
        raise NotFound("This message has no HTML. Its text is shown instead.")
    inline = {
        part.content_id: f"{base}/parts/{part.path}"
        for part in reading.parts
        if part.content_id and part.media_type in _RASTER
    }
    fetched = (lambda at: f"{base}/pictures/{at}") if pictures else None
    return SafeHtml(reading.html, inline, fetched).page()


def list_description(raw: bytes) -> str:
    """How the list a message came through describes itself (RFC 2919, section 2); empty where it does not."""
    said = parse(raw).headers.text("list-id").partition("<")[0]
    return said.strip().strip('"').strip()[:200]


def header_lines(raw: bytes) -> list[tuple[str, str]]:
    """The headers of a message in order, decoded: name and value."""
    return parse(raw).headers.lines()


def _part(raw: bytes, path: str) -> Entity:
    part = parse(raw).find(path)
    if part is None:
        raise NotFound(f"This message has no part {path}.")
    return part


def part_text(raw: bytes, path: str) -> tuple[str, bool]:
    """An attached text as such, and whether it was cut. Raises :class:`NotFound`, and :class:`CallerError` for what is
    no text."""
    part = _part(raw, path)
    if not part.media_type.startswith("text/"):
        raise CallerError("This attachment is no text. Save it instead.")
    text = decode_bytes(part.content, part.parameters.get("charset", ""), MAX_PREVIEW + 1).replace("\x00", "")
    return text[:MAX_PREVIEW], len(text) > MAX_PREVIEW


@dataclass(frozen=True, slots=True)
class FilePart:
    """An attachment as a file; ``inline`` tells whether it may be shown rather than saved: raster pictures, and a PDF
    when it is asked for by itself."""

    content: bytes
    media_type: str
    name: str
    inline: bool


def file_part(raw: bytes, path: str, *, to_view: bool = False) -> FilePart:
    """An attached part. Raises :class:`NotFound`."""
    part = _part(raw, path)
    name, _ = name_of(part)
    inline = part.media_type in _RASTER or (to_view and part.media_type == PDF)
    kind = part.media_type if inline else "application/octet-stream"
    return FilePart(part.content, kind, name or f"part-{path}", inline)


def hidden_recipients(raw: bytes) -> list[Correspondent]:
    """Whom Bcc names, as drafts have it."""
    found = (one for value in parse(raw).headers.every("bcc") for one in mailboxes(value))
    return [Correspondent(one.address, one.name) for one in found if one.address and one.sound]


def attached_files(raw: bytes) -> list[FilePart]:
    """Every attached part of a message, with the media type it bears."""
    tree = parse(raw)
    found = []
    for one in read(raw).parts:
        part = tree.find(one.path) if one.attached else None
        if part is not None:
            found.append(FilePart(part.content, one.media_type, one.name or f"part-{one.path}", False))
    return found
