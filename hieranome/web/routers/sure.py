"""What is known for sure, and trying the engine on an archive."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter, Response

from hieranome.app import said
from hieranome.app.service import Service
from hieranome.app.teaching import vouching
from hieranome.app.trial import trial
from hieranome.core.errors import CallerError
from hieranome.core.sure import Reach
from hieranome.web.models.sure import (
    ArchiveIn,
    EndIn,
    FolderOut,
    SaidOut,
    TrialIn,
    TrialOut,
    VouchedOut,
    VouchIn,
    VouchKind,
)
from hieranome.web.models.teaching import StepOut
from hieranome.web.state import RoomDep, ServiceDep

router = APIRouter(tags=["sure"])


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
    return Response(said.as_csv(room), media_type="text/csv; charset=utf-8", headers={"content-disposition": way})


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
