"""What is known for sure, and trying the engine on an archive."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, File, Response, UploadFile

from hieranome.app import said, said_table
from hieranome.app.service import Service
from hieranome.app.teaching import vouching
from hieranome.app.trial import trial
from hieranome.core.errors import CallerError
from hieranome.core.sure import Reach
from hieranome.web.models.sure import (
    ArchiveIn,
    ChangeIn,
    EndIn,
    FolderOut,
    RefusedLineOut,
    SaidOut,
    TakenOut,
    TrialIn,
    TrialOut,
    VouchedOut,
    VouchIn,
    VouchKind,
)
from hieranome.web.models.teaching import OutcomeOut, StepOut
from hieranome.web.routers.teaching import outcome_out
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["sure"])
MAX_LIST = 2_000_000
"""Bytes of a list of senders that is read in."""


@router.get("/vouched")
def list_vouched(room: RoomDep) -> list[VouchedOut]:
    """The senders vouched for."""
    return [VouchedOut.model_validate(one) for one in room.vouched]


@router.post("/vouched")
def add_vouched(room: RoomDep, wanted: VouchIn) -> VouchedOut:
    """Vouch for an address or a domain, by name or from a message."""
    if wanted.message is not None:
        return VouchedOut.model_validate(vouching.vouch_for_sender(room, wanted.message, wanted.kind))
    return VouchedOut.model_validate(vouching.vouch(room, wanted.kind, wanted.key))


@router.delete("/vouched/{kind}/{key}", status_code=204)
def remove_vouched(room: RoomDep, kind: VouchKind, key: str) -> None:
    """Vouch no longer."""
    vouching.remove(room, kind, key)


@router.get("/said")
def list_said(room: RoomDep) -> list[SaidOut]:
    """Everything that was said for good of senders, lists and domains, the newest first."""
    return [SaidOut.model_validate(one) for one in said.everything(room)]


@router.get("/said/file", response_class=Response)
def said_as_file(room: RoomDep) -> Response:
    """All of it as a CSV file."""
    way = 'attachment; filename="senders.csv"'
    return Response(said_table.as_csv(room), media_type="text/csv; charset=utf-8", headers={"content-disposition": way})


@router.post("/said/file")
def read_said_file(room: RoomDep, file: Annotated[UploadFile, File()]) -> TakenOut:
    """Say for good what a CSV file of such a list says; what the file does not name stays."""
    content = file.file.read(MAX_LIST + 1)
    if len(content) > MAX_LIST:
        raise CallerError(f"The file holds more than {MAX_LIST:,} bytes. Divide it. Nothing was said.")
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise CallerError("The file is no text in UTF-8. Save it as CSV in UTF-8 and choose it again.") from exc
    found = said_table.take_in(room, text)
    refused = [RefusedLineOut(line=line, why=why) for line, why in found.refused]
    return TakenOut(added=found.added, known=found.known, refused=refused)


@router.post("/said/change")
def change_said(room: RoomDep, wanted: ChangeIn) -> OutcomeOut:
    """Let all mail of a sender, list or domain go to another bucket from now on; what is here stays."""
    kind, key = Reach(wanted.kind), wanted.key
    return outcome_out(room, said.change(room, kind, key, wanted.place, confirmed=wanted.confirmed))


@router.post("/said/end")
def end_said(room: RoomDep, wanted: EndIn) -> StepOut | None:
    """Let one of them hold no more; the step by which it is undone, where there is one."""
    step = said.end(room, Reach(wanted.kind), wanted.key, wanted.what)
    return None if step is None else StepOut.model_validate(step)


@router.post("/archive")
def survey_archive(service: ServiceDep, wanted: ArchiveIn) -> list[FolderOut]:
    """The folders of an archive on this machine, and the buckets their names suggest."""
    return [FolderOut.model_validate(one) for one in trial.survey(_path(service, wanted))]


@router.get("/trial")
def get_trial(service: ServiceDep) -> TrialOut:
    """How the trial stands."""
    return TrialOut.model_validate(service.trial.state)


@router.post("/trial", status_code=202)
def start_trial(service: ServiceDep, wanted: TrialIn) -> TrialOut:
    """Try the engine on an archive; progress comes as events."""
    return TrialOut.model_validate(service.trial.start(_path(service, wanted), wanted.places, wanted.correct))


@router.delete("/trial")
def stop_trial(service: ServiceDep) -> TrialOut:
    """Stop the trial and forget what it found."""
    return TrialOut.model_validate(service.trial.stop())


def _path(service: Service, wanted: ArchiveIn) -> Path:
    """The path that was asked for. In the demo, which anybody on this machine may use, only what lies in its folder."""
    try:
        path = Path(wanted.path).expanduser()
    except RuntimeError as exc:
        raise CallerError(f"“{wanted.path}” names an account that is not on this machine.") from exc
    if not path.is_absolute() or "\x00" in wanted.path:
        raise CallerError(f"“{wanted.path}” is not a whole path. Write it from the root, or from ~.")
    if service.demo and not path.resolve().is_relative_to(service.room.store.folder.resolve()):
        raise CallerError(
            "The demo is open to everybody on this machine, so it shows no files outside its own folder. "
            f"Put the archive below {service.room.store.folder}, or start Hieranome with your own data."
        )
    return path
