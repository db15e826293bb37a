"""Which sources of mail are subscriptions: recurring bulk senders, known by what their mail says of itself or by how
they write."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from hieranome.core.facts import Correspondent, MessageFacts, Owner
from hieranome.core.times import DAY

BULK_PRECEDENCE = frozenset({"bulk", "list", "junk"})
"""Values of Precedence by which senders say that mail went to many (RFC 2076, section 3.9)."""
AUTO_REPLY = "auto_reply"
NOT_PERSONAL = BULK_PRECEDENCE | {AUTO_REPLY}
"""Values of Precedence by which senders say that nobody is to answer by themselves."""
LEAST_MAIL, LEAST_WEEKS = 5, 3
"""How much mail, in how many different weeks, makes a habit."""
MOST_ANSWERED = 0.05
"""Whoever gets an answer more often than this, and more than once, is a correspondent."""
MOSTLY = 0.8
"""The share of mail made by a machine from which on all of it counts as that."""
CLOCKWORK_MAIL, CLOCKWORK_SHARE, CLOCKWORK_WINDOW = 8, 0.9, 3600
"""Mail keeps to one hour of the day when of at least so many messages so large a share came within so many seconds of
their mean time of day: an hour, since summer time moves them by one. By chance, eight that come anywhere in ten hours
do so once in ten thousand times."""
_ROLE = re.compile(
    r"(?:no-?reply|do-?not-?reply|newsletters?|news|mailings?|notifications?|bulletins?|digest|offers|promotions?|"
    r"marketing|automailer|robot)(?:[+._-].*)?"
)
_NUMBERS = re.compile(r"\d+")
_CAMPAIGN = re.compile(r"\d{4,}|(?<![0-9a-f])(?=[a-f]*\d)[0-9a-f]{8,}")


class Sign(StrEnum):
    """By what a subscription was found."""

    LIST = "list"
    BULK = "bulk"
    HABIT = "habit"


@dataclass(frozen=True, slots=True)
class Habits:
    """How a source writes: how much, in how many different weeks, how much of it says that it is bulk, is made by a
    machine, was answered, and how much the owner wrote there; when its latest mail came (Unix seconds)."""

    key: str
    total: int
    weeks: int
    bulk: int
    automatic: int
    answered: int
    written: int
    times: Sequence[int] = ()


def says_bulk(facts: MessageFacts) -> bool:
    """Whether a message says that it went to many: by List-Unsubscribe (RFC 2369) or Precedence."""
    return facts.list_unsubscribe or facts.precedence in BULK_PRECEDENCE


_DAEMONS = frozenset({"mailer-daemon", "postmaster", "mail-daemon"})
_REPLIERS = frozenset({"x-autoreply", "x-autorespond", "x-autoresponder"})


def by_machine(facts: MessageFacts) -> bool:
    """Whether a machine wrote a message by itself: it says so (Auto-Submitted, RFC 3834, section 5), it reports on
    delivery (RFC 6522), a mail server's own address sent it, or it carries what programs that answer by themselves put
    there."""
    return (
        facts.auto_submitted
        or facts.media_type == "multipart/report"
        or facts.sender.address.partition("@")[0] in _DAEMONS
        or facts.precedence == AUTO_REPLY
        or not _REPLIERS.isdisjoint(facts.header_names)
    )


def reached(facts: MessageFacts, owner: Owner) -> str:
    """The owner's address a message came to, as it is written there; empty where none is named."""
    named = (*facts.recipients, Correspondent(facts.delivered_to))
    return next((one.address for one in named if owner.owns(one)), "")


def sign_of(habits: Habits) -> Sign | None:
    """By what a source is known as a subscription; None when it is none."""
    if habits.key.startswith("list:"):
        return Sign.LIST
    if habits.bulk:
        return Sign.BULK
    if habits.total < LEAST_MAIL or habits.weeks < LEAST_WEEKS:
        return None
    if max(habits.answered, habits.written) > max(1, MOST_ANSWERED * habits.total):
        return None
    local = habits.key.removeprefix("address:").partition("@")[0]
    made = habits.automatic >= MOSTLY * habits.total or bool(_ROLE.fullmatch(local))
    return Sign.HABIT if made or like_clockwork(habits.times) else None


def like_clockwork(times: Sequence[int]) -> bool:
    """Whether mail (Unix seconds) keeps to one hour of the day. The mean is that of directions on a circle (Mardia and
    Jupp, Directional Statistics, section 2.2.1)."""
    if len(times) < CLOCKWORK_MAIL:
        return False
    angles = [2 * math.pi * (at % DAY) / DAY for at in times]
    mean = math.atan2(sum(map(math.sin, angles)), sum(map(math.cos, angles))) / (2 * math.pi) * DAY
    near = sum(abs((at - mean + DAY / 2) % DAY - DAY / 2) <= CLOCKWORK_WINDOW for at in times)
    return near >= CLOCKWORK_SHARE * len(times)


def family(key: str, address: str, name: str) -> str:
    """What sources that are one subscription have in common: of a sender that numbers its addresses, those of one name
    and domain; of a list that numbers its issues, those of one address. ``address`` and ``name`` are its newest
    sender's."""
    if key.startswith("list:"):
        return f"{_CAMPAIGN.sub('#', key)} {address}" if _CAMPAIGN.search(key) else key
    local, _, domain = key.rpartition("@")
    plain = _NUMBERS.sub("#", local.partition("+")[0])
    return f"{plain}@{domain} {name}" if plain != local else key
