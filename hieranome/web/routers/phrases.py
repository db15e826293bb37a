"""The phrasebook: stock text kept, put into drafts, exported and imported."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.writing import phrasing
from hieranome.app.writing.attaching import MAX_ATTACHED
from hieranome.app.writing.phrasing import Phrase
from hieranome.web.models.answer import Id
from hieranome.web.models.phrases import (
    BookIn,
    BookOut,
    CountOut,
    PhraseIn,
    PhraseOut,
    PutIn,
    PutOut,
)
from hieranome.web.models.writing import AttachmentOut, DraftOut
from hieranome.web.routers.writing import draft_out
from hieranome.web.state import RoomDep

router = APIRouter(tags=["phrases"])


def _out(room: Mailroom, one: Phrase) -> PhraseOut:
    files = [AttachmentOut.model_validate(file) for file in phrasing.files(room, one.id)]
    return PhraseOut(id=one.id, short=one.short, text=one.text, uses=one.uses, files=files)


@router.get("/phrases")
def list_phrases(room: RoomDep, message: Annotated[int, Query(ge=0, le=2**53)] = 0) -> list[PhraseOut]:
    """The phrases; for a message those first that were used for mail like it."""
    found = phrasing.ordered(room, message) if message else phrasing.every(room)
    return [_out(room, one) for one in found]


@router.post("/phrases", status_code=201)
def add_phrase(room: RoomDep, wanted: PhraseIn) -> PhraseOut:
    """Keep a new phrase."""
    return _out(room, phrasing.keep(room, wanted.short, wanted.text))


@router.put("/phrases/{number}")
def change_phrase(room: RoomDep, number: Id, wanted: PhraseIn) -> PhraseOut:
    """Change a phrase."""
    return _out(room, phrasing.keep(room, wanted.short, wanted.text, number))


@router.delete("/phrases/{number}", status_code=204)
def remove_phrase(room: RoomDep, number: Id) -> None:
    """Take a phrase out."""
    phrasing.remove(room, number)


@router.post("/phrases/{number}/files")
def attach_to_phrase(room: RoomDep, number: Id, file: Annotated[UploadFile, File()]) -> PhraseOut:
    """Let a file go along with a phrase."""
    content = file.file.read(MAX_ATTACHED + 1)
    kind = file.content_type or "application/octet-stream"
    return _out(room, phrasing.attach(room, number, file.filename or "file", kind, content))


@router.delete("/phrases/{number}/files/{file}")
def take_out_of_phrase(room: RoomDep, number: Id, file: Id) -> PhraseOut:
    """Let a file go along with a phrase no more."""
    return _out(room, phrasing.take_out(room, number, file))


@router.get("/phrasebook")
def export_phrases(room: RoomDep, response: Response) -> BookOut:
    """All phrases, as they are read in again; their files stay."""
    response.headers["content-disposition"] = 'attachment; filename="phrasebook.json"'
    every = phrasing.every(room)
    return BookOut(format=phrasing.FORMAT, phrases=[PhraseIn(short=one.short, text=one.text) for one in every])


@router.post("/phrasebook")
def import_phrases(room: RoomDep, wanted: BookIn) -> CountOut:
    """Take phrases in, all or none; one of a name that is there takes its place."""
    given = [(one.short, one.text) for one in wanted.phrases]
    return CountOut(count=phrasing.take_in_book(room, wanted.format, given))


@router.post("/drafts/{number}/phrase")
def put_phrase(room: RoomDep, number: Id, wanted: PutIn) -> PutOut:
    """Fill a phrase in for a draft; its files go along."""
    put = phrasing.put_into(room, number, wanted.phrase)
    return PutOut(
        text=put.filled.text,
        holes=list(put.filled.holes),
        draft=draft_out(room, put.draft),
    )


@router.post("/messages/{number}/phrase", status_code=201)
def reply_with_phrase(room: RoomDep, number: Id, wanted: PutIn) -> DraftOut:
    """Begin a reply that says a phrase; a draft, to be looked at."""
    return draft_out(room, phrasing.begin_with(room, "reply", number, wanted.phrase))
