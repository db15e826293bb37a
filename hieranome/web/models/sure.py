"""What is vouched for, and trials on an archive."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.said import Said, What
from hieranome.app.trial.trial import Folder, Wrong
from hieranome.core.figures import Bin
from hieranome.core.vouched import Vouched
from hieranome.web.models.answer import Answer, Id

VouchKind = Literal["address", "domain"]


class VouchedOut(Answer, of=Vouched):
    """A sender vouched for."""

    kind: VouchKind


class SaidOut(Answer, of=Said):
    """One thing that was said for good of an address, a list or a domain: what, where its mail goes (empty: that is not
    said), since when (Unix seconds), how much came since, and who said it. ``words`` say what it is."""

    words: str


class RefusedLineOut(Answer):
    """A line of a list of which nothing came, and why."""

    line: int
    why: str


class TakenOut(Answer):
    """What became of a list that was read in: how many of its lines hold now and did not before, how many held already,
    and those of which nothing came."""

    added: int
    known: int
    refused: list[RefusedLineOut]


class AboutIn(BaseModel):
    """Of which address, list or domain something is said."""

    kind: Literal["address", "list", "domain"]
    key: Annotated[str, Field(min_length=1, max_length=2_000)]


class EndIn(AboutIn):
    """What shall hold no more."""

    what: What


class ChangeIn(AboutIn):
    """Where all of its mail goes from now on; ``confirmed`` says that the owner means it."""

    place: Annotated[str, Field(min_length=1, max_length=100)]
    confirmed: bool = False


class VouchIn(BaseModel):
    """Whom to vouch for: the sender of a message, or an address or domain by its name."""

    kind: VouchKind
    message: Id | None = None
    key: Annotated[str, Field(max_length=254)] = ""


class FolderOut(Answer, of=Folder):
    """A folder of an archive: its name, its bytes, the bucket its name suggests (empty: left out)."""


class ArchiveIn(BaseModel):
    """An archive on this machine: the path of a file or folder of mail."""

    path: Annotated[str, Field(min_length=1, max_length=4096)]


class TrialIn(ArchiveIn):
    """A trial: which bucket each folder is (folders left out are not read), and the share of mistakes corrected."""

    places: Annotated[dict[str, str], Field(min_length=1, max_length=500)]
    correct: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 1.0


class ShareOut(Answer):
    """A share with the counts it is made of."""

    part: int
    whole: int
    share: float


class BinOut(Answer, of=Bin):
    """Messages of like score: how many, their mean score, the share that was important."""


class FiguresOut(Answer):
    """What a trial found: see the backtest in the guide."""

    messages: int
    lessons: int
    regret: float
    early_regret: float
    buried: ShareOut
    noise: ShareOut
    asked: ShareOut
    corrections: ShareOut
    wrong_low: int
    drained_good: int
    auc: float
    calibration_error: float
    brier_share: float
    reliability: list[BinOut]
    curve: list[float]
    recall: dict[str, ShareOut]
    messages_per_second: float


class WrongOut(Answer, of=Wrong):
    """A message the trial would have put elsewhere."""


class TrialOut(Answer):
    """How a trial stands; ``done`` of ``of`` are bytes while reading, messages while replaying."""

    state: Literal["none", "reading", "replaying", "done", "failed", "stopped"]
    path: str
    done: int
    of: int
    error: str
    figures: FiguresOut | None
    wrong: list[WrongOut]
