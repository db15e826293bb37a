"""Folders of a server opened as they are known, and made where they are not there yet."""

from __future__ import annotations

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.errors import WorldError
from hieranome.mail.imap import Imap
from hieranome.mail.imap_answers import Status
from hieranome.store import accounts
from hieranome.store.accounts import Folder


class Renumbered(WorldError):
    """A folder's UIDs no longer mean what they did: it must be looked at before anything is done in it."""

    def __init__(self, folder: str) -> None:
        super().__init__(f"The server numbered the folder {folder} anew. It is looked through again by itself.")


def open_folder(imap: Imap, folder: Folder) -> Status:
    """Open a folder as it was known. Raises :class:`Renumbered` when its UIDs mean something else now."""
    status = imap.select(folder.name)
    if folder.validity and status.validity != folder.validity:
        raise Renumbered(folder.name)
    return status


def make_folder(room: Mailroom, imap: Imap, folder: Folder) -> Folder:
    """Make a folder on the server where it is not; the folder as it is known now."""
    if folder.present:
        return folder
    imap.create(folder.name)
    with room.change() as db:
        accounts.update_folder(db, folder.id, present=1, low=0)
    return accounts.folder(room.reader(), folder.id)
