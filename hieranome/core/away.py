"""The away notice: who is told by itself that the owner is away, and who never is (RFC 3834; as Sieve: RFC 5230).

Circles are asked in the owner's order. The first that holds a message says what its sender is told, in the message's
language where the circle has a text in it, or that they are told nothing.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from hieranome.core.addresses import untagged
from hieranome.core.buckets import DRAFTS, DRAIN, JUNK, SENT, TRASH
from hieranome.core.errors import CallerError
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.recurring import BULK_PRECEDENCE, by_machine
from hieranome.core.stopwords import BY_LANGUAGE
from hieranome.core.text import words
from hieranome.core.times import DAY

Who = Literal["line", "written", "all"]
MAX_CIRCLES = 12
MAX_TEXT = 4_000
MAX_DAYS = 30
"""RFC 5230, section 4.1: at most so many days between two notices to one person need to be kept."""
MOST_AWAY = 366
LATE = 2 * DAY
"""Mail whose date is older when it arrives is answered no more (seconds)."""
LIST_HEADERS = (
    "list-id", "list-help", "list-subscribe", "list-unsubscribe", "list-post", "list-owner", "list-archive",
)  # fmt: skip
"""RFC 2369 and RFC 2919: mail that bears one came through a list (RFC 3834, section 2)."""
UNATTENDED = re.compile(
    r"(?:mailer-daemon|postmaster|listserv|majordomo|no-?reply.*|do-?not-?reply.*|.*-noreply|.*-bounces?(?:[+=].*)?|bounces?(?:[-+=].*)?"
    r"|owner-.*|.*-owner|.*-request|.*-relay)",
    re.IGNORECASE,
)
"""What stands before the @ of addresses that nobody reads (RFC 3834, section 2; RFC 5230, section 4.6)."""
_PLACES = {
    JUNK: "it stands in Junk",
    TRASH: "it stands in the Trash",
    DRAIN: "it stands in the Drain",
    SENT: "you sent it",
    DRAFTS: "it is a draft",
}
_LEAST_WORDS = 2
"""Common words of a language by which a text is told to be in it, more than of any other."""


@dataclass(frozen=True, slots=True)
class Circle:
    """Some people and what they are told: ``line`` is a search line (for *line*), *written* are people the owner ever
    wrote to, *all* is everybody. ``texts`` are by language (``""``: for every other); without any they are told
    nothing."""

    name: str
    who: Who
    line: str = ""
    texts: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Away:
    """The notice: whether it is on, from when until when (Unix seconds), after how many days a person is told again,
    and the circles."""

    on: bool = False
    begins: int = 0
    ends: int = 0
    days: int = 7
    circles: tuple[Circle, ...] = ()

    def holds_at(self, now: int) -> bool:
        """Whether it is sent at a time: it ends by itself."""
        return self.on and self.begins <= now < self.ends


@dataclass(frozen=True, slots=True)
class Asked:
    """What the headers of a message say about answering it: where an answer goes (the address of its Return-Path,
    empty for the null one, None where there is none that every program reads the same), the recipients it names in any
    header that may, whether it declines automatic answers, and how many wrote it."""

    return_path: str | None
    named: tuple[str, ...] = ()
    declined: bool = False
    senders: int = 1


def check(away: Away) -> None:
    """Raises :class:`CallerError` for a notice that could not be sent or says nothing."""
    if away.ends <= away.begins:
        raise CallerError("The time away ends before it begins. Say a later time for its end.")
    if away.ends - away.begins > MOST_AWAY * DAY:
        raise CallerError("A notice holds for a year at most. Say an earlier end.")
    if not 1 <= away.days <= MAX_DAYS:
        raise CallerError(f"A person gets it again after 1 to {MAX_DAYS} days; {away.days} are given.")
    if not away.circles or len(away.circles) > MAX_CIRCLES:
        raise CallerError(f"There are 1 to {MAX_CIRCLES} circles; {len(away.circles)} are given.")
    if not any(one.texts for one in away.circles):
        raise CallerError("No circle gets a reply. Write a text for at least one.")
    if len({one.name.strip().casefold() for one in away.circles}) < len(away.circles):
        raise CallerError("Two circles have the same name. Give each its own.")
    for one in away.circles:
        _check_circle(one)


def _check_circle(one: Circle) -> None:
    if not one.name.strip() or len(one.name) > 60:
        raise CallerError("A circle has a name of 1 to 60 characters.")
    if one.who == "line" and not one.line.strip():
        raise CallerError(f"Say who belongs to “{one.name}”: its line is empty, and it would hold everybody.")
    if one.texts and "" not in one.texts:
        raise CallerError(f"“{one.name}” has no text for mail in other languages. Write one for all of them.")
    for language, text in one.texts.items():
        if language and language not in BY_LANGUAGE:
            raise CallerError(f"“{language}” is no language known here. There are: {', '.join(BY_LANGUAGE)}.")
        if not text.strip() or len(text) > MAX_TEXT:
            raise CallerError(f"A text of “{one.name}” has 1 to {MAX_TEXT:,} characters.")


def forbidden(
    asked: Asked,
    facts: MessageFacts,
    owner: Owner,
    place: str,
    *,
    forged: bool = False,
    leads_back: Callable[[str], bool],
) -> str:
    """Why nobody is answered by itself (RFC 3834, section 2, and the owner's places); empty where an answer may go.
    ``leads_back`` says whether what goes to an address reaches who wrote the message."""
    if place in _PLACES:
        return _PLACES[place]
    if forged:
        return "it proves forged"
    if not facts.headers_whole:
        return "not all of its headers could be read"
    if asked.return_path is None:
        return "it does not say where an answer goes (no Return-Path)"
    if not asked.return_path:
        return "it is a report that wants no answer (an empty Return-Path)"
    if by_machine(facts):
        return "a machine wrote it by itself"
    if not set(LIST_HEADERS).isdisjoint(facts.header_names) or facts.list_id:
        return "it came through a list"
    if facts.precedence in BULK_PRECEDENCE:
        return "it went to many (Precedence)"
    if asked.declined:
        return "it asks for no automatic answer"
    if asked.senders != 1 or not facts.sender.address:
        return "it does not say clearly who wrote it"
    if not leads_back(asked.return_path):
        return "an answer would go to somebody else than who wrote it (Return-Path)"
    for address in (asked.return_path, facts.sender.address):
        if UNATTENDED.fullmatch(address.rpartition("@")[0]):
            return "nobody reads what goes to its sender"
        if address in owner.addresses or untagged(address) in owner.addresses:
            return "you wrote it"
    if not any(one in owner.addresses or untagged(one) in owner.addresses for one in asked.named):
        return "it names none of your addresses"
    return ""


def language_of(text: str) -> str:
    """The language of a text by its common words, of those that are told apart; empty where none stands out."""
    found = set(words(text, 4_000))
    counts = sorted(((len(found & set(common.split())), name) for name, common in BY_LANGUAGE.items()), reverse=True)
    (most, name), (second, _) = counts[0], counts[1]
    return name if most >= _LEAST_WORDS and most > second else ""


def text_of(circle: Circle, language: str) -> tuple[str, str]:
    """The language and the text of a circle for a message in a language; empty where it is told nothing."""
    if not circle.texts:
        return "", ""
    return (language, circle.texts[language]) if language in circle.texts else ("", circle.texts[""])


def subject_of(subject: str) -> str:
    """The subject of a notice (RFC 3834, section 3.1.5)."""
    return f"Auto: {' '.join(subject.split())}"[:250].strip()


@dataclass(frozen=True, slots=True)
class Answer:
    """What is told by itself: to which address, of which circle, in which language (empty: the text for every other),
    and the text."""

    to: str
    circle: str
    language: str
    text: str

    @property
    def person(self) -> str:
        """By what its recipient is told once: the address without its tag, in lower case."""
        return untagged(self.to.lower())


NO_CIRCLE, NOTHING_SAID = "no circle holds its sender", "its circle gets no reply"


def answer(
    asked: Asked,
    facts: MessageFacts,
    owner: Owner,
    place: str,
    text: str,
    circle: Callable[[], Circle | None],
    *,
    forged: bool,
    leads_back: Callable[[str], bool],
) -> Answer | str:
    """What the sender of a message is told, or why nothing is. ``circle`` finds the first that holds it, and is asked
    last; ``text`` is what the message says, ``leads_back`` as for :func:`forbidden`."""
    why = forbidden(asked, facts, owner, place, forged=forged, leads_back=leads_back)
    if why:
        return why
    found = circle()
    if found is None or not found.texts:
        return NO_CIRCLE if found is None else NOTHING_SAID
    language, said = text_of(found, language_of(text))
    return Answer(asked.return_path or "", found.name, language, said)
