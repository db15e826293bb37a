"""Writing: drafts, the outbox, who the owner writes as."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, UploadFile

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing import beginning
from hieranome.app.writing import drafts as writing
from hieranome.core.errors import CallerError
from hieranome.store import accounts, drafts, searches
from hieranome.store.drafts import Draft, Identity
from hieranome.web.models.answer import Id
from hieranome.web.models.teaching import StepOut
from hieranome.web.models.writing import (
    AttachmentOut,
    BeginIn,
    DraftIn,
    DraftOut,
    IdentityIn,
    IdentityOut,
    InvitationIn,
    PersonOfferedOut,
    SendIn,
)
from hieranome.web.state import RoomDep

router = APIRouter(tags=["writing"])


def draft_out(room: Mailroom, draft: Draft) -> DraftOut:
    """A draft as the page takes it."""
    values = {name: getattr(draft, name) for name in DraftOut.model_fields if hasattr(draft, name)}
    files = [AttachmentOut.model_validate(one) for one in drafts.attachments(room.reader(), draft.id)]
    return DraftOut(**values, attachments=files)


@router.get("/drafts")
def list_drafts(room: RoomDep) -> list[DraftOut]:
    """All that is not sent, or not surely: drafts and the outbox."""
    return [draft_out(room, one) for one in drafts.unsent(room.reader())]


@router.post("/drafts", status_code=201)
def begin_draft(room: RoomDep, wanted: BeginIn) -> DraftOut:
    """Begin a message, a reply or a forward; it is a draft."""
    if wanted.kind == "draft":
        if wanted.message is None:
            raise CallerError("Say which draft of another program you go on with.")
        return draft_out(room, beginning.go_on(room, wanted.message))
    return draft_out(room, beginning.begin(room, wanted.kind, wanted.message))


@router.get("/drafts/{number}")
def get_draft(room: RoomDep, number: Id) -> DraftOut:
    """One draft."""
    return draft_out(room, drafts.get(room.reader(), number))


@router.put("/drafts/{number}")
def keep_draft(room: RoomDep, number: Id, wanted: DraftIn) -> DraftOut:
    """Keep what the owner wrote of a draft."""
    return draft_out(room, writing.change(room, number, writing.Changed(**wanted.model_dump())))


@router.delete("/drafts/{number}")
def discard_draft(room: RoomDep, number: Id) -> StepOut | None:
    """Discard a draft; the step that did it, by which it comes back, where anything was written."""
    step = writing.discard(room, number)
    return None if step is None else StepOut.model_validate(step)


@router.post("/drafts/{number}/attachments")
def attach_file(room: RoomDep, number: Id, file: Annotated[UploadFile, File()]) -> DraftOut:
    """Add a file to a draft."""
    content = file.file.read(writing.MAX_ATTACHED + 1)
    kind = file.content_type or "application/octet-stream"
    return draft_out(room, writing.attach(room, number, file.filename or "file", kind, content))


@router.delete("/drafts/{number}/attachments/{attachment}")
def take_out_file(room: RoomDep, number: Id, attachment: Id) -> DraftOut:
    """Take a file out of a draft."""
    return draft_out(room, writing.take_out(room, number, attachment))


@router.post("/drafts/{number}/send")
def send_draft(room: RoomDep, number: Id, wanted: SendIn | None = None) -> DraftOut:
    """Put a draft into the outbox; for ten seconds, or until the time it is to go at, it can be taken back. What waits
    there for its time is given another."""
    when = wanted or SendIn()
    return draft_out(room, writing.send(room, number, when.at, when.awaited))


@router.post("/drafts/{number}/back")
def take_draft_back(room: RoomDep, number: Id) -> DraftOut:
    """Take a message out of the outbox, or make an unsure one a draft again."""
    return draft_out(room, writing.take_back(room, number))


@router.post("/messages/{number}/invitation")
def answer_invitation(room: RoomDep, number: Id, wanted: InvitationIn) -> DraftOut:
    """Answer an invitation; the answer is in the outbox then."""
    return draft_out(room, beginning.answer_invitation(room, number, wanted.answer))


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
    return [IdentityOut.model_validate(one) for one in drafts.identities(room.reader())]


@router.put("/identities")
def put_identity(room: RoomDep, wanted: IdentityIn) -> list[IdentityOut]:
    """Write as somebody, or change the name and signature."""
    accounts.get(room.reader(), wanted.account)
    address = wanted.address.strip().lower()
    with room.change() as db:
        drafts.put_identity(db, Identity(address, wanted.account, " ".join(wanted.name.split()), wanted.signature))
    room.set_owner([*room.owner.addresses, address])
    return list_identities(room)


@router.delete("/identities/{address}")
def remove_identity(room: RoomDep, address: str) -> list[IdentityOut]:
    """Write as somebody no longer; a mailbox's own address stays."""
    if any(one.address == address for one in accounts.every(room.reader())):
        raise CallerError("This is the address of a mailbox, so you go on writing as it.")
    with room.change() as db:
        drafts.remove_identity(db, address)
    return list_identities(room)
