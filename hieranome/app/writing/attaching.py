"""Files that go along with a draft."""

from __future__ import annotations

from collections.abc import Sequence

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing.drafts import check_draft
from hieranome.core.errors import CallerError
from hieranome.core.sizes import sized
from hieranome.store import drafts
from hieranome.store.drafts import Draft, DraftAttachment

MAX_ATTACHED = 25_000_000
"""Bytes of all files of one message."""


def files(room: Mailroom, number: int) -> list[DraftAttachment]:
    """What is attached to a draft."""
    return drafts.attachments(room.reader(), number)


def attach(room: Mailroom, number: int, name: str, media_type: str, content: bytes) -> Draft:
    """Add a file to a draft. Raises :class:`CallerError` when all its files were too large."""
    with room.change() as db:
        check_draft(drafts.get(db, number))
        check_size(drafts.attachments(db, number), name, content)
        drafts.attach(db, number, file_name(name), media_type, content)
    return drafts.get(room.reader(), number)


def check_size(there: Sequence[DraftAttachment], name: str, content: bytes) -> None:
    """Raises :class:`CallerError` when files, and one more, were too large."""
    size = sum(one.size for one in there) + len(content)
    if size > MAX_ATTACHED:
        raise CallerError(
            f"With “{name}” the files of this message would be {sized(size)}; {sized(MAX_ATTACHED)} is the most "
            "that servers take. It was not added."
        )


def file_name(name: str) -> str:
    """The name a file goes by."""
    return " ".join(name.split())[:200] or "file"


def take_out(room: Mailroom, number: int, attachment: int) -> Draft:
    """Take a file out of a draft."""
    with room.change() as db:
        check_draft(drafts.get(db, number))
        drafts.take_out(db, number, attachment)
    return drafts.get(room.reader(), number)
