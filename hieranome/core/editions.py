"""What stands in an edition: mail in groups, of each group the newest with an extract, the rest by its subjects.

Everything here follows from the mail and the plan alone: the same mail gives the same edition.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from hieranome.core.extracts import extract
from hieranome.core.plans import LENGTHS, Grouped, Length
from hieranome.core.stopwords import WORDS as STOPWORDS
from hieranome.core.text import words

TOPIC_LIKENESS = 0.12
"""How like the messages of a topic (the mean cosine of their words) another must be to join them."""
TOPIC_WORDS = 120
TITLE_WORDS = 3


@dataclass(frozen=True, slots=True)
class Item:
    """A message of an edition: who sent it and what that source is called, the bucket it stands in, its own text, its
    importance in [0, 1]."""

    message: int
    source: str
    source_name: str
    sender: str
    address: str
    subject: str
    time: int
    place: str
    text: str
    message_id: str
    score: float


@dataclass(frozen=True, slots=True)
class Entry:
    """A message as an edition tells it; ``stood`` is the bucket it was compiled from, ``sentences`` are its extract,
    empty where its subject alone is told."""

    message: int
    source: str
    source_name: str
    sender: str
    subject: str
    time: int
    stood: str
    message_id: str
    sentences: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Group:
    """Mail of one list, sender or topic: the newest message, and the others, newest first."""

    title: str
    newest: Entry
    others: tuple[Entry, ...]

    @property
    def entries(self) -> tuple[Entry, ...]:
        """All of it."""
        return (self.newest, *self.others)


def compile_groups(
    items: Sequence[Item], grouped: Grouped, length: Length, usual: Mapping[str, Collection[str]]
) -> tuple[Group, ...]:
    """The groups of an edition, the one with the most important mail first. ``usual`` are the sentences that each
    source writes in every message."""
    parts: dict[str, list[Item]] = defaultdict(list)
    titles: dict[str, str] = {}
    for key, title, item in _keyed(items, grouped):
        parts[key].append(item)
        titles.setdefault(key, title)
    told, sentences = LENGTHS[length]
    order = sorted(parts, key=lambda key: (-max(one.score for one in parts[key]), titles[key].lower(), key))
    return tuple(_group(titles[key], parts[key], sentences if at < told else 0, usual) for at, key in enumerate(order))


def _group(title: str, items: list[Item], sentences: int, usual: Mapping[str, Collection[str]]) -> Group:
    newest, *others = sorted(items, key=lambda one: (-one.time, -one.message))
    return Group(title, _entry(newest, sentences, usual), tuple(_entry(one, 0, usual) for one in others))


def _entry(item: Item, sentences: int, usual: Mapping[str, Collection[str]]) -> Entry:
    carried = extract(item.text, item.subject, sentences, usual.get(item.source, ())) if sentences else []
    said = tuple(one.text for one in carried)
    return Entry(
        item.message, item.source, item.source_name, item.sender, item.subject, item.time, item.place,
        item.message_id, said,
    )  # fmt: skip


def _keyed(items: Sequence[Item], grouped: Grouped) -> list[tuple[str, str, Item]]:
    """What each message is grouped by, and what the group is called."""
    if grouped is Grouped.TOPIC:
        return _by_topic(items)
    if grouped is Grouped.SENDER:
        return [(one.address, one.sender, one) for one in items]
    return [(one.source, one.source_name, one) for one in items]


def _by_topic(items: Sequence[Item]) -> list[tuple[str, str, Item]]:
    """Messages by what their words have in common; what is like nothing else stands together at the end."""
    told = [_topic_words(one) for one in items]
    labels = _clusters(told)
    sizes = Counter(labels)
    often = Counter(word for one in told for word in one)
    found = []
    for label, item in zip(labels, items, strict=True):
        alone = sizes[label] < 2
        title = "Other mail" if alone else _title([t for t, at in zip(told, labels, strict=True) if at == label], often)
        found.append(("" if alone else str(label), title, item))
    return found


def _topic_words(item: Item) -> set[str]:
    said = words(item.subject, 40) + words(item.text, TOPIC_WORDS)
    return {word for word in said if word not in STOPWORDS and len(word) > 2 and not word.isdigit()}


def _clusters(told: Sequence[set[str]]) -> list[int]:
    """The topic of each message, as a number: in their order, each joins the topic whose messages it is like most, or
    begins one of its own."""
    at = {word: number for number, word in enumerate(sorted(set().union(*told)))}
    often = Counter(word for one in told for word in one)
    table = np.zeros((len(told), max(1, len(at))))
    for row, one in zip(table, told, strict=True):
        for word in one:
            row[at[word]] = np.log(1 + len(told) / often[word])
    table /= np.maximum(np.linalg.norm(table, axis=1), 1e-9)[:, None]
    topics: list[list[int]] = []
    labels = []
    for number, row in enumerate(table):
        alike = [float((table[topic] @ row).mean()) for topic in topics]
        best = int(np.argmax(alike)) if alike else -1
        if best < 0 or alike[best] < TOPIC_LIKENESS:
            best = len(topics)
            topics.append([])
        topics[best].append(number)
        labels.append(best)
    return labels


def _title(told: Sequence[set[str]], often: Mapping[str, int]) -> str:
    """The words that most of a topic's messages have and few others."""
    inside = Counter(word for one in told for word in one)
    weight = {word: count * count / often[word] for word, count in inside.items()}
    best = sorted(weight, key=lambda word: (-weight[word], word))[:TITLE_WORDS]
    return ", ".join(best).capitalize() or "Mail without words"
