"""What topics have learned: each made of what is stored of it, and kept at hand while that stays the same."""

from __future__ import annotations

import random
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from hieranome.app.room.mailroom import Mailroom
from hieranome.core.text import words
from hieranome.core.topics import Example, Topic, Wording, beginning, beside, learn, said_words, weigh
from hieranome.store import messages, topics
from hieranome.store.topics import Kept as Kept

HITS = 400
"""Messages looked at for what was said, the best first."""
NEAR = 30
"""Of them, those that hold most of it: what stands beside the words is read from these."""
LIKELY, OTHERS = 200, 200
"""Messages nobody answered about that are learned from: of the likely ones, and of all mail."""
MOST_LEARNED = 300
"""Answers that are learned from, the latest."""


@dataclass(frozen=True, slots=True)
class Learned:
    """A topic with what was answered, and what it learned from it."""

    kept: topics.Kept
    answers: Sequence[topics.Answer]
    topic: Topic


def learned(room: Mailroom, number: int) -> Learned:
    """A topic as it stands. Raises :class:`NotFound`. To be asked within a change or a steady look at the room."""
    return _learned(room, topics.get(room.reader(), number))


def every(room: Mailroom) -> list[Kept]:
    """The tags that find their mail."""
    return topics.every(room.reader())


def active(room: Mailroom) -> list[Learned]:
    """The topics that tag mail as it arrives."""
    if room.topics is None:
        room.topics = [one for one in topics.every(room.reader()) if one.enabled]
    return [_learned(room, kept) for kept in room.topics]


def _learned(room: Mailroom, kept: topics.Kept) -> Learned:
    db = room.reader()
    answers = topics.answers(db, kept.id)
    key = (tuple(kept.weights.items()), kept.beside, kept.others, tuple(answers))
    before = room.vectors.fits.get(kept.id)
    if before is None or before[0] != key:
        before = room.vectors.fits[kept.id] = key, _fit(db, kept, answers[-MOST_LEARNED:])
    return Learned(kept, answers, before[1])


def _fit(db: sqlite3.Connection, kept: topics.Kept, answers: Sequence[topics.Answer]) -> Topic:
    said = {one.message: one.belongs for one in answers}
    numbers = [*said, *(number for number in kept.others if number not in said)]
    vectors = messages.vectors(db, numbers)
    wording = Wording(kept.weights, kept.beside)
    return learn(wording, [Example(vectors[n], said.get(n)) for n in numbers if n in vectors])


def listen(db: sqlite3.Connection, number: int, sentence: str) -> None:
    """Within a change, keep what was said of a topic: find the words in the owner's mail, what stands beside them, and
    the mail that is learned from beside the answers."""
    said = said_words(sentence)
    begins = list(dict.fromkeys(beginning(word) for word in said))
    found = topics.weighed(db, topics.hits(db, begins, HITS))
    tokens = _tokens(db, found)
    whole = max(1, messages.last_id(db))
    every = sorted(set().union(*tokens.values()))
    there = {begin: those for begin in begins if (those := [word for word in every if word.startswith(begin)])}
    weights = weigh(there, {begin: topics.holding(db, begin, prefix=True) for begin in there}, whole)
    found.sort(key=lambda one: -sum(weights.get(word, 0.0) for word in tokens[one]))
    near = [tokens[one] for one in found[:NEAR]]
    counts = {word: topics.holding(db, word) for word in _repeated(near)}
    aside = beside(near, counts, whole, weights)
    likely = _likely(db, Wording(weights, aside), [*found, *topics.hits(db, aside, HITS)])
    topics.say(db, number, sentence, weights, aside, list(dict.fromkeys([*likely, *_others(db, number)])))


def _tokens(db: sqlite3.Connection, numbers: Sequence[int]) -> dict[int, set[str]]:
    """The words of each of some messages, as features cut them."""
    found = topics.texts(db, numbers)
    empty = ("", "")
    return {n: {*words(found.get(n, empty)[0][:500], 40), *words(found.get(n, empty)[1], 400)} for n in numbers}


def _repeated(near: Sequence[set[str]]) -> list[str]:
    """The words that more than one of some messages holds."""
    seen: set[str] = set()
    again: set[str] = set()
    for one in near:
        again |= one & seen
        seen |= one
    return sorted(again)


def _likely(db: sqlite3.Connection, wording: Wording, numbers: Sequence[int]) -> list[int]:
    """Those of some messages that are likeliest by what was said alone."""
    there = topics.weighed(db, list(dict.fromkeys(numbers)))
    vectors = messages.vectors(db, there)
    topic = Topic(wording)
    scored = [(-topic.likely(vectors[number]), number) for number in there]
    return [number for _, number in sorted(scored)[:LIKELY]]


def _others(db: sqlite3.Connection, number: int) -> list[int]:
    """A sample of all received mail, the same for the same topic and mailbox."""
    last = messages.last_id(db)
    draw = random.Random(number)
    drawn = draw.sample(range(1, last + 1), min(last, 4 * OTHERS))
    return topics.weighed(db, drawn)[:OTHERS]
