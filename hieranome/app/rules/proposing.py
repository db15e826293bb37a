"""Rules proposed from mail: what messages have in common, and where one works against another."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.app.room.marks import rows_of
from hieranome.core.stopwords import WORDS as STOPWORDS
from hieranome.core.text import words
from hieranome.core.times import DAY
from hieranome.store import rules, sources
from hieranome.store.messages import Message

MOST_WORDS = 3
WITHIN = 200
"""Messages of a sender whose subjects are looked at for words that recur."""
RECURS = 3
"""How often a word must stand in a sender's subjects to be proposed."""
CONFLICT_DAYS = 90


@dataclass(frozen=True, slots=True)
class Proposal:
    """A name and a line for a rule."""

    name: str
    line: str


@dataclass(frozen=True, slots=True)
class Conflict:
    """A rule that did not have its way: against what (another rule's id, or 0 with ``against`` as *verdict*,
    *vouched*, *address*, *list*, *domain* or *thread*), how often, and one such message (0: none is named)."""

    rule: int
    other: int
    against: str
    count: int
    message: int = 0


def propose(room: Mailroom, numbers: Sequence[int]) -> Proposal:
    """A rule about mail like some messages: by their list, else their sender, else their senders' domain, and the words
    of their subjects that recur in that sender's mail. Raises :class:`CallerError`, :class:`NotFound`."""
    rows = rows_of(room.reader(), numbers)
    who, name = _who(room, rows)
    recurring = _recurring(room, rows) if who and len({row.sender_address for row in rows}) == 1 else []
    common = recurring if who else _common(rows)
    line = " ".join(filter(None, [who, *(f"subject:{word}" for word in common)]))
    return Proposal(" ".join(filter(None, [name, *common]))[:60] or "A rule", line)


def _who(room: Mailroom, rows: Sequence[Message]) -> tuple[str, str]:
    lists = {row.list_id for row in rows}
    if len(lists) == 1 and (list_id := lists.pop()) and not any(one in list_id for one in ' "()'):
        return f"list:{list_id}", list_id.split(".")[0]
    senders = {row.sender_address for row in rows}
    if len(senders) == 1 and (address := senders.pop()):
        return f"from:{address}", rows[0].sender_name or address
    domains = {row.sender_address.rpartition("@")[2] for row in rows}
    if len(domains) == 1 and (domain := domains.pop()) and domain not in room.shared:
        return f"from:@{domain}", domain
    return "", ""


def _recurring(room: Mailroom, rows: Sequence[Message]) -> list[str]:
    """Words all the messages have in their subjects that recur in their sender's mail and are not in most of it."""
    subjects = sources.subjects_of(room.reader(), rows[0].sender_address, WITHIN)
    counts = Counter(word for subject in subjects for word in _words(subject))
    common = set.intersection(*(_words(row.subject) for row in rows))
    found = [word for word in common if RECURS <= counts[word] <= max(RECURS, 0.9 * len(subjects))]
    return sorted(found, key=lambda word: (-counts[word], word))[:MOST_WORDS]


def _common(rows: Sequence[Message]) -> list[str]:
    common = set.intersection(*(_words(row.subject) for row in rows))
    return sorted(common, key=lambda word: (-len(word), word))[:MOST_WORDS]


def _words(subject: str) -> set[str]:
    return {word for word in words(subject, 40) if len(word) > 2 and word.isalpha() and word not in STOPWORDS}


def conflicts(room: Mailroom) -> list[Conflict]:
    """Where rules did not have their way in the last :data:`CONFLICT_DAYS` days, and where the owner put elsewhere what
    they had put somewhere; the most frequent first."""
    since = room.clock() - CONFLICT_DAYS * DAY
    found = []
    for rule, by, count in rules.lost(room.reader(), since):
        other = int(by.removeprefix("rule:")) if by.startswith("rule:") else 0
        found.append(Conflict(rule, other, "rule" if other else by, count))
    found += [Conflict(rule, 0, "verdict", n, message) for rule, n, message in rules.corrected(room.reader(), since)]
    return sorted(found, key=lambda one: -one.count)
