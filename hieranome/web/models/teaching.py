"""Verdicts, what follows from them, the journal."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from hieranome.app.teaching.before import Effect
from hieranome.app.teaching.contrary import Contrary
from hieranome.app.teaching.promise import Promise
from hieranome.core.steps import StepKind
from hieranome.core.sure import Reach
from hieranome.web.models.answer import Answer, Id
from hieranome.web.models.mail import EvidenceOut, LessonOut, MessageOut


class VerdictIn(BaseModel):
    """Messages, where they belong, how far the lesson reaches; whether kin follow at once (null: as the owner set);
    whether what is said for always is meant, where it asks about that; the step it comes ``instead`` of (0: none)."""

    messages: Annotated[list[Id], Field(min_length=1, max_length=500)]
    belongs: str
    reach: Reach = Reach.LEARN
    follow: bool | None = None
    confirmed: bool = False
    instead: Id = 0


class WeighingIn(BaseModel):
    """Messages that matter more (``up``) or less than the model thinks."""

    messages: Annotated[list[Id], Field(min_length=1, max_length=500)]
    up: bool


class LookedPast(BaseModel):
    """A message the owner looked past, and the bucket it was seen in."""

    message: Id
    place: str


class LookedPastIn(BaseModel):
    """Messages looked past: they stood in sight for seconds, and what stands below was gone on to."""

    seen: Annotated[list[LookedPast], Field(min_length=1, max_length=500)]


class HeededOut(Answer):
    """How many of the messages looked past taught something."""

    heeded: int


class EffectOut(Answer, of=Effect):
    """Importance of one message before and after, 0 to 1."""


class KinOut(Answer):
    """A standing message the lesson would move too."""

    message: MessageOut
    target: str
    sureness: float


class ContraryOut(Answer, of=Contrary):
    """Earlier lessons about such mail that say otherwise: the bucket, how many, the latest's time (Unix seconds)."""


class ChangeOut(Answer):
    """A line of evidence that changed, and what it contributed before, in log-odds."""

    line: EvidenceOut
    before: float


class PromiseOut(Answer, of=Promise):
    """What the next message of a sender or list does: whose that is, the ``place`` (empty: it depends on what it says),
    where one ``like`` the corrected goes (empty: it is asked about), and why: said for ``always``, ``vouched`` for,
    ``count`` of theirs ``answered``, or ``count`` ``written`` to them."""


class OutcomeOut(Answer):
    """What a verdict did, and the kin that would follow (the surest listed); ``changed`` is the evidence
    of a single message that changed most; ``moved`` is how many messages it was about, those that went along included;
    ``followed`` is the step in which kin did by the owner's setting, or 0; ``rule`` is one that had put a message where
    the verdict says it does not belong, or 0; ``promise`` is what the next message of their one source does."""

    step: int
    effects: list[EffectOut]
    kin: list[KinOut]
    kin_total: int
    contrary: list[ContraryOut]
    changed: list[ChangeOut]
    moved: int
    followed: int
    rule: int
    promise: PromiseOut | None


class KinIn(BaseModel):
    """Kin that shall follow."""

    messages: Annotated[list[Id], Field(min_length=1, max_length=500)]


class StepOut(Answer):
    """A line of the journal; ``label`` names its kind."""

    id: int
    at: int
    kind: StepKind
    label: str
    title: str
    undone_at: int | None
    undoable: bool
    messages: int


class UndoneOut(StepOut):
    """A step that was undone, and why servers that send the away notice could not be told of it."""

    problems: list[str]


class EventOut(Answer):
    """What a step did to one message: a move from ``origin`` to ``target``, a ``mark`` set or cleared, a ``tag`` put on
    or taken off, the lesson that it ``belongs`` somewhere, which moved nothing, or what was ``followed`` through.
    ``moved`` says what it did to a message that moved, before the words for where that stands."""

    step: int
    at: int
    kind: StepKind
    moved: str
    title: str
    undone_at: int | None
    origin: str
    target: str
    mark: Literal["", "seen", "flagged"]
    wanted: bool
    belongs: str
    tag: str
    followed: str


class CountOut(Answer):
    """How many messages stand in a place."""

    place: str
    messages: int


class LatelyOut(Answer):
    """What happened since the owner last looked; ``newest`` is the message to ask after the next time."""

    newest: int
    came: int
    places: list[CountOut]
    asked: int
    lessons: int
    followed: int


class JournalOut(Answer):
    """Lines of the journal, newest first; ``next`` is what to ask before, 0 at the end."""

    steps: list[StepOut]
    next: int


class LedgerOut(Answer):
    """Lessons, newest first; ``next`` is what to ask before, 0 at the end."""

    lessons: list[LessonOut]
    next: int
