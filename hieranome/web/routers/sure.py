"""What is known for sure, and trying the engine on an archive."""

from __future__ import annotations

from pathlib import Path

from fastapi import APIRouter

from hieranome.app import trial, vouching
from hieranome.core.errors import CallerError
from hieranome.web.models.sure import ArchiveIn, FolderOut, TrialIn, TrialOut, VouchedOut, VouchIn, VouchKind
from hieranome.web.state import RoomDep, Served, ServedDep

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


@router.post("/archive")
def survey_archive(served: ServedDep, wanted: ArchiveIn) -> list[FolderOut]:
    """The folders of an archive on this machine, and the buckets their names suggest."""
    return [FolderOut.model_validate(one) for one in trial.survey(_path(served, wanted))]


@router.get("/trial")
def get_trial(served: ServedDep) -> TrialOut:
    """How the trial stands."""
    return TrialOut.model_validate(served.trial.state)


@router.post("/trial", status_code=202)
def start_trial(served: ServedDep, wanted: TrialIn) -> TrialOut:
    """Try the engine on an archive; progress comes as events."""
    return TrialOut.model_validate(served.trial.start(_path(served, wanted), wanted.places, wanted.correct))


@router.delete("/trial")
def stop_trial(served: ServedDep) -> TrialOut:
    """Stop the trial and forget what it found."""
    return TrialOut.model_validate(served.trial.stop())


def _path(served: Served, wanted: ArchiveIn) -> Path:
    """The path that was asked for. In the demo, which anybody on this machine may use, only what lies in its folder."""
    try:
        path = Path(wanted.path).expanduser()
    except RuntimeError as exc:
        raise CallerError(f"“{wanted.path}” names an account that is not on this machine.") from exc
    if not path.is_absolute() or "\x00" in wanted.path:
        raise CallerError(f"“{wanted.path}” is not a whole path. Write it from the root, or from ~.")
    if served.demo and not path.resolve().is_relative_to(served.room.store.folder.resolve()):
        raise CallerError(
            "The demo is open to everybody on this machine, so it shows no files outside its own folder. "
            f"Put the archive below {served.room.store.folder}, or start Hieranome with your own data."
        )
    return path
