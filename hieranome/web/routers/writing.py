"""Writing: drafts, the outbox, who the owner writes as."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, UploadFile

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing import attaching, beginning, people
from hieranome.app.writing import drafts as writing
from hieranome.app.writing.drafts import Draft
from hieranome.app.writing.people import Identity
from hieranome.core.errors import CallerError
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
    files = [AttachmentOut.model_validate(one) for one in attaching.files(room, draft.id)]
    return DraftOut(**values, attachments=files)


@router.get("/drafts")
def list_drafts(room: RoomDep) -> list[DraftOut]:
    """All that is not sent, or not surely: drafts and the outbox."""
    return [draft_out(room, one) for one in writing.unsent(room)]


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
    return draft_out(room, writing.get(room, number))


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
    content = file.file.read(attaching.MAX_ATTACHED + 1)
    kind = file.content_type or "application/octet-stream"
    return draft_out(room, attaching.attach(room, number, file.filename or "file", kind, content))


@router.delete("/drafts/{number}/attachments/{attachment}")
def take_out_file(room: RoomDep, number: Id, attachment: Id) -> DraftOut:
    """Take a file out of a draft."""
    return draft_out(room, attaching.take_out(room, number, attachment))


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
    return [PersonOfferedOut(name=name, address=address) for name, address in people.offered(room, start, limit)]


@router.get("/identities")
def list_identities(room: RoomDep) -> list[IdentityOut]:
    """Whom the owner writes as."""
    return [IdentityOut.model_validate(one) for one in people.identities(room)]


@router.put("/identities")
def put_identity(room: RoomDep, wanted: IdentityIn) -> list[IdentityOut]:
    """Write as somebody, or change the name and signature."""
    people.put_identity(room, Identity(wanted.address, wanted.account, wanted.name, wanted.signature))
    return list_identities(room)


@router.delete("/identities/{address}")
def remove_identity(room: RoomDep, address: str) -> list[IdentityOut]:
    """Write as somebody no longer; a mailbox's own address stays."""
    people.remove_identity(room, address)
    return list_identities(room)
