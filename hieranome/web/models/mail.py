"""Places, lists and messages."""

from __future__ import annotations

from hieranome.app.rows import Follow, Row
from hieranome.app.viewing import Check
from hieranome.core.authentication import Standing
from hieranome.core.evidence import Kind
from hieranome.core.sure import Reach
from hieranome.core.text import Passage
from hieranome.mail.invitation import Invitation
from hieranome.store.places import Rhythm
from hieranome.web.models.answer import Answer


class PlaceOut(Answer):
    """A place with its counts. ``takes`` says that a verdict can put mail there; ``instead`` is the bucket
    that takes its mail where it was switched off, or empty; ``notice`` is how many messages may
    wait in it before it is told (0: any number), ``rhythm`` how often it wants to be looked at, ``looked_at`` when it
    last was (Unix seconds); ``own`` that the owner made it."""

    name: str
    title: str
    band: int
    important: bool
    total: int
    unread: int
    notice: int
    rhythm: Rhythm
    looked_at: int
    own: bool
    instead: str
    takes: bool


class BoundsOut(Answer):
    """Importances, 0 to 1, where asking begins and where the Desk begins; and the chances of standing on the right side
    of the Desk from which a message is called quite and fairly sure."""

    ask: float
    desk: float
    quite: float
    fairly: float


class PlacesOut(Answer):
    """All places, the bounds, the revision of the scores, and how many messages are due today or overdue."""

    places: list[PlaceOut]
    bounds: BoundsOut
    revision: int
    due: int


class FollowedOut(Answer, of=Follow):
    """What is followed through of a message: its due date, until when it is parked, whose answer is waited for, that it
    came back. ``at`` is when it is time (Unix seconds, 0: by no time), ``day`` that a whole day is meant, ``answer``
    that an answer is what it waits for, or what brought it back, ``since`` when it was noted, or parked."""


class MessageOut(Answer, of=Row):
    """One row of mail, the same wherever one is shown. Scores and edges of the band of doubt are 0 to 1; time is Unix
    seconds. ``accounts`` are the mailboxes it stands in, where there are several; ``leaves_at`` is when it leaves the
    Drain at the earliest (0 where it does not); ``tags`` are those it carries; ``topic`` is the one that asks whether
    it belongs (0: none does); ``between`` are the two places a question is between; ``follow`` what is followed
    through."""

    follow: list[FollowedOut]


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
    """A lesson as the ledger shows it; ``together`` is how many its step gave, which are undone with it."""

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
    together: int


class EvidenceOut(Answer):
    """One contribution in log-odds; ``group`` says what part of the message it is about, where it is about one, and
    ``search`` finds the mail it is about, where that can be searched for."""

    kind: Kind
    group: str
    text: str
    value: float
    count: int
    search: str
    lesson: LessonOut | None


class LowOut(Answer):
    """How likely a low bucket is, should the message not be important."""

    place: str
    share: float


class CheckOut(Answer, of=Check):
    """What a server found about where the message came from, and whether the owner believes that server."""


class InvitationOut(Answer, of=Invitation):
    """An event that came with the message. Times are Unix seconds, 0 where there is none; those of whole days are
    midnights of UTC."""

    attendees: list[str]


class PassageOut(Answer, of=Passage):
    """A stretch of the text, the sender's own or quoted."""


class HeaderOut(Answer):
    """One header, decoded."""

    name: str
    value: str


class PartTextOut(Answer):
    """An attached text; ``cut`` says that it is longer."""

    text: str
    cut: bool


class PartOut(Answer):
    """An attachment; ``path`` addresses it, ``size`` is bytes."""

    path: str
    media_type: str
    name: str
    size: int


class RuledOut(Answer):
    """A rule that took the message: by its id and name, where it put it (empty: nowhere), and what was stronger."""

    rule: int
    name: str
    put: str
    lost_to: str


class OpenedOut(Answer):
    """One message with its evidence, whose values sum to ``log_odds``; ``accounts`` are the mailboxes it stands in,
    ``decided`` says in words why it stands where it stands (empty where the score says it),
    ``edition`` is the edition it stands for (0 for other mail, all else of which is weighed),
    ``ruled`` are the rules that took it, ``topics`` the tags of the topics that found it or ask about it."""

    message: MessageOut
    decided: str
    sender: PersonOut
    to: list[PersonOut]
    cc: list[PersonOut]
    log_odds: float
    low: list[LowOut]
    evidence: list[EvidenceOut]
    verdict: LessonOut | None
    accounts: list[str]
    edition: int
    ruled: list[RuledOut]
    topics: list[int]
    passages: list[PassageOut]
    has_html: bool
    blocked: int
    pictured: bool
    parts: list[PartOut]
    invitation: InvitationOut | None
    checks: list[CheckOut]
    reaches: list[Reach]
    defects: list[str]
    vouched: bool
    refused: str
    standing: Standing
    warnings: list[str]
