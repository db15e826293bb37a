"""What the engine looks at: a table of named groups of features, each with its prior and its words.

Every group has one function that turns a message, as :class:`Seen`, into the texts of its features.
:mod:`hieranome.core.features` makes numbers of them. It is long because the table is.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from hieranome.core import text as words_of
from hieranome.core.cues import WORDS
from hieranome.core.facts import MessageFacts, Owner
from hieranome.core.relations import Relations
from hieranome.core.stopwords import WORDS as STOPWORDS


@dataclass(frozen=True, slots=True)
class Context:
    """What else a feature may look at: the owner, the sums so far, the thread, and what was found out about
    the sender (``forged``: proven not to be who it says; ``alike``: looks like somebody vouched for)."""

    owner: Owner
    relations: Relations
    thread_has_mine: bool = False
    forged: bool = False
    alike: bool = False


class Seen:
    """One message as the extractors look at it: its facts, its context, its words cut once."""

    __slots__ = ("context", "facts", "subject", "text")

    def __init__(self, facts: MessageFacts, context: Context) -> None:
        self.facts = facts
        self.context = context
        self.subject = list(dict.fromkeys(words_of.words(facts.subject[:500], 40)))
        self.text = [word for word in words_of.words(facts.text[:8000], 400) if word not in STOPWORDS]


Extractor = Callable[[Seen], Iterable[str]]
Reached = Literal["to", "delivered"]


@dataclass(frozen=True, slots=True)
class Group:
    """A family of features.

    ``sd`` is the prior standard deviation of one weight in log-odds; ``mass`` the length of the
    group's part of the vector however many features it has; ``heading`` names it in evidence.
    """

    name: str
    heading: str
    sd: float
    mass: float
    extract: Extractor


def _short(count: int) -> str:
    """A count as one of few bins."""
    for limit in (0, 1, 3, 9, 29):
        if count <= limit:
            return str(limit)
    return "many"


def _share(part: int, whole: int) -> str:
    """A share as one of few bins, shrunk towards one half when little is known."""
    return str(round(4 * (part + 1) / (whole + 2)))


def _delay(minutes: int) -> str:
    """A time to answer as one of few bins."""
    for name, limit in (("an hour", 60), ("a day", 1440), ("a week", 10_080)):
        if minutes <= limit:
            return name
    return "more"


def _base(seen: Seen) -> Iterator[str]:
    """One feature that all mail has."""
    yield "all"


def _address(seen: Seen) -> Iterator[str]:
    """The address of the sender, or its name where there is no address."""
    facts = seen.facts
    yield facts.sender.address or f"name {facts.sender.name}"


def _domain(seen: Seen) -> Iterator[str]:
    """The domain of the sender and those above it, without the last label."""
    facts = seen.facts
    labels = facts.sender.domain.split(".")
    for start in range(max(1, len(labels) - 1)):
        yield ".".join(labels[start:])


def _list(seen: Seen) -> Iterator[str]:
    """The mailing list (List-Id, RFC 2919)."""
    facts = seen.facts
    if facts.list_id:
        yield facts.list_id


def _list_sender(seen: Seen) -> Iterator[str]:
    """This sender on this list."""
    facts = seen.facts
    if facts.list_id:
        yield f"{facts.list_id} {facts.sender.address}"


def _names(seen: Seen) -> Iterator[str]:
    """The words of the sender's name."""
    facts = seen.facts
    yield from words_of.words(facts.sender.name, 6)


def _relation(seen: Seen) -> Iterator[str]:
    """What was done with the sender's mail so far, in few bins: see :mod:`hieranome.core.relations`."""
    facts, context = seen.facts, seen.context
    sums = context.relations.of(f"address:{facts.sender.address}")
    yield f"answered {_short(sums.answered)}"
    yield f"written {_short(sums.written)}"
    yield f"seen {_short(sums.received)}"
    if sums.timed:
        yield f"answered within {_delay(sums.waited // sums.timed)}"
    if sums.received:
        yield f"read {_share(sums.read, sums.received)}"
        yield f"answers {_share(sums.answered, sums.received)}"
    if facts.list_id:
        listed = context.relations.of(f"list:{facts.list_id}")
        yield f"list read {_share(listed.read, listed.received)}"
    if context.thread_has_mine:
        yield "my thread"


def _to_whom(seen: Seen) -> Iterator[str]:
    """Whether the owner is the only recipient, one of some, a copy, or not named; and among how many."""
    facts, context = seen.facts, seen.context
    mine = [c for c in facts.recipients if context.owner.owns(c)]
    direct = [c for c in facts.to if context.owner.owns(c)]
    if direct:
        yield "to me alone" if len(facts.recipients) == 1 else "to me"
    elif mine:
        yield "copy"
    elif context.owner.addresses:
        yield "not named"
    yield f"people {_short(len(facts.recipients))}"


def _addressed(seen: Seen) -> Iterator[str]:
    """The addresses it went to, and the one it was delivered to; those of the owner's that have no tag apart: an
    address with a tag was given to somebody, and says much."""
    mine = seen.context.owner.addresses
    yield from (f"{how} {address}" for how, address in reached(seen.facts) if address not in mine)


def _own_address(seen: Seen) -> Iterator[str]:
    """Which of the owner's addresses it went to: nearly all mail goes to one of them, so that each says little."""
    mine = seen.context.owner.addresses
    yield from (f"{how} {address}" for how, address in reached(seen.facts) if address in mine)


def reached(facts: MessageFacts) -> Iterator[tuple[Reached, str]]:
    """The addresses a message went to, and the one it was delivered to, as features name them."""
    for who in facts.recipients[:5]:
        yield "to", who.address
    if facts.delivered_to:
        yield "delivered", facts.delivered_to


def _how(seen: Seen) -> Iterator[str]:
    """How it was sent: list, bulk, automatic, reply, invitation, size, links."""
    facts = seen.facts
    if facts.list_id:
        yield "list"
        yield "discussion list" if facts.list_post else "announcements"
    if facts.list_unsubscribe:
        yield "unsubscribe"
    if facts.precedence:
        yield f"precedence {facts.precedence}"
    if facts.auto_submitted:
        yield "automatic"
    if facts.html_only:
        yield "html only"
    if facts.invitation:
        yield "invitation"
    if facts.in_reply_to or facts.references:
        yield "reply"
    if facts.sender_priority:
        yield f"priority {facts.sender_priority}"
    if facts.reply_to.address and facts.reply_to.domain != facts.sender.domain:
        yield "replies elsewhere"
    yield f"links {_short(len(facts.links))}"
    yield f"size {facts.size.bit_length()}"
    yield f"quoted {_short(facts.quoted_lines)}"
    if any(word in facts.sender.address.partition("@")[0] for word in ("noreply", "no-reply", "donotreply")):
        yield "no reply wanted"


def _made(seen: Seen) -> Iterator[str]:
    """What it was made with: mailer, type, time of day, first host, kinds of attachment."""
    facts = seen.facts
    yield f"type {facts.media_type}"
    yield f"mailer {' '.join(words_of.words(facts.mailer, 2))}"
    yield f"hour {facts.hour // 4}"
    if facts.first_host:
        yield f"host {'.'.join(facts.first_host.split('.')[-2:])}"
    for attachment in facts.attachments[:8]:
        yield f"attached {attachment.media_type}"
        if "." in attachment.name:
            yield f"attached .{attachment.name.rpartition('.')[2].lower()[:6]}"


def _damage(seen: Seen) -> Iterator[str]:
    """What is odd about it: defects, a loud subject, a sender who is not who it says."""
    facts = seen.facts
    yield from facts.defects
    if seen.context.forged:
        yield "proven forged"
    if seen.context.alike:
        yield "looks like another"
    letters = [c for c in facts.subject if c.isalpha()]
    if len(letters) > 8 and sum(c.isupper() for c in letters) > 0.7 * len(letters):
        yield "shouting subject"
    if facts.subject.count("!") > 1 or "$" in facts.subject:
        yield "loud subject"
    if "   " in facts.subject:
        yield "padded subject"


def _cues(seen: Seen) -> Iterator[str]:
    """Request, deadline, trouble, offer (words in four languages) and questions."""
    facts = seen.facts
    tokens = {*seen.subject, *seen.text}
    for name, cue in WORDS.items():
        if tokens & cue:
            yield name
    if "?" in facts.text[:3000] or "?" in facts.subject:
        yield "question"


def _subject(seen: Seen) -> Iterator[str]:
    """The words of the subject."""
    yield from seen.subject


def _subject_pairs(seen: Seen) -> Iterator[str]:
    """Neighbouring words of the subject."""
    yield from words_of.pairs(seen.subject)


def _sender_subject(seen: Seen) -> Iterator[str]:
    """Each word of the subject together with the list or the sender."""
    facts = seen.facts
    who = facts.list_id or facts.sender.address
    for word in seen.subject:
        yield f"{who} {word}"


def _text(seen: Seen) -> Iterator[str]:
    """The words of the text, without the commonest of four languages, quotes and signatures."""
    yield from seen.text


ALL_CARRY = frozenset({"date", "from", "message-id", "received", "subject", "to"})
"""Headers nearly all mail carries (RFC 5322 section 3.6, RFC 5321 section 4.4): they tell no message from another,
and a lesson that moved them would move all mail."""
MAX_HEADER_NAMES = 60
"""Headers of a message whose names are looked at."""


def _headers(seen: Seen) -> Iterator[str]:
    """Which headers it carries besides those all mail does, its charset, and whether its id is of the sender's
    domain."""
    facts = seen.facts
    yield from (name for name in facts.header_names[:MAX_HEADER_NAMES] if name not in ALL_CARRY)
    yield f"charset {facts.charset}"
    host = facts.message_id.rpartition("@")[2].rstrip(">").lower()
    sender = facts.sender.domain
    yield "id of the sender's domain" if sender and host.endswith(sender.split(".", 1)[-1]) else "id of another domain"
    if facts.sender.address and facts.sender.address == (facts.to[0].address if facts.to else ""):
        yield "sent to its own sender"


def _header_order(seen: Seen) -> Iterator[str]:
    """Neighbouring header names: programs write them in an order of their own."""
    yield from words_of.pairs(list(seen.facts.header_names[:MAX_HEADER_NAMES]))


def _markup(seen: Seen) -> Iterator[str]:
    """How it is written: tags, capitals, exclamation, money, foreign letters, length."""
    facts = seen.facts
    yield from facts.html_tags
    text = facts.text[:4000]
    letters = sum(map(str.isalpha, text)) or 1
    yield f"capitals {round(10 * sum(map(str.isupper, text)) / letters)}"
    yield f"shouts {_short(text.count('!'))}"
    yield f"money {_short(text.count('$') + text.count('€') + text.count('£'))}"
    foreign = 0 if text.isascii() else len(text) - len(text.encode("ascii", "ignore"))
    yield f"foreign {round(4 * foreign / len(text)) if text else 0}"
    yield f"length {len(facts.text).bit_length()}"
    yield f"subject foreign {not facts.subject.isascii()}"


def _links(seen: Seen) -> Iterator[str]:
    """The domains its links lead to."""
    facts = seen.facts
    for host in facts.links[:12]:
        yield ".".join(host.split(".")[-2:])


GROUPS: tuple[Group, ...] = (
    Group("base", "Where all mail starts", 0.6, 1.0, _base),
    Group("address", "The sender", 1.8, 1.0, _address),
    Group("domain", "The sender's domain", 1.2, 1.0, _domain),
    Group("list", "The mailing list", 4.4, 1.0, _list),
    Group("list_sender", "This sender on this list", 1.5, 1.0, _list_sender),
    Group("name", "The sender's name", 1.6, 1.0, _names),
    Group("relation", "Your dealings with the sender", 0.5, 1.5, _relation),
    Group("to_whom", "To whom it went", 0.5, 1.2, _to_whom),
    Group("addressed", "The address it went to", 3.8, 1.0, _addressed),
    Group("how", "How it was sent", 0.4, 1.5, _how),
    Group("made", "What it was made with", 1.1, 1.0, _made),
    Group("damage", "What is odd about it", 1.7, 1.0, _damage),
    Group("cues", "What it asks", 1.1, 1.2, _cues),
    Group("subject", "Words of the subject", 2.4, 1.0, _subject),
    Group("subject_pairs", "Phrases of the subject", 2.2, 0.8, _subject_pairs),
    Group("sender_subject", "This sender on this subject", 3.1, 1.0, _sender_subject),
    Group("text", "Words of the text", 4.0, 1.2, _text),
    Group("headers", "Which headers it carries", 1.6, 1.5, _headers),
    Group("markup", "How it is written", 0.7, 1.5, _markup),
    Group("links", "Where its links lead", 2.3, 0.8, _links),
    Group("header_order", "In which order its headers stand", 0.3, 1.0, _header_order),
    Group("own_address", "Which of your addresses it went to", 1.0, 1.0, _own_address),
)
"""The table. Order is part of the stored format: with it changes FEATURE_VERSION."""
