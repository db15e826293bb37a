"""Places, lists and messages."""

from __future__ import annotations

from pydantic import BaseModel

from hieranome.core.evidence import Kind
from hieranome.core.sure import Reach
from hieranome.web.models.answer import Answer


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


class SeenIn(BaseModel):
    """Read or unread."""

    seen: bool
