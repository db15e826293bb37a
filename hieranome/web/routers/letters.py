"""Writing: drafts, the outbox, who the owner writes as."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, UploadFile

from hieranome.app import letters as writing
from hieranome.core.errors import CallerError
from hieranome.store import accounts, letters, searches
from hieranome.store.letters import Identity, Letter
from hieranome.web.models.answer import Id
from hieranome.web.models.letters import (
    BeginIn,
    EnclosureOut,
    IdentityIn,
    IdentityOut,
    InvitationIn,
    LetterIn,
    LetterOut,
    PersonOfferedOut,
)
from hieranome.web.state import RoomDep

router = APIRouter(tags=["writing"])


def _out(room: RoomDep, letter: Letter) -> LetterOut:
    values = {name: getattr(letter, name) for name in LetterOut.model_fields if hasattr(letter, name)}
    files = [EnclosureOut.model_validate(one) for one in letters.enclosures(room.reader(), letter.id)]
    return LetterOut(**values, enclosures=files)


@router.get("/letters")
def list_letters(room: RoomDep) -> list[LetterOut]:
    """All that is not sent, or not surely: drafts and the outbox."""
    return [_out(room, one) for one in letters.unsent(room.reader())]


@router.post("/letters", status_code=201)
def begin_letter(room: RoomDep, wanted: BeginIn) -> LetterOut:
    """Begin a letter, a reply or a forward; it is a draft."""
    return _out(room, writing.begin(room, wanted.kind, wanted.message))


@router.get("/letters/{number}")
def get_letter(room: RoomDep, number: Id) -> LetterOut:
    """One letter."""
    return _out(room, letters.get(room.reader(), number))


@router.put("/letters/{number}")
def keep_letter(room: RoomDep, number: Id, wanted: LetterIn) -> LetterOut:
    """Keep what the owner wrote of a draft."""
    return _out(room, writing.change(room, number, writing.Changed(**wanted.model_dump())))


@router.delete("/letters/{number}", status_code=204)
def throw_letter_away(room: RoomDep, number: Id) -> None:
    """Throw a draft away."""
    writing.throw_away(room, number)


@router.post("/letters/{number}/enclosures")
def enclose_file(room: RoomDep, number: Id, file: Annotated[UploadFile, File()]) -> LetterOut:
    """Add a file to a letter."""
    content = file.file.read(writing.MAX_ENCLOSED + 1)
    kind = file.content_type or "application/octet-stream"
    return _out(room, writing.enclose(room, number, file.filename or "file", kind, content))


@router.delete("/letters/{number}/enclosures/{enclosure}")
def take_out_file(room: RoomDep, number: Id, enclosure: Id) -> LetterOut:
    """Take a file out of a letter."""
    return _out(room, writing.take_out(room, number, enclosure))


@router.post("/letters/{number}/send")
def send_letter(room: RoomDep, number: Id) -> LetterOut:
    """Put a letter into the outbox; for ten seconds it can be taken back."""
    return _out(room, writing.send(room, number))


@router.post("/letters/{number}/back")
def take_letter_back(room: RoomDep, number: Id) -> LetterOut:
    """Take a letter out of the outbox, or make an unsure one a draft again."""
    return _out(room, writing.take_back(room, number))


@router.post("/messages/{number}/invitation")
def answer_invitation(room: RoomDep, number: Id, wanted: InvitationIn) -> LetterOut:
    """Answer an invitation; the answer is in the outbox then."""
    return _out(room, writing.answer_invitation(room, number, wanted.answer))


@router.get("/correspondents")
def offer_correspondents(
    room: RoomDep, start: Annotated[str, Query(max_length=200)] = "", limit: Annotated[int, Query(ge=1, le=20)] = 8
) -> list[PersonOfferedOut]:
    """People whose name or address has a word that begins so, those the owner writes to first."""
    found = searches.correspondents(room.reader(), start, limit * 3)
    written = {address: room.relations.of(f"address:{address}").written for _, address in found}
    ordered = sorted(found, key=lambda one: -written[one[1]])[:limit]
    return [PersonOfferedOut(name=name, address=address) for name, address in ordered]


@router.get("/identities")
def list_identities(room: RoomDep) -> list[IdentityOut]:
    """Whom the owner writes as."""
    return [IdentityOut.model_validate(one) for one in letters.identities(room.reader())]


@router.put("/identities")
def put_identity(room: RoomDep, wanted: IdentityIn) -> list[IdentityOut]:
    """Write as somebody, or change the name and signature."""
    accounts.get(room.reader(), wanted.account)
    address = wanted.address.strip().lower()
    with room.change() as db:
        letters.put_identity(db, Identity(address, wanted.account, " ".join(wanted.name.split()), wanted.signature))
    room.set_owner([*room.owner.addresses, address])
    return list_identities(room)


@router.delete("/identities/{address}")
def remove_identity(room: RoomDep, address: str) -> list[IdentityOut]:
    """Write as somebody no longer; a mailbox's own address stays."""
    if any(one.address == address for one in accounts.every(room.reader())):
        raise CallerError("This is the address of a mailbox, so you go on writing as it.")
    with room.change() as db:
        letters.remove_identity(db, address)
    return list_identities(room)
