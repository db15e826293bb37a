"""What the API takes and gives. Every field is always present in answers."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from hieranome.core.evidence import Kind
from hieranome.core.sure import Reach


class Answer(BaseModel):
    """Base of all answers."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True, from_attributes=True)


class Problem(Answer):
    """Why a request was refused: what, why, how to mend it."""

    detail: str


class PlaceOut(Answer):
    """A place with its counts; ``key`` is the letter that puts mail there, empty when none does."""

    name: str
    title: str
    band: int
    important: bool
    total: int
    unread: int
    key: str


class BoundsOut(Answer):
    """Importances, 0 to 1, where asking begins and where the Desk begins."""

    ask: float
    desk: float


class PlacesOut(Answer):
    """All places, the bounds, and the revision of the scores."""

    places: list[PlaceOut]
    bounds: BoundsOut
    revision: int


class MessageOut(Answer):
    """One row of mail. Scores and edges of the band of doubt are 0 to 1; time is Unix seconds."""

    id: int
    thread: int
    time: int
    sender_address: str
    sender_name: str
    list_id: str
    subject: str
    snippet: str
    size: int
    attachments: int
    readable: bool
    seen: bool
    answered: bool
    flagged: bool
    place: str
    decided_by: str
    score: float
    low_edge: float
    high_edge: float
    certainty: float
    likely: str


class PageOut(Answer):
    """A page of a place. ``shifted`` says that scores changed since the cursor was made."""

    messages: list[MessageOut]
    next: str
    revision: int
    shifted: bool


class PersonOut(Answer):
    """Somebody in an address header."""

    name: str
    address: str


class LessonOut(Answer):
    """A lesson as the ledger shows it."""

    id: int
    step: int
    message: int
    at: int
    stood: str
    belongs: str
    reach: Reach
    undone: bool
    before: float
    after: float
    kin: int
    subject: str
    sender: str


class EvidenceOut(Answer):
    """One contribution in log-odds; ``group`` says what part of the message it is about, where it is about one."""

    kind: Kind
    group: str
    text: str
    value: float
    count: int
    lesson: LessonOut | None


class LowOut(Answer):
    """How likely a low bucket is, should the message not be important."""

    place: str
    share: float


class PartOut(Answer):
    """An attachment; ``path`` addresses it, ``size`` is bytes."""

    path: str
    media_type: str
    name: str
    size: int


class OpenedOut(Answer):
    """One message with its evidence, whose values sum to ``log_odds``."""

    message: MessageOut
    sender: PersonOut
    to: list[PersonOut]
    cc: list[PersonOut]
    log_odds: float
    low: list[LowOut]
    evidence: list[EvidenceOut]
    verdict: LessonOut | None
    text: str
    has_html: bool
    blocked: int
    parts: list[PartOut]
    reaches: list[Reach]
    defects: list[str]
    authentication: list[str]
    vouched: bool
    warnings: list[str]


class VerdictIn(BaseModel):
    """Messages, where they belong, how far the lesson reaches."""

    messages: Annotated[list[int], Field(min_length=1, max_length=500)]
    belongs: str
    reach: Reach = Reach.LEARN


class EffectOut(Answer):
    """Importance of one message before and after, 0 to 1."""

    message: int
    before: float
    after: float


class KinOut(Answer):
    """A standing message the lesson would move too."""

    message: MessageOut
    target: str
    sureness: float


class ContraryOut(Answer):
    """Earlier lessons about such mail that say otherwise: the bucket, how many, the latest's time (Unix seconds)."""

    belongs: str
    count: int
    latest: int


class OutcomeOut(Answer):
    """What a verdict did, and the kin that would follow (the surest listed); ``followed`` is the step in which they
    did by the owner's setting, or 0."""

    step: int
    effects: list[EffectOut]
    kin: list[KinOut]
    kin_total: int
    contrary: list[ContraryOut]
    followed: int


class KinIn(BaseModel):
    """Kin that shall follow."""

    messages: Annotated[list[int], Field(min_length=1, max_length=500)]


class StepOut(Answer):
    """A line of the journal."""

    id: int
    at: int
    kind: str
    title: str
    undone_at: int | None
    messages: int


class JournalOut(Answer):
    """Lines of the journal, newest first; ``next`` is what to ask before, 0 at the end."""

    steps: list[StepOut]
    next: int


class LedgerOut(Answer):
    """Lessons, newest first; ``next`` is what to ask before, 0 at the end."""

    lessons: list[LessonOut]
    next: int


class SeenIn(BaseModel):
    """Read or unread."""

    seen: bool


class ImportOut(Answer):
    """An import job; bytes tell its progress."""

    id: int
    path: str
    started_at: int
    finished_at: int | None
    state: Literal["reading", "weighing", "done", "failed"]
    error: str
    bytes_total: int
    bytes_done: int
    added: int
    known: int


class CheckerOut(Answer):
    """A server that checks where mail comes from, and on how many messages its results stand topmost."""

    authserv_id: str
    messages: int


class SettingsOut(Answer):
    """Settings: the addresses the owner receives mail at; the servers whose checks are believed; domains many
    unrelated people write from; whether kin follow a lesson unasked; and the servers seen (not a setting)."""

    owner_addresses: list[str]
    confirmed_checkers: list[str]
    shared_domains: list[str]
    kin_follow: bool
    checkers: list[CheckerOut]


Name = Annotated[str, Field(min_length=1, max_length=254, pattern=r"^\s*[^\s@]+\s*$")]


class SettingsIn(BaseModel):
    """New settings; what is left out stays as it is."""

    owner_addresses: (
        Annotated[list[Annotated[str, Field(max_length=254, pattern=r"^\s*[^@\s]+@[^@\s]+\s*$")]], Field(max_length=50)]
        | None
    ) = None
    confirmed_checkers: Annotated[list[Name], Field(max_length=20)] | None = None
    shared_domains: Annotated[list[Name], Field(max_length=500)] | None = None
    kin_follow: bool | None = None


VouchKind = Literal["address", "domain"]


class VouchedOut(Answer):
    """A sender vouched for."""

    kind: VouchKind
    key: str
    name: str


class VouchIn(BaseModel):
    """Whom to vouch for: the sender of a message, or an address or domain by its name."""

    kind: VouchKind
    message: int | None = None
    key: Annotated[str, Field(max_length=254)] = ""


class FolderOut(Answer):
    """A folder of an archive: its name, its bytes, the bucket its name suggests (empty: left out)."""

    name: str
    size: int
    suggested: str


class ArchiveIn(BaseModel):
    """An archive on this machine: the path of a file or folder of mail."""

    path: Annotated[str, Field(min_length=1, max_length=4096)]


class TrialIn(ArchiveIn):
    """A trial: which bucket each folder is (folders left out are not read), and the share of mistakes corrected."""

    places: Annotated[dict[str, str], Field(min_length=1, max_length=500)]
    correct: Annotated[float, Field(ge=0, le=1)] = 1.0


class ShareOut(Answer):
    """A share with the counts it is made of."""

    part: int
    whole: int
    share: float


class BinOut(Answer):
    """Messages of like score: how many, their mean score, the share that was important."""

    count: int
    score: float
    important: float


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


class WrongOut(Answer):
    """A message the trial would have put elsewhere."""

    sender: str
    subject: str
    score: float
    place: str
    belongs: str


class TrialOut(Answer):
    """How a trial stands; ``done`` of ``of`` are bytes while reading, messages while replaying."""

    state: Literal["none", "reading", "replaying", "done", "failed", "stopped"]
    path: str
    done: int
    of: int
    error: str
    figures: FiguresOut | None
    wrong: list[WrongOut]


class DeliveryOut(Answer):
    """The demo's delivery: absent, running or paused, seconds between messages, how many are left."""

    present: bool
    running: bool
    interval: float
    left: int


class DeliveryIn(BaseModel):
    """Run or pause the delivery; seconds between messages."""

    running: bool
    interval: Annotated[float, Field(ge=0.2, le=3600)] = 6.0


class AboutOut(Answer):
    """What runs here."""

    version: str
    demo: bool
